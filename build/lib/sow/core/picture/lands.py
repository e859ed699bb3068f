"""Draws the pictures of the ready-made lands that ship with it, by following the light:
python -m sow.core.picture.lands [NAME ...]
"""

import sys

import cv2
import numpy as np

from ..build import Build
from ..cabinet import lands
from ..cache import Cache
from ..scene import Scene, read_scene
from ..shots.shot import Shot
from .proof import Proofs

SIZE = 270, 360
POSTS = 513
PASSES = 32
QUALITY = 90
CLEAR = {
    "air": 60,
    "dust": 0,
    "clouds": 0,
    "layer": 0,
    "veil": 0,
    "bank": 0,
    "sun_bearing": 262,
    "sun_height": 30,
    "exposure": 0,
}


def seen_whole(scene: Scene, heights: np.ndarray) -> Shot:
    """A shot from the south over a whole plot: so high that its far edge shows."""
    plot = scene.plot
    side = max(plot.width_m, plot.depth_m)
    low, high = float(heights.min()), float(heights.max())
    up = low + 0.8 * (high - low) + 0.22 * side
    east, north = 0.38 * plot.width_m, 0.03 * plot.depth_m
    rows, columns = heights.shape
    foot = heights[round((1 - north / plot.depth_m) * (rows - 1)), round(0.38 * (columns - 1))]
    aim = low + 0.35 * (high - low)
    return Shot(
        id="whole",
        name="The whole land",
        east_m=east,
        north_m=north,
        eye_m=max(2.0, up - float(foot)),
        bearing=12,
        tilt=-float(np.rad2deg(np.arctan2(up - aim, 0.52 * plot.depth_m))),
        focal_mm=30,
        film="deep",
    )


def cleared(scene: Scene) -> Scene:
    """A scene in air so clear that kilometres of it hide nothing, the sun from the left."""
    side = max(scene.plot.width_m, scene.plot.depth_m)
    light = scene.light.model_copy(update={**CLEAR, "haze_m": min(12 * side, 400_000)})
    return scene.model_copy(update={"light": light, "air": []})


def draw(name: str) -> np.ndarray:
    """The picture of one ready-made land, uint8 (270, 360, 3) in red, green, blue."""
    scene = cleared(read_scene(lands.text(name)))
    build = Build(scene, scene.plot.grid(POSTS), Cache(1 << 30))
    return Proofs().picture(build, seen_whole(scene, build.heights), SIZE, PASSES)


def main(names: list[str]) -> None:
    for name in names or [x.name for x in lands.listed()]:
        picture = cv2.cvtColor(draw(name), cv2.COLOR_RGB2BGR)
        path = lands.picture_path(name)
        cv2.imwrite(str(path), picture, [cv2.IMWRITE_JPEG_QUALITY, QUALITY])
        print(path)


if __name__ == "__main__":
    main(sys.argv[1:])
