"""How waves come to the shore: the time that they take to it, everywhere.

A wave front keeps its time while it slows with the depth, so that it turns towards the shore by
itself: the time to the nearest shore solves the eikonal equation |grad T| = 1 / c with c the speed
of the highest waves in water so deep, found by fast sweeping (Zhao 2005).
"""

import numpy as np
from numba import njit
from scipy.ndimage import gaussian_filter

from .spectrum import GRAVITY, Sea, wave_number

FAR_S = 1e6
ROUNDS = 4  # of four sweeps; enough for a shore that winds


@njit(cache=True, nogil=True)
def _swept(time, slow, wet, step):
    ny, nx = time.shape
    for turn in range(4 * ROUNDS):
        way = turn % 4
        for i in range(ny):
            r = i if way < 2 else ny - 1 - i
            for j in range(nx):
                c = j if way % 2 == 0 else nx - 1 - j
                if not wet[r, c]:
                    continue
                a = min(time[r - 1, c] if r else 1e6, time[r + 1, c] if r < ny - 1 else 1e6)
                b = min(time[r, c - 1] if c else 1e6, time[r, c + 1] if c < nx - 1 else 1e6)
                f = slow[r, c] * step
                gap = abs(a - b)
                t = min(a, b) + f if gap >= f else (a + b + np.sqrt(2 * f * f - gap * gap)) / 2
                if t < time[r, c]:
                    time[r, c] = t


def speed(deep_m: np.ndarray, sea: Sea) -> np.ndarray:
    """How fast the highest waves of a sea run over depths (m), m/s: sqrt(g h) on shallow ones."""
    deep = np.maximum(deep_m, 1e-3)
    return sea.peak / np.maximum(wave_number(sea.peak, deep), 1e-9)


def shore_time(deep_m: np.ndarray, sea: Sea, spacing_m: float) -> np.ndarray:
    """Seconds that the highest waves take from each wet post to the shore, float32 (ny, nx): less
    than nothing on land, by how far it lies from the water; FAR_S where there is no shore.

    `deep_m` is the water's depth, negative on land. The line where the depth is nothing lies
    between posts, and so does the time's.
    """
    wet = deep_m > 0
    least = max(0.04, 0.1 * sea.high_m)
    slow = 1 / speed(np.maximum(deep_m, least), sea)
    time = _from_line(deep_m, slow, spacing_m)
    if wet.any() and not wet.all():
        # on land as well from the line itself: counted from posts, foam would end along their rows
        shallow = np.full(deep_m.shape, 1 / np.sqrt(GRAVITY * least))
        time = np.where(wet, time, -_from_line(-deep_m, shallow, spacing_m))
        time[deep_m == 0] = 0
    return time.astype(np.float32)


def _from_line(deep: np.ndarray, slow: np.ndarray, step: float) -> np.ndarray:
    """Seconds from the line where `deep` comes to nothing to each post where it is more, `slow` (s
    a metre) being how long a metre takes there; FAR_S where there is no line.
    """
    time = np.full(deep.shape, FAR_S)
    edge = _to_line(deep, step)
    begun = np.isfinite(edge)
    time[begun] = (edge * slow)[begun]
    _swept(time, slow, deep > 0, step)
    return time


def _to_line(deep: np.ndarray, step: float) -> np.ndarray:
    """Metres from each post with a depth to where it comes to nothing towards one without."""
    out = np.full(deep.shape, np.inf)
    across = np.full((4, *deep.shape), np.inf)
    for i, (axis, way) in enumerate(((0, 1), (0, -1), (1, 1), (1, -1))):
        beside = np.roll(deep, way, axis)
        edge = np.take(beside, [0 if way > 0 else -1], axis)
        edge.fill(np.inf)
        dry = beside <= 0
        dry[tuple(slice(None) if a != axis else (0 if way > 0 else -1) for a in (0, 1))] = False
        share = deep / np.maximum(deep - beside, 1e-9)
        across[i] = np.where((deep > 0) & dry, share * step, np.inf)
    # towards both a row and a column the line runs aslant
    down, side = across[:2].min(0), across[2:].min(0)
    both = np.isfinite(down) & np.isfinite(side)
    with np.errstate(invalid="ignore"):
        slant = down * side / np.maximum(np.hypot(down, side), 1e-9)
    np.minimum(down, side, out=out)
    return np.where(both, slant, out)


def facing(time: np.ndarray, sea: Sea, spacing_m: float) -> np.ndarray:
    """How far each shore lies open to the waves' own direction, 0.15..1, float32 (ny, nx)."""
    wet = (time > 0) & (time < FAR_S / 2)
    filled = np.where(wet, np.minimum(time, 400.0), 0.0)
    down, across = np.gradient(filled)
    east, north = -across, down  # towards the shore
    long = np.maximum(np.hypot(east, north), 1e-9)
    b = np.deg2rad(sea.toward)
    along = (east * np.sin(b) + north * np.cos(b)) / long
    wide = max(1.0, sea.long_m / spacing_m)
    weight = gaussian_filter(wet.astype(np.float32), wide)
    mean = gaussian_filter(np.where(wet, along, 0).astype(np.float32), wide)
    mean /= np.maximum(weight, 1e-3)
    return (0.15 + 0.85 * np.clip(0.5 + 0.75 * mean, 0, 1)).astype(np.float32)
