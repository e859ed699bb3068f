"""What landforms and processes share."""
from dataclasses import dataclass
from typing import Callable, Literal

import numpy as np
from pydantic import Field

from ..entry import Entry, Register
from ..fields import setting
from ..plot import Grid, Plot
from ..where import Conditions

Combine = Literal["add", "highest", "mix"]


class Landform(Entry):
    """An entry that adds shape: its function gives heights in m, which `combine` joins to the land below."""

    combine: Combine = Field("add", title="Combine", json_schema_extra={
        "sow": {"labels": {"add": "add", "highest": "highest of", "mix": "mix by share"}}})
    share: float = setting(50, "Share", "%", lo=0, hi=100, help="Part of this landform when mixed.", only={"combine": "mix"})
    where: Conditions = Field(default_factory=list, title="Where")


class Process(Entry):
    """An entry that reworks what lies below it."""

    where: Conditions = Field(default_factory=list, title="Where")


@dataclass
class Below:
    """What a land entry sees: the heights below it (float32 m), their grid, the plot and its rasters."""

    heights: np.ndarray
    grid: Grid
    plot: Plot
    raster: Callable[[str], np.ndarray]
    path: str = ""
    check: Callable[[], None] = lambda: None


landforms = Register("landform")
processes = Register("process")


def join(below: np.ndarray, shape: np.ndarray, combine: Combine, share: float) -> np.ndarray:
    """The land below joined with a new shape (both m)."""
    if combine == "add":
        return below + shape
    if combine == "highest":
        return np.maximum(below, shape)
    return below + np.float32(share / 100) * (shape - below)
