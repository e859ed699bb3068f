"""Where: by openness to the sky."""

from typing import Literal

import numpy as np

from ..document.fields import percent
from .base import Band, by_sheet, condition
from .site import Site


class Openness(Band):
    kind: Literal["openness"] = "openness"
    low: float = percent("From", 0, slider=(0, 100))
    high: float = percent("To", 75, slider=(0, 100))
    soft: float = percent("Softness", 8, slider=(0, 40))


@condition(Openness, stage="land", label="openness to the sky", measures=by_sheet("openness"))
def answer(p: Openness, site: Site, path: str) -> np.ndarray:
    """1 within the band of the part of the sky that is seen."""
    return p.band(site.sheet("openness"), p.low, p.high, p.soft)
