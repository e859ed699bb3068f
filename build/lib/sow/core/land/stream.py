"""Process: a stream bed sunk along a line, always downhill."""

from typing import Literal

import numpy as np
from scipy.ndimage import gaussian_filter1d

from ..document.entry import at_place
from ..document.fields import length_m, percent, setting
from ..document.offers import Offer
from ..marks.shapes import near
from .base import Below, processes
from .clip import soft_max
from .line import Along, followed, profile


class Stream(Along):
    kind: Literal["stream"] = "stream"
    width_m: float = length_m(
        "Width", 3, hi=2000, slider=(0.3, 60), help="Of the bed, at its lower end."
    )
    depth_m: float = setting(
        0.8,
        "Depth",
        "m",
        lo=0,
        hi=500,
        slider=(0, 10),
        step=0.05,
        help="Of the bed below the banks.",
    )
    bank_m: float = setting(4, "Banks", "m", lo=0, hi=2000, slider=(0, 80))
    grows: float = percent("Grows", 60, help="How much narrower and shallower it is at its spring.")


@processes.add(
    Stream,
    reach=at_place,
    offers=[
        Offer(
            "stream",
            "Stream bed along a line",
            "",
            first=lambda c: {"mark": c.mark("line")},
            name="Stream",
            group="Along a line",
            lists=("land",),
        )
    ],
    subtitle="{width_m} m wide",
)
def rework(p: Stream, below: Below) -> np.ndarray:
    """The bed runs from the higher to the lower end and never rises; it only cuts, so it goes on at
    the level of the lowest place that it has met. Leaves "lowered".
    """
    points = followed(p, below)
    z = profile(points, below)
    if z[0] < z[-1]:
        points, z = points[::-1], z[::-1]
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    grown = 1 - p.grows / 100 * (1 - length / max(length[-1], 1e-6))
    bed = (
        gaussian_filter1d(z, max(1.0, p.bank_m / max(length[1], 1e-6) * 0.5), mode="nearest")
        - p.depth_m * grown
    )
    bed = (
        np.minimum.accumulate(np.minimum(bed, z)) - length * 2e-4
    )  # a fall of two in ten thousand at least
    reach = p.width_m / 2 + p.bank_m
    away, along, _ = near(np.ascontiguousarray(points), below.grid, reach + below.grid.spacing)
    here = np.interp(along, length, grown)
    half = np.maximum(p.width_m / 2 * here, 1e-3)
    floor = np.interp(along, length, bed)
    t = np.clip(away / half, 0, 1)
    rise = np.where(
        away < half,
        0.25 * p.depth_m * here * t * t,
        0.25 * p.depth_m * here
        + (away - half)
        / max(p.bank_m, 1e-3)
        * (p.depth_m * here * 0.75 + np.maximum(below.heights - floor - p.depth_m * here, 0)),
    )
    cut = np.where(away < 1e8, floor + rise, 1e9).astype(np.float32)
    done = np.minimum(below.heights, -soft_max(-below.heights, -cut, np.float32(0.15 * p.depth_m)))
    below.leave("lowered", below.heights - done)
    return done
