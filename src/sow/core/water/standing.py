"""Water: a sea, a lake or a pool at a still level, or a stream whose surface falls along a line."""

from typing import Protocol

import numpy as np
from scipy.ndimage import label

from ..document.entry import Register
from ..document.offers import Context, Offer
from ..errors import SceneError
from ..marks.shapes import near, way
from ..plot import Grid
from ..sample import heights_at
from .clear import READY
from .entry import Water

waters = Register("water")


def _low(c: Context) -> float:
    return round(c.lowest + c.span * 0.12, 1)


def _sea(c: Context) -> dict:
    waves = {"waves_cm": 60, "chop": 70, "spread": 35}
    return {"level_m": _low(c), "reach": "everywhere", **READY["sea"].values(), **waves}


def _lake(c: Context) -> dict:
    return {"level_m": _low(c), "reach": "everywhere", **READY["tarn"].values(), "waves_cm": 4}


def _pool(c: Context) -> dict:
    return {"level_m": _low(c), "reach": "pool", **c.centre, **READY["peat"].values()}


def _stream(c: Context) -> dict:
    width = c.nice(max(0.5, c.reach * 0.004))
    own = {"reach": "stream", "mark": c.mark("line"), "width_m": width}
    return {**own, **READY["tarn"].values(), "clear_m": 1}


@waters.add(
    Water,
    offers=[
        Offer("lake", "Lake", "all low ground", _lake, lists=("water",)),
        Offer("sea", "Sea", "all low ground, with waves", _sea, lists=("water",)),
        Offer("pool", "Pool", "one hollow", _pool, lists=("water",)),
        Offer("stream", "Stream", "along a line", _stream, lists=("water",)),
    ],
    subtitle="{reach}, level {level_m} m",
)
def surface_of(w: Water, line, heights: np.ndarray, grid: Grid) -> np.ndarray:
    """The surface of a stream along its line, from its higher to its lower end: east, north, level
    (m), float64 (n, 3).

    It lies `deep_m` over the bed and never rises downstream: behind a bar it stands as high as the
    bar lets it.
    """
    points = way(line)
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    t = np.linspace(
        0, length[-1], int(min(max(length[-1] / max(grid.spacing, w.width_m / 4), 8), 4000)) + 1
    )
    p = np.stack([np.interp(t, length, points[:, 0]), np.interp(t, length, points[:, 1])], 1)
    east = np.clip(p[:, 0], grid.east_m, grid.east_m + grid.width_m)
    north = np.clip(p[:, 1], grid.north_m, grid.north_m + grid.depth_m)
    bed = heights_at(heights, grid, east, north).astype(np.float64)
    if bed[0] < bed[-1]:
        p, bed = p[::-1], bed[::-1]
    level = np.maximum.accumulate((bed + w.deep_m)[::-1])[::-1]
    return np.column_stack([p, level])


class WholeWater(Protocol):
    """What is known of waters over the whole plot."""

    def stream(self, water_id: str) -> np.ndarray:
        """A stream's surface, as `surface_of` gives it."""

    def pool(self, water_id: str, grid: Grid) -> np.ndarray:
        """Where a pool's hollow lies, or next to it, bool (ny, nx)."""


def levels(
    waters: list[Water],
    heights: np.ndarray,
    grid: Grid,
    drawn=lambda mark_id: None,
    whole: "WholeWater | None" = None,
) -> tuple[np.ndarray, list[np.ndarray]]:
    """Level of the water over each wet post (m, NaN where dry; the highest water wins), and each
    entry's own mask.

    "pool" wets only the hollow, below the level, that holds the given place; nothing when that
    place is dry. "stream" wets the ground below its surface within its width of the line
    `drawn(mark)`. `whole` knows what lies beyond the grid where that is a part of the plot.
    """
    level = np.full(heights.shape, np.nan, np.float32)
    masks = []
    for i, w in enumerate(waters):
        own = np.float32(w.level_m)
        if w.reach == "stream":
            under = np.zeros(heights.shape, bool)
            line = drawn(w.mark) if w.on else None
            if w.on and line is None:
                raise SceneError(
                    "No line is chosen." if not w.mark else f"There is no line '{w.mark}'.",
                    f"water.{i}.mark",
                    "Draw a line under Marks, then choose it here.",
                )
            if w.on:
                s = whole.stream(w.id) if whole else surface_of(w, line, heights, grid)
                away, along, _ = near(np.ascontiguousarray(s[:, :2]), grid, w.width_m / 2)
                at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(s[:, :2], axis=0).T))])
                own = np.interp(along, at, s[:, 2]).astype(np.float32)
                under = (away <= w.width_m / 2) & (heights < own)
        else:
            under = heights < w.level_m if w.on else np.zeros(heights.shape, bool)
        if w.reach == "pool" and whole:
            under &= whole.pool(w.id, grid)
        elif w.reach == "pool" and under.any():
            r = int(round(float(grid.rows_of(w.north_m))))
            c = int(round(float(grid.cols_of(w.east_m))))
            parts, _ = label(under)
            inside = 0 <= r < grid.ny and 0 <= c < grid.nx
            under = parts == parts[r, c] if inside and parts[r, c] else np.zeros_like(under)
        masks.append(under)
        level = np.where(under & ~(level > own), own, level)
    return level, masks
