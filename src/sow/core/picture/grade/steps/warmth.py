"""Grading: warmth and tint."""

from typing import Literal

import numpy as np

from ....air.white import balance
from ....document.fields import setting
from ....document.offers import Offer
from ..base import Graded, GradedFrame, bright, steps


class Warmth(Graded):
    kind: Literal["warmth"] = "warmth"
    kelvin: float = setting(
        7200,
        "White of",
        "K",
        lo=2000,
        hi=20000,
        slider=(3000, 12000),
        scale="log",
        step=50,
        help="Light of this warmth is shown as white: higher is warmer.",
    )
    tint: float = setting(0, "Green or magenta", "", lo=-100, hi=100, help="Magenta is positive.")


@steps.add(
    Warmth,
    offers=[Offer("warmth", "Warmth", lists=("grade",))],
    subtitle="{kelvin} K",
)
def warmth(entry: Warmth, light: np.ndarray, frame: GradedFrame) -> np.ndarray:
    """Channels balanced as for light of another warmth, at the same luminance."""
    factor = balance(entry.kelvin) / balance(6500)
    factor = factor * np.array([1, 2.0 ** (-entry.tint / 200), 1])
    turned = light * factor.astype(np.float32)
    return turned * (bright(light) / np.maximum(bright(turned), 1e-9))
