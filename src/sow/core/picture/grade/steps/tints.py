"""Grading: tints of lights and darks."""

from typing import Literal

import numpy as np

from ....air.light_of import tint_of
from ....document.fields import colour, percent, setting
from ....document.offers import Offer
from ..base import Graded, GradedFrame, bright, steps

GREY = 0.18
SPAN = 2.2  # stops over which darks pass into lights


class Tints(Graded):
    kind: Literal["tints"] = "tints"
    lights: str = colour("#ffe9cf", "Tint of the lights")
    darks: str = colour("#cfdcea", "Tint of the darks")
    strength: float = percent("Strength", 50)
    divide: float = setting(0, "Divide", "EV", lo=-6, hi=6, help="Stops from grey between them.")


@steps.add(
    Tints,
    offers=[Offer("tints", "Tints of lights and darks", lists=("grade",))],
    subtitle="lights {lights}, darks {darks}",
)
def tints(entry: Tints, light: np.ndarray, frame: GradedFrame) -> np.ndarray:
    """Lights and darks towards a tint each, at the same luminance."""
    own = bright(light)
    stops = np.log2(np.maximum(own, 1e-6) / GREY) - entry.divide
    high = 1 / (1 + np.exp(-stops * (4 / SPAN)))
    tint = tint_of(entry.lights) * high + tint_of(entry.darks) * (1 - high)
    turned = light * (1 + (tint - 1) * (entry.strength / 100))
    return (turned * (own / np.maximum(bright(turned), 1e-9))).astype(np.float32)
