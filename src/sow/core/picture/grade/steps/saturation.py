"""Grading: saturation."""

from typing import Literal

import numpy as np

from ....document.fields import percent
from ....document.offers import Offer
from ..base import Graded, GradedFrame, bright, steps


class Saturation(Graded):
    kind: Literal["saturation"] = "saturation"
    saturation: float = percent("Saturation", 110, hi=300, slider=(0, 200))


@steps.add(
    Saturation,
    offers=[Offer("saturation", "Saturation", lists=("grade",))],
    subtitle="{saturation} %",
)
def saturation(entry: Saturation, light: np.ndarray, frame: GradedFrame) -> np.ndarray:
    """Distance from grey of the same luminance times a factor (as an ASC CDL's saturation)."""
    grey = bright(light)
    return np.maximum(grey + (light - grey) * np.float32(entry.saturation / 100), 0)
