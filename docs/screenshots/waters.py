"""Makes the sheet of waters from the samples: PYTHONPATH=src .venv/bin/python
docs/screenshots/waters.py [NAME ...]. Each still is kept in a folder beside and is not made again.
"""

from sheets import changed, laid_out, stills, write
from sheets import sample as seen_from

from sow.core.scene import read_scene
from sow.core.works.base import do

SIZE = 640, 360
GRADE = [
    {"id": "g-contrast", "name": "Contrast", "kind": "contrast", "contrast": 107},
    {"id": "g-full", "name": "Fuller colours", "kind": "saturation", "saturation": 116},
]


def sample(name: str, shot: dict, **more) -> dict:
    """A sample seen from a shot, graded, with other settings."""
    return seen_from(name, shot, grade=GRADE, **more)


def tarn() -> dict:
    """A calm tarn that mirrors a wood."""
    land = [
        {"id": "rolls", "name": "Rolls", "kind": "noise", "feature_m": 160, "height_m": 22},
        {
            "id": "bowl",
            "name": "Tarn hollow",
            "kind": "form",
            "form": "basin",
            "height_m": 15,
            "length_m": 150,
            "breadth_m": 110,
            "east_m": 150,
            "north_m": 140,
        },
        {
            "id": "fell",
            "name": "Fell",
            "kind": "form",
            "form": "dome",
            "height_m": 58,
            "length_m": 420,
            "breadth_m": 240,
            "east_m": 170,
            "north_m": 330,
            "rough": 60,
            "rough_m": 70,
        },
    ]
    wood = {
        "id": "wood",
        "name": "Wood",
        "mix": [{"kind": "spruce", "share": 45}, {"kind": "pine", "share": 35},
                {"kind": "birch", "share": 20}],
        "density": 5,
        "apart_m": 3,
        "where": [
            {"kind": "from-water", "low": 7, "high": 300, "soft": 4},
            {"kind": "slope", "low": 0, "high": 48, "soft": 8},
            {"kind": "patches", "size_m": 70, "share": 74, "soft": 25},
        ],
    }  # fmt: skip
    scene = {
        "name": "Tarn",
        "plot": {"width_m": 300, "depth_m": 400, "posts": 513, "seed": 6},
        "land": land,
        "water": [{"id": "w", "name": "Tarn", "reach": "pool", "level_m": 0, "east_m": 150,
                   "north_m": 140, "waves_cm": 0.15, "clear_m": 3, "through": "#5e8a86",
                   "tint": "#1b2f2e"}],
        "ground": [
            {"id": "t", "name": "Turf", "ground": "turf"},
            {"id": "r", "name": "Rock", "ground": "granite",
             "where": [{"kind": "slope", "low": 34, "high": 90, "soft": 8}]},
        ],
        "planting": [wood],
        "light": {"sun_bearing": 235, "sun_height": 22, "clouds": 25, "haze_m": 25000},
        "shots": [{"id": "sheet", "name": "Sheet", "east_m": 168, "north_m": 95, "eye_m": 1.6,
                   "bearing": 350, "tilt": 0, "focal_mm": 26, "exposure": 0.3}],
        "grade": GRADE,
    }  # fmt: skip
    return _pooled(scene)


def _pooled(scene: dict) -> dict:
    """The first water filled to its hollow's rim, with stones at the line."""
    for name, asked in (
        ("fill a hollow", {"water": "w", "east": 150, "north": 140}),
        ("ready shore", {"water": "w", "name": "stones"}),
    ):
        scene = do(name, read_scene(scene), asked).document
    return scene


def surf() -> dict:
    """Waves that break on a beach, at eye height."""
    shot = {"east_m": 118, "north_m": 262, "eye_m": 1.3, "bearing": 100, "tilt": -3}
    return sample("harrow-sands", {**shot, "focal_mm": 35, "exposure": 0.1})


def stones() -> dict:
    """Foam around stones."""
    shot = {"east_m": 150, "north_m": 274, "eye_m": 2.6, "bearing": 150, "tilt": -13}
    scene = sample("harrow-sands", {**shot, "focal_mm": 28, "exposure": 0.1})
    scene["water"] = changed(scene["water"], waves_cm=35)
    scene = do("ready shore", read_scene(scene), {"water": "sea", "name": "rock"}).document
    for sowing in scene["planting"]:
        if sowing["name"] == "Blocks":
            sowing |= {"density": 30, "apart_m": 1.6, "stance": {"smallest": 18, "largest": 55}}
    return scene


def boat() -> dict:
    """A boat with its wake."""
    shot = {"east_m": 172, "north_m": 246, "eye_m": 6.5, "bearing": 178, "tilt": -15}
    scene = sample("harrow-sands", {**shot, "focal_mm": 30, "exposure": 0.2})
    scene["water"] = changed(scene["water"], waves_cm=10, waves_from=230)
    return scene


def burn() -> dict:
    """A burn with white water that falls into a pool."""
    shot = {"east_m": 108, "north_m": 62, "eye_m": 1.6, "bearing": 16, "tilt": 0}
    return sample("alder-clough", {**shot, "focal_mm": 32, "exposure": 0.45})


def frozen() -> dict:
    """A frozen pool."""
    shot = {"east_m": 462, "north_m": 452, "eye_m": 1.7, "bearing": 20, "tilt": -5}
    scene = sample("brackenhope", {**shot, "focal_mm": 24, "exposure": -0.1}, season="snow")
    scene["water"] = [
        {**w, "frozen": 96, "ice_cm": 30, "snow": 42, "cracks": 75} for w in scene["water"]
    ]
    scene["light"] |= {"sun_bearing": 250, "sun_height": 12, "clouds": 15}
    return scene


def murky() -> dict:
    """Murky water from below."""
    shot = {"east_m": 236, "north_m": 246, "eye_m": 1.0, "bearing": 150, "tilt": 38}
    scene = sample("harrow-sands", {**shot, "focal_mm": 18, "exposure": 1.2})
    scene["light"] = {**scene["light"], "sun_height": 52, "sun_bearing": 170}
    scene["water"] = changed(scene["water"], waves_cm=8)
    return do("ready water", read_scene(scene), {"water": "sea", "name": "lake"}).document


def wet() -> dict:
    """A wet shore at low sun."""
    shot = {"east_m": 196, "north_m": 291, "eye_m": 1.3, "bearing": 226, "tilt": -3}
    scene = sample("harrow-sands", {**shot, "focal_mm": 28, "exposure": -1.4})
    scene["light"] = {**scene["light"], "sun_bearing": 238, "sun_height": 5, "clouds": 24}
    return scene


SHEET = (tarn, surf, stones, boat, burn, frozen, murky, wet)


def main() -> None:
    """Each still that is lacking, or that is named; then the sheet."""
    write("waters", laid_out(stills("waters", SHEET, SIZE, "look"), 2))


if __name__ == "__main__":
    main()
