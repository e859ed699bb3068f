"""Masks: pictures of where, painted in metres or brought in, and what is done to a whole one."""

from typing import Literal

import numpy as np
from pydantic import Field
from scipy.ndimage import distance_transform_edt, gaussian_filter

from ..document.entry import Entry
from ..document.fields import file_setting, setting
from ..hand.stroke import Stroke, box, lay_stamps, stamps
from ..plot import Grid
from ..where import Conditions

SWIFT = 10  # a mask takes a brush ten times as fast as land does


class Mask(Entry):
    """White is present.

    It lies over the plot unless a condition binds it to a landform; without a picture it is empty.
    """

    kind: Literal["mask"] = "mask"
    raster: str = file_setting("Mask picture", "White is present. It is stretched over the plot.")
    invert: bool = Field(False, title="Invert")
    widen_m: float = setting(
        0,
        "Widened by",
        "m",
        lo=-5000,
        hi=5000,
        slider=(-50, 50),
        step=0.1,
        help="Below 0 it is narrowed.",
    )
    blur_m: float = setting(0, "Blurred over", "m", lo=0, hi=5000, slider=(0, 100), step=0.1)
    posts: int = setting(
        1025,
        "Own grid",
        "posts",
        lo=129,
        hi=4097,
        slider=(257, 4097),
        scale="log",
        help="Along the longer side of the plot; used when it is painted or filled.",
    )
    where: Conditions = Field(
        default_factory=list,
        title="Filled where",
        description="The rule that it is filled from when asked; it is painted on from there.",
    )


def worked(values: np.ndarray, mask: Mask, spacing: float) -> np.ndarray:
    """Values 0..1 of a mask on a grid of `spacing` m, widened or narrowed, blurred and inverted as
    the mask asks.

    Widening moves the line where it is half present by exact distances and keeps what was fuller
    than that.
    """
    if mask.widen_m:
        here = values >= 0.5
        outside = distance_transform_edt(~here) if here.any() else np.full(values.shape, 1e9)
        inside = distance_transform_edt(here) if not here.all() else np.full(values.shape, 1e9)
        depth = np.where(here, inside - 0.5, 0.5 - outside).astype(np.float32) * np.float32(
            spacing
        ) + np.float32(mask.widen_m)  # the line runs midway between posts
        edge = np.clip(depth / np.float32(spacing) + 0.5, 0, 1)
        values = np.maximum(values, edge) if mask.widen_m > 0 else np.minimum(values, edge)
    if mask.blur_m:
        values = gaussian_filter(values, mask.blur_m / 2 / spacing, mode="nearest", truncate=3)
    return np.float32(1) - values if mask.invert else values


def paint(stroke: Stroke, gathered: np.ndarray, values: np.ndarray, grid: Grid) -> np.ndarray:
    """Values 0..1 after a stroke whose weight is `gathered` (0..1): painted towards 1, rubbed out
    towards 0, or smoothed.
    """
    if stroke.tool == "smooth":
        target = gaussian_filter(
            values, stroke.size_m * 0.3 / grid.spacing, mode="nearest", truncate=3
        )
    else:
        target = np.float32(0 if stroke.tool == "rub" else 1)
    return np.clip(values + gathered * (target - values), 0, 1).astype(np.float32)


def painted(
    stroke: Stroke, values: np.ndarray, grid: Grid, shape: np.ndarray | None = None
) -> np.ndarray:
    """The whole mask (0..1 on `grid`) after a whole stroke."""
    places = stamps(stroke)
    found = box(grid, places, stroke.size_m)
    if found is None:
        return values
    r0, r1, c0, c1 = found
    part = grid.window(r0, c0, r1 - r0, c1 - c0)
    gathered = np.zeros((r1 - r0, c1 - c0), np.float32)
    places[:, 2] *= SWIFT
    lay_stamps(stroke, gathered, part, places, shape)
    out = values.copy()
    pad = int(stroke.size_m / grid.spacing) + 2 if stroke.tool == "smooth" else 0
    R0 = max(r0 - pad, 0)
    R1 = min(r1 + pad, grid.ny)
    C0 = max(c0 - pad, 0)
    C1 = min(c1 + pad, grid.nx)
    wide = np.zeros((R1 - R0, C1 - C0), np.float32)
    wide[r0 - R0 : r1 - R0, c0 - C0 : c1 - C0] = gathered
    out[r0:r1, c0:c1] = paint(stroke, wide, values[R0:R1, C0:C1], grid)[
        r0 - R0 : r1 - R0, c0 - C0 : c1 - C0
    ]
    return out


def combined(
    a: np.ndarray, b: np.ndarray, how: Literal["union", "common", "without"]
) -> np.ndarray:
    """Two masks as one: what either has, what both have, what the first has and the second has
    not.
    """
    return (
        np.maximum(a, b)
        if how == "union"
        else np.minimum(a, b)
        if how == "common"
        else np.minimum(a, 1 - b)
    )


def stored(values: np.ndarray) -> np.ndarray:
    """Values 0..1 as they are kept: 8 bit."""
    return np.rint(np.clip(values, 0, 1) * 255).astype(np.uint8)
