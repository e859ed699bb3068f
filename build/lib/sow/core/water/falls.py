"""Where a stream falls rather than runs, the spray that stands at the foot of a fall, and the
foam that it beats up where it strikes a water.
"""

from dataclasses import dataclass

import numpy as np

from ..air.mist import Mist, broken, places, thickness
from .flow import FALLS

LEAST_M = 0.7  # a lower step raises no spray that would be seen
GAP_M = 1.5  # a ledge so short does not end a fall
MOST = 3  # of a scene, the highest: each is a mist of its own
BEATS_M = 1.5  # from so high on what falls beats up all the foam that there can be
SEEN_M = 26.0  # through the spray of a fall of one metre


@dataclass(frozen=True)
class Fall:
    """A fall: its foot (east, north, level in m) and how high it is (m)."""

    east: float
    north: float
    foot_m: float
    high_m: float


def falls_along(surface: np.ndarray) -> list[Fall]:
    """The falls of a stream by its surface: east, north, level in m, downstream, (n, 3)."""
    length = np.hypot(*np.diff(surface[:, :2], axis=0).T)
    steep = -np.diff(surface[:, 2]) >= FALLS[0] * np.maximum(length, 1e-9)
    at = np.concatenate([[0.0], np.cumsum(length)])
    found: list[tuple[int, int]] = []
    for i in np.flatnonzero(steep):
        if found and at[i] - at[found[-1][1]] <= GAP_M:
            found[-1] = (found[-1][0], int(i) + 1)
        else:
            found.append((int(i), int(i) + 1))
    falls = []
    for top, foot in found:
        east, north, level = (float(v) for v in surface[foot])
        high = float(surface[top, 2]) - level
        if high >= LEAST_M:
            falls.append(Fall(east, north, level, high))
    return falls


def spray_of(fall: Fall, width_m: float, amount: float, seed: int) -> Mist:
    """The spray at the foot of a fall of a stream so wide: thicker, wider and higher with its
    height. `amount` is 1 for what is usual.
    """
    half = 0.5 * width_m + 1.0 + 1.5 * fall.high_m**0.8
    bounds = (fall.east - half, fall.north - half, fall.east + half, fall.north + half)
    x, y = places(bounds)
    away = np.hypot(x - fall.east, y - fall.north) / half
    cover = np.clip(1 - away, 0, 1) ** 1.5
    cover = broken(cover, x, y, 0.35, 0.4 * half, seed, (0.0, 0.0))
    top = np.full(cover.shape, fall.foot_m + 0.4 + 0.6 * fall.high_m)
    soft = 0.3 + 0.45 * fall.high_m
    seen = SEEN_M / fall.high_m**0.4 / max(amount, 1e-3)
    return Mist(bounds, cover, top, fall.foot_m, soft, thickness(seen))


def boil_of(fall: Fall, width_m: float, amount: float) -> np.ndarray:
    """Where a fall of a stream so wide strikes a water: east, north, radius, level, how far its
    foam reaches (m), how much it is, float64 (6,). It grows with the speed of what arrives there.
    """
    strikes = np.sqrt(fall.high_m)
    radius = 0.3 * width_m + 0.25 * strikes
    whole = amount * min(fall.high_m / BEATS_M, 1.0)
    return np.array([fall.east, fall.north, radius, fall.foot_m, 0.3 + 0.6 * strikes, whole])
