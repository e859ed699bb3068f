"""Where: by openness to the sky."""

from typing import Literal

import numpy as np

from ..document.fields import setting
from .base import Band, condition
from .site import Site


class Openness(Band):
    kind: Literal["openness"] = "openness"
    low: float = setting(0, "From", "%", lo=0, hi=100, slider=(0, 100))
    high: float = setting(75, "To", "%", lo=0, hi=100, slider=(0, 100))
    soft: float = setting(8, "Softness", "%", lo=0, hi=100, slider=(0, 40))


@condition(Openness, stage="land", label="openness to the sky")
def answer(p: Openness, site: Site, path: str) -> np.ndarray:
    """1 within the band of the part of the sky that is seen."""
    return p.band(site.sheet("openness"), p.low, p.high, p.soft)
