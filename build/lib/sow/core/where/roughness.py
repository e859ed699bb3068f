"""Where: by roughness."""

from typing import Literal

import numpy as np

from ..document.fields import setting
from .base import Band, by_sheet, condition
from .site import Site


class Roughness(Band):
    kind: Literal["roughness"] = "roughness"
    low: float = setting(0.5, "From", "m", lo=0, hi=1000, slider=(0, 5), step=0.05)
    high: float = setting(1000, "To", "m", lo=0, hi=1000, slider=(0, 5), step=0.05)
    soft: float = setting(0.2, "Softness", "m", lo=0, hi=1000, slider=(0, 3), step=0.05)


@condition(
    Roughness,
    stage="land",
    label="roughness",
    reach=lambda p, scene: 6.5 * scene.plot.support_m,
    measures=by_sheet("roughness"),
)
def answer(p: Roughness, site: Site, path: str) -> np.ndarray:
    """1 within the band of the spread of heights about their smooth mean."""
    return p.band(site.sheet("roughness"), p.low, p.high, p.soft)
