"""One tile of a plot: land, water, ground and plants."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..build import Build, Rasters
from ..cache import Cache
from ..planting.plants import Plants
from ..planting.sowing import Sowing
from ..plot import Grid
from .cut import Cut, halo_of, widened
from .whole import Whole

CACHE_BYTES = 3 << 30


@dataclass(frozen=True)
class Tile:
    """What a tile holds: heights (float32 m), shares of the materials (count, ny, nx), level of the
    water (m, NaN where dry; None where there is none), and the plants and pieces whose places lie
    in it.
    """

    grid: Grid
    heights: np.ndarray
    shares: np.ndarray
    water_m: np.ndarray | None
    sown: list[tuple[Sowing, Plants]]
    pieces: list[dict]


def tile_of(
    whole: Whole,
    rasters: Rasters,
    cut: Cut,
    row: int,
    column: int,
    planted: bool = True,
    check: Callable[[], None] = lambda: None,
) -> Tile:
    """A tile, the same whichever tiles are grown beside it. Raises SceneError."""
    return part_of(whole, rasters, cut.grid, cut.tile(row, column), planted, check)


def part_of(
    whole: Whole,
    rasters: Rasters,
    plot: Grid,
    inner: Grid,
    planted: bool = True,
    check: Callable[[], None] = lambda: None,
) -> Tile:
    """A part of a plot's posts, as it is in the whole. Raises SceneError."""
    scene = whole.scene
    wide = widened(plot, inner, halo_of(scene, plot.spacing))
    build = Build(scene, wide, Cache(CACHE_BYTES), rasters, check=check, around=whole.around)
    r0 = inner.row0 - wide.row0
    c0 = inner.col0 - wide.col0
    own = np.s_[..., r0 : r0 + inner.ny, c0 : c0 + inner.nx]
    level = build.water()[0][own]
    sown = []
    for i, sowing in enumerate(scene.planting if planted else []):
        if sowing.on:
            sown.append((sowing, _within(build.plants(i), inner, plot)))
    return Tile(
        inner,
        build.heights[own],
        build.ground()[own],
        level if np.isfinite(level).any() else None,
        sown,
        [p for p in build.pieces() if _holds(inner, plot, p["east_m"], p["north_m"])],
    )


def _within(plants: Plants, tile: Grid, plot: Grid) -> Plants:
    """The plants of a tile."""
    here = _holds(tile, plot, plants.east, plants.north)
    return plants.only(here)


def _holds(tile: Grid, plot: Grid, east: Any, north: Any) -> Any:
    """Whether places lie in a tile: an edge belongs to the tile east or north of it, the plot's own
    to the last.
    """
    west, south, east_end, north_end = tile.bounds()
    inside = (east >= west) & (north >= south)
    last_column = tile.col0 + tile.nx == plot.nx
    inside = inside & ((east <= east_end) if last_column else (east < east_end))
    return inside & ((north <= north_end) if tile.row0 == 0 else (north < north_end))
