"""Grading: exposure."""

from typing import Literal

import numpy as np

from ....document.fields import setting
from ....document.offers import Offer
from ..base import Graded, GradedFrame, steps


class Exposure(Graded):
    kind: Literal["exposure"] = "exposure"
    stops: float = setting(0, "Lighter or darker", "EV", lo=-8, hi=8, slider=(-3, 3), step=0.05)


@steps.add(
    Exposure,
    offers=[Offer("exposure", "Exposure", lists=("grade",))],
    subtitle="{stops} EV",
)
def exposure(entry: Exposure, light: np.ndarray, frame: GradedFrame) -> np.ndarray:
    """Light times a power of two."""
    return light * np.float32(2.0**entry.stops)
