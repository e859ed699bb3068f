"""A kind as its sheet shows it: turned step by step on plain ground beside a person."""

import cv2
import numpy as np

from ..build import Build
from ..cabinet import kind_of
from ..cache import Cache
from ..scene import Scene, read_scene
from .proof import Proofs

TURNS = 8
SIDE_M = 60.0  # of the ground that it stands on
FOCAL_MM = 50.0
PASSES = 16
RIM = 0.12  # of what is seen, left free round the kind


def kind_scene(name: str, turn: float, look: str = "summer") -> Scene:
    """One of a kind in the middle of plain ground, turned by `turn` degrees, and a person beside
    it, with a shot that holds both.
    """
    kind = kind_of(name)
    middle = SIDE_M / 2
    low = kind.height_m < 0.7
    across = 2.3 * kind.reach_m if low else 2.3 * kind.reach_m + 1.0
    tall = kind.height_m if low else max(kind.height_m, 1.8)
    frame_m = (1 + RIM) * max(across, 1.1 * tall)
    far = frame_m / (36 / FOCAL_MM)
    piece = {"id": "kind", "name": kind.label, "kind": name, "east_m": middle, "north_m": middle}
    pieces = [piece | {"turn": turn, "look": look if look in kind.looks else "summer"}]
    if not low:
        beside = {"east_m": middle + kind.reach_m + 0.55, "north_m": middle, "turn": 180}
        pieces.append({"id": "person", "name": "Person", "kind": "person", **beside})
    shot = {
        "id": "sheet",
        "name": "Sheet",
        "east_m": middle + (0 if low else 0.4),
        "north_m": middle - far,
        "eye_m": max(0.45 * tall, 0.25 * tall + 0.08),
        "bearing": 0,
        "tilt": -8 if low else 0,
        "focal_mm": FOCAL_MM,
        "width_px": 600,
        "height_px": 600,
        "film": "aces",
        "exposure": 0.6,
    }
    return read_scene(
        {
            "name": kind.label,
            "plot": {"width_m": SIDE_M, "depth_m": SIDE_M, "posts": 61},
            "ground": [{"id": "ground", "name": "Sand", "ground": "sand", "relief": 30}],
            "pieces": pieces,
            "light": {"sun_bearing": 150, "sun_height": 40, "clouds": 0, "veil": 0},
            "shots": [shot],
        }
    )


def kind_sheet(name: str, look: str = "summer", px: int = 360, turns: int = TURNS) -> np.ndarray:
    """Pictures of a kind turned by equal steps, in rows of four, uint8 sRGB (rows px, 4 px, 3)."""
    proofs = Proofs()
    pictures = []
    for k in range(turns):
        scene = kind_scene(name, 360 * k / turns, look)
        build = Build(scene, scene.plot.grid(), Cache())
        pictures.append(proofs.picture(build, build.shots()[0], (px, px), PASSES))
    pictures += [np.full_like(pictures[0], 255)] * (-len(pictures) % 4)
    return np.vstack([np.hstack(pictures[k : k + 4]) for k in range(0, len(pictures), 4)])


def sheet_png(picture: np.ndarray) -> bytes:
    """A picture as a PNG."""
    return cv2.imencode(".png", picture[..., ::-1])[1].tobytes()
