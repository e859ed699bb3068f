"""Grading: contrast about a pivot."""

from typing import Literal

import numpy as np

from ....document.fields import percent, setting
from ....document.offers import Offer
from ..base import Graded, GradedFrame, steps

GREY = 0.18


class Contrast(Graded):
    kind: Literal["contrast"] = "contrast"
    contrast: float = percent("Contrast", 110, lo=20, hi=300, slider=(50, 180))
    pivot: float = setting(
        0, "Pivot", "EV", lo=-8, hi=8, slider=(-4, 4), help="Stops from middle grey that stay."
    )


@steps.add(
    Contrast,
    offers=[Offer("contrast", "Contrast", lists=("grade",))],
    subtitle="{contrast} %",
)
def contrast(entry: Contrast, light: np.ndarray, frame: GradedFrame) -> np.ndarray:
    """Stops from the pivot times a factor: a power of the light (as an ASC CDL's power)."""
    pivot = np.float32(GREY * 2.0**entry.pivot)
    return np.maximum(light / pivot, 1e-6) ** np.float32(entry.contrast / 100) * pivot
