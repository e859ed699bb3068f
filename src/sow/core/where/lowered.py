"""Where: where processes took ground away."""

from typing import Literal

from ..fields import setting
from . import Band, condition


class Lowered(Band):
    kind: Literal["lowered"] = "lowered"
    low: float = setting(1, "From", "m", lo=0, hi=12000, slider=(0, 60), step=0.1)
    high: float = setting(12000, "To", "m", lo=0, hi=12000, slider=(0, 60), step=0.1)
    soft: float = setting(0.5, "Softness", "m", lo=0, hi=12000, slider=(0, 20), step=0.1)


@condition(Lowered, stage="land")
def answer(p: Lowered, site, path):
    """1 within the band of metres lowered by wear, ice or collapse."""
    return p.band(site.sheet("lowered"), p.low, p.high, p.soft)
