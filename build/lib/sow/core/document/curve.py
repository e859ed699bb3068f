"""A curve through a few points, monotone between them, as a setting of an entry."""

from collections.abc import Sequence
from typing import Annotated, Any

import numpy as np
from pydantic import AfterValidator, Field
from scipy.interpolate import PchipInterpolator


def _rising(points: list[list[float]]) -> list[list[float]]:
    for (a, _), (b, _) in zip(points, points[1:]):
        if b == a:
            raise ValueError(
                f"the curve has two values at {a:g}; move one of the points aside or take it out"
            )
        if b < a:
            raise ValueError(
                f"the curve runs backwards from {a:g} to {b:g}; its points must go from "
                "left to right"
            )
    return points


Curve = Annotated[
    list[Annotated[list[float], Field(min_length=2, max_length=2)]],
    Field(min_length=2, max_length=16),
    AfterValidator(_rising),
]


def curve_setting(
    default: list[list[float]], label: str, across: str = "", up: str = "", help: str = ""
) -> Any:
    """Points (x, y), both 0..1 as a rule; `across` and `up` name the axes for a panel."""
    return Field(
        default,
        title=label,
        description=help or None,
        json_schema_extra={"sow": {"curve": [across, up]}},
    )


def along(points: Sequence[Sequence[float]], t: np.ndarray | np.floating | float) -> np.ndarray:
    """Value of the curve at t, held at its ends, float32 (piecewise cubic without overshoot,
    Fritsch & Carlson 1980).

    Read from a table of 1025 values, so that a whole grid costs one lookup a post.
    """
    x, y = np.array(points, np.float64).T
    table = PchipInterpolator(x, y)(np.linspace(x[0], x[-1], 1025)).astype(np.float32)
    at = np.clip(
        (np.asarray(t, np.float32) - np.float32(x[0])) * np.float32(1024 / (x[-1] - x[0])), 0, 1024
    )
    i = np.minimum(at.astype(np.int32), 1023)
    return table[i] + (at - i) * (table[i + 1] - table[i])
