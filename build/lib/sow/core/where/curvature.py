"""Where: by curvature: hollow or crest."""

from typing import Literal

import numpy as np

from ..document.fields import setting
from .base import Band, by_sheet, condition
from .site import Site


class Bend(Band):
    kind: Literal["curvature"] = "curvature"
    low: float = setting(2, "From", "/km", lo=-100000, hi=100000, slider=(-40, 40), step=0.5)
    high: float = setting(100000, "To", "/km", lo=-100000, hi=100000, slider=(-40, 40), step=0.5)
    soft: float = setting(2, "Softness", "/km", lo=0, hi=100000, slider=(0, 20), step=0.5)


@condition(
    Bend,
    stage="land",
    label="curvature",
    reach=lambda p, scene: 6 * scene.plot.support_m,
    measures=by_sheet("curvature"),
)
def answer(p: Bend, site: Site, path: str) -> np.ndarray:
    """1 within the band of curvature over the support length; hollows are below 0, crests above
    (Zevenbergen & Thorne 1987).
    """
    return p.band(site.sheet("curvature"), p.low, p.high, p.soft)
