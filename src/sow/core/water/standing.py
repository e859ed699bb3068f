"""Standing water: a sea, a lake or a pool at a still level."""
from typing import Literal

import numpy as np
from pydantic import Field
from scipy.ndimage import label

from ..entry import Entry
from ..fields import setting
from ..plot import Grid


class Water(Entry):
    kind: Literal["standing"] = "standing"
    level_m: float = setting(0, "Level", "m", lo=-12000, hi=12000, slider=("lowest", "highest"), step=0.1)
    reach: Literal["everywhere", "pool"] = Field("everywhere", title="Reach", json_schema_extra={
        "sow": {"labels": {"everywhere": "all low ground", "pool": "one pool"}}})
    east_m: float = setting(500, "Pool east", "m", lo=-100000, hi=100000, slider=(0, "width"), only={"reach": "pool"})
    north_m: float = setting(500, "Pool north", "m", lo=-100000, hi=100000, slider=(0, "depth"), only={"reach": "pool"})
    clear_m: float = setting(1.5, "Clear to", "m", lo=0.02, hi=100, slider=(0.1, 20), scale="log",
                             help="Depth at which the bed is lost from sight.")
    tint: str = Field("#2e3a33", pattern=r"^#[0-9a-fA-F]{6}$", title="Tint", json_schema_extra={"sow": {"colour": True}})
    waves_cm: float = setting(2, "Waves", "cm", lo=0, hi=300, slider=(0, 60))


def levels(waters: list[Water], heights: np.ndarray, grid: Grid) -> tuple[np.ndarray, list[np.ndarray]]:
    """Level of the water over each wet post (m, NaN where dry; the highest water wins), and each entry's own mask.

    "pool" wets only the hollow, below the level, that holds the given place; nothing when that place is dry.
    """
    level = np.full(heights.shape, np.nan, np.float32)
    masks = []
    for w in waters:
        under = heights < w.level_m if w.on else np.zeros(heights.shape, bool)
        if w.reach == "pool" and under.any():
            r, c = int(round(float(grid.rows_of(w.north_m)))), int(round(float(grid.cols_of(w.east_m))))
            parts, _ = label(under)
            inside = 0 <= r < grid.ny and 0 <= c < grid.nx
            under = parts == parts[r, c] if inside and parts[r, c] else np.zeros_like(under)
        masks.append(under)
        level = np.where(under & ~(level > w.level_m), np.float32(w.level_m), level)
    return level, masks
