"""Where: by contributing area."""

from typing import Literal

from ..fields import setting
from . import Band, condition


class Gathers(Band):
    kind: Literal["gathers"] = "gathers"
    low: float = setting(0.5, "From", "ha", lo=0, hi=1000000, slider=(0, 50), step=0.01)
    high: float = setting(1000000, "To", "ha", lo=0, hi=1000000, slider=(0, 50), step=0.01)
    soft: float = setting(0.2, "Softness", "ha", lo=0, hi=1000000, slider=(0, 20), step=0.01)


@condition(Gathers, stage="land")
def answer(p: Gathers, site, path):
    """1 where this much land drains through the place."""
    return p.band(site.sheet("gathers"), p.low, p.high, p.soft)
