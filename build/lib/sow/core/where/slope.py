"""Where: by steepness."""

from typing import Literal

import numpy as np

from ..document.fields import setting
from ..document.offers import Context
from ..survey.slope import slope as measure
from .base import Band, by_sheet, condition
from .site import Site


class Slope(Band):
    kind: Literal["slope"] = "slope"
    low: float = setting(0, "From", "°", lo=0, hi=90, slider=(0, 70))
    high: float = setting(30, "To", "°", lo=0, hi=90, slider=(0, 70))
    soft: float = setting(6, "Softness", "°", lo=0, hi=90, slider=(0, 30))


def _first(c: Context) -> dict:
    """Plants stand on gentle ground; the rest is asked for steep ground first."""
    if c.stage == "planting":
        return {"low": 0, "high": 28, "soft": 6}
    return {"low": 26, "high": 90, "soft": 6}


@condition(
    Slope,
    label="slope",
    first=_first,
    reach=lambda p, scene: 2 * scene.plot.support_m,
    measures=by_sheet("slope"),
)
def answer(p: Slope, site: Site, path: str) -> np.ndarray:
    """1 within the band of slope, measured over the plot's support length."""
    field = site.measure(
        "slope", lambda: measure(site.heights, site.grid.spacing, site.plot.support_m)
    )
    # level ground and the steepest belong to a band that reaches the scale's ends
    return p.band(field, p.low if p.low > 0 else -180.0, p.high if p.high < 70 else 270.0, p.soft)
