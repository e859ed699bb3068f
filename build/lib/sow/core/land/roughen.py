"""Process: roughen with fine noise."""

from typing import Literal

import numpy as np

from .. import noise
from ..document.entry import at_place
from ..document.fields import length_m, percent, setting
from ..document.offers import Offer
from ..where import ramp
from .base import Below, Process, processes


class Roughen(Process):
    kind: Literal["roughen"] = "roughen"
    size_m: float = length_m("Size", 20, hi=5000, slider=(0.5, 500))
    height_m: float = setting(2, "Height", "m", lo=0, hi=1000, slider=(0, 30), step=0.1)
    steep: float = percent(
        "On steep ground", 50, help="0 roughens all alike, 100 the steep ground alone."
    )
    octaves: int = setting(5, "Octaves", "", lo=1, hi=12)
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)


@processes.add(
    Roughen,
    reach=at_place,
    offers=[
        Offer(
            "roughen",
            "Roughen",
            "",
            first=lambda c: {
                "size_m": c.nice(c.reach * 0.02),
                "height_m": c.nice(c.reach * 0.002),
                "seed": c.seed,
            },
            group="Rework the whole",
        )
    ],
    subtitle="{height_m} m high",
)
def rework(p: Roughen, below: Below) -> np.ndarray:
    """Ridged and smooth noise in m about 0, stronger where the land is steep."""
    seed = below.seed(p.seed)
    rough = noise.ridged(
        below.grid, p.size_m, p.octaves, 0.55, seed=seed, warp_m=p.size_m * 0.3
    ) - np.float32(0.35)
    rough = rough + noise.fbm(below.grid, p.size_m * 0.7, p.octaves, seed=seed + 5) * np.float32(
        0.12
    )
    hold: np.ndarray | float = 1.0
    if p.steep:
        steep = ramp((below.slope() - np.float32(25)) / np.float32(15))
        hold = 1 + np.float32(p.steep / 100) * (steep - 1)
    return below.heights + rough * hold * np.float32(p.height_m)
