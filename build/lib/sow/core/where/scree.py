"""Where: where scree lies."""

from typing import Literal

import numpy as np

from ..document.fields import setting
from .base import Band, by_sheet, condition
from .site import Site


class Scree(Band):
    kind: Literal["scree"] = "scree"
    low: float = setting(0.3, "From", "m", lo=0, hi=12000, slider=(0, 20), step=0.05)
    high: float = setting(12000, "To", "m", lo=0, hi=12000, slider=(0, 20), step=0.05)
    soft: float = setting(0.2, "Softness", "m", lo=0, hi=12000, slider=(0, 10), step=0.05)


@condition(Scree, stage="land", label="scree", measures=by_sheet("scree"))
def answer(p: Scree, site: Site, path: str) -> np.ndarray:
    """1 within the band of metres of scree."""
    return p.band(site.sheet("scree"), p.low, p.high, p.soft)
