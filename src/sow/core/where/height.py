"""Where: by height."""

from typing import Literal

from ..fields import setting
from . import Band, condition


class Height(Band):
    kind: Literal["height"] = "height"
    low: float = setting(0, "From", "m", lo=-12000, hi=12000, slider=("lowest", "highest"))
    high: float = setting(10000, "To", "m", lo=-12000, hi=12000, slider=("lowest", "highest"))
    soft: float = setting(10, "Softness", "m", lo=0, hi=5000, slider=(0, 100))


@condition(Height)
def answer(p: Height, site, path):
    """1 within the band of height."""
    return p.band(site.heights, p.low, p.high, p.soft)
