"""Where: by curvature: hollow or crest."""

from typing import Literal

from ..fields import setting
from . import Band, condition


class Bend(Band):
    kind: Literal["bend"] = "bend"
    low: float = setting(2, "From", "/km", lo=-100000, hi=100000, slider=(-40, 40), step=0.5)
    high: float = setting(100000, "To", "/km", lo=-100000, hi=100000, slider=(-40, 40), step=0.5)
    soft: float = setting(2, "Softness", "/km", lo=0, hi=100000, slider=(0, 20), step=0.5)


@condition(Bend, stage="land")
def answer(p: Bend, site, path):
    """1 within the band of curvature over the support length; hollows are below 0, crests above
    (Zevenbergen & Thorne 1987).
    """
    return p.band(site.sheet("bend"), p.low, p.high, p.soft)
