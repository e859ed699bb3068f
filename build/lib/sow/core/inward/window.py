"""A window of a large land in full: a scene of its own, with the posts that the whole has there."""

from collections.abc import Callable
from typing import Any

import numpy as np

from ..build import Rasters
from ..errors import SceneError
from ..formats.package import Package
from ..scene import Scene
from ..tiles.tile import Tile, part_of
from ..tiles.whole import whole_of
from .composed import composed
from .found import Found, Standing

MOST_POSTS = 2049


def window_of(
    scene: Scene,
    rasters: Rasters,
    east_m: float,
    north_m: float,
    side_m: float,
    spacing_m: float,
    check: Callable[[], None] = lambda: None,
) -> Package:
    """The square `side_m` across about a place of a plot, with posts about `spacing_m` apart, as a
    scene: its land a heightmap, its materials by masks, its plants where they stand in the whole.

    Raises SceneError when it reaches over the plot's edge, or holds too many posts.
    """
    plot = scene.plot
    grid = plot.grid(max(33, round(plot.longer_m / spacing_m) + 1))
    count = round(side_m / grid.spacing) + 1
    if not 33 <= count <= MOST_POSTS:
        raise SceneError(
            f"A window of {count:,} posts along a side is not possible.",
            "side_m",
            f"With posts {spacing_m:g} m apart take {33 * spacing_m:g} to "
            f"{(MOST_POSTS - 1) * spacing_m:,.0f} m.",
        )
    row = round(float(grid.rows_of(north_m + side_m / 2)))
    column = round(float(grid.cols_of(east_m - side_m / 2)))
    if row < 0 or column < 0 or row + count > grid.ny or column + count > grid.nx:
        raise SceneError(
            f"A window {side_m:g} m across about this place reaches over the plot's edge.",
            "side_m",
            "Take less, or another middle.",
        )
    whole = whole_of(scene, rasters, grid.spacing)
    check()
    part = part_of(whole, rasters, grid, grid.window(row, column, count, count), check=check)
    return composed(_found(whole.scene, part), measured=True)


def _found(scene: Scene, part: Tile) -> Found:
    """A part of a land as what was found in a file is told."""
    west, south, _, _ = part.grid.bounds()
    side = part.grid.width_m
    found = Found(f"{scene.name[:60]}, a window", part.heights, side, side)
    found.document = _around(scene, west, south)
    for material, share in zip(scene.ground, part.shares):
        if material.on:
            name = material.name
            while name in found.shares:
                name += " again"
            found.shares[name] = share
    for sowing, plants in part.sown:
        for k, kind in enumerate(sowing.mix):
            p = plants.only(plants.kind == k)
            if len(p):
                columns = [p.east - west, p.north - south, p.up, p.turn, p.size, p.variant]
                found.standing.append(Standing(sowing.name, kind.kind, np.column_stack(columns)))
    for piece in part.pieces:
        wide, deep, tall = (piece["size"] * piece[k] / 100 for k in ("wide", "deep", "tall"))
        own = {"east_m": piece["east_m"] - west, "north_m": piece["north_m"] - south}
        found.pieces.append({**_plain(piece), **own, "wide": wide, "deep": deep, "tall": tall})
    return found


def _plain(piece: dict[str, Any]) -> dict[str, Any]:
    names = ("id", "name", "kind", "up_m", "turn", "lean", "bearing", "variant", "mirrored", "bend")
    return {name: piece[name] for name in names}


def _around(scene: Scene, west: float, south: float) -> dict[str, Any]:
    """What goes with every part of a scene: its light, season and grade, and the waters that hold
    for all of it, moved along.
    """
    told = scene.model_dump(mode="json", by_alias=True)
    waters = [w for w in told["water"] if w["reach"] != "stream"]
    for water in waters:
        water["east_m"] -= west
        water["north_m"] -= south
    kept = {name: told[name] for name in ("light", "season", "grade", "ground", "planting")}
    return {**kept, "water": waters, "plot": {"seed": scene.plot.seed}}
