"""Grading: a curve over what the film shows."""

from typing import Literal

import numpy as np

from ....document.curve import Curve, along, curve_setting
from ....document.offers import Offer
from ..base import Graded, GradedFrame, steps


class ToneCurve(Graded):
    acts_on = "shown"
    kind: Literal["tone-curve"] = "tone-curve"
    points: Curve = curve_setting(
        [[0, 0], [0.25, 0.22], [0.75, 0.79], [1, 1]], "Curve", "shown by the film", "then"
    )


@steps.add(
    ToneCurve,
    offers=[Offer("tone-curve", "Tone curve", "after the film", lists=("grade",))],
    subtitle="after the film",
)
def tone_curve(entry: ToneCurve, shown: np.ndarray, frame: GradedFrame) -> np.ndarray:
    """The values of a screen, each by the curve."""
    return np.clip(along(entry.points, shown), 0, 1)
