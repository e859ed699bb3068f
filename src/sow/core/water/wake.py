"""The wake of what moves through water: its bow wave, the trail behind it, waves to both sides.

The waves stand still as seen from what makes them (Kelvin 1887): along each line from the bow two
sets of them, which run aslant and across, within 19.5 degrees to either side. The view draws the
same (web/src/view/wakeShader.ts).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely import Polygon

from ..errors import SceneError
from .spectrum import GRAVITY

CUSP = 8**-0.5  # the tangent of Kelvin's angle
LEAST_MS = 0.3
STEP_M = 0.06  # over which slopes are taken


@dataclass(frozen=True)
class Wake:
    """A wake: bow east and north (m), bearing that it runs to (degrees), length and breadth at the
    waterline (m), speed (m/s); `of` the piece that makes it, by id, if any.
    """

    east: float
    north: float
    toward: float
    long_m: float
    broad_m: float
    speed_ms: float
    of: str = ""

    @property
    def high_m(self) -> float:
        """Height of the bow wave."""
        return min(0.04 * self.speed_ms**2 + 0.02, 0.13 * self.broad_m)

    def astern(self, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """How far places lie behind the bow and to its side, m."""
        b = np.deg2rad(self.toward)
        dx, dy = x - self.east, y - self.north
        return -(dx * np.sin(b) + dy * np.cos(b)), dx * np.cos(b) - dy * np.sin(b)

    def height(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """Height of its waves over places, m."""
        behind, aside = self.astern(x, y)
        s = np.maximum(behind, 0.05)
        slant = np.abs(aside) / s
        a = np.clip(slant, 1e-4, CUSP * 0.9999)
        root = np.sqrt(1 - 8 * a * a)
        fades = np.sqrt(self.long_m / (s + self.long_m)) * np.clip(behind / 0.4, 0, 1)
        length = 2 * np.pi * self.speed_ms**2 / GRAVITY
        over = np.maximum(slant - CUSP, 0) * s / (0.25 * length + 0.1)
        swells = np.minimum(np.maximum(1 - 8 * a * a, 1e-3) ** -0.25, 1.2)
        most = 2 * np.pi / (1.6 * self.broad_m)
        out = np.zeros(np.shape(x))
        for sign, strong in ((1.0, 0.6), (-1.0, 0.4)):
            tangent = (1 + sign * root) / (4 * a)
            cosine = 1 / np.sqrt(1 + tangent**2)
            k = GRAVITY / (self.speed_ms * cosine) ** 2
            phase = k * cosine * (s + np.abs(aside) * tangent)
            out += strong * np.exp(-((k / most) ** 2)) * np.cos(phase + np.pi / 4)
        return self.high_m * fades * swells * out * np.exp(-(over**2))

    def foam(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """Foam along its sides and in its trail, 0..1."""
        behind, aside = self.astern(x, y)
        off = np.abs(aside)
        along = np.clip(behind / self.long_m, 0, 1)
        half = 0.5 * self.broad_m * np.sqrt(np.clip(4 * along * (1 - 0.75 * along), 0, 1))
        beside = np.exp(-np.maximum(off - half, 0) / (0.08 * self.broad_m + 0.1))
        near = (behind > -0.3) & (behind < self.long_m * 1.02)
        hull = np.where(near, 0.85 * beside, 0.0)
        gone = np.maximum(behind - self.long_m, 0)
        wide = self.broad_m * (0.45 + 0.1 * gone**0.7)
        middle = np.clip((wide - off) / (0.4 * wide), 0, 1)
        trail = 1.6 * np.exp(-gone / (3 * self.speed_ms + 2)) * middle
        trail = np.where(behind >= self.long_m, trail, 0.0)
        return np.minimum(np.maximum(hull, trail), 1) * min(self.speed_ms / 1.5, 1.0)


def wakes_at(
    wakes: Sequence[Wake], x: np.ndarray, y: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Height (m), slope east and north, and foam 0..1 of wakes at places (m)."""
    high, east, north = (np.zeros(np.shape(x)) for _ in range(3))
    foam = np.zeros(np.shape(x))
    for wake in wakes:
        own = wake.height(x, y)
        high += own
        east += (wake.height(x + STEP_M, y) - own) / STEP_M
        north += (wake.height(x, y + STEP_M) - own) / STEP_M
        foam = np.maximum(foam, wake.foam(x, y))
    return high, east, north, foam


def wake_of(outline: np.ndarray, toward: float, speed_ms: float, path: str) -> Wake:
    """The wake of a drawn outline (n, 2) at the waterline. Raises SceneError where it crosses
    itself.
    """
    if not Polygon(outline).is_valid:
        raise SceneError(
            "The outline of the wake crosses itself.", path, "Draw it as a simple closed shape."
        )
    b = np.deg2rad(toward)
    ahead = outline @ (np.sin(b), np.cos(b))
    aside = outline @ (np.cos(b), -np.sin(b))
    middle = (aside.min() + aside.max()) / 2
    bow = ahead.max()
    east = bow * np.sin(b) + middle * np.cos(b)
    north = bow * np.cos(b) - middle * np.sin(b)
    long, broad = float(np.ptp(ahead)), float(np.ptp(aside))
    return Wake(float(east), float(north), toward, max(long, 0.2), max(broad, 0.1), speed_ms)
