"""Where: by hours of sun."""

from typing import Literal

import numpy as np

from ..document.fields import setting
from .base import Band, condition
from .site import Site


class Sunlit(Band):
    kind: Literal["sunlit"] = "sunlit"
    low: float = setting(6, "From", "h", lo=0, hi=24, slider=(0, 18), step=0.25)
    high: float = setting(24, "To", "h", lo=0, hi=24, slider=(0, 18), step=0.25)
    soft: float = setting(1.5, "Softness", "h", lo=0, hi=24, slider=(0, 6), step=0.25)
    latitude: float = setting(50, "Latitude", "°", lo=-90, hi=90)
    day: int = setting(172, "Day of the year", "", lo=1, hi=366, slider=(1, 365), step=1)


def _hours(p: Sunlit, site: Site, path: str) -> np.ndarray:
    return site.sheet("sunlit", latitude=p.latitude, day=p.day)


@condition(Sunlit, stage="land", label="hours of sun", measures=_hours)
def answer(p: Sunlit, site: Site, path: str) -> np.ndarray:
    """1 within the band of hours of sun on the given day."""
    return p.band(_hours(p, site, path), p.low, p.high, p.soft)
