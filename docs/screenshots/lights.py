"""Makes the sheet of lights from the samples: PYTHONPATH=src .venv/bin/python
docs/screenshots/lights.py [NAME ...]. The demo in twelve ready lights from one shot, and what
stands in the air: shafts, mist, lamps, cut-out birds, a panorama.
"""

import tempfile
from pathlib import Path

import cv2
import numpy as np
from sheets import PAPER, document, labelled, laid_out, stills, through, write

from sow.core.air.ready import in_full
from sow.core.air.ready import lights as ready_lights
from sow.core.build import Build, Rasters
from sow.core.cache import Cache
from sow.core.picture.order import Order
from sow.core.picture.stages import Stages
from sow.core.picture.still import Still
from sow.core.scene import read_scene

SIZE = 728, 410  # two across
SMALL = 480, 300  # three across


def twelve() -> list[np.ndarray]:
    """The demo's first shot in the ready lights, on a stage that is set up once."""
    stages, cache = Stages(), Cache(4 << 30)
    order = Order(width_px=SMALL[0], height_px=SMALL[1], quality="good")
    out = []
    for light in ready_lights.values():
        own = document("brackenhope")
        own["light"] = {**own["light"], **in_full(light)}
        own["grade"] = []
        scene = read_scene(own)
        build = Build(scene, scene.plot.grid(), cache, Rasters())
        with tempfile.TemporaryDirectory() as folder:
            still = Still(build, build.shots()[0], order, Path(folder), stages=stages)
            still.run()
            shown = still.shown(still.light()["whole"])
        picture = np.rint(shown[..., ::-1] * 255).astype(np.uint8)
        out.append(labelled(picture, light.label))
        print(light.label, flush=True)
    return out


def shafts() -> dict:
    """An old wood with the sun behind its crowns."""
    scene = through("quernholt", "Into the dell", air=[])
    scene["light"] |= {"sun_bearing": 34, "sun_height": 21, "shafts": 100, "exposure": -0.35}
    scene["light"] |= {"haze_m": 420, "haze_top_m": 45, "haze_glow": 90, "clouds": 0, "veil": 0}
    scene["light"] |= {"sun_strength": 190, "sky_strength": 50, "sun_tint": "#ffe2b8"}
    scene["grade"] = [
        {"id": "c", "name": "Contrast", "kind": "contrast", "contrast": 118},
        {"id": "s", "name": "Saturation", "kind": "saturation", "saturation": 112},
    ]
    return scene


def mist() -> dict:
    """A valley with ground mist in its hollows."""
    scene = through("brackenhope", "Over the pool")
    scene["shots"] = changed_eye(scene["shots"], 4)
    scene["light"] |= {"sun_bearing": 76, "sun_height": 7, "dust": 20, "clouds": 14}
    scene["light"] |= {"haze_m": 26000}
    scene["air"] = [
        {
            "id": "m",
            "name": "Ground mist",
            "kind": "hollow-mist",
            "depth_m": 7.5,
            "reach_m": 420,
            "soft_m": 4,
            "seen_m": 110,
            "broken": 55,
            "size_m": 70,
        }
    ]
    scene["grade"] = [g for g in scene["grade"] if g["kind"] in ("contrast", "vignette")]
    return scene


def changed_eye(shots: list[dict], by_m: float) -> list[dict]:
    """Shots from so much higher."""
    return [{**s, "eye_m": s["eye_m"] + by_m} for s in shots]


def lamp(name: str, east: float, north: float, over: float, lumens: float, **aim) -> dict:
    """A warm lamp."""
    own = {"id": f"lamp-{name}", "name": name, "kind": "lamp", "east_m": east, "north_m": north}
    own |= {"over_m": over, "lumens": lumens, "warmth_k": 2400, "size_cm": 12, "spread": 85}
    return {**own, "aim_over_m": 0.2, **aim}


def dusk() -> dict:
    """Lamps in a cottage's windows at dusk."""
    scene = through("orlen-garden", "From the gate")
    scene["light"] |= {"sun_bearing": 300, "sun_height": -6, "clouds": 20, "exposure": 0.75}
    out = {"aim_north_m": 42}
    scene["air"] = [
        lamp("door", 40, 47.9, 2.3, 1500, aim_east_m=40, **out),
        lamp("garden", 33.2, 33, 1.2, 350, aim_east_m=36, aim_north_m=34),
        *(
            lamp(f"window-{k}", east, 47.9, 1.9, 1600, aim_east_m=east, **out)
            for k, east in enumerate((35.4, 37.6, 42.6, 44.8))
        ),
    ]
    for piece in scene["pieces"]:
        if piece["name"] == "Window":
            piece |= {"tint": "#ffc070", "bright": 500}
        if piece["id"] == "walk":
            piece |= {"east_m": 39.6, "north_m": 45.5, "turn": 200}
    own = {"id": "sat", "name": "Saturation", "kind": "saturation", "saturation": 80}
    scene["grade"] = [*scene.get("grade", []), own]
    return scene


def birds() -> dict:
    """Cut-out birds over a shore."""
    scene = through("harrow-sands", "On the sand")
    scene["light"] |= {"sun_bearing": 250, "sun_height": 14}
    (shot,) = scene["shots"]
    turn = np.deg2rad(shot["bearing"])
    ahead, right = np.array([np.sin(turn), np.cos(turn)]), np.array([np.cos(turn), -np.sin(turn)])
    scene["air"] = []
    for k, (far, side, over, high) in enumerate(((26, 0, 5, 4.5), (46, 18, 9, 4))):
        east, north = np.array([shot["east_m"], shot["north_m"]]) + far * ahead + side * right
        own = {"id": f"b{k}", "name": "Gulls", "kind": "card", "picture": "ready-birds"}
        own |= {"east_m": float(east), "north_m": float(north), "over_m": over, "height_m": high}
        scene["air"].append(own)
    return scene


def panorama() -> dict:
    """A dry valley under a panorama that was turned."""
    scene = through("onnar-wadi", document("onnar-wadi")["shots"][0]["name"])
    scene["light"] |= {"panorama": "ready-last-sun", "panorama_turn": 120, "clouds": 0, "veil": 0}
    return scene


AIRS = {
    shafts: "Shafts of light through a wood",
    mist: "Ground mist in a valley",
    dusk: "Lamps in windows at dusk",
    birds: "Cut-out birds",
    panorama: "A panorama for a sky, turned",
}


def main() -> None:
    """The stills that are lacking, or that are named; then the sheet."""
    large = stills("lights", list(AIRS), SIZE, "good")
    airs = [labelled(p, told) for p, told in zip(large, AIRS.values())]
    upper, lower = laid_out(twelve(), 3), laid_out(airs, 2)
    wide = max(upper.shape[1], lower.shape[1])
    fill = lambda s: cv2.copyMakeBorder(
        s, 0, 0, 0, wide - s.shape[1], cv2.BORDER_CONSTANT, value=PAPER
    )
    write("lights", np.vstack([fill(upper), fill(lower)]))


if __name__ == "__main__":
    main()
