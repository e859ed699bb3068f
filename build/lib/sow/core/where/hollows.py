"""Where: in hollows or on ridges."""

from typing import Literal

import cv2
import numpy as np

from ..document.fields import length_m, setting
from .base import Condition, condition, ramp
from .site import Site


class Hollows(Condition):
    kind: Literal["hollows"] = "hollows"
    size_m: float = length_m(
        "Size",
        40,
        lo=0.5,
        hi=10000,
        slider=(2, 1000),
        help="The breadth of the hollows that count.",
    )
    depth_m: float = setting(
        1,
        "Depth",
        "m",
        lo=-500,
        hi=500,
        slider=(-20, 20),
        step=0.1,
        help="How far below its surroundings; negative values take the tops too.",
    )
    soft: float = setting(1, "Softness", "m", lo=0, hi=500, slider=(0, 20), step=0.1)


@condition(Hollows, label="hollows and ridges", reach=lambda p, scene: 1.6 * p.size_m)
def answer(p: Hollows, site: Site, path: str) -> np.ndarray:
    """1 where the ground lies lower than the mean around it (topographic position, Weiss 2001)."""

    def position() -> np.ndarray:
        spread = p.size_m / 2 / site.grid.spacing
        reach = 2 * int(np.ceil(3 * spread)) + 1
        return site.heights - cv2.GaussianBlur(
            site.heights, (reach, reach), spread, borderType=cv2.BORDER_REPLICATE
        )

    field = site.measure(f"position {p.size_m}", position)
    return ramp((-field - np.float32(p.depth_m)) / np.float32(max(p.soft, 1e-3)))
