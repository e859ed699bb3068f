"""Where: by height."""

import math
from typing import Literal

import numpy as np

from ..document.entry import at_place
from ..document.fields import setting
from ..document.offers import Context
from .base import Band, by_sheet, condition
from .site import Site


class Height(Band):
    kind: Literal["height"] = "height"
    low: float = setting(0, "From", "m", lo=-12000, hi=12000, slider=("lowest", "highest"))
    high: float = setting(10000, "To", "m", lo=-12000, hi=12000, slider=("lowest", "highest"))
    soft: float = setting(10, "Softness", "m", lo=0, hi=5000, slider=(0, 100))


def _first(c: Context) -> dict:
    """The upper part of this land."""
    return {
        "low": round(c.lowest + c.span * 0.4),
        "high": math.ceil(c.highest),
        "soft": max(1, round(c.span * 0.08)),
    }


@condition(Height, label="height", first=_first, reach=at_place, measures=by_sheet("height"))
def answer(p: Height, site: Site, path: str) -> np.ndarray:
    """1 within the band of height."""
    return p.band(site.heights, p.low, p.high, p.soft)
