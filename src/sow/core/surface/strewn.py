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

Fields = tuple[tuple[float, float, int], ...]


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


@njit(cache=True, forceinline=True)
def _sampled(levels, u, v, lod, channel):
    level = min(max(int(lod + 0.5), 0), levels.shape[0] - 1)
    x, y = u * SIDE - 0.5, v * SIDE - 0.5
    left, top = np.floor(x), np.floor(y)
    fx, fy = x - left, y - top
    j0, i0 = np.int64(left) & (SIDE - 1), np.int64(top) & (SIDE - 1)
    j1, i1 = (j0 + 1) & (SIDE - 1), (i0 + 1) & (SIDE - 1)
    upper = levels[level, i0, j0, channel] * (1 - fx) + levels[level, i0, j1, channel] * fx
    lower = levels[level, i1, j0, channel] * (1 - fx) + levels[level, i1, j1, channel] * fx
    return upper * (1 - fy) + lower * fy


@njit(cache=True, forceinline=True)
def _never_twice(levels, shifts, px, py, size, lod, channel):
    """One field at a place that is bent already; its repeats pass from shift to shift."""
    qx, qy = px / size, py / size
    l = max(lod - np.log2(size), 0.0)
    k = _sampled(levels, qy * 0.217 + 0.37, qx * 0.217 + 0.37, max(l - 2.2, 0.0), 2) * 9.0
    i = int(k)
    f = min(max((k - i - 0.15) / 0.7, 0.0), 1.0)
    a = 0.0
    if f < 1:
        a = _sampled(levels, qx + shifts[i, 0], qy + shifts[i, 1], l, channel)
    if f <= 0:
        return a
    f = f * f * (3 - 2 * f)
    b = _sampled(levels, qx + shifts[i + 1, 0], qy + shifts[i + 1, 1], l, channel)
    return a * (1 - f) + b * f


@njit(cache=True, nogil=True, parallel=True)
def _strewn(levels, shifts, x, y, fields, lod, out):
    for n in prange(len(out)):
        px = x[n] + (_sampled(levels, y[n] / 1270.0, x[n] / 1270.0, 4.0, 0) - 0.47) * 130.0
        py = y[n] + (_sampled(levels, y[n] / 1270.0, x[n] / 1270.0, 4.0, 1) - 0.47) * 130.0
        total = 0.0
        for k in range(len(fields)):
            size, part, channel = fields[k, 0], fields[k, 1], int(fields[k, 2])
            total += part * _never_twice(levels, shifts, px, py, size, lod, channel)
        out[n] = total


@njit(cache=True, nogil=True, parallel=True)
def _plain(levels, u, v, lod, channel, out):
    for n in prange(len(out)):
        out[n] = _sampled(levels, u[n], v[n], lod, channel)


@lru_cache(1)
def _shifts() -> np.ndarray:
    """Where each of ten repeats lies, in repeats (steps, 2)."""
    step = np.arange(11.0)
    return np.stack([np.sin(3.1 * step), np.sin(7.3 * step)], 1)


def strewn_of(x: np.ndarray, y: np.ndarray, fine_m: float, fields: Fields) -> np.ndarray:
    """The sum of fields of the noise over places in m, float32 (n,): each by how many m across its
    picture is, its part of the sum, and its channel (after Quilez 2015: never twice the same).
    `fine_m` is the smallest thing that is to show.
    """
    out = np.empty(len(x), np.float32)
    lod = float(np.log2(max(fine_m, 1e-4) * SIDE))
    _strewn(noise_levels(), _shifts(), x, y, np.array(fields, np.float64), lod, out)
    return out


def strewn(x: np.ndarray, y: np.ndarray, size_m: float, fine_m: float, channel: int) -> np.ndarray:
    """One field of the noise over places in m, 0..1, float32 (n,)."""
    return strewn_of(x, y, fine_m, ((size_m, 1.0, channel),))


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
    field = strewn_of(e, n, fine_m, PATCHES)
    # the logistic curve that lies nearest to the normal distribution (Camilli 1994)
    return 1 / (1 + np.exp(-1.702 * (field - MEAN) / DEVIATION))
