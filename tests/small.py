"""A small hilly scene for tests of pictures."""

from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.scene import read_scene

SIDE_M = 200


def scene_of(**more):
    """A small hilly plot with one shot, bare but for what `more` brings."""
    land = [{"kind": "noise", "id": "n", "name": "Hills", "height_m": 18, "feature_m": 90}]
    document = {
        "format": "sow-scene-1",
        "name": "Small",
        "plot": {"width_m": SIDE_M, "depth_m": SIDE_M, "posts": 129, "seed": 3},
        "land": land,
        "light": {"sun_bearing": 200, "sun_height": 40, "haze_m": 60000},
        "shots": [
            {"id": "s", "name": "One", "east_m": 90, "north_m": 30, "eye_m": 4, "bearing": 10}
        ],
    }
    return read_scene({**document, **more})


def build_of(**more) -> Build:
    scene = scene_of(**more)
    return Build(scene, scene.plot.grid(), Cache(1 << 30))
