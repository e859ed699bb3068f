"""Moving pictures: each frame a still of its moment."""

import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np

from ..build import Build
from ..errors import SceneError
from ..motion.at import moments
from ..shots.shot import Shot
from .order import Order, checked
from .stages import Stages
from .still import Still


class Frames:
    """The frames of a moving picture; one stage serves those in a row that differ by light."""

    def __init__(
        self, build: Build, shot: Shot, order: Order, check: Callable[[], None] = lambda: None
    ):
        self.order = checked(order)
        if self.order.clip is None:
            raise SceneError("This is no moving picture.", "clip", "Give from, to and how many.")
        self.build, self.shot, self.check = build, shot, check
        self.times = self.order.clip.times
        self.at = moments(build, shot)
        self.stages = Stages()

    def still(self, k: int) -> Still:
        """The k-th frame as a still, its passes summed. Raises SceneError, Cancelled."""
        moment = self.at(self.times[k])
        with tempfile.TemporaryDirectory(prefix="sow-frame-") as folder:
            still = Still(
                self.build,
                self.shot,
                self.order,
                Path(folder),
                check=self.check,
                moment=moment,
                stages=self.stages,
            )
            still.run()
        return still

    def shown(self, k: int) -> np.ndarray:
        """The k-th frame as a screen shows it, float32 (height, width, 3) 0..1."""
        still = self.still(k)
        light = still.wrapped(still.light())["whole"]
        return still.shown(light)
