"""Where: by height above the nearest water."""

from typing import Literal

import numpy as np
from scipy.ndimage import distance_transform_edt

from ..document.fields import length_m, setting
from .base import Band, condition
from .site import Site


class Shore(Band):
    kind: Literal["shore"] = "shore"
    low: float = setting(
        0,
        "From",
        "m",
        lo=-500,
        hi=500,
        slider=(-5, 10),
        step=0.1,
        help="Height above the nearest water; below 0 is under it.",
    )
    high: float = setting(2, "To", "m", lo=-500, hi=500, slider=(-5, 10), step=0.1)
    soft: float = setting(0.5, "Softness", "m", lo=0, hi=100, slider=(0, 5), step=0.05)
    within_m: float = length_m(
        "Within", 40, lo=0, slider=(1, 500), help="Counts only this near to the water."
    )


@condition(Shore, stage="water", label="height above water", reach=lambda p, scene: p.within_m)
def answer(p: Shore, site: Site, path: str) -> np.ndarray:
    """1 within the band of height above the level of the nearest water, near enough to it."""
    wet = (
        np.isfinite(site.water_m)
        if site.water_m is not None
        else np.zeros(site.heights.shape, bool)
    )
    if not wet.any():
        return np.zeros(site.heights.shape, np.float32)

    level = np.asarray(site.water_m)

    def measure() -> tuple[np.ndarray, np.ndarray]:
        far, (rows, cols) = distance_transform_edt(
            ~wet, sampling=site.grid.spacing, return_indices=True
        )
        return far.astype(np.float32), (site.heights - level[rows, cols]).astype(np.float32)

    far, above = site.measure("shore", measure)
    near = np.clip(2 - 2 * far / max(p.within_m, 1e-3), 0, 1)
    return p.band(above, p.low, p.high, p.soft) * near
