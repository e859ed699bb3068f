"""A shot matched to a picture: from its horizon, two of its uprights, or places that are known.

The eye is taken to stand level, as a shot's does: a horizon gives the tilt for a lens; with
uprights that run together the lens too (Caprile & Torre 1990, for a level camera); three places or
more give place, bearing, tilt and, from four on, the lens (a start by OpenCV's P3P and SQPnP, then
least squares).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from scipy.optimize import least_squares

from ..errors import SceneError
from .shot import Ground, Shot, axes, eye_over

HALF_MM = 18.0
LEAST_MM, MOST_MM = 8.0, 1200.0
TRIED = 0.5, 0.8, 1.4, 3.0  # focal lengths in widths of the frame that a search begins with
WORST = 0.06  # of the picture's width, by which known places may miss in the mean

Point = tuple[float, float]  # of a picture: across and down, 0..1


@dataclass(frozen=True)
class Known:
    """A place (m; `over_m` over the ground) and where in the picture it shows, 0..1."""

    across: float
    down: float
    east_m: float
    north_m: float
    over_m: float = 0.0


@dataclass(frozen=True)
class Matched:
    """The shot, and by how much of the picture's width the known places miss in the mean."""

    shot: Shot
    off: float


def _centred(point: Point, shot: Shot) -> np.ndarray:
    """A point from the picture's middle, right and up, in widths of the frame; the lens's shift
    taken off.
    """
    aspect = shot.height_px / shot.width_px
    aside, up = shot.shift_aside / 100, shot.shift_up / 100
    return np.array([point[0] - 0.5 + aside, (0.5 - point[1]) * aspect + up])


def _meeting(one: np.ndarray, other: np.ndarray) -> np.ndarray | None:
    """Where two lines, each of two points, meet; None where they run side by side."""
    a, b = (np.cross([*p[0], 1.0], [*p[1], 1.0]) for p in (one, other))
    meet = np.cross(a, b)
    if abs(meet[2]) < 1e-6 * max(abs(meet[0]), abs(meet[1]), 1e-12):
        return None
    return meet[:2] / meet[2]


def by_lines(
    shot: Shot,
    horizon: Sequence[Point] | None,
    uprights: Sequence[Sequence[Point]] | None,
) -> Shot:
    """The shot with its tilt, and with both its lens, from a horizon (two points) and two uprights
    (two points each). Raises SceneError where they contradict one another.
    """
    focal = shot.focal_mm / (2 * HALF_MM)  # in widths of the frame
    at = None
    if horizon:
        a, b = (_centred(p, shot) for p in horizon)
        if abs(b[0] - a[0]) < 1e-6:
            raise SceneError(
                "The horizon is marked upright.", "horizon", "Mark it by two points side by side."
            )
        at = float(a[1] + (b[1] - a[1]) * (0 - a[0]) / (b[0] - a[0]))
    meet = None
    if uprights:
        one, other = (np.array([_centred(p, shot) for p in line]) for line in uprights)
        meet = _meeting(one, other)
    if at is not None and meet is not None:
        squared = -at * meet[1]
        if squared > 1e-6:
            focal = float(np.sqrt(squared))
        elif abs(at) > 0.02 and abs(meet[1]) < 20:
            raise SceneError(
                "The uprights run together on the side of the horizon.",
                "uprights",
                "Mark edges that are plumb, and the horizon where sky and flat land meet.",
            )
    if at is not None:
        tilt = -np.arctan2(at, focal)
    elif meet is not None:
        # uprights meet straight above or below the eye
        tilt = float(np.arctan(focal / meet[1])) if meet[1] else 0.0
    else:
        tilt = 0.0 if uprights else np.deg2rad(shot.tilt)
    mm = float(np.clip(focal * 2 * HALF_MM, LEAST_MM, MOST_MM))
    degrees = float(np.clip(np.degrees(tilt), -90, 90))
    return shot.model_copy(
        update={"aim_by": "angles", "tilt": round(degrees, 3), "focal_mm": round(mm, 2)}
    )


def _seen(numbers: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Where places come to lie, right and up in widths of the frame, from an eye (3), bearing and
    tilt in degrees and the logarithm of the focal length in widths.
    """
    right, up, ahead = axes(numbers[3], numbers[4])
    way = places - numbers[:3]
    deep = np.maximum(way @ ahead, 1e-3)
    return np.exp(numbers[5]) * np.stack([way @ right / deep, way @ up / deep], 1)


def _starts(places: np.ndarray, points: np.ndarray, focal: float) -> list[np.ndarray]:
    """Eyes with bearing and tilt that OpenCV finds for a focal length, in widths."""
    middle = places.mean(0)
    lens = np.diag([focal, focal, 1.0])
    # its axes run right and down
    flat = np.ascontiguousarray(points * [1, -1]).reshape(-1, 1, 2)
    there = np.ascontiguousarray(places - middle).reshape(-1, 1, 3)
    found: list[tuple[np.ndarray, np.ndarray]] = []
    if len(places) == 3:
        _, turns, moves = cv2.solveP3P(there, flat, lens, None, cv2.SOLVEPNP_P3P)
        found = list(zip(turns, moves))
    else:
        ok, turn, move = cv2.solvePnP(there, flat, lens, None, flags=cv2.SOLVEPNP_SQPNP)
        found = [(turn, move)] if ok else []
    out = []
    for turn, move in found:
        turned = cv2.Rodrigues(turn)[0]
        eye = -turned.T @ np.asarray(move).ravel() + middle
        ahead = turned[2]
        bearing = np.degrees(np.arctan2(ahead[0], ahead[1]))
        tilt = np.degrees(np.arcsin(np.clip(ahead[2], -1, 1)))
        out.append(np.array([*eye, bearing, tilt, np.log(focal)]))
    return [start for start in out if np.isfinite(start).all()]


def by_places(shot: Shot, known: Sequence[Known], ground: Ground) -> Matched:
    """The shot that sees known places where the picture shows them; its lens is kept with three of
    them. Raises SceneError where they are too few, in one line, or contradict one another.
    """
    if len(known) < 3:
        raise SceneError(f"{len(known)} known places are too few.", "points", "Mark three or more.")
    up = lambda k: ground(k.east_m, k.north_m) + k.over_m
    places = np.array([[k.east_m, k.north_m, up(k)] for k in known])
    points = np.array([_centred((k.across, k.down), shot) for k in known])
    spread = np.linalg.svd(places - places.mean(0), compute_uv=False)
    if spread[1] < 1e-3 * max(spread[0], 1e-9):
        raise SceneError(
            "The known places lie in one line.", "points", "Mark one that lies beside them."
        )
    own = shot.focal_mm / (2 * HALF_MM)
    free = len(known) >= 4
    lenses = (own, *TRIED) if free else (own,)
    starts = [start for lens in lenses for start in _starts(places, points, lens)]
    eye = eye_over(shot, ground)
    starts.append(np.array([*eye, shot.bearing, shot.tilt, np.log(own)]))
    best, off = None, np.inf
    for start in starts:
        held = 6 if free else 5
        off_by = lambda x: (_seen(np.concatenate([x, start[held:]]), places) - points).ravel()
        found = least_squares(off_by, start[:held], x_scale=np.array([10, 10, 5, 5, 5, 0.2])[:held])
        numbers = np.concatenate([found.x, start[held:]])
        right, above, ahead = axes(numbers[3], numbers[4])
        before = ((places - numbers[:3]) @ ahead > 0).all()
        over = numbers[2] - ground(float(numbers[0]), float(numbers[1])) > 0.02
        miss = float(np.sqrt(np.mean(found.fun**2) * 2))
        if before and over and miss < off and abs(numbers[4]) < 89:
            best, off = numbers, miss
    if best is None or off > WORST:
        raise SceneError(
            "No eye sees these places where the picture shows them.",
            "points",
            "Look through the marks: one of them is likely on the wrong thing.",
        )
    return Matched(_standing(shot, best, ground), off)


def _standing(shot: Shot, numbers: np.ndarray, ground: Ground) -> Shot:
    east, north = float(numbers[0]), float(numbers[1])
    mm = float(np.clip(np.exp(numbers[5]) * 2 * HALF_MM, LEAST_MM, MOST_MM))
    return shot.model_copy(
        update={
            "east_m": round(east, 3),
            "north_m": round(north, 3),
            "eye_m": round(max(0.05, float(numbers[2]) - ground(east, north)), 3),
            "aim_by": "angles",
            "bearing": round(float(numbers[3]) % 360, 4),
            "tilt": round(float(numbers[4]), 4),
            "focal_mm": round(mm, 3),
        }
    )
