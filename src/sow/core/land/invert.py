"""Process: turn hills into hollows."""

from typing import Literal

import numpy as np

from .base import Below, Process, processes


class Invert(Process):
    kind: Literal["invert"] = "invert"


@processes.add(Invert)
def rework(p: Invert, below: Below) -> np.ndarray:
    """Heights mirrored about the middle of their range, which stays as it was."""
    return (below.heights.min() + below.heights.max()) - below.heights
