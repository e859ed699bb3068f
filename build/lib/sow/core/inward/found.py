"""What was found in a file, before it becomes a scene."""

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from scipy.interpolate import LinearNDInterpolator, NearestNDInterpolator
from scipy.spatial.transform import Rotation

from ..errors import SceneError

MOST_POSTS = 2049
GUESSED_POSTS = 513


@dataclass
class Standing:
    """Things of one kind: `kind` as the file calls it, `table` float64 (n, 6) east, north, up (m),
    turn (degrees), size (a multiple) and its variant.
    """

    sowing: str
    kind: str
    table: np.ndarray


@dataclass
class Found:
    """Metres east, north, up from the south-west corner of what the ground covers.

    `heights` float32 (ny, nx) over `width_m` by `depth_m`, or None; `shares` the materials' weights
    (ny, nx) by name, in their order; `pieces`, `shots` and `lamps` plain values as a scene has
    them; `sun` bearing and height in degrees; `document` the scene that the file was written from,
    where it travels along. `taken` and `left` tell in words what came in and what did not.
    """

    name: str
    heights: np.ndarray | None = None
    width_m: float = 0.0
    depth_m: float = 0.0
    shares: dict[str, np.ndarray] = field(default_factory=dict)
    standing: list[Standing] = field(default_factory=list)
    pieces: list[dict[str, Any]] = field(default_factory=list)
    shots: list[dict[str, Any]] = field(default_factory=list)
    lamps: list[dict[str, Any]] = field(default_factory=list)
    sun: tuple[float, float] | None = None
    document: dict[str, Any] | None = None
    taken: list[str] = field(default_factory=list)
    left: list[str] = field(default_factory=list)


def refuse(message: str, advice: str) -> SceneError:
    """Why a file is not read, and what to do."""
    return SceneError(message, "file", advice)


def stance_of(turned: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Turn, lean and its bearing (degrees) and size of things whose axes are the columns of
    matrices (n, 3, 3) in east, north, up.
    """
    length = np.linalg.norm(turned, axis=1)
    size = np.cbrt(np.prod(length, axis=1))
    axes = turned / np.maximum(length[:, None, :], 1e-12)
    up = axes[:, :, 2]
    lean = np.degrees(np.arccos(np.clip(up[:, 2], -1, 1)))
    bearing = np.degrees(np.arctan2(up[:, 0], up[:, 1])) % 360
    b = np.deg2rad(bearing)
    over = np.stack([-np.cos(b), np.sin(b), np.zeros_like(b)], 1)  # what it leant about
    upright = Rotation.from_rotvec(-np.deg2rad(lean)[:, None] * over)
    north = upright.apply(axes[:, :, 1])
    turn = np.degrees(np.arctan2(north[:, 0], north[:, 1])) % 360
    leant = lean > 0.01
    return turn, np.where(leant, lean, 0), np.where(leant, bearing, 0), size


def lay_ground(found: Found, points: np.ndarray, name: str) -> np.ndarray:
    """Takes the vertices (n, 3) of a ground as the land, and gives the corner (east, north, up)
    that all else is told from.
    """
    low = points.min(0)
    high = points.max(0)
    found.width_m, found.depth_m = (float(v) for v in (high - low)[:2])
    corner = np.array([low[0], low[1], 0.0])
    plain = points - corner
    regular = _regular(plain)
    if regular is not None:
        found.heights = regular
        ny, nx = regular.shape
        found.taken.append(f"The ground “{name}”, {nx} x {ny} posts as they are.")
        return corner
    found.heights = _carried(plain, found.width_m, found.depth_m)
    ny, nx = found.heights.shape
    found.taken.append(
        f"The ground “{name}”, {len(points):,} vertices of a net carried to {nx} x {ny} posts."
    )
    return corner


def _regular(points: np.ndarray) -> np.ndarray | None:
    """Heights of vertices that are the posts of a grid, row 0 north; None for any others."""
    steps = []
    for axis in (0, 1):
        values = np.unique(np.round(points[:, axis], 3))
        gaps = np.diff(values)
        if len(values) < 2 or np.ptp(gaps) > 0.02 * gaps.mean() + 2e-3:
            return None
        steps.append(values)
    nx, ny = len(steps[0]), len(steps[1])
    if nx * ny != len(points):
        return None
    column = np.rint(points[:, 0] / max(np.ptp(steps[0]), 1e-9) * (nx - 1)).astype(int)
    row = (ny - 1) - np.rint(points[:, 1] / max(np.ptp(steps[1]), 1e-9) * (ny - 1)).astype(int)
    heights = np.full((ny, nx), np.nan, np.float32)
    heights[row, column] = points[:, 2]
    return heights if np.isfinite(heights).all() else None


def _carried(points: np.ndarray, width: float, depth: float) -> np.ndarray:
    """A net read at posts: between its vertices by triangles, beyond them by the nearest."""
    longer = max(width, depth)
    count = int(np.clip(2 * np.sqrt(len(points)), GUESSED_POSTS, MOST_POSTS))
    spacing = longer / (count - 1)
    nx, ny = (max(2, round(side / spacing) + 1) for side in (width, depth))
    x, y = np.meshgrid(np.linspace(0, width, nx), np.linspace(depth, 0, ny))
    plane, up = points[:, :2], points[:, 2]
    heights = LinearNDInterpolator(plane, up)(x, y)
    holes = ~np.isfinite(heights)
    if holes.any():
        heights[holes] = NearestNDInterpolator(plane, up)(x[holes], y[holes])
    return heights.astype(np.float32)


def piece_of(
    piece_id: str, name: str, kind: str, at: np.ndarray, axes: np.ndarray, variant: int
) -> dict[str, Any]:
    """A piece as a scene has it, but for `up_m`: its place (m) and its axes (3, 3) as columns in
    east, north, up.
    """
    turn, lean, bearing, _ = (float(v[0]) for v in stance_of(axes[None]))
    wide, deep, tall = (100 * float(v) for v in np.linalg.norm(axes, axis=0))
    return {
        "id": piece_id,
        "name": name,
        "kind": kind,
        "east_m": float(at[0]),
        "north_m": float(at[1]),
        "up_m": float(at[2]),
        "turn": turn,
        "lean": lean,
        "bearing": bearing,
        "wide": wide,
        "deep": deep,
        "tall": tall,
        "variant": variant,
        "mirrored": bool(np.linalg.det(axes) < 0),
    }


def sun_of(away: np.ndarray) -> tuple[float, float]:
    """Bearing and height (degrees) of a sun whose light goes along `away` (east, north, up)."""
    to = -np.asarray(away, float)
    height = float(np.degrees(np.arcsin(np.clip(to[2], -1, 1))))
    return float(np.degrees(np.arctan2(to[0], to[1])) % 360), height


def lamp_of(
    name: str, at: np.ndarray, away: np.ndarray, candela: np.ndarray, outer: float | None
) -> dict[str, Any]:
    """A lamp as a scene has it, from its light in candela (linear Rec.709) along its aim and half
    the angle of its cone (radians; None shines all around).
    """
    bright = float(candela @ (0.2126, 0.7152, 0.0722))
    solid = 4 * np.pi if outer is None else 2 * np.pi * (1 - np.cos(outer))
    return {
        "name": name,
        "at": [float(v) for v in at],
        "aim": [float(v) for v in at + 4 * away],
        "lumens": float(np.clip(bright * solid, 1, 1e8)),
        "spread": 180.0 if outer is None else float(np.degrees(outer)),
        "rgb": [float(v) for v in candela],
    }


def shot_of(
    name: str, at: np.ndarray, ahead: np.ndarray, focal_mm: float, aspect: float
) -> dict[str, Any]:
    """A shot as a scene has it, but for `up_m` in place of its height over the ground."""
    ahead = np.asarray(ahead, float) / max(float(np.linalg.norm(ahead)), 1e-12)
    return {
        "name": name,
        "east_m": float(at[0]),
        "north_m": float(at[1]),
        "up_m": float(at[2]),
        "bearing": float(np.degrees(np.arctan2(ahead[0], ahead[1])) % 360),
        "tilt": float(np.degrees(np.arcsin(np.clip(ahead[2], -1, 1)))),
        "focal_mm": float(np.clip(focal_mm, 8, 1200)),
        "width_px": 1600,
        "height_px": max(64, round(1600 / aspect)),
    }
