"""Landform: a heightmap picture or elevation file."""

from collections.abc import Callable
from typing import Any, Literal

import numpy as np
from pydantic import Field
from scipy.ndimage import gaussian_filter, map_coordinates, spline_filter

from ..cabinet.heightmaps import ready
from ..document.entry import Handles, at_place
from ..document.fields import bearing, file_setting, length_m, place_m, setting
from ..document.offers import Offer
from ..errors import SceneError
from ..formats.elevation import destep
from ..plot import Plot
from .base import Below, Frame, Landform, Shape, landforms


class Laid(Landform):
    """What every raster of heights has: where it lies."""

    area: Literal["plot", "own"] = Field(
        "plot",
        title="Covers",
        json_schema_extra={"sow": {"labels": {"plot": "the plot", "own": "its own area"}}},
    )
    east_m: float = place_m("Centre east", 500, slider=(0, "width"), only={"area": ["own"]})
    north_m: float = place_m("Centre north", 500, slider=(0, "depth"), only={"area": ["own"]})
    width_m: float = length_m(
        "Width", 1000, lo=0.5, hi=500000, slider=(10, 20000), only={"area": ["own"]}
    )
    depth_m: float = length_m(
        "Depth", 1000, lo=0.5, hi=500000, slider=(10, 20000), only={"area": ["own"]}
    )
    turn: float = bearing("Turn", 0)
    fade_m: float = setting(
        0,
        "Edge fade",
        "m",
        lo=0,
        hi=50000,
        slider=(0, 1000),
        only={"area": ["own"]},
        help="Over this length from its edge it gives way to the land below.",
    )
    filter_m: float = setting(
        0,
        "Filter",
        "m",
        lo=0,
        hi=5000,
        slider=(0, 100),
        help="Shapes smaller than this are smoothed away.",
    )

    def frame(self, plot: Plot) -> Frame:
        """Where a mask bound to the heightmap lies."""
        if self.area == "plot":
            return Frame(plot.width_m / 2, plot.depth_m / 2, plot.width_m, plot.depth_m, self.turn)
        return Frame(self.east_m, self.north_m, self.width_m, self.depth_m, self.turn)


class Heightmap(Laid):
    kind: Literal["heightmap"] = "heightmap"
    raster: str = file_setting(
        "Heightmap", "PNG, TIFF, GeoTIFF, ESRI ASCII grid, raw posts, or a photo's lightness."
    )
    ready: str = Field(
        "",
        max_length=40,
        title="Or a ready one",
        json_schema_extra={"sow": {"drawer": "heightmap"}},
    )
    lowest_m: float = setting(0, "Lowest", "m", lo=-12000, hi=12000, slider=(-200, 1000))
    highest_m: float = setting(150, "Highest", "m", lo=-12000, hi=12000, slider=(-200, 2000))
    invert: bool = Field(False, title="Invert")


def lay(
    p: Laid, below: Below, field: np.ndarray, coefficients: np.ndarray, metres_per_post: float
) -> Shape:
    """A raster read over its frame (cubic spline, Unser 1993).

    Over the plot it is mirrored beyond; over an area of its own it ends.
    """
    frame, grid = p.frame(below.plot), below.grid
    across, along = frame.local(grid)
    u = across / np.float32(frame.width_m) + np.float32(0.5)
    v = np.float32(0.5) - along / np.float32(frame.depth_m)
    presence = None
    if p.area == "own":
        inside = np.minimum(
            np.minimum(u, 1 - u) * np.float32(frame.width_m),
            np.minimum(v, 1 - v) * np.float32(frame.depth_m),
        )
        t = np.clip(inside / np.float32(max(p.fade_m, 1e-3 * grid.spacing)), 0, 1)
        presence = t * t * (3 - 2 * t)
    else:
        u, v = (np.abs((t + 1) % 2 - 1) for t in (u, v))
    out = np.empty(grid.shape, np.float32)
    rows = max(1, 2_000_000 // grid.nx)
    for r in range(0, grid.ny, rows):
        part = slice(r, r + rows)
        map_coordinates(
            coefficients,
            [v[part] * (field.shape[0] - 1), u[part] * (field.shape[1] - 1)],
            out[part],
            order=3,
            mode="nearest",
            prefilter=False,
        )
    return Shape(out, presence)


def prepared(
    p: Laid, below: Below, key: Any, values: Callable[[], np.ndarray], frame: Frame
) -> tuple[np.ndarray, np.ndarray, float]:
    """Spline coefficients of a raster, its steps smoothed away and filtered; kept between calls."""

    def make() -> Any:
        field = values()
        field = destep(field) if field.dtype == np.uint8 else field.astype(np.float32)
        post = frame.width_m / max(field.shape[1] - 1, 1)
        if p.filter_m > post:
            field = gaussian_filter(field, p.filter_m / 2 / post, mode="nearest", truncate=3)
        return field, spline_filter(field, 3, np.float32, mode="nearest"), post

    return below.once(("raster", key, p.filter_m, frame.width_m if p.filter_m else 0), make)


@landforms.add(
    Heightmap,
    reach=at_place,
    offers=[
        Offer(
            "heightmap",
            "Heightmap",
            "file, photo or ready one",
            first=lambda c: {
                "lowest_m": 0,
                "highest_m": c.nice(c.reach * 0.14),
                "width_m": c.reach,
                "depth_m": c.reach,
                **c.centre,
            },
            group="From elsewhere",
        )
    ],
    subtitle="{lowest_m} to {highest_m} m",
    handles=Handles("width_m", "depth_m"),
)
def heights(p: Heightmap, below: Below) -> Shape:
    """Heights in m: the file's lowest value lies at `lowest_m`, its highest at `highest_m`."""

    if not p.raster and not p.ready:
        raise SceneError(
            "No heightmap is chosen.",
            below.path + ".raster",
            "Drop a PNG or TIFF on the page, name a file, or take a ready one.",
        )
    if p.highest_m < p.lowest_m:
        raise SceneError(
            f"The highest ({p.highest_m:g} m) lies under the lowest ({p.lowest_m:g} m).",
            below.path + ".highest_m",
            "Swap them, or use Invert.",
        )
    values = (
        (lambda: below.raster(p.raster))
        if p.raster
        else (lambda: ready(p.ready, f"{below.path}.ready"))
    )
    field, coefficients, post = prepared(p, below, p.raster or p.ready, values, p.frame(below.plot))
    low, high = float(field.min()), float(field.max())
    shape = lay(p, below, field, coefficients, post)
    scale = (p.highest_m - p.lowest_m) / (high - low) if high > low else 0.0
    t = np.clip((shape.heights - np.float32(low)) * np.float32(scale), 0, p.highest_m - p.lowest_m)
    shape.heights = np.float32(p.highest_m) - t if p.invert else t + np.float32(p.lowest_m)
    return shape
