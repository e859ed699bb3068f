"""Where: where processes took ground away."""

from typing import Literal

import numpy as np

from ..document.fields import setting
from .base import Band, by_sheet, condition
from .site import Site


class Lowered(Band):
    kind: Literal["lowered"] = "lowered"
    low: float = setting(1, "From", "m", lo=0, hi=12000, slider=(0, 60), step=0.1)
    high: float = setting(12000, "To", "m", lo=0, hi=12000, slider=(0, 60), step=0.1)
    soft: float = setting(0.5, "Softness", "m", lo=0, hi=12000, slider=(0, 20), step=0.1)


@condition(Lowered, stage="land", label="lowered by", measures=by_sheet("lowered"))
def answer(p: Lowered, site: Site, path: str) -> np.ndarray:
    """1 within the band of metres lowered by wear, ice or collapse."""
    return p.band(site.sheet("lowered"), p.low, p.high, p.soft)
