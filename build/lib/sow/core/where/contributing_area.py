"""Where: by contributing area."""

from typing import Literal

import numpy as np

from ..document.fields import setting
from .base import Band, by_sheet, condition
from .site import Site


class Gathers(Band):
    kind: Literal["contributing-area"] = "contributing-area"
    low: float = setting(0.5, "From", "ha", lo=0, hi=1000000, slider=(0, 50), step=0.01)
    high: float = setting(1000000, "To", "ha", lo=0, hi=1000000, slider=(0, 50), step=0.01)
    soft: float = setting(0.2, "Softness", "ha", lo=0, hi=1000000, slider=(0, 20), step=0.01)


@condition(Gathers, stage="land", label="contributing area", measures=by_sheet("contributing-area"))
def answer(p: Gathers, site: Site, path: str) -> np.ndarray:
    """1 where this much land drains through the place."""
    return p.band(site.sheet("contributing-area"), p.low, p.high, p.soft)
