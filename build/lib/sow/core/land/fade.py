"""Process: fade the edges of the plot to a level."""

from typing import Literal

import numpy as np
from pydantic import Field

from ..document.entry import at_place
from ..document.fields import length_m, setting
from ..document.offers import Offer
from ..where import ramp
from .base import Below, Process, processes


class Fade(Process):
    kind: Literal["fade"] = "fade"
    level_m: float = setting(0, "To level", "m", lo=-12000, hi=12000, slider=("lowest", "highest"))
    reach_m: float = length_m(
        "Over",
        150,
        lo=0.01,
        hi=50000,
        slider=(1, 3000),
        help="Measured inward from the plot's edge.",
    )
    shape: Literal["rectangle", "round"] = Field("rectangle", title="Outline")


@processes.add(
    Fade,
    reach=at_place,
    offers=[
        Offer(
            "fade",
            "Fade the edges",
            "",
            first=lambda c: {"level_m": round(c.lowest, 1), "reach_m": c.nice(c.reach * 0.2)},
            name="Faded edges",
            group="Rework the whole",
        )
    ],
    subtitle="to {level_m} m",
)
def rework(p: Fade, below: Below) -> np.ndarray:
    """The land sinks or rises to the level towards the plot's edge and has it there and beyond."""
    x = below.grid.xs()[None, :]
    y = below.grid.ys()[:, None]
    plot = below.plot
    if p.shape == "rectangle":
        inside = np.minimum(np.minimum(x, plot.width_m - x), np.minimum(y, plot.depth_m - y))
    else:
        far = np.hypot((x / plot.width_m - 0.5) * 2, (y / plot.depth_m - 0.5) * 2)
        inside = (1 - far) * min(plot.width_m, plot.depth_m) / 2
    keep = ramp((2 * inside / p.reach_m - 1).astype(np.float32))
    return np.float32(p.level_m) + keep * (below.heights - np.float32(p.level_m))
