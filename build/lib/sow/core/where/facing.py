"""Where: by the way the ground faces."""

from typing import Literal

import numpy as np

from ..document.fields import bearing, setting
from .base import Condition, by_sheet, condition, ramp
from .site import Site


class Facing(Condition):
    kind: Literal["facing"] = "facing"
    towards: float = bearing("Towards", 0, help="Clockwise from north: 0 is a north side.")
    within: float = setting(60, "Within", "°", lo=0, hi=180, help="To either hand.")
    soft: float = setting(30, "Softness", "°", lo=0, hi=180, slider=(0, 90))


@condition(
    Facing,
    label="facing",
    reach=lambda p, scene: 2 * scene.plot.support_m,
    measures=by_sheet("facing"),
)
def answer(p: Facing, site: Site, path: str) -> np.ndarray:
    """1 where the ground falls towards the bearing; level ground (under 3 degrees) does not
    count.
    """
    off = np.abs((site.sheet("facing") - np.float32(p.towards) + 180) % 360 - 180)
    near = ramp((np.float32(p.within) - off) / np.float32(max(p.soft, 1e-3) / 2))
    return near * ramp((site.sheet("slope") - np.float32(3)) / np.float32(2))
