"""Process: loose material laid over the land: sand, snow, peat."""

from typing import Any, Literal

import numpy as np
from pydantic import Field
from scipy.ndimage import gaussian_filter

from ..document.fields import bearing, length_m, percent, setting
from ..document.offers import Offer
from ..survey.slope import slope
from ..where import ramp
from .base import Below, Process, needs_land, processes

STAYS = {"sand": 30.0, "snow": 42.0, "peat": 14.0, "silt": 6.0}


class LayingDown(Process):
    kind: Literal["laying"] = "laying"
    of: Literal["sand", "snow", "peat", "silt"] = Field(
        "sand", title="Of", description="Sets how steep it may lie."
    )
    depth_m: float = setting(
        2, "Depth", "m", lo=0, hi=500, slider=(0, 40), step=0.1, help="On open level ground."
    )
    reach_m: float = length_m(
        "Hollows up to",
        40,
        lo=0.1,
        hi=5000,
        slider=(1, 500),
        help="Breadth of the hollows that it fills.",
    )
    fill: float = percent("Fill of hollows", 60)
    wind: float = percent("Drift", 0, help="How much the wind strips one side and heaps the other.")
    wind_from: float = bearing("Wind from", 270)


def _reach(p: LayingDown, scene: Any) -> float:
    """The mean about a place, the slope there, and the evening of what lies."""
    steep = 2 * max(scene.plot.support_m, p.reach_m * 0.25)
    return max(1.5 * p.reach_m, steep) + 0.3 * p.reach_m


@processes.add(
    LayingDown,
    reach=_reach,
    offers=[
        Offer(
            "laying",
            "Lay loose material",
            "sand, snow, peat",
            first=lambda c: {
                "depth_m": c.nice(max(0.05, c.reach * 0.0015)),
                "reach_m": c.nice(c.reach * 0.03),
            },
            name="Loose material",
            group="Wear and weather",
        )
    ],
    subtitle="{of}, {depth_m} m",
)
def rework(p: LayingDown, below: Below) -> np.ndarray:
    """Laid to `depth_m` on level ground, deeper in hollows, thin on crests, none on ground steeper
    than it can lie on.

    The map "laid by" hears of it. Hollows are measured against a Gaussian mean of the given reach.
    """
    needs_land(below)
    h, spacing = below.heights, below.grid.spacing
    sigma = p.reach_m / 2 / spacing
    mean = gaussian_filter(h, sigma, mode="nearest", truncate=3)
    hollow = mean - h
    depth = np.float32(p.depth_m)
    crest = ramp(hollow / np.float32(max(p.depth_m, 0.05)) + np.float32(0.6))
    stays = np.float32(STAYS[p.of])
    lies = ramp(
        (stays - slope(h, spacing, max(below.plot.support_m, p.reach_m * 0.25)))
        / (stays * np.float32(0.35))
    )
    laid = depth * crest + np.maximum(hollow, 0) * np.float32(p.fill / 100)
    if p.wind:
        a = np.deg2rad(p.wind_from)
        gy, gx = np.gradient(mean, spacing)
        facing = (gx * np.sin(a) - gy * np.cos(a)).astype(
            np.float32
        )  # above 0 where the ground rises towards the wind: the lee
        laid = laid * np.clip(1 + np.float32(p.wind / 100) * np.clip(facing * 4, -1, 1.5), 0, None)
    laid = gaussian_filter(laid * lies, min(sigma * 0.15, 3.0), mode="nearest")
    below.leave("laid", laid)
    return h + laid
