"""Foam around what stands in the water: stones, stems, pieces; and where a fall strikes it.

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


def foaming(stands: np.ndarray, sea: Sea, amount: float) -> np.ndarray:
    """Discs (n, 4) with how far their foam reaches (m) and how much it is, (n, 6): none without
    waves.
    """
    whole = strength(sea) * amount
    told = np.broadcast_to([width_m(sea), whole], (len(stands), 2))
    return np.hstack([stands, told])[: len(stands) if whole > 0 else 0]


def collars(
    x: np.ndarray, y: np.ndarray, discs: np.ndarray, sea: Sea, seconds: float
) -> np.ndarray:
    """Foam 0..1 at places (m) around discs (east, north, radius, level, reach in m, amount)."""
    out = np.zeros(len(x), np.float32)
    if not len(x):
        return out
    places = np.column_stack([x, y])
    for reach in np.unique(discs[:, 4]):  # those that reach as far are asked together
        alike = discs[discs[:, 4] == reach]
        far = float(alike[:, 2].max()) + 4 * reach
        away, near = cKDTree(alike[:, :2]).query(places, k=1, distance_upper_bound=far)
        here = np.isfinite(away)
        disc = alike[near[here]]
        off = np.maximum(away[here] - disc[:, 2], 0)
        beat = 2 * np.pi * seconds / sea.period_s + own_beat(disc[:, 0], disc[:, 1])
        swell = 0.65 + 0.35 * np.sin(beat)
        foam = disc[:, 5] * swell * np.exp(-off / (reach * (0.6 + 0.4 * swell)))
        out[here] = np.maximum(out[here], np.clip(foam, 0, 1))
    return out
