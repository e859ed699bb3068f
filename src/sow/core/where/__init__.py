"""Conditions that answer 0..1 at each place. Land, ground and planting all ask the same ones.

One file per condition. A condition says from which stage on it may be used ("land", "water"), so no
circle arises.
"""

from dataclasses import dataclass, field
from typing import Annotated, Any, Callable, Literal

import numpy as np
from numba import njit, prange
from pydantic import Field, field_validator

from ..entry import Register, Strict, load_folder
from ..errors import SceneError
from ..fields import setting
from ..plot import Grid, Plot

STAGES = ("land", "water", "ground", "planting")


class Absent(SceneError):
    """What a condition refers to is not there: it counts as absent, and is told (`refers.missing`)."""


class Condition(Strict):
    """`invert` turns the answer round, `strength` weakens it, `join` says how it goes with the list
    before it.
    """

    on: bool = True
    invert: bool = Field(False, title="Invert")
    join: Literal["all", "any", "except"] = Field(
        "all",
        title="Joins",
        json_schema_extra={
            "sow": {"labels": {"all": "all of", "any": "any of", "except": "except"}}
        },
    )
    strength: float = setting(
        100, "Strength", "%", lo=0, hi=100, help="At 0 it asks nothing.", fold="More"
    )


class Band(Condition):
    """A condition that holds between two values with soft edges; or, with a target of cover, one
    that finds the value itself.
    """

    take: Literal["band", "lowest", "highest"] = Field(
        "band",
        title="Takes",
        json_schema_extra={
            "sow": {
                "labels": {
                    "band": "a band",
                    "lowest": "the lowest share",
                    "highest": "the highest share",
                },
                "fold": "More",
            }
        },
    )
    share: float = setting(
        25,
        "Share",
        "%",
        lo=0.1,
        hi=100,
        slider=(1, 99),
        only={"take": ["lowest", "highest"]},
        fold="More",
        help="Of the ground that the conditions before this one leave.",
    )

    @field_validator("high", check_fields=False)
    @classmethod
    def _upwards(cls, high, info):
        low = info.data.get("low")
        if low is not None and low > high:
            raise ValueError(
                f"the band runs backwards, from {low:g} to {high:g}; put the lower value first, or use Invert to take what lies outside"
            )
        return high

    @staticmethod
    def band(field: np.ndarray, low: float, high: float, soft: float) -> np.ndarray:
        """0..1: 1 between `low` and `high`, with edges `soft` wide centred on them."""
        field = np.ascontiguousarray(field, np.float32)
        out = np.empty_like(field)
        _between(
            field.ravel(),
            np.float32(low),
            np.float32(high),
            np.float32(1 / max(soft, 1e-6)),
            out.ravel(),
        )
        return out


@njit(cache=True, nogil=True, parallel=True, fastmath=True)
def _between(field, low, high, per, out):
    half = np.float32(0.5)
    for i in prange(field.size):
        a = min(max((field[i] - low) * per + half, np.float32(0)), np.float32(1))
        b = min(max((high - field[i]) * per + half, np.float32(0)), np.float32(1))
        out[i] = a * a * (3 - 2 * a) * b * b * (3 - 2 * b)


@njit(cache=True, nogil=True, parallel=True, fastmath=True)
def _ramped(t, out):
    for i in prange(t.size):
        a = min(max(t[i] * np.float32(0.5) + np.float32(0.5), np.float32(0)), np.float32(1))
        out[i] = a * a * (3 - 2 * a)


def ramp(t: np.ndarray) -> np.ndarray:
    """-1..1 to 0..1 with level ends (smoothstep)."""
    if isinstance(t, np.ndarray) and t.dtype == np.float32 and t.flags.c_contiguous:
        out = np.empty_like(t)
        _ramped(t.ravel(), out.ravel())
        return out
    t = np.clip(t * np.float32(0.5) + np.float32(0.5), 0, 1)
    return t * t * (3 - 2 * t)


conditions = Register("condition")
stage_of: dict[str, str] = {}


def condition(model, stage: str = "land"):
    stage_of[model.model_fields["kind"].default] = stage
    return conditions.add(model)


@dataclass
class Site:
    """What a condition sees: heights (m) on their grid, the plot, the maps that processes left (m),
    and, later on, water.

    `mark(condition, path)` gives a mask picture over this grid, `cover(landform, path)` where one
    landform shows, `drawn` a line or area, `shares(material, path)` the share of an earlier
    material, `plants(sowing, path)` the places (n, 2) of an earlier sowing's plants, `pieces` the
    places of pieces by id, `shots` the eyes (east, north, metres up) by id. `whole` gives the site
    of the plot's view grid where this one is another: what holds for the whole plot, as a target of
    cover, is found there.
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
    shares: Callable[[str, str], np.ndarray] | None = None
    plants: Callable[[str, str], np.ndarray] | None = None
    pieces: dict[str, tuple[float, float]] = field(default_factory=dict)
    shots: dict[str, tuple[float, float, float]] = field(default_factory=dict)
    whole: Callable[[], "Site"] | None = None
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

        return self.measure(
            f"{kind} {sorted(asked.items())}", lambda: sheets[kind].make(self, **asked)
        )


def joined(total: np.ndarray | None, answer: np.ndarray, how: str) -> np.ndarray:
    """The list so far with one more answer: the product of both, either (1 - (1 - a)(1 - b)), or
    the list less the answer.
    """
    if how == "except":
        answer = 1 - answer
    if total is None:
        return answer
    return 1 - (1 - total) * (1 - answer) if how == "any" else total * answer


def settled(item: Condition, before: list, site: Site, path: str = "") -> Condition:
    """A band with its target of cover found: the value below (or above) which the given share of
    the ground lies that `before` leaves.
    """
    if getattr(item, "take", "band") == "band":
        return item
    whole = site.whole() if site.whole else site

    def find():
        held = mask(before, whole, path)
        field = np.asarray(measured(item, whole, f"{path}.{len(before)}"), np.float64).ravel()
        order = np.argsort(field, kind="stable")
        weight = np.ones(field.size) if held is None else held.ravel()[order].astype(np.float64)
        at = np.cumsum(weight)
        if at[-1] <= 0:
            return float(field[order[0]])
        part = item.share / 100 if item.take == "lowest" else 1 - item.share / 100
        return float(field[order[min(np.searchsorted(at, part * at[-1]), field.size - 1)]])

    value = find()
    return item.model_copy(
        update={"take": "band", "low": -1e9, "high": value}
        if item.take == "lowest"
        else {"take": "band", "low": value, "high": 1e9}
    )


def measured(item: Condition, site: Site, path: str) -> np.ndarray | None:
    """The measure that a condition goes by, in its unit, float32 (ny, nx); None where it has none."""
    from ..survey.sheets import sheets

    if item.kind in fields_of:
        return fields_of[item.kind](item, site, path)
    return (
        site.sheet(
            item.kind,
            **({"latitude": item.latitude, "day": item.day} if item.kind == "sunlit" else {}),
        )
        if item.kind in sheets
        else None
    )


fields_of: dict[str, Callable] = {}  # measures of conditions that are no sheet of the survey


def answered(where: list, index: int, site: Site, path: str) -> np.ndarray:
    """One condition's own answer, 0..1, with its invert and strength.

    Raises Absent when what it refers to is gone.
    """
    item, place = where[index], f"{path}.{index}"
    if STAGES.index(stage_of[item.kind]) > STAGES.index(site.stage):
        raise SceneError(
            f"The condition '{item.kind}' needs the {stage_of[item.kind]}, which is made later.",
            place,
            "Use it in the ground or the planting.",
        )
    answer = conditions.functions[item.kind](settled(item, where[:index], site, path), site, place)
    if item.invert:
        answer = 1 - answer
    return answer if item.strength == 100 else 1 - np.float32(item.strength / 100) * (1 - answer)


def mask(where: list, site: Site, path: str = "") -> np.ndarray | None:
    """All conditions together, from the first to the last, float32 0..1, or None when there are
    none. Absent ones ask nothing.
    """
    total = None
    for index, item in enumerate(where):
        if not item.on:
            continue
        try:
            answer = answered(where, index, site, path)
        except Absent:
            continue
        total = joined(total, answer, item.join)
    return None if total is None else total.astype(np.float32, copy=False)


import sys as _sys  # noqa: E402

load_folder(_sys.modules[__name__])
Conditions = Annotated[list[conditions.union()], Field(max_length=16)]
