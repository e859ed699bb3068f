"""Where: where processes laid loose material."""

from typing import Literal

import numpy as np

from ..document.fields import setting
from .base import Band, by_sheet, condition
from .site import Site


class LaidBy(Band):
    kind: Literal["laid"] = "laid"
    low: float = setting(0.3, "From", "m", lo=0, hi=12000, slider=(0, 20), step=0.05)
    high: float = setting(12000, "To", "m", lo=0, hi=12000, slider=(0, 20), step=0.05)
    soft: float = setting(0.2, "Softness", "m", lo=0, hi=12000, slider=(0, 10), step=0.05)


@condition(LaidBy, stage="land", label="laid by", measures=by_sheet("laid"))
def answer(p: LaidBy, site: Site, path: str) -> np.ndarray:
    """1 within the band of metres laid."""
    return p.band(site.sheet("laid"), p.low, p.high, p.soft)
