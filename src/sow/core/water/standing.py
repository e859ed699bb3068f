"""Water: a sea, a lake or a pool at a still level, or a stream whose surface falls along a line."""

from typing import Literal

import numpy as np
from pydantic import Field
from scipy.ndimage import label

from ..document.entry import Entry, Register
from ..document.fields import length_m, setting
from ..document.offers import Context, Offer
from ..errors import SceneError
from ..marks.shapes import near, way
from ..plot import Grid
from ..sample import heights_at


class Water(Entry):
    kind: Literal["standing"] = "standing"
    level_m: float = setting(
        0,
        "Level",
        "m",
        lo=-12000,
        hi=12000,
        slider=("lowest", "highest"),
        step=0.1,
        only={"reach": ["everywhere", "pool"]},
    )
    reach: Literal["everywhere", "pool", "stream"] = Field(
        "everywhere",
        title="Reach",
        json_schema_extra={
            "sow": {
                "labels": {"everywhere": "all low ground", "pool": "one pool", "stream": "a stream"}
            }
        },
    )
    mark: str = Field(
        "",
        max_length=64,
        title="Line",
        json_schema_extra={"sow": {"mark": "line", "only": {"reach": ["stream"]}}},
    )
    width_m: float = length_m(
        "Width",
        4,
        hi=5000,
        slider=(0.3, 60),
        only={"reach": ["stream"]},
        help="As far as it may spread; its banks hold it closer.",
    )
    deep_m: float = length_m(
        "Depth",
        0.35,
        lo=0.01,
        hi=200,
        slider=(0.05, 5),
        only={"reach": ["stream"]},
        help="Of the water over its bed, along the line.",
    )
    east_m: float = setting(
        500, "Pool east", "m", lo=-100000, hi=100000, slider=(0, "width"), only={"reach": ["pool"]}
    )
    north_m: float = setting(
        500, "Pool north", "m", lo=-100000, hi=100000, slider=(0, "depth"), only={"reach": ["pool"]}
    )
    clear_m: float = length_m(
        "Clear to",
        1.5,
        lo=0.02,
        hi=100,
        slider=(0.1, 20),
        help="Depth at which the bed is lost from sight.",
    )
    tint: str = Field(
        "#2e3a33",
        pattern=r"^#[0-9a-fA-F]{6}$",
        title="Tint",
        json_schema_extra={"sow": {"colour": True}},
    )
    waves_cm: float = setting(2, "Waves", "cm", lo=0, hi=300, slider=(0, 60))


waters = Register("water")


def _sea(c: Context) -> dict:
    return {"level_m": round(c.lowest + c.span * 0.12, 1), "reach": "everywhere", "clear_m": 3}


def _pool(c: Context) -> dict:
    return {"level_m": round(c.lowest + c.span * 0.12, 1), "reach": "pool", **c.centre}


def _stream(c: Context) -> dict:
    width = c.nice(max(0.5, c.reach * 0.004))
    return {"reach": "stream", "mark": c.mark("line"), "width_m": width, "clear_m": 1}


@waters.add(
    Water,
    offers=[
        Offer("sea", "Sea or lake", "all low ground", _sea, "Lake", lists=("water",)),
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


def levels(
    waters: list[Water], heights: np.ndarray, grid: Grid, drawn=lambda mark_id: None
) -> tuple[np.ndarray, list[np.ndarray]]:
    """Level of the water over each wet post (m, NaN where dry; the highest water wins), and each
    entry's own mask.

    "pool" wets only the hollow, below the level, that holds the given place; nothing when that
    place is dry. "stream" wets the ground below its surface within its width of the line
    `drawn(mark)`.
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
                s = surface_of(w, line, heights, grid)
                away, along, _ = near(np.ascontiguousarray(s[:, :2]), grid, w.width_m / 2)
                at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(s[:, :2], axis=0).T))])
                own = np.interp(along, at, s[:, 2]).astype(np.float32)
                under = (away <= w.width_m / 2) & (heights < own)
        else:
            under = heights < w.level_m if w.on else np.zeros(heights.shape, bool)
        if w.reach == "pool" and under.any():
            r = int(round(float(grid.rows_of(w.north_m))))
            c = int(round(float(grid.cols_of(w.east_m))))
            parts, _ = label(under)
            inside = 0 <= r < grid.ny and 0 <= c < grid.nx
            under = parts == parts[r, c] if inside and parts[r, c] else np.zeros_like(under)
        masks.append(under)
        level = np.where(under & ~(level > own), own, level)
    return level, masks
