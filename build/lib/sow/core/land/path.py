"""Process: a path laid along a line."""

from typing import Literal

import numpy as np
from scipy.ndimage import gaussian_filter1d

from ..document.entry import at_place
from ..document.fields import length_m, percent, setting
from ..document.offers import Offer
from ..marks.shapes import near
from ..where import ramp
from .base import Below, processes
from .line import Along, followed, profile


class Path(Along):
    kind: Literal["path"] = "path"
    width_m: float = length_m("Width", 2, hi=500, slider=(0.3, 30))
    bank_m: float = setting(
        3,
        "Banks",
        "m",
        lo=0,
        hi=2000,
        slider=(0, 60),
        help="To either hand, over which it meets the land.",
    )
    even_m: float = setting(
        20,
        "Evened over",
        "m",
        lo=0,
        hi=5000,
        slider=(0, 200),
        help="Rises and dips shorter than this are taken out of its way.",
    )
    fall: float = percent(
        "Cross fall", 2, lo=-50, hi=50, slider=(-15, 15), help="To the right; below 0 to the left."
    )
    lift_m: float = setting(
        0,
        "Lift",
        "m",
        lo=-200,
        hi=200,
        slider=(-5, 5),
        step=0.05,
        help="Above 0 a causeway, below a hollow way.",
    )


@processes.add(
    Path,
    reach=at_place,
    offers=[
        Offer(
            "path",
            "Path along a line",
            "",
            first=lambda c: {"mark": c.mark("line")},
            name="Path",
            group="Along a line",
            lists=("land",),
        )
    ],
    subtitle="{width_m} m wide",
)
def rework(p: Path, below: Below) -> np.ndarray:
    """The land drawn to the evened height of the line, level across but for its fall, within its
    width; beyond it over the banks.
    """
    points = followed(p, below)
    z = profile(points, below)
    step = max(float(np.hypot(*np.diff(points, axis=0).T).mean()), 1e-6)
    z = gaussian_filter1d(z, max(p.even_m / 2 / step, 1e-3), mode="nearest") if p.even_m else z
    half = p.width_m / 2
    away, along, side = near(points, below.grid, half + p.bank_m + below.grid.spacing)
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    bed = (
        np.interp(along, length, z).astype(np.float32)
        + np.float32(p.lift_m)
        - np.minimum(away, half) * side * np.float32(p.fall / 100)
    )
    hold = ramp(1 - 2 * np.clip((away - half) / max(p.bank_m, below.grid.spacing * 0.5), 0, 1))
    return below.heights + hold * (bed - below.heights)
