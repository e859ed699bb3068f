"""Where: by how wet the ground lies."""

from typing import Literal

import numpy as np

from ..document.fields import setting
from .base import Band, by_sheet, condition
from .site import Site


class Wetness(Band):
    kind: Literal["wetness"] = "wetness"
    low: float = setting(8, "From", "", lo=-20, hi=40, slider=(0, 16), step=0.1)
    high: float = setting(40, "To", "", lo=-20, hi=40, slider=(0, 16), step=0.1)
    soft: float = setting(1.5, "Softness", "", lo=0, hi=40, slider=(0, 6), step=0.1)


@condition(Wetness, stage="land", label="wetness", measures=by_sheet("wetness"))
def answer(p: Wetness, site: Site, path: str) -> np.ndarray:
    """1 within the band of the topographic wetness index (Beven & Kirkby 1979)."""
    return p.band(site.sheet("wetness"), p.low, p.high, p.soft)
