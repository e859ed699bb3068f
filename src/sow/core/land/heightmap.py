"""Landform: a heightmap picture or elevation file laid over the plot."""
from typing import Literal

import numpy as np

from ..errors import SceneError
from ..fields import file_setting, setting
from ..sample import bicubic
from .base import Below, Landform, landforms


class Heightmap(Landform):
    kind: Literal["heightmap"] = "heightmap"
    raster: str = file_setting("Heightmap", "PNG of 8 or 16 bits, or TIFF of 16 bits or floats.")
    lowest_m: float = setting(0, "Lowest", "m", lo=-12000, hi=12000, slider=(-200, 1000))
    highest_m: float = setting(150, "Highest", "m", lo=-12000, hi=12000, slider=(-200, 2000))


@landforms.add(Heightmap)
def heights(p: Heightmap, below: Below) -> np.ndarray:
    """Heights in m: the file's lowest value lies at `lowest_m`, its highest at `highest_m`.

    The picture is stretched over the plot edge to edge, and mirrored beyond it.
    """
    if not p.raster:
        raise SceneError("No heightmap is chosen.", below.path + ".raster", "Drop a PNG or TIFF on the page, or name a file.")
    if p.highest_m < p.lowest_m:
        raise SceneError(f"The highest ({p.highest_m:g} m) lies under the lowest ({p.lowest_m:g} m).",
                         below.path + ".highest_m", "Swap them, or add the process Invert.")
    values = below.raster(p.raster)
    low, high = float(values.min()), float(values.max())
    mirror = lambda t: np.abs((t + 1) % 2 - 1)  # 0..1, then back again
    share_x = mirror(below.grid.xs() / below.plot.width_m + 2**20)
    share_y = mirror(1 - below.grid.ys() / below.plot.depth_m + 2**20)
    field = bicubic(values, share_y * (values.shape[0] - 1), share_x * (values.shape[1] - 1))
    scale = (p.highest_m - p.lowest_m) / (high - low) if high > low else 0.0
    return np.clip((field - np.float32(low)) * np.float32(scale), 0, p.highest_m - p.lowest_m) + np.float32(p.lowest_m)
