"""Process: a ridge lifted or a valley sunk along a line."""

from typing import Literal

import numpy as np

from ..document.curve import Curve, curve_setting
from ..document.curve import along as at
from ..document.entry import at_place
from ..document.fields import length_m, setting
from ..document.offers import Offer
from ..marks.shapes import near
from .base import Below, processes
from .form import ROUND
from .line import Along, followed


class Rib(Along):
    kind: Literal["rib"] = "rib"
    height_m: float = setting(
        20,
        "Height",
        "m",
        lo=-5000,
        hi=5000,
        slider=(-200, 200),
        help="Above 0 a ridge, below a valley.",
    )
    reach_m: float = length_m("Reach", 80, hi=50000, slider=(1, 2000), help="To either hand.")
    profile: Curve = curve_setting(ROUND, "Profile", "line to reach", "height")


@processes.add(
    Rib,
    reach=at_place,
    offers=[
        Offer(
            "rib",
            "Ridge or valley along a line",
            "",
            first=lambda c: {
                "mark": c.mark("line"),
                "height_m": c.nice(c.reach * 0.03),
                "reach_m": c.nice(c.reach * 0.06),
            },
            name="Ridge line",
            group="Along a line",
            lists=("land",),
        )
    ],
    subtitle="{height_m} m high",
)
def rework(p: Rib, below: Below) -> np.ndarray:
    """The land lifted by `height_m` on the line, falling off by the profile over the reach."""
    away, _, _ = near(followed(p, below), below.grid, p.reach_m)
    return below.heights + np.float32(p.height_m) * np.where(
        away <= p.reach_m,
        at(p.profile, np.minimum(away / np.float32(p.reach_m), 1)) - at(p.profile, 1.0),
        0,
    ).astype(np.float32)
