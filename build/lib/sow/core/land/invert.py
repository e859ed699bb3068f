"""Process: turn hills into hollows."""

from typing import Literal

import numpy as np

from ..document.entry import at_place
from ..document.offers import Offer
from .base import Below, Process, processes


class Invert(Process):
    kind: Literal["invert"] = "invert"


@processes.add(
    Invert,
    reach=at_place,
    offers=[Offer("invert", "Invert", "", group="Rework the whole")],
    subtitle="upside down",
)
def rework(p: Invert, below: Below) -> np.ndarray:
    """Heights mirrored about the middle of their range, which stays as it was."""
    low, high = below.band()
    return np.float32(low) + np.float32(high) - below.heights
