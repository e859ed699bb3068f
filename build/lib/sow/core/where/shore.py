"""Where: by height above the nearest water."""

from typing import Literal

import numpy as np
from scipy.ndimage import distance_transform_edt

from ..document.fields import length_m, setting
from .base import Band, condition
from .site import Site

FAR_M = 1e9  # above any band


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


def _about_water(site: Site) -> tuple[np.ndarray, np.ndarray] | None:
    """Distance to the nearest water and height above its level (m, float32); None where none is."""
    wet = (
        np.isfinite(site.water_m)
        if site.water_m is not None
        else np.zeros(site.heights.shape, bool)
    )
    if not wet.any():
        return None

    level = np.asarray(site.water_m)

    def measure() -> tuple[np.ndarray, np.ndarray]:
        far, (rows, cols) = distance_transform_edt(
            ~wet, sampling=site.grid.spacing, return_indices=True
        )
        return far.astype(np.float32), (site.heights - level[rows, cols]).astype(np.float32)

    return site.measure("shore", measure)


def _above(p: Shore, site: Site, path: str) -> np.ndarray:
    """Height above the nearest water; what lies too far from any is above every band."""
    found = _about_water(site)
    if found is None:
        return np.full(site.heights.shape, FAR_M, np.float32)
    far, above = found
    return np.where(far <= p.within_m, above, np.float32(FAR_M)).astype(np.float32)


@condition(
    Shore,
    stage="water",
    label="height above water",
    reach=lambda p, scene: p.within_m,
    measures=_above,
)
def answer(p: Shore, site: Site, path: str) -> np.ndarray:
    """1 within the band of height above the level of the nearest water, near enough to it."""
    found = _about_water(site)
    if found is None:
        return np.zeros(site.heights.shape, np.float32)
    far, above = found
    near = np.clip(2 - 2 * far / max(p.within_m, 1e-3), 0, 1)
    return p.band(above, p.low, p.high, p.soft) * near
