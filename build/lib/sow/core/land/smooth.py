"""Process: smooth."""

from typing import Literal

import numpy as np
from scipy.ndimage import gaussian_filter

from ..document.fields import length_m
from ..document.offers import Offer
from .base import Below, Process, processes


class Smooth(Process):
    kind: Literal["smooth"] = "smooth"
    reach_m: float = length_m(
        "Reach",
        20,
        lo=0,
        hi=5000,
        slider=(0.5, 500),
        help="Shapes smaller than this are smoothed away.",
    )


@processes.add(
    Smooth,
    reach=lambda p, scene: 1.5 * p.reach_m,
    offers=[
        Offer(
            "smooth",
            "Smooth",
            "",
            first=lambda c: {"reach_m": c.nice(c.reach * 0.015)},
            group="Rework the whole",
        )
    ],
    subtitle="{reach_m} m",
)
def rework(p: Smooth, below: Below) -> np.ndarray:
    """A Gaussian whose standard deviation is half the reach, in metres whatever the grid."""
    return gaussian_filter(
        below.heights, p.reach_m / 2 / below.grid.spacing, mode="nearest", truncate=3.0
    )
