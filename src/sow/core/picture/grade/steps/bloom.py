"""Grading: light that spreads from what is bright."""

from typing import Literal

import cv2
import numpy as np

from ....document.fields import percent, setting
from ....document.offers import Offer
from ..base import Graded, GradedFrame, steps

OCTAVES = 4


class Bloom(Graded):
    spreads = True
    kind: Literal["bloom"] = "bloom"
    amount: float = percent("Amount", 6, hi=60, slider=(0, 25))
    size: float = percent("Size", 4, lo=0.1, hi=30, help="Of the frame's width.")
    above: float = setting(
        1.5, "Above", "EV", lo=-4, hi=10, help="Stops over middle grey from which light spreads."
    )


@steps.add(
    Bloom,
    offers=[Offer("bloom", "Bloom", lists=("grade",))],
    subtitle="{amount} %",
)
def bloom(entry: Bloom, light: np.ndarray, frame: GradedFrame) -> np.ndarray:
    """A part of the light above a brightness, spread by gaussians of doubling size: what is spread
    is taken from where it was.
    """
    over = np.maximum(light - np.float32(0.18 * 2.0**entry.above), 0)
    taken = (over * np.float32(entry.amount / 100)).astype(np.float32)
    size = max(entry.size / 100 * frame.width, 0.5)
    spread = np.zeros_like(taken)
    for k in range(OCTAVES):
        sigma = size / 2**k
        # wide ones are found on a smaller picture
        less = max(1, int(sigma / 6))
        small = cv2.resize(taken, None, fx=1 / less, fy=1 / less, interpolation=cv2.INTER_AREA)
        soft = cv2.GaussianBlur(small, (0, 0), sigma / less, borderType=cv2.BORDER_REPLICATE)
        spread += cv2.resize(soft, taken.shape[1::-1], interpolation=cv2.INTER_LINEAR) / OCTAVES
    return light - taken + spread
