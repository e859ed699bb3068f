"""The files of a tile, and the one that tells of all tiles."""

import json
from pathlib import Path
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..cache import key_of
from ..document.entry import Strict
from ..formats.package import travelling
from ..formats.plants import write_csv
from ..formats.raster import write_tiff
from ..formats.tilefiles import STEPS, TileFiles, write_heights, write_weights
from .cut import Cut
from .tile import Tile
from .whole import Whole

MARGIN = 0.1  # of the range of heights: a tile may hold higher ground than the coarse grid knows


class TileOrder(Strict):
    """What is written of each tile of a land that is larger than a machine."""

    posts: Literal[129, 257, 513, 1025, 2049] = Field(1025, title="Posts of a tile")
    spacing_m: float = Field(1.0, gt=0, title="Posts apart")
    coarse_posts: int = Field(1025, ge=129, le=4097, title="Posts of the coarse grid")
    png: bool = Field(False, title="Heights as PNG, 16 bit")
    raw: bool = Field(False, title="Heights as raw numbers, 16 bit")
    tif: bool = Field(True, title="Heights as TIFF, in metres")
    plants: bool = Field(True, title="Plants")

    def key(self, whole: Whole) -> str:
        """What the files of a tile depend on."""
        return key_of("tiles", whole.content, self.model_dump())


def name_of(row: int, column: int) -> str:
    """How the files of a tile are called: its row from the north and its column from the west."""
    return f"{row:03d}-{column:03d}"


def range_of(whole: Whole) -> tuple[float, float]:
    """The heights (m) that whole numbers run between."""
    lands = whole.around.finished
    low, high = float(lands.min()), float(lands.max())
    margin = MARGIN * max(high - low, 1.0)
    return low - margin, high + margin


def write_tile(
    folder: Path, tile: Tile, whole: Whole, cut: Cut, row: int, column: int, order: TileOrder
) -> dict[str, Any]:
    """Heights, weights, water and plants of a tile. Gives what tiles.json says of it."""
    name = name_of(row, column)
    low, high = range_of(whole)
    forms = TileFiles(png=order.png, raw=order.raw, tif=order.tif)
    heights = _filled(tile.heights, cut.posts)
    west, _, _, north = tile.grid.bounds()
    line: dict[str, Any] = {
        "row": row,
        "column": column,
        "west_m": west,
        "north_m": north,
        "lowest_m": float(tile.heights.min()),
        "highest_m": float(tile.heights.max()),
        "heights": write_heights(folder, name, heights, low, high, forms),
    }
    on = [i for i, m in enumerate(whole.scene.ground) if m.on]
    if on:
        line["weights"] = write_weights(folder, name, _filled(tile.shares[on], cut.posts))
    if tile.water_m is not None:
        line["water"] = f"water-{name}.tif"
        write_tiff(folder / line["water"], _filled(tile.water_m, cut.posts), cut.grid.spacing)
    if order.plants and (tile.sown or tile.pieces):
        line["plants"] = f"plants-{name}.csv"
        line["count"] = sum(len(p) for _, p in tile.sown) + len(tile.pieces)
        write_csv(folder / line["plants"], tile.sown, tile.pieces)
    return line


def _filled(values: np.ndarray, posts: int) -> np.ndarray:
    """A tile at the plot's edge filled up to its size: what lies beyond holds the edge."""
    spare = posts - values.shape[-2], posts - values.shape[-1]
    if not any(spare):
        return values
    sides = [(0, 0)] * (values.ndim - 2) + [(0, spare[0]), (0, spare[1])]
    return np.pad(values, sides, mode="edge")


def write_index(
    folder: Path, whole: Whole, cut: Cut, order: TileOrder, lines: list[dict[str, Any]]
) -> None:
    """tiles.json: how the tiles lie, what their numbers mean, and what each holds."""
    low, high = range_of(whole)
    coarse = whole.around
    facts = {
        "scene": whole.scene.name,
        "axes": "east, north, up; m; row 0 of every tile is its north edge",
        "posts": cut.posts,
        "spacing_m": cut.grid.spacing,
        "tiles": {"across": cut.across, "down": cut.down},
        "plot_m": [cut.grid.width_m, cut.grid.depth_m],
        "heights": {"lowest_m": low, "highest_m": high, "of": STEPS},
        "raw": "unsigned 16 bit, little-endian, rows from the north" if order.raw else None,
        "materials": [m.name for m in whole.scene.ground if m.on],
        "found_at_m": {
            "spacing": coarse.grid.spacing,
            "land": [e.name for e in whole.scene.land if e.id in coarse.changes],
            "conditions": sorted(coarse.answers),
        },
        "plants": sum(line.get("count", 0) for line in lines),
        "list": lines,
        "sow": {"scene": travelling(whole.scene)},
    }
    (folder / "tiles.json").write_text(json.dumps(facts, indent=1) + "\n")
