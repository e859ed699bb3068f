"""Makes the sheet of all kinds at true scale, row by row beside a person, and of ten from near:
PYTHONPATH=src .venv/bin/python docs/screenshots/kinds.py [rows] [close]. Each part is kept in a
folder beside and is not made again.
"""

import sys
import tempfile
from pathlib import Path

import cv2
import numpy as np

from sow.core.build import Build
from sow.core.cabinet import kinds
from sow.core.cache import Cache
from sow.core.picture.order import Order
from sow.core.picture.still import Still
from sow.core.scene import Scene, read_scene

HERE = Path(__file__).parent
FULL = HERE.parents[1] / ".tmp" / "screenshots"  # small.py makes this folder's of them
FULL.mkdir(parents=True, exist_ok=True)
INK = (35, 48, 43)
MADE = Path(tempfile.gettempdir()) / "sow-kinds"
WIDE = 1280
LONG, LEAST_M = 9.0, 5.0  # times as long as its tallest kind a row may be, and at least so long
BARS_M = (10.0, 1.0, 0.1)  # of which the longest that takes a fifth of a row at most is drawn
FOCAL_MM = 200.0  # of rows, so that what stands at their ends is seen from the side as well
CLOSE = (
    "birch", "oak-young", "spruce", "moor-grass", "heather",
    "bracken", "foxglove", "oxeye", "boulder", "date-palm",
)  # fmt: skip
CLOSE_PX = 400, 300


def setting(pieces: list[dict], shot: dict, size: tuple[float, float]) -> Scene:
    """Pieces on plain ground, in clear morning light."""
    own = {"id": "shot", "name": "Shot", "film": "aces", "exposure": 1.0, **shot}
    ground = {"id": "ground", "name": "Sand", "ground": "sand", "relief": 20}
    return read_scene(
        {
            "name": "Sheet",
            "plot": {"width_m": size[0], "depth_m": size[1], "posts": 129},
            "ground": [ground],
            "pieces": pieces,
            "light": {"sun_bearing": 215, "sun_height": 38, "clouds": 0, "haze_m": 200_000},
            "shots": [own],
        }
    )


def taken(scene: Scene, width: int, height: int, quality: str = "good") -> np.ndarray:
    """The picture of a scene's shot, uint8."""
    build = Build(scene, scene.plot.grid(), Cache())
    with tempfile.TemporaryDirectory() as folder:
        order = Order(width_px=width, height_px=height, quality=quality)
        still = Still(build, build.shots()[0], order, Path(folder))
        still.run()
        (light,) = still.light().values()
        return np.rint(still.shown(light) * 255).astype(np.uint8)


def rows() -> list[list[str]]:
    """The kinds from the largest on, in rows as many times as long as they are tall."""
    size = lambda k: max(k.height_m, 0.8 * k.reach_m)
    shown = [k for k in kinds.values() if k.family not in ("climber",)]
    out: list[list[str]] = []
    left = 0.0
    for kind in sorted(shown, key=lambda k: -size(k)):
        if left < 2 * kind.reach_m:
            out.append([])
            left = max(LONG * size(kind), LEAST_M)
        out[-1].append(kind.name)
        left -= 2.15 * max(kind.reach_m, 0.06)
    return out


def row(names: list[str]) -> np.ndarray:
    """One row, from the left, with a person at its end."""
    at, pieces = 0.0, []
    for i, name in enumerate(names):
        reach = max(kinds[name].reach_m, 0.06)
        at += reach
        turn = 25 * i % 360
        pieces.append({"id": f"k{i}", "name": name, "kind": name, "east_m": at, "turn": turn})
        at += reach * 1.15
    tallest = max(max(kinds[n].height_m, 0.3 * kinds[n].reach_m) for n in names)
    low = tallest < 1
    if not low:
        pieces.append({"id": "p", "name": "p", "kind": "person", "east_m": at + 0.7, "turn": 160})
        at += 1.4
    side = max(3 * at, 60.0)
    shift = (side - at) / 2
    for piece in pieces:
        piece |= {"east_m": piece["east_m"] + shift, "north_m": 0.6 * side}
    far = at / (36 / FOCAL_MM)
    tall = tallest * 1.5 if low else max(1.16 * tallest, 1.95)
    height = int(WIDE * tall / at)
    depth = max(side, 2.2 * far)
    for piece in pieces:
        piece["north_m"] = far * 1.15
    eye = {"east_m": side / 2, "north_m": 0.15 * far, "eye_m": tall * 0.44, "bearing": 0}
    shot = eye | {"focal_mm": FOCAL_MM, "tilt": 0, "width_px": WIDE, "height_px": height}
    return barred(taken(setting(pieces, shot, (side, depth)), WIDE, height, "look"), WIDE / at)


def barred(picture: np.ndarray, scale: float) -> np.ndarray:
    """A row with a bar of a round length in its lower left corner, at `scale` px to the metre."""
    long = next(bar for bar in BARS_M if bar * scale < WIDE / 5)
    rows, end = picture.shape[0], 12 + round(long * scale)
    cv2.line(picture, (12, rows - 10), (end, rows - 10), INK, 2)
    told = f"{long:.0f} m" if long >= 1 else f"{100 * long:.0f} cm"
    at = (end + 8, rows - 6)
    cv2.putText(picture, told, at, cv2.FONT_HERSHEY_SIMPLEX, 0.45, INK, 1, cv2.LINE_AA)
    return picture


def close(name: str) -> np.ndarray:
    """A kind from a metre off its outside."""
    kind = kinds[name]
    middle = 20.0
    tree = kind.family == "tree"
    off = (1.0 if tree else 0.6) + kind.reach_m * (0.55 if tree else 0.75)
    piece = {"id": "k", "name": name, "kind": name, "east_m": middle, "north_m": middle}
    up = 1.7 if tree else 0.75 * kind.height_m + 0.3
    tilt = 22 if tree else -np.rad2deg(np.arctan2(up - 0.45 * kind.height_m, off))
    shot = {"east_m": middle, "north_m": middle - off, "eye_m": up, "bearing": 0}
    shot |= {"tilt": float(tilt), "focal_mm": 35, "width_px": 400, "height_px": 300}
    return taken(setting([piece], shot, (40, 40)), *CLOSE_PX)


def kept(name: str, make) -> np.ndarray:
    """A part of the sheet, made once and kept in a folder beside."""
    file = MADE / f"{name}.png"
    if not file.exists():
        MADE.mkdir(exist_ok=True)
        cv2.imwrite(str(file), make()[..., ::-1])
    return cv2.imread(str(file))


def main(what: list[str]) -> None:
    """Makes the parts that are asked for, and the sheet of all."""
    parts = []
    if "rows" in what:
        parts += [
            kept(f"row-{k}", lambda names=names: row(names)) for k, names in enumerate(rows())
        ]
    if "close" in what:
        shots = [kept(f"close-{name}", lambda name=name: close(name)) for name in CLOSE]
        strips = [np.hstack(shots[k : k + 5]) for k in (0, 5)]
        high = round(CLOSE_PX[1] * WIDE / (5 * CLOSE_PX[0]))
        parts += [cv2.resize(s, (WIDE, high), interpolation=cv2.INTER_AREA) for s in strips]
    cv2.imwrite(str(FULL / "kinds.png"), np.vstack(parts))


if __name__ == "__main__":
    main(sys.argv[1:] or ["rows", "close"])
