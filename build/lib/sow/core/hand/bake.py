"""Loose strokes gathered into the raster of their landform, on its own grid."""

import numpy as np

from ..build import Build
from ..build.site import site_on
from ..land.base import Below
from ..land.hand import ByHand, gathered
from ..where import holding
from .stroke import ADDS, carried


def bake(build: Build, index: int) -> np.ndarray:
    """All strokes of land entry `index` in m, float32, on that entry's own grid.

    What a stroke must know of the land below it is taken from the build's grid.
    """
    entry: ByHand = build.scene.land[index]
    plot, grid = build.scene.plot, build.grid
    own = plot.grid(entry.posts)
    under = build.land_step(index)
    looks = any(s.tool not in ADDS for s in entry.strokes)
    below_own = carried(under.heights, grid, own) if looks else np.zeros(own.shape, np.float32)
    site = site_on(build, under.heights, grid, "land", maps=under.maps, before=entry.id)

    def ask(where, path):
        held = holding(where, site, path)
        return None if held is None else np.clip(carried(held, grid, own), 0, 1)

    below = Below(
        below_own,
        own,
        plot,
        lambda name: build.marks.raster(name, f"land.{index}.raster"),
        f"land.{index}",
        build.check,
        ask=ask,
        picture=lambda mark: build.marks.picture(mark, f"land.{index}.picture"),
    )
    return gathered(entry, below)
