"""Mist as volumes: how much of it lies where, and how deep it is along a way."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from .billows import billows
from .light import KOSCHMIEDER

SIDE = 128  # posts of a mist's own map
STEPS = 14  # of a way through it; the view takes as many


@dataclass(frozen=True)
class Mist:
    """One mist over a rectangle (west, south, east, north in m): its cover 0..1 and the height of
    its top (m) on SIDE by SIDE posts, row 0 north; its base (m), over how much it thins at its top
    (m), and its extinction where it is full (1/m).
    """

    bounds: tuple[float, float, float, float]
    cover: np.ndarray
    top: np.ndarray
    base_m: float
    soft_m: float
    k: float

    def packed(self) -> np.ndarray:
        """As the kernel reads it, float64."""
        return np.array([*self.bounds, self.base_m, self.soft_m, self.k])

    def map(self) -> np.ndarray:
        """Cover and top together, float32 (SIDE, SIDE, 2)."""
        return np.stack([self.cover, self.top], -1).astype(np.float32)


def places(bounds: tuple[float, float, float, float]) -> tuple[np.ndarray, np.ndarray]:
    """East and north of the posts of a mist's map, each (SIDE, SIDE)."""
    west, south, east, north = bounds
    x = np.linspace(west, east, SIDE)
    y = np.linspace(north, south, SIDE)
    return np.broadcast_to(x, (SIDE, SIDE)), np.broadcast_to(y[:, None], (SIDE, SIDE))


def thickness(seen_m: float) -> float:
    """Extinction (1/m) of a mist through which one sees so far."""
    return KOSCHMIEDER / seen_m


def broken(
    cover: np.ndarray,
    x: np.ndarray,
    y: np.ndarray,
    share: float,
    size_m: float,
    seed: int,
    drift: tuple[float, float],
) -> np.ndarray:
    """A cover with holes of some size where `share` (0..1) of it is gone, moved by `drift` (m)."""
    if share <= 0:
        return cover
    soft, curls = billows()
    side = soft.shape[0]
    z = (seed * 7) % side
    f = side / (size_m * 5)
    at = lambda field, k: _sampled(field[z], (x - drift[0]) * f * k, (y - drift[1]) * f * k)
    noise = 0.7 * at(soft, 1.0) + 0.3 * at(curls, 1.7)
    return cover * np.clip((noise - share * 0.9) / 0.35 + 0.5, 0, 1)


def _sampled(layer: np.ndarray, u: np.ndarray, v: np.ndarray) -> np.ndarray:
    side = layer.shape[0]
    i, j = np.floor(v).astype(int), np.floor(u).astype(int)
    fr, fc = v - i, u - j
    i, j = i % side, j % side
    down, right = (i + 1) % side, (j + 1) % side
    upper = layer[i, j] * (1 - fc) + layer[i, right] * fc
    lower = layer[down, j] * (1 - fc) + layer[down, right] * fc
    return upper * (1 - fr) + lower * fr


@njit(cache=True, nogil=True)
def mist_depth(maps, packs, ex, ey, ez, px, py, pz):
    """Optical depth of all mists between an eye and a place (m)."""
    total = 0.0
    dx, dy, dz = px - ex, py - ey, pz - ez
    whole = np.sqrt(dx * dx + dy * dy + dz * dz)
    if whole < 1e-6:
        return 0.0
    side = maps.shape[1]
    for m in range(len(packs)):
        p = packs[m]
        a, b = 0.0, 1.0
        for axis in range(2):
            d, at = (dx, ex) if axis == 0 else (dy, ey)
            low, high = p[axis], p[axis + 2]
            if abs(d) < 1e-9:
                if at < low or at > high:
                    b = -1.0
                continue
            t0, t1 = (low - at) / d, (high - at) / d
            a, b = max(a, min(t0, t1)), min(b, max(t0, t1))
        if b <= a:
            continue
        step = (b - a) / STEPS
        for s in range(STEPS):
            t = a + (s + 0.5) * step
            x, y, z = ex + dx * t, ey + dy * t, ez + dz * t
            u = (x - p[0]) / (p[2] - p[0]) * (side - 1)
            v = (p[3] - y) / (p[3] - p[1]) * (side - 1)
            i, j = min(int(v), side - 2), min(int(u), side - 2)
            fr, fc = v - i, u - j
            cover = (maps[m, i, j, 0] * (1 - fc) + maps[m, i, j + 1, 0] * fc) * (1 - fr) + (
                maps[m, i + 1, j, 0] * (1 - fc) + maps[m, i + 1, j + 1, 0] * fc
            ) * fr
            top = (maps[m, i, j, 1] * (1 - fc) + maps[m, i, j + 1, 1] * fc) * (1 - fr) + (
                maps[m, i + 1, j, 1] * (1 - fc) + maps[m, i + 1, j + 1, 1] * fc
            ) * fr
            above = min(1.0, max(0.0, (top - z) / p[5]))
            below = min(1.0, max(0.0, (z - p[4]) / p[5] + 0.5))
            total += cover * above * above * (3 - 2 * above) * below * p[6] * step * whole
    return total


def packed(mists: list[Mist]) -> tuple[np.ndarray, np.ndarray]:
    """Maps and packs of all mists, as `mist_depth` takes them."""
    maps = np.zeros((len(mists), SIDE, SIDE, 2), np.float32)
    packs = np.zeros((len(mists), 7))
    for i, mist in enumerate(mists):
        maps[i], packs[i] = mist.map(), mist.packed()
    return maps, packs
