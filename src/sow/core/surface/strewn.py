"""Slow changes over the ground that never come back in rows: the same as in the view
(web/src/view/noiseTexture.ts and groundLook.ts).
"""

from functools import lru_cache

import cv2
import numpy as np
from numba import njit, prange

SIDE = 256
OCTAVES = (8, 16, 32, 64)  # cells a side
WHOLE = 1.03  # what the octaves' strengths come to
LEVELS = 7
PATCHES = ((17.0, 0.3, 2), (61.0, 0.4, 0), (230.0, 0.3, 1))  # repeat in m, part, channel
MEAN, DEVIATION = 0.494, 0.067  # of the sum of these
APART_M = 1733.0  # between two patterns


def _hash(x: np.ndarray, y: np.ndarray, c: int) -> np.ndarray:
    h = x * np.uint32(374761393) ^ y * np.uint32(668265263)
    h = h ^ np.uint32((c + 1) * 2147483570 & 0xFFFFFFFF)
    h = (h ^ (h >> np.uint32(13))) * np.uint32(1274126177)
    return (h ^ (h >> np.uint32(16))).astype(np.float64) / 4294967295


@lru_cache(1)
def noise_levels() -> np.ndarray:
    """Four fields of value noise in four octaves, 0..1, and the same ever coarser, each blown up to
    the first one's size: float32 (LEVELS, SIDE, SIDE, 4).
    """
    out = np.zeros((SIDE, SIDE, 4), np.float32)
    with np.errstate(over="ignore"):
        for channel in range(4):
            for k, cells in enumerate(OCTAVES):
                i = np.arange(cells, dtype=np.uint32)
                corners = _hash(i[None, :], i[:, None], channel * 7 + cells)
                wide = SIDE // cells
                within = np.arange(SIDE) % wide / wide
                t = within * within * (3 - 2 * within)
                column = np.arange(SIDE) // wide
                after = (column + 1) % cells
                across = corners[:, column] * (1 - t) + corners[:, after] * t
                field = across[column] * (1 - t[:, None]) + across[after] * t[:, None]
                out[..., channel] += 0.55 * 0.5**k * field
    out = np.floor(np.clip(out / WHOLE * 255, 0, 255)) / 255
    levels = [out.astype(np.float32)]
    for k in range(1, LEVELS):
        small = cv2.resize(levels[0], (SIDE >> k,) * 2, interpolation=cv2.INTER_AREA)
        wrapped = np.pad(small, ((1, 1), (1, 1), (0, 0)), mode="wrap")
        blown = cv2.resize(wrapped, None, fx=1 << k, fy=1 << k, interpolation=cv2.INTER_LINEAR)
        edge = 1 << k
        levels.append(blown[edge:-edge, edge:-edge].astype(np.float32))
    return np.ascontiguousarray(np.stack(levels))


@njit(cache=True, inline="always")
def _sampled(levels, u, v, lod, channel):
    level = min(max(int(lod + 0.5), 0), levels.shape[0] - 1)
    side = levels.shape[1]
    x, y = u * side - 0.5, v * side - 0.5
    i, j = int(np.floor(y)), int(np.floor(x))
    fy, fx = y - i, x - j
    i0, j0 = i % side, j % side
    i1, j1 = (i + 1) % side, (j + 1) % side
    upper = levels[level, i0, j0, channel] * (1 - fx) + levels[level, i0, j1, channel] * fx
    lower = levels[level, i1, j0, channel] * (1 - fx) + levels[level, i1, j1, channel] * fx
    return upper * (1 - fy) + lower * fy


@njit(cache=True, nogil=True, parallel=True)
def _strewn(levels, x, y, size, lod, channel, out):
    for n in prange(len(out)):
        px = x[n] + (_sampled(levels, y[n] / 1270.0, x[n] / 1270.0, 4.0, 0) - 0.47) * 130.0
        py = y[n] + (_sampled(levels, y[n] / 1270.0, x[n] / 1270.0, 4.0, 1) - 0.47) * 130.0
        qx, qy = px / size, py / size
        l = max(lod - np.log2(size), 0.0)
        k = _sampled(levels, qy * 0.217 + 0.37, qx * 0.217 + 0.37, max(l - 2.2, 0.0), 2) * 9.0
        i = np.floor(k)
        f = min(max((k - i - 0.15) / 0.7, 0.0), 1.0)
        f = f * f * (3 - 2 * f)
        a = _sampled(levels, qx + np.sin(3.1 * i), qy + np.sin(7.3 * i), l, channel)
        b = _sampled(levels, qx + np.sin(3.1 * (i + 1)), qy + np.sin(7.3 * (i + 1)), l, channel)
        out[n] = a * (1 - f) + b * f


@njit(cache=True, nogil=True, parallel=True)
def _plain(levels, u, v, lod, channel, out):
    for n in prange(len(out)):
        out[n] = _sampled(levels, u[n], v[n], lod, channel)


def strewn(x: np.ndarray, y: np.ndarray, size_m: float, fine_m: float, channel: int) -> np.ndarray:
    """A field of the noise over places in m, 0..1, float32 (n,): its picture `size_m` across but
    never twice the same (after Quilez 2015). `fine_m` is the smallest thing that is to show.
    """
    out = np.empty(len(x), np.float32)
    lod = float(np.log2(max(fine_m, 1e-4) * SIDE))
    _strewn(noise_levels(), x, y, size_m, lod, channel, out)
    return out


def sampled(u: np.ndarray, v: np.ndarray, channel: int, lod: float = 0.0) -> np.ndarray:
    """A field of the noise at places in its own repeats, float32 (n,)."""
    out = np.empty(len(u), np.float32)
    _plain(noise_levels(), u, v, lod, channel, out)
    return out


def ranks(x: np.ndarray, y: np.ndarray, fine_m: float, pattern: int) -> np.ndarray:
    """How late a place is taken by patches of some metres, evenly spread over 0..1, float32 (n,);
    each `pattern` has patches of its own.
    """
    e, n = x + APART_M * pattern, y - APART_M * pattern
    field = sum(part * strewn(e, n, size, fine_m, channel) for size, part, channel in PATCHES)
    # the logistic curve that lies nearest to the normal distribution (Camilli 1994)
    return 1 / (1 + np.exp(-1.702 * (field - MEAN) / DEVIATION))
