"""Ice on standing water: it grows from the shore, thin and dark where it is young, with cracks,
bubbles and snow. The view draws the same (web/src/view/iceShader.ts).
"""

import numpy as np
from scipy.ndimage import distance_transform_edt

from ..surface.strewn import sampled
from .entry import Water

THIN = 0.3  # of the thickness at the shore, where the ice ends
GREY_M = 0.9  # thickness at which ice is as grey as it gets
SNOW = 0.86  # what snow throws back of the light


def thickness(water: Water, wet: np.ndarray, spacing_m: float) -> np.ndarray:
    """How thick the ice is on each post, m, float32 (ny, nx): `ice_cm` at the shore, less farther
    out, and none beyond the share of the way to the middle that is `frozen`.
    """
    if water.frozen <= 0 or not wet.any():
        return np.zeros(wet.shape, np.float32)
    # what lies off the plot is water too
    away = distance_transform_edt(np.pad(wet, 1, mode="edge"), sampling=spacing_m)[1:-1, 1:-1]
    reach = float(away.max()) * water.frozen / 100
    left = np.clip(1 - away / max(reach, 1e-6), 0, 1)
    if water.frozen >= 100:
        left = np.maximum(left, 1e-3)
    thick = np.where(left > 0, THIN + (1 - THIN) * left, 0) * water.ice_cm / 100
    beside = ~wet  # carried on over the land beside it, so that it ends at the ground
    return np.where(beside, water.ice_cm / 100, thick).astype(np.float32)


def _smooth(low: float, high: float, x: np.ndarray) -> np.ndarray:
    t = np.clip((x - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def ice_at(
    x: np.ndarray, y: np.ndarray, thick: np.ndarray, water: Water
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Whether places (m) are frozen, how white their ice is, and how much of that is snow; all
    0..1, by the ice's thickness there (m).
    """
    of = lambda size, channel: sampled(x / size, y / size, channel)
    frays = 0.5 * water.ice_cm / 100 * (of(9.0, 1) - 0.47)
    frozen = _smooth(0.0, 0.06 * water.ice_cm / 100, thick + np.where(thick > 0, frays, 0))
    bx, by = 0.4 * of(3.7, 0), 0.4 * of(3.7, 1)
    crack = lambda size, channel: np.abs(
        2 * sampled((x + bx) / size, (y + by) / size, channel) - 0.94
    )
    cracks = np.maximum(
        1 - _smooth(0.0, 0.012, crack(53.0, 0)), 0.7 * (1 - _smooth(0.0, 0.016, crack(19.0, 1)))
    )
    bubbles = _smooth(0.6, 0.7, of(0.9, 2)) * _smooth(0.45, 0.6, of(6.3, 3))
    # snow lies in broad fields, and in drifts that the wind has drawn out
    along, across = 0.825 * x + 0.565 * y, 0.825 * y - 0.565 * x
    broad = sampled((0.825 * x - 0.565 * y) / 171.0, (0.565 * x + 0.825 * y) / 171.0, 3)
    drift = 0.4 * broad + 0.38 * sampled(along / 93.0, across / 31.0, 2) + 0.22 * of(5.3, 0)
    bare = 0.78 - 0.6 * water.snow / 100
    snow = _smooth(bare, bare + 0.09, drift) if water.snow > 0 else np.zeros(len(x), np.float32)
    grey = 0.34 * np.clip(thick / GREY_M, 0, 1)
    white = np.maximum(grey, water.cracks / 100 * np.maximum(0.75 * cracks, 0.5 * bubbles))
    return frozen, np.maximum(white, snow) * frozen, snow * frozen
