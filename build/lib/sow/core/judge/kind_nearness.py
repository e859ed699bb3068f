"""Detail by nearness: how near the shots come to each kind, which of its levels that calls for, and
what it costs.
"""

from dataclasses import dataclass

import numpy as np

from ..build import Build
from ..cabinet import kind_of
from ..cabinet.kind import Kind
from ..planting.formed import sizes_of
from ..sample import heights_at
from ..shots.shot import Shot, aside
from ..survey.sight import hidden_by


@dataclass
class KindNear:
    """One kind: how many stand; the nearest that a shot comes to one that it sees (m) and which;
    its height there in pixels of a still `wide_px` wide; the level that is drawn there, its
    triangles, the most that it has; and the triangles of all that a shot sees, each at its level
    (the most of any shot).
    """

    kind: str
    number: int
    nearest_m: float | None
    shot: str
    pixels: int
    level: int
    triangles: int
    most: int
    drawn: int
    verdict: str


@dataclass
class _Best:
    """The plant that stands largest before a shot."""

    away_m: float
    shot: Shot
    level: int
    size: float


def kind_nearness(build: Build, wide_px: int = 1920) -> list[KindNear]:
    """For each kind that is sown or placed.

    A shot sees what stands in its frame and is not hidden by the land.
    """
    shots = [
        (s, hidden_by(build.heights, build.grid, s.east_m, s.north_m, s.eye_m))
        for s in build.shots()
        if s.on
    ]
    standing = sorted(_standing(build).items())
    return [_of_kind(build, name, places, shots, wide_px) for name, places in standing]


def _standing(build: Build) -> dict[str, np.ndarray]:
    """East, north (m) and size of all that stands, by kind: (n, 3)."""
    parts: dict[str, list[np.ndarray]] = {}
    for i, sowing in enumerate(build.scene.planting):
        if not sowing.on:
            continue
        plants = build.plants(i)
        for k, part in enumerate(sowing.mix):
            here = plants.kind == k
            columns = [plants.east[here], plants.north[here], plants.size[here]]
            parts.setdefault(part.kind, []).append(np.column_stack(columns))
    for piece in build.pieces():
        place = np.array([[piece["east_m"], piece["north_m"], sizes_of(piece).max()]])
        parts.setdefault(piece["kind"], []).append(place)
    return {kind: np.concatenate(of_kind) for kind, of_kind in parts.items()}


def _of_kind(
    build: Build,
    name: str,
    places: np.ndarray,
    shots: list[tuple[Shot, np.ndarray]],
    wide_px: int,
) -> KindNear:
    kind = kind_of(name)
    shape = kind.shape()
    triangles = np.array([len(m.faces) for m in shape.levels[0]])
    last = len(triangles) - 1
    best: _Best | None = None
    drawn = 0
    for shot, hidden in shots:
        away, seen = _seen(build, kind, places, shot, hidden)
        if not seen.any():
            continue
        away = away[seen]
        size = places[seen, 2]
        near = wide_px / 36 * shot.focal_mm / 900  # the view's own measure, at this width
        level = np.zeros(len(away), int)
        for far in shape.far_m:
            level += away > far * size * near
        drawn = max(drawn, int(triangles[np.minimum(level, last)].sum()))
        k = int(np.argmin(away / size))
        if best is None or away[k] < best.away_m:
            best = _Best(float(away[k]), shot, int(level[k]), float(size[k]))
    number = len(places)
    finest = int(triangles[0])
    if best is None:
        coarsest = int(triangles[-1])
        return KindNear(name, number, None, "", 0, last, coarsest, finest, 0, "no shot sees it")
    pixels = kind.height_m * best.size / best.away_m * best.shot.focal_mm / 36 * wide_px
    at = min(best.level, last)
    verdict = "fits"
    if at == 0 and pixels > 4 * np.sqrt(finest):
        verdict = "a finer one would show"
    elif at > 0:
        verdict = "its finest is never drawn"
    return KindNear(
        name,
        number,
        best.away_m,
        best.shot.name,
        round(pixels),
        at,
        int(triangles[at]),
        finest,
        drawn,
        verdict,
    )


def _seen(
    build: Build, kind: Kind, places: np.ndarray, shot: Shot, hidden: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Distance of each place from a shot's eye (m), and which it sees."""
    grid = build.grid

    def height(east: np.ndarray, north: np.ndarray) -> np.ndarray:
        inside = np.clip(east, 0, grid.width_m), np.clip(north, 0, grid.depth_m)
        return heights_at(build.heights, grid, *inside)

    east, north, size = places.T
    tall = kind.height_m * size
    dx = east - shot.east_m
    dy = north - shot.north_m
    foot = height(np.array([shot.east_m]), np.array([shot.north_m]))
    eye = float(foot[0]) + shot.eye_m
    away = np.sqrt(dx * dx + dy * dy + (height(east, north) + tall / 2 - eye) ** 2)
    turn, half = aside(shot, dx, dy)
    rows = np.clip(np.rint(grid.rows_of(north)).astype(int), 0, grid.ny - 1)
    columns = np.clip(np.rint(grid.cols_of(east)).astype(int), 0, grid.nx - 1)
    framed = turn < half + np.degrees(np.arctan(kind.reach_m / np.maximum(away, 0.5)))
    return away, framed & (hidden[rows, columns] < tall)
