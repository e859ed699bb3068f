"""Process: terraces."""

from typing import Literal

import numpy as np

from .. import noise
from ..document.entry import at_place
from ..document.fields import bearing, length_m, percent, setting
from ..document.offers import Offer
from .base import Below, Process, needs_land, processes


class Terraces(Process):
    kind: Literal["terraces"] = "terraces"
    spacing_m: float = length_m(
        "Spacing",
        20,
        lo=0.02,
        hi=2000,
        slider=(0.5, 200),
        help="Height from one terrace to the next.",
    )
    sharp: float = percent(
        "Sharpness", 60, help="0 leaves the slope as it is, 100 makes flat treads and steep risers."
    )
    uneven: float = percent("Uneven", 40, help="Layers of unlike thickness, and edges that wander.")
    tilt: float = setting(0, "Tilt", "°", lo=0, hi=45, slider=(0, 20), step=0.1)
    tilt_bearing: float = bearing("Tilted down towards", 90)
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)


@processes.add(
    Terraces,
    reach=at_place,
    offers=[
        Offer(
            "terraces",
            "Terraces",
            "",
            first=lambda c: {"spacing_m": c.nice(max(0.05, c.span * 0.08))},
            group="Rework the whole",
        )
    ],
    subtitle="every {spacing_m} m",
)
def rework(p: Terraces, below: Below) -> np.ndarray:
    """Heights drawn towards levels a spacing apart, which may be tilted beds: each rise is kept to
    a part of its own.
    """
    needs_land(below)
    grid, a = below.grid, np.deg2rad(p.tilt_bearing)
    dip = np.tan(np.deg2rad(p.tilt))
    bed = (
        ((grid.xs() - below.plot.width_m / 2) * (np.sin(a) * dip))[None, :]
        + ((grid.ys() - below.plot.depth_m / 2) * (np.cos(a) * dip))[:, None]
    ).astype(np.float32)
    level = below.heights + bed
    u = level / np.float32(p.spacing_m)
    if p.uneven:
        wave = np.float32(p.uneven / 100)
        s = np.float32(p.seed * 1.7)
        bend = wave * (
            np.float32(0.22) * np.sin(u * np.float32(2.3) + s)
            + np.float32(0.13) * np.sin(u * np.float32(0.71) + s * 3)
        )
        bend = bend + wave * np.float32(0.16) * noise.fbm(
            grid, max(p.spacing_m * 6, 4 * grid.spacing), 4, seed=below.seed(p.seed)
        )
        u = u + bend
    k = np.floor(u)
    f = u - k
    power = np.float32(1 + 9 * (p.sharp / 100) ** 1.5)
    g = np.where(f < 0.5, 0.5 * (2 * f) ** power, 1 - 0.5 * (2 * (1 - f)) ** power)
    return below.heights + (k + g - u) * np.float32(p.spacing_m)
