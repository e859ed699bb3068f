"""Grading: corners that darken."""

from typing import Literal

import numpy as np

from ....document.fields import percent, setting
from ....document.offers import Offer
from ..base import Graded, GradedFrame, steps


class Vignette(Graded):
    spreads = True
    kind: Literal["vignette"] = "vignette"
    stops: float = setting(0.7, "Darker in the corners", "EV", lo=-4, hi=6, slider=(0, 3))
    begins: float = percent("Begins", 35, hi=95, help="Of the way from the middle to a corner.")


@steps.add(
    Vignette,
    offers=[Offer("vignette", "Vignette", lists=("grade",))],
    subtitle="{stops} EV",
)
def vignette(entry: Vignette, light: np.ndarray, frame: GradedFrame) -> np.ndarray:
    """Less light towards the corners of the frame."""
    rows, columns = light.shape[:2]
    x = (frame.left + np.arange(columns) + 0.5) / frame.width * 2 - 1
    y = ((frame.top + np.arange(rows) + 0.5) / frame.height * 2 - 1) * frame.height / frame.width
    far = np.hypot(x[None, :], y[:, None]) / np.hypot(1, frame.height / frame.width)
    low = entry.begins / 100
    t = np.clip((far - low) / (1 - low), 0, 1)
    falls = 2.0 ** (-entry.stops * t * t * (3 - 2 * t))
    return light * falls[..., None].astype(np.float32)
