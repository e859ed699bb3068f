"""Where: in patches from noise."""

from typing import Literal

import numpy as np
from scipy.special import ndtri

from .. import noise
from ..document.entry import at_place
from ..document.fields import length_m, percent, setting
from .base import Condition, condition, ramp
from .site import Site


class Patches(Condition):
    kind: Literal["patches"] = "patches"
    size_m: float = length_m("Patch size", 60, lo=0.1, hi=50000, slider=(1, 1000))
    share: float = percent(
        "Share", 50, lo=1, hi=99, help="Part of the ground that the patches take."
    )
    soft: float = percent("Softness", 30, help="0 is a sharp edge.")
    octaves: int = setting(4, "Octaves", "", lo=1, hi=10)
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)


@condition(Patches, label="noise patches", reach=at_place)
def answer(p: Patches, site: Site, path: str) -> np.ndarray:
    """1 inside patches of smooth noise that take the given share of the plane."""
    field = noise.fbm(
        site.grid,
        p.size_m,
        p.octaves,
        0.5,
        seed=p.seed + 977 * site.plot.seed,
        warp_m=p.size_m * 0.25,
    )
    return ramp(
        (field + np.float32(ndtri(p.share / 100))) / np.float32(max(p.soft / 100 * 1.5, 0.02))
    )
