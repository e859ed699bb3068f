"""What conditions share: the list's settings, the band between two values, and their register."""

from collections.abc import Callable
from typing import Any, Literal

import numpy as np
from numba import njit, prange
from pydantic import Field, ValidationInfo, field_validator

from ..document.entry import Register, Strict
from ..document.extra import guarded
from ..document.fields import percent
from ..document.offers import Context
from ..errors import SceneError

STAGES = ("land", "water", "ground", "planting")


class Absent(SceneError):
    """What a condition refers to is not there: it counts as absent, and is told
    (`refers.missing`).
    """


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
    strength: float = percent("Strength", 100, help="At 0 it asks nothing.", fold="More")


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
    share: float = percent(
        "Share",
        25,
        lo=0.1,
        slider=(1, 99),
        only={"take": ["lowest", "highest"]},
        fold="More",
        help="Of the ground that the conditions before this one leave.",
    )

    @field_validator("high", check_fields=False)
    @classmethod
    def _upwards(cls, high: float, info: ValidationInfo) -> float:
        low = info.data.get("low")
        if low is not None and low > high:
            raise ValueError(
                f"the band runs backwards, from {low:g} to {high:g}; put the lower value "
                "first, or use Invert to take what lies outside"
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
def _between(field, low, high, per, out):  # type: ignore[no-untyped-def]
    half = np.float32(0.5)
    for i in prange(field.size):
        a = min(max((field[i] - low) * per + half, np.float32(0)), np.float32(1))
        b = min(max((high - field[i]) * per + half, np.float32(0)), np.float32(1))
        out[i] = a * a * (3 - 2 * a) * b * b * (3 - 2 * b)


@njit(cache=True, nogil=True, parallel=True, fastmath=True)
def _ramped(t, out):  # type: ignore[no-untyped-def]
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
sees_of: dict[str, tuple[str, ...]] = {}
first_of: dict[str, Callable[[Context], dict[str, Any]]] = {}
measures_of: dict[str, Callable[[Any, Any, str], np.ndarray]] = {}
SEES = ("ground", "pieces", "shots", "sowings")


def condition(
    model: type[Condition],
    stage: str = "land",
    *,
    label: str,
    sees: tuple[str, ...] = (),
    first: Callable[[Context], dict[str, Any]] = lambda context: {},
    reach: Callable[[Any, Any], float] | None = None,
    measures: Callable[[Any, Any, str], np.ndarray] | None = None,
) -> Callable:
    """Registers a condition.

    Args:
        model: its settings.
        stage: from which on it may be used.
        label: its name in menus.
        sees: what it sees besides land, water and what its fields name (of SEES; content keys
            follow from it).
        first: its first values.
        reach: as `Register.add` explains it.
        measures: `measures(settings, site, path)` gives the measure that it goes by, in the unit
            of its band, float32 (ny, nx). A band without one can't take a share of the ground.
    """
    kind = model.model_fields["kind"].default
    if stage not in STAGES or not set(sees) <= set(SEES):
        raise SceneError(
            f"The condition '{kind}' names a stage or a sight that there is not.",
            "",
            f"Stages: {', '.join(STAGES)}. Sights: {', '.join(SEES)}.",
        )
    keep = conditions.add(model, label=label, reach=reach)
    stage_of[kind] = stage
    sees_of[kind] = sees
    first_of[kind] = first
    if measures is not None:
        measures_of[kind] = guarded(measures, kind)
    return keep


def by_sheet(kind: str) -> Callable[[Any, Any, str], np.ndarray]:
    """The measure of a condition that goes by a sheet of the survey."""
    return lambda settings, site, path: site.sheet(kind)
