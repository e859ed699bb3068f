"""Why here? What each material and each sowing finds at one place: every condition's value, its
answer, and which one decides.
"""

from dataclasses import dataclass, field

import numpy as np

from ..build import Build
from ..errors import SceneError
from ..marks.shapes import clear_of
from ..survey.sheets import sheets
from ..where import Absent, Site, answered, joined, measured, settled

UNITS = {
    "covered": "%",
    "near-piece": "m",
    "near-sowing": "m",
    "in-sight": "m",
    "near-line": "m",
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


@dataclass
class Reason:
    """One entry at one place: `share` of the ground (a material) or part of the wished density (a
    sowing), and its conditions. `decides` is the index of the condition that keeps it away most,
    None when none does; `hidden` how much later materials cover it.
    """

    list: str
    index: int
    id: str
    share: float
    wanted: float
    verdicts: list[Verdict] = field(default_factory=list)
    decides: int | None = None
    note: str = ""


def reasons(build: Build, east: float, north: float, site: Site | None = None) -> list[Reason]:
    """For every material and every sowing that is on, on the grid of the build.

    Raises SceneError off the plot.
    """
    grid, scene = build.grid, build.scene
    r = int(round(float(grid.rows_of(north))))
    c = int(round(float(grid.cols_of(east))))
    if not (0 <= r < grid.ny and 0 <= c < grid.nx):
        raise SceneError("This place is off the plot.", "east", "Point at the land.")
    site = site or build.site()
    shares = build.ground()
    out = []
    wet = site.water_m is not None and site.heights[r, c] < site.water_m[r, c] + 0.03
    for name, entries in (("ground", scene.ground), ("planting", scene.planting)):
        for i, entry in enumerate(entries):
            if not entry.on:
                continue
            verdicts, total = [], None
            first = name == "ground" and not any(m.on for m in scene.ground[:i])
            for k, item in enumerate(entry.where):
                if not item.on or first:
                    continue
                place = f"{name}.{i}.where"
                try:
                    answer = float(answered(entry.where, k, site, place)[r, c])
                    values = measured(item, site, f"{place}.{k}")
                    band = settled(item, entry.where[:k], site, place)
                except Absent as e:
                    verdicts.append(Verdict(item.kind, k, None, "", None, None, 1.0, e.message))
                    continue
                low, high = (
                    (float(band.low), float(band.high)) if hasattr(band, "low") else (None, None)
                )
                unit = sheets[item.kind].unit if item.kind in sheets else UNITS.get(item.kind, "")
                verdicts.append(
                    Verdict(
                        item.kind,
                        k,
                        None if values is None else float(values[r, c]),
                        unit,
                        low,
                        high,
                        answer,
                    )
                )
                total = float(
                    answer
                    if total is None and item.join != "except"
                    else joined(
                        None if total is None else np.float64(total), np.float64(answer), item.join
                    )
                )
            wanted = 1.0 if total is None else total
            low_ = [
                v
                for v in verdicts
                if not v.absent
                and (v.answer if entry.where[v.index].join != "except" else 1 - v.answer) < 0.5
                and entry.where[v.index].join != "any"
            ]
            decides = (
                min(
                    low_,
                    key=lambda v: (
                        v.answer if entry.where[v.index].join != "except" else 1 - v.answer
                    ),
                ).index
                if low_ and wanted < 0.5
                else None
            )
            note, share = "", wanted
            if name == "ground":
                share = float(shares[i, r, c])
                later = [
                    (scene.ground[j].name, float(shares[j, r, c]))
                    for j in range(i + 1, len(scene.ground))
                    if shares[j, r, c] > 0.05
                ]
                if wanted > 0.2 and share < 0.5 * wanted and later:
                    note = f"covered by {max(later, key=lambda x: x[1])[0]}"
                elif first:
                    note = "the first material: it lies wherever nothing covers it"
            else:
                if wet and not entry.wet:
                    share, note = 0.0, "under water, where it may not stand"
                free = clear_of(scene.marks, entry.id, grid)
                if free is not None and free[r, c] < 0.5:
                    share = share * float(free[r, c])
                    note = "kept out by a clearing"
            out.append(Reason(name, i, entry.id, share, wanted, verdicts, decides, note))
    return out
