"""Mist that fills hollows and valley floors by the land's own heights."""

from typing import Literal

import numpy as np
from scipy.ndimage import gaussian_filter, minimum_filter

from ...document.fields import length_m, percent, seed, setting
from ...document.offers import Context, Offer
from ..base import InAir, Over, airs
from ..mist import Mist, broken, places, thickness


class HollowMist(InAir):
    kind: Literal["hollow-mist"] = "hollow-mist"
    depth_m: float = length_m(
        "Depth", 12, lo=0.2, hi=2000, slider=(0.5, 150), help="Over the floor of each hollow."
    )
    reach_m: float = length_m(
        "Breadth of hollows", 300, lo=5, slider=(20, 3000), help="Broader ones are floors too."
    )
    soft_m: float = length_m("Soft top", 6, lo=0.1, hi=2000, slider=(0.2, 60))
    seen_m: float = length_m("Seen to", 120, lo=1, hi=20000, slider=(5, 2000))
    broken: float = percent("Broken up", 25)
    size_m: float = length_m("Size of its parts", 80, lo=1, slider=(3, 500))
    drift_m: float = setting(
        0, "Drifted", "m", lo=-20000, hi=20000, slider=(0, 500), help="Its parts, to the east."
    )
    seed: int = seed(1)


def _first(c: Context) -> dict:
    return {
        "depth_m": c.nice(max(3.0, c.span * 0.06)),
        "reach_m": c.nice(c.reach * 0.25),
        "seed": c.seed,
    }


@airs.add(
    HollowMist,
    offers=[Offer("hollow-mist", "Mist in hollows", "by the land", first=_first, lists=("air",))],
    subtitle="{depth_m} m deep, seen to {seen_m} m",
)
def hollow_mist(entry: HollowMist, over: Over) -> list[Mist]:
    """The mist over the lowest ground within reach of each place, level across it."""
    spacing = float(over.xs[1] - over.xs[0])
    wide = max(1, round(entry.reach_m / spacing))
    floor = minimum_filter(over.heights.astype(np.float64), wide, mode="nearest")
    floor = gaussian_filter(floor, wide / 3, mode="nearest")
    bounds = float(over.xs[0]), float(over.ys[-1]), float(over.xs[-1]), float(over.ys[0])
    x, y = places(bounds)
    level = Over(floor, over.xs, over.ys, []).ground_at(x, y)
    top = level + entry.depth_m
    drift = (entry.drift_m, 0.0)
    cover = broken(np.ones(x.shape), x, y, entry.broken / 100, entry.size_m, entry.seed, drift)
    base = float(over.heights.min()) - 100.0
    return [Mist(bounds, cover, top, base, entry.soft_m, thickness(entry.seen_m))]
