"""Grading: grain."""

from typing import Literal

import cv2
import numpy as np

from ....document.fields import percent
from ....document.offers import Offer
from ..base import Graded, GradedFrame, steps


class Grain(Graded):
    acts_on = "shown"
    spreads = True
    kind: Literal["grain"] = "grain"
    amount: float = percent("Amount", 3, hi=40, slider=(0, 15))
    size: float = percent(
        "Size", 0.09, lo=0.01, hi=2, slider=(0.02, 0.5), help="Of the frame's width."
    )


@steps.add(
    Grain,
    offers=[Offer("grain", "Grain", "after the film", lists=("grade",))],
    subtitle="{amount} %",
)
def grain(entry: Grain, shown: np.ndarray, frame: GradedFrame) -> np.ndarray:
    """Grey noise of a size, most in the middle tones, the same for the same seed."""
    rng = np.random.default_rng(frame.seed)
    cell = max(entry.size / 100 * frame.width, 1.0)
    rows, columns = (max(2, int(np.ceil(n / cell)) + 2) for n in (frame.height, frame.width))
    coarse = rng.standard_normal((rows, columns)).astype(np.float32)
    size = round(columns * cell), round(rows * cell)
    whole = cv2.resize(coarse, size, interpolation=cv2.INTER_CUBIC)
    own = whole[frame.top : frame.top + shown.shape[0], frame.left : frame.left + shown.shape[1]]
    grey = shown.mean(-1, keepdims=True)
    strong = 4 * grey * (1 - grey) * (entry.amount / 100) * 0.35
    return np.clip(shown + own[..., None] * strong, 0, 1).astype(np.float32)
