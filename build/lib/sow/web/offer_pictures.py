"""Small pictures of what the offers of land and water make, each on the same simple ground."""

import numpy as np

from ..core.build import COMPUTING, Build
from ..core.cache import Cache
from ..core.errors import SceneError
from ..core.formats.raster import png_bytes
from ..core.scene import read_scene
from ..core.shots.sketch import from_above
from ..core.surface.relief import PAPER
from ..core.works import do
from .working import BYTES

PLOT = {"width_m": 1000, "depth_m": 1000, "posts": 129}
WIDE_PX = 96
BARE = ("heightmap", "borrowed", "contours", "hand")  # empty until something is brought in
SWELL = {
    "id": "swell",
    "name": "Swell",
    "kind": "noise",
    "form": "smooth",
    "feature_m": 420,
    "height_m": 90,
    "octaves": 6,
    "seed": 4,
}
LINE = {
    "id": "line",
    "name": "Line",
    "kind": "line",
    "points": [[120, 180], [380, 420], [560, 520], [880, 860]],
}


def pictured(name: str, key: str) -> bool:
    """Whether a picture of an offer is drawn."""
    return name in ("land", "far", "water") and key not in BARE


def offer_picture(name: str, key: str) -> bytes:
    """PNG of an offer alone where it makes land, over a swell where it reworks or floods it."""
    if not pictured(name, key):
        raise SceneError("There is no picture of this.", "key", "Ask for another.")

    def draw() -> bytes:
        try:
            return _draw(name, key)
        except SceneError:  # what cannot be made has an empty picture; choosing it tells why
            return png_bytes(np.full((WIDE_PX * 3 // 4, WIDE_PX, 3), PAPER, np.uint8))

    return BYTES.once(f"offer picture {name} {key}", draw)


def _draw(name: str, key: str) -> bytes:
    ground = {"format": "sow-scene-1", "plot": PLOT, "land": [SWELL], "marks": [LINE]}
    cache = Cache(64 << 20)
    with COMPUTING:
        scene = read_scene(
            do("add an entry", read_scene(ground), _asked(name, key), cache).document
        )
        added = (scene.beyond.land if name == "far" else scene.land)[-1]
        if name != "water" and hasattr(added, "combine"):
            alone = scene.model_dump(mode="json")
            alone["land"] = [added.model_dump(mode="json")]
            scene = read_scene(alone)
        build = Build(scene, scene.plot.grid(PLOT["posts"]), cache)
        water, _ = build.water()
        heights = np.ascontiguousarray(build.heights)
        return png_bytes(from_above(heights, build.grid.spacing, water, None, WIDE_PX))


def _asked(name: str, key: str) -> dict:
    return {"list": "land" if name == "far" else name, "key": key}
