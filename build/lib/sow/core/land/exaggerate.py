"""Process: exaggerate vertically."""

from typing import Literal

import numpy as np

from ..document.entry import at_place
from ..document.fields import setting
from ..document.offers import Offer
from .base import Below, Process, processes


class Exaggerate(Process):
    kind: Literal["exaggerate"] = "exaggerate"
    times: float = setting(1.5, "Times", "×", lo=0, hi=20, slider=(0, 5), step=0.05)
    about_m: float = setting(
        0,
        "About height",
        "m",
        lo=-12000,
        hi=12000,
        slider=(-200, 1000),
        help="The height that stays.",
    )


@processes.add(
    Exaggerate,
    reach=at_place,
    offers=[
        Offer(
            "exaggerate",
            "Exaggerate",
            "",
            first=lambda c: {"about_m": round(c.lowest)},
            group="Rework the whole",
        )
    ],
    subtitle="× {times}",
)
def rework(p: Exaggerate, below: Below) -> np.ndarray:
    """Heights about a level, multiplied, float32 m."""
    return (below.heights - np.float32(p.about_m)) * np.float32(p.times) + np.float32(p.about_m)
