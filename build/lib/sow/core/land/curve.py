"""Process: remap heights by a curve."""

from typing import Literal

import numpy as np

from ..document.curve import Curve, along, curve_setting
from ..document.entry import at_place
from ..document.offers import Offer
from .base import Below, Process, needs_land, processes


class HeightCurve(Process):
    kind: Literal["curve"] = "curve"
    points: Curve = curve_setting(
        [[0, 0], [0.35, 0.2], [1, 1]],
        "Curve",
        "height below",
        "height after",
        "0 is the lowest of the land below, 1 its highest.",
    )


@processes.add(
    HeightCurve,
    reach=at_place,
    offers=[Offer("curve", "Curve", "", group="Rework the whole")],
    subtitle="heights by a curve",
)
def rework(p: HeightCurve, below: Below) -> np.ndarray:
    """Heights by a curve from lowest to highest, float32 m."""
    needs_land(below)
    low, high = below.band()
    span = np.float32(max(high - low, 1e-6))
    return np.float32(low) + span * along(p.points, (below.heights - np.float32(low)) / span)
