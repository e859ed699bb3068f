"""What trees near the eye have let fall, under their crowns."""

import functools
from collections.abc import Iterable

import numpy as np
from scipy.spatial import cKDTree

from ..build import Build
from ..cabinet import worn
from ..cabinet.kind import Kind
from ..cabinet.mesh import Part
from ..sample import heights_at
from ..surface.look import field_at
from .bodies import Body, Copies
from .choose import LEAST_FINE, NEAR_PX
from .dressed import body_of
from .foot import lain, places_about
from .views import View

ENDS_M = 12.0  # from the eye, at a lens of NEAR_PX
RADIUS_M = 0.4
APART_M = 0.42
VARIANTS = 3
BEYOND = 1.2  # crowns' radii from a stem to which litter drifts
THICK = {"autumn": 1.0, "winter": 0.8, "spring": 0.55, "summer": 0.4}  # none under snow


def shed_of(build: Build, view: View) -> Iterable[Copies]:
    """Patches of litter under the trees about a view's eye, thick by their stems, by season."""
    thick = THICK.get(build.scene.season, 0.0)
    ends = ENDS_M * min(max(view.focal_px / NEAR_PX, LEAST_FINE), 2.5)
    over = float(view.eye[2]) - build.ground_at(float(view.eye[0]), float(view.eye[1]))
    trees = _trees_about(build, view) if over < ends and thick > 0 else []
    if not trees:
        return
    x, y, chance = places_about(build, view, 0.0, ends, APART_M)
    if not len(x):
        return
    owner, near = _nearest(trees, x, y)
    away = np.hypot(x - view.eye[0], y - view.eye[1]) / ends
    share = thick * np.clip(1.15 - near, 0, 1) * np.clip(2.2 * (1 - away), 0, 1)
    upright = field_at(build, build.normals(), x, y)
    keep = (chance[0] < share) & (upright[:, 2] > 0.6)
    for wet in build.water()[1]:
        keep &= field_at(build, wet.astype(np.float32), x, y) < 0.5
    z = heights_at(build.heights, build.grid, x, y)
    variant = (chance[2] * VARIANTS).astype(int)
    for k, (kind, _) in enumerate(trees):
        for v in range(VARIANTS):
            some = np.flatnonzero(keep & (owner == k) & (variant == v))
            if len(some):
                feet = np.stack([x[some], y[some], z[some]], 1)
                at = lain(
                    feet, upright[some], 2 * np.pi * chance[4][some], 0.8 + 0.4 * chance[1][some]
                )
                yield Copies(_litter(kind.name, v), at, f"litter of {kind.label}", kind.label)


def _trees_about(build: Build, view: View) -> list[tuple[Kind, np.ndarray]]:
    """Kinds that shed, each with its trees about the eye: east, north and the crown's radius in m,
    (n, 3).
    """
    out: dict[str, list[np.ndarray]] = {}
    for index, sowing in enumerate(build.scene.planting):
        if not sowing.on:
            continue
        plants = build.plants(index)
        for k, name in enumerate(build.names(index)):
            kind, look, _ = worn(name)
            if kind.sheds is None or look in ("dead", "burnt"):
                continue
            reach = kind.reach_m * plants.size
            away = np.hypot(plants.east - view.eye[0], plants.north - view.eye[1])
            here = (plants.kind == k) & (away < 2.5 * ENDS_M + BEYOND * reach)
            rows = np.stack([plants.east[here], plants.north[here], reach[here]], 1)
            out.setdefault(kind.name, []).append(rows)
    for piece in build.pieces():
        kind = worn(piece["dressed"])[0]
        if kind.sheds is not None and piece["look"] not in ("dead", "burnt"):
            row = [[piece["east_m"], piece["north_m"], kind.reach_m * piece["size"] / 100]]
            out.setdefault(kind.name, []).append(np.array(row))
    rows_of = {name: np.concatenate(rows) for name, rows in out.items()}
    return [(worn(name)[0], rows) for name, rows in sorted(rows_of.items()) if len(rows)]


def _nearest(
    trees: list[tuple[Kind, np.ndarray]], x: np.ndarray, y: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Which kind stands over each place, and how far its stem is, in crowns' radii."""
    owner = np.full(len(x), -1)
    least = np.full(len(x), np.inf)
    for k, (_, rows) in enumerate(trees):
        away, which = cKDTree(rows[:, :2]).query(np.stack([x, y], 1))
        part = away / np.maximum(BEYOND * rows[which, 2], 1e-3)
        mine = part < least
        owner[mine], least[mine] = k, part[mine]
    return owner, least


@functools.lru_cache(64)
def _litter(name: str, variant: int) -> list[Body]:
    sheds = worn(name)[0].sheds
    assert sheds is not None
    parts: list[Part] = sheds(np.random.default_rng(variant + 31), RADIUS_M, 1.0)
    return [body_of(part) for part in parts]
