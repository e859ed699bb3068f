"""Why here? What each material and each sowing finds at one place: every condition's value, its
answer, and which one decides.
"""

from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np

from ..build import Build
from ..errors import SceneError
from ..marks.shapes import clear_of
from ..planting.sowing import Sowing
from ..surface.material import Material
from ..survey.sheets import sheets
from ..where import Absent, Site, answered, joined, measured, settled

UNITS = {
    "covered": "%",
    "near-piece": "m",
    "near-sowing": "m",
    "in-sight": "m",
    "near-line": "m",
    "near-material": "m",
    "near-landform": "m",
    "in-area": "m",
}


@dataclass
class Verdict:
    """One condition at one place: its value in its unit (None where it has no measure), the band it
    asks for, its answer 0..1.
    """

    kind: str
    index: int
    value: float | None
    unit: str
    low: float | None
    high: float | None
    answer: float
    absent: str = ""


Verdicts = list[Verdict]


@dataclass
class Reason:
    """One entry at one place: `share` of the ground (a material) or part of the wished density (a
    sowing), and its conditions. `decides` is the index of the condition that keeps it away most,
    None when none does; `hidden` how much later materials cover it.
    """

    list: Literal["ground", "planting"]
    index: int
    id: str
    share: float
    wanted: float
    verdicts: Verdicts = field(default_factory=lambda: [])
    decides: int | None = None
    note: str = ""


def reasons(build: Build, east: float, north: float, site: Site | None = None) -> list[Reason]:
    """For every material and every sowing that is on, on the grid of the build.

    Raises SceneError off the plot.
    """
    grid = build.grid
    row = int(round(float(grid.rows_of(north))))
    column = int(round(float(grid.cols_of(east))))
    if not (0 <= row < grid.ny and 0 <= column < grid.nx):
        raise SceneError("This place is off the plot.", "east", "Point at the land.")
    place = _Place(build, site or build.site(), row, column)
    scene = build.scene
    return [
        *(place.material(i, m) for i, m in enumerate(scene.ground) if m.on),
        *(place.sowing(i, s) for i, s in enumerate(scene.planting) if s.on),
    ]


class _Place:
    """One post of a build, of which the reasons are asked."""

    def __init__(self, build: Build, site: Site, row: int, column: int) -> None:
        self.scene = build.scene
        self.grid = build.grid
        self.site = site
        self.at = row, column
        self.shares = build.ground()[:, row, column]
        level = site.water_m
        self.wet = level is not None and site.heights[self.at] < level[self.at] + 0.03

    def material(self, i: int, material: Material) -> Reason:
        """Of the material at an index of the ground."""
        first = not any(m.on for m in self.scene.ground[:i])
        verdicts, wanted = ([], 1.0) if first else self._verdicts("ground", i, material)
        share = float(self.shares[i])
        later = [
            (other.name, float(self.shares[j]))
            for j, other in enumerate(self.scene.ground)
            if j > i and self.shares[j] > 0.05
        ]
        note = ""
        if wanted > 0.2 and share < 0.5 * wanted and later:
            note = f"covered by {max(later, key=lambda x: x[1])[0]}"
        elif first:
            note = "the first material: it lies wherever nothing covers it"
        decides = _decides(material.where, verdicts, wanted)
        return Reason("ground", i, material.id, share, wanted, verdicts, decides, note)

    def sowing(self, i: int, sowing: Sowing) -> Reason:
        """Of the sowing at an index of the planting."""
        verdicts, wanted = self._verdicts("planting", i, sowing)
        share = wanted
        note = ""
        if self.wet and not sowing.wet:
            share = 0.0
            note = "under water, where it may not stand"
        free = clear_of(self.scene.marks, sowing.id, self.grid)
        if free is not None and free[self.at] < 0.5:
            share = share * float(free[self.at])
            note = "kept out by a clearing"
        decides = _decides(sowing.where, verdicts, wanted)
        return Reason("planting", i, sowing.id, share, wanted, verdicts, decides, note)

    def _verdicts(self, name: str, i: int, entry: Material | Sowing) -> tuple[Verdicts, float]:
        """What each condition finds here, and their joint answer (1 when there is none)."""
        verdicts: Verdicts = []
        total: float | None = None
        for k, item in enumerate(entry.where):
            if not item.on:
                continue
            verdict = self._verdict(entry.where, k, f"{name}.{i}.where")
            verdicts.append(verdict)
            if verdict.absent:
                continue
            if total is None and item.join != "except":
                total = verdict.answer
            else:
                before = None if total is None else np.array(total)
                total = float(joined(before, np.array(verdict.answer), item.join))
        return verdicts, 1.0 if total is None else total

    def _verdict(self, where: list[Any], k: int, path: str) -> Verdict:
        item = where[k]
        try:
            answer = float(answered(where, k, self.site, path)[self.at])
            values = measured(item, self.site, f"{path}.{k}")
            band = settled(item, where[:k], self.site, path)
        except Absent as e:
            return Verdict(item.kind, k, None, "", None, None, 1.0, e.message)
        value = None if values is None else float(values[self.at])
        unit = sheets[item.kind].unit if item.kind in sheets else UNITS.get(item.kind, "")
        banded = hasattr(band, "low")
        low = float(band.low) if banded else None
        high = float(band.high) if banded else None
        return Verdict(item.kind, k, value, unit, low, high, answer)


def _decides(where: list[Any], verdicts: Verdicts, wanted: float) -> int | None:
    """The index of the condition that keeps an entry away most, where something does."""
    if wanted >= 0.5:
        return None

    def allows(verdict: Verdict) -> float:
        kept_out = where[verdict.index].join == "except"
        return 1 - verdict.answer if kept_out else verdict.answer

    against = [
        v for v in verdicts if not v.absent and allows(v) < 0.5 and where[v.index].join != "any"
    ]
    return min(against, key=allows).index if against else None
