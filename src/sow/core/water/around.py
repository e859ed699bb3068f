"""Foam around what stands in the water: stones, stems, pieces.

A collar that comes and goes with the waves, the same as in the view (web/src/view/collars.ts).
"""

import numpy as np
from scipy.spatial import cKDTree

from .spectrum import Sea

LEAST_M = 0.05  # radius below which a thing makes no foam
DEEPEST = 1.3  # depth over its foot's radius at which a stone is under water
MOST = 6000
HIGH_M = (0.01, 0.25)  # heights of waves from which on there is a collar, and all of it


def width_m(sea: Sea) -> float:
    """How far a collar reaches, m."""
    return 0.12 + 0.5 * min(sea.high_m, 1.2)


def strength(sea: Sea) -> float:
    """How much foam waves of such a height make, 0..1."""
    t = np.clip((sea.high_m - HIGH_M[0]) / (HIGH_M[1] - HIGH_M[0]), 0, 1)
    return float(t)


def own_beat(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Where in its wave a thing begins, radians."""
    return (np.asarray(x) * 1.7 + np.asarray(y) * 2.3) % (2 * np.pi)


def collars(
    x: np.ndarray, y: np.ndarray, stands: np.ndarray, sea: Sea, seconds: float, amount: float
) -> np.ndarray:
    """Foam 0..1 at places (m) around discs `stands` (east, north, radius in m; (n, 3) or more)."""
    out = np.zeros(len(x), np.float32)
    whole = strength(sea) * amount
    if not len(stands) or whole <= 0 or not len(x):
        return out
    wide = width_m(sea)
    far = float(stands[:, 2].max()) + 4 * wide
    tree = cKDTree(stands[:, :2])
    away, near = tree.query(np.column_stack([x, y]), k=1, distance_upper_bound=far)
    here = np.isfinite(away)
    disc = stands[near[here]]
    off = np.maximum(away[here] - disc[:, 2], 0)
    beat = 2 * np.pi * seconds / sea.period_s + own_beat(disc[:, 0], disc[:, 1])
    swell = 0.65 + 0.35 * np.sin(beat)
    out[here] = np.clip(whole * swell * np.exp(-off / (wide * (0.6 + 0.4 * swell))), 0, 1)
    return out
