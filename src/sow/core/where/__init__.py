"""Conditions that answer 0..1 at each place. Land, ground and planting all ask the same ones.

One file per condition. A condition says from which stage on it may be used ("land", "water"), so no circle arises.
"""
from dataclasses import dataclass, field
from typing import Annotated, Any, Callable

import numpy as np
from pydantic import Field, field_validator

from ..entry import Register, Strict, load_folder
from ..errors import SceneError
from ..plot import Grid, Plot

STAGES = ("land", "water", "ground", "planting")


class Condition(Strict):
    """`invert` turns the answer round."""

    on: bool = True
    invert: bool = Field(False, title="Invert")


class Band(Condition):
    """A condition that holds between two values with soft edges."""

    @field_validator("high", check_fields=False)
    @classmethod
    def _upwards(cls, high, info):
        low = info.data.get("low")
        if low is not None and low > high:
            raise ValueError(f"the band runs backwards, from {low:g} to {high:g}; put the lower value first, or use Invert to take what lies outside")
        return high

    @staticmethod
    def band(field: np.ndarray, low: float, high: float, soft: float) -> np.ndarray:
        """0..1: 1 between `low` and `high`, with edges `soft` wide centred on them."""
        half = np.float32(max(soft, 1e-6) / 2)
        return ramp((field - np.float32(low)) / half) * ramp((np.float32(high) - field) / half)


def ramp(t: np.ndarray) -> np.ndarray:
    """-1..1 to 0..1 with level ends (smoothstep)."""
    t = np.clip(t * np.float32(0.5) + np.float32(0.5), 0, 1)
    return t * t * (3 - 2 * t)


conditions = Register("condition")
stage_of: dict[str, str] = {}


def condition(model, stage: str = "land"):
    stage_of[model.model_fields["kind"].default] = stage
    return conditions.add(model)


@dataclass
class Site:
    """What a condition sees: heights (m) on their grid, the plot, the maps that processes left (m), and, later on, water.

    `mark(condition, path)` gives a mask picture over this grid, `cover(landform, path)` where one landform shows.
    """

    heights: np.ndarray
    grid: Grid
    plot: Plot
    stage: str = "land"
    water_m: np.ndarray | None = None  # level of water over each post, NaN where dry for good
    mark: Callable[[Any, str], np.ndarray] | None = None
    maps: dict[str, np.ndarray] = field(default_factory=dict)
    cover: Callable[[str, str], np.ndarray] | None = None
    drawn: Callable[[str, str, str], Any] | None = None
    _kept: dict = field(default_factory=dict)

    def measure(self, name: str, make: Callable[[], np.ndarray]) -> np.ndarray:
        """A survey field, computed once for this site."""
        if name not in self._kept:
            self._kept[name] = make()
        return self._kept[name]

    def near(self, mark_id: str, reach_m: float, path: str) -> np.ndarray:
        """Distance to a line, or to an area's edge, in m, float32; 1e9 beyond the reach."""
        from ..marks.shapes import near, way
        return near(way(self.drawn(mark_id, "line", path), path), self.grid, reach_m)[0]

    def inside(self, mark_id: str, reach_m: float, path: str) -> np.ndarray:
        """Metres inside an area, below 0 outside, as far as the reach."""
        from ..marks.shapes import depth
        return depth(self.drawn(mark_id, "area", path), self.grid, reach_m, path)

    def sheet(self, kind: str, **asked) -> np.ndarray:
        """A sheet of the survey over this site, float32 (ny, nx)."""
        from ..survey.sheets import sheets
        return self.measure(f"{kind} {sorted(asked.items())}", lambda: sheets[kind].make(self, **asked))


def mask(where: list, site: Site, path: str = "") -> np.ndarray | None:
    """All conditions together (their product), float32 0..1, or None when there are none."""
    total = None
    for index, item in enumerate(where):
        if not item.on:
            continue
        place = f"{path}.{index}"
        needs = stage_of[item.kind]
        if STAGES.index(needs) > STAGES.index(site.stage):
            raise SceneError(f"The condition '{item.kind}' needs the {needs}, which is made later.", place,
                             "Use it in the ground or the planting.")
        answer = conditions.functions[item.kind](item, site, place)
        answer = 1 - answer if item.invert else answer
        total = answer if total is None else total * answer
    return None if total is None else total.astype(np.float32, copy=False)


import sys as _sys  # noqa: E402

load_folder(_sys.modules[__name__])
Conditions = Annotated[list[conditions.union()], Field(max_length=16)]
