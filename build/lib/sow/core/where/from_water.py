"""Where: by distance to water."""

from typing import Any, Literal

import numpy as np

from ..document.fields import setting
from .base import Band, by_sheet, condition
from .site import Site

OPEN_M = 100_000  # a band that goes so far has no end


class FromWater(Band):
    kind: Literal["from-water"] = "from-water"
    low: float = setting(0, "From", "m", lo=0, hi=200000, slider=(0, 300), step=0.5)
    high: float = setting(20, "To", "m", lo=0, hi=200000, slider=(0, 300), step=0.5)
    soft: float = setting(8, "Softness", "m", lo=0, hi=200000, slider=(0, 100), step=0.5)


def _reach(p: FromWater, scene: Any) -> float:
    return (p.high if p.high < OPEN_M else p.low) + p.soft


@condition(
    FromWater,
    stage="water",
    label="distance to water",
    reach=_reach,
    measures=by_sheet("from-water"),
)
def answer(p: FromWater, site: Site, path: str) -> np.ndarray:
    """1 within the band of distance to the nearest water."""
    return p.band(site.sheet("from-water"), p.low, p.high, p.soft)
