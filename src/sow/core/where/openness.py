"""Where: by openness to the sky."""

from typing import Literal

from ..fields import setting
from . import Band, condition


class Openness(Band):
    kind: Literal["openness"] = "openness"
    low: float = setting(0, "From", "%", lo=0, hi=100, slider=(0, 100))
    high: float = setting(75, "To", "%", lo=0, hi=100, slider=(0, 100))
    soft: float = setting(8, "Softness", "%", lo=0, hi=100, slider=(0, 40))


@condition(Openness, stage="land")
def answer(p: Openness, site, path):
    """1 within the band of the part of the sky that is seen."""
    return p.band(site.sheet("openness"), p.low, p.high, p.soft)
