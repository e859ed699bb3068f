"""The moving waters of a build, each made once for the land and the settings that it depends on."""

from typing import TYPE_CHECKING

import numpy as np

from ..cache import key_of
from ..planting.pieces import piece_feet
from ..planting.plants import feet
from ..sample import heights_at, values_at
from ..water.around import DEEPEST, LEAST_M, MOST
from ..water.ice import thickness
from ..water.moving import Moving, Shore, moving, reaches, sea_of, shore_of, typical_depth
from ..water.running import Running, running
from ..water.spectrum import Sea
from ..water.standing import surface_of

if TYPE_CHECKING:
    from .build import Build


def sea_in(build: "Build", index: int) -> Sea:
    """The sea of a water of the scene."""
    water = build.scene.water[index]
    if water.reach == "stream":
        return sea_of(water, water.deep_m)

    def make() -> float:
        level, masks = build.water()
        return typical_depth(water, level - build.heights, masks[index])

    key = key_of("depth of water", build.water_key, index)
    return sea_of(water, build.once("water", key, make))


def shore_in(build: "Build", index: int) -> Shore:
    """The shore of a standing water of the scene."""
    water = build.scene.water[index]
    sea = sea_in(build, index)

    def make() -> Shore:
        wet = build.water()[1][index]
        return shore_of(sea, water.level_m, build.heights, wet, build.grid.spacing)

    return build.once("water", shore_key(build, index, sea), make)


def shore_key(build: "Build", index: int, sea: Sea) -> str:
    """Content key of a water's shore."""
    asked = [sea.long_m, sea.high_m, sea.deep_m, sea.toward]
    return key_of("shore of water", build.water_key, index, asked)


def moving_in(build: "Build", index: int, seconds: float) -> Moving:
    """A standing water of the scene at a time."""
    water = build.scene.water[index]
    sea, shore = sea_in(build, index), shore_in(build, index)
    return moving(water, sea, shore, build.grid, seconds, ice_in(build, index))


def ice_in(build: "Build", index: int) -> np.ndarray | None:
    """How thick the ice of a standing water is at each post (m), or None where there is none."""
    water = build.scene.water[index]
    if water.frozen <= 0 or water.reach == "stream":
        return None
    key = key_of("ice", build.water_key, index, water.frozen, water.ice_cm)
    wet = build.water()[1][index]
    return build.once("water", key, lambda: thickness(water, wet, build.grid.spacing))


def running_in(build: "Build", index: int, seconds: float) -> Running:
    """A stream of the scene at a time."""
    water = build.scene.water[index]
    spine = surface_of(water, build.marks.line(water.mark), build.heights, build.grid)
    return running(water, spine, sea_in(build, index), seconds)


def stands_in(build: "Build", index: int, plants: bool = True) -> np.ndarray:
    """Discs of what stands in a water and out of it: east, north, radius, level (m), float64
    (n, 4), the widest first. Without `plants` the pieces alone.
    """
    level, masks = build.water()
    own = np.where(masks[index], level, np.nan).astype(np.float32)
    found = [np.column_stack(piece_feet(p)) for p in build.scene.pieces if p.on]
    if plants:
        found += [
            np.column_stack(feet(s, build.plants(i)))
            for i, s in enumerate(build.scene.planting)
            if s.on and s.wet
        ]
    discs = np.concatenate([np.zeros((0, 3)), *found])
    discs = discs[discs[:, 2] >= LEAST_M]
    if not len(discs):
        return np.zeros((0, 4))
    wet = values_at(own, build.grid, discs[:, 0], discs[:, 1])
    deep = wet - heights_at(build.heights, build.grid, discs[:, 0], discs[:, 1])
    here = np.isfinite(wet) & (deep > -0.1) & (deep < DEEPEST * discs[:, 2])
    told = np.column_stack([discs, wet])[here]
    return told[np.argsort(-told[:, 2], kind="stable")][:MOST]


def wetted(build: "Build") -> np.ndarray:
    """Level up to which waters wet the land, by their waves, where they stand; NaN where dry."""
    level, masks = build.water()
    out = level.copy()
    for i, (water, wet) in enumerate(zip(build.scene.water, masks)):
        if water.on:
            out[wet] = level[wet] + reaches(water, sea_in(build, i))
    return out
