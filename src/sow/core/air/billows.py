"""Noise in three dimensions that repeats, for what drifts in the air: clouds and mist."""

from functools import lru_cache

import numpy as np
from numba import njit, prange

SIDE = 64


@njit(cache=True, nogil=True, forceinline=True)
def hashed(x, y, z, seed):
    """A number of 32 bits from a place."""
    h = np.uint32(x) * np.uint32(374761393) + np.uint32(y) * np.uint32(668265263)
    h += np.uint32(z) * np.uint32(2246822519) + np.uint32(seed) * np.uint32(3266489917)
    h = (h ^ (h >> np.uint32(13))) * np.uint32(1274126177)
    h = (h ^ (h >> np.uint32(16))) * np.uint32(2654435769)
    return h ^ (h >> np.uint32(15))


@njit(cache=True, nogil=True)
def _gradient(x, y, z, cells, seed):
    """Gradient noise (Perlin 2002) that repeats after `cells`."""
    ix, iy, iz = int(np.floor(x)), int(np.floor(y)), int(np.floor(z))
    fx, fy, fz = x - ix, y - iy, z - iz
    u = fx * fx * fx * (fx * (fx * 6 - 15) + 10)
    v = fy * fy * fy * (fy * (fy * 6 - 15) + 10)
    w = fz * fz * fz * (fz * (fz * 6 - 15) + 10)
    total = 0.0
    for k in range(8):
        dx, dy, dz = k & 1, (k >> 1) & 1, k >> 2
        h = hashed((ix + dx) % cells, (iy + dy) % cells, (iz + dz) % cells, seed)
        a = (h & np.uint32(1023)) * (2 * np.pi / 1024)
        up = ((h >> np.uint32(10)) & np.uint32(1023)) / 511.5 - 1
        flat = np.sqrt(1 - up * up)
        dot = flat * np.cos(a) * (fx - dx) + flat * np.sin(a) * (fy - dy) + up * (fz - dz)
        total += dot * (u if dx else 1 - u) * (v if dy else 1 - v) * (w if dz else 1 - w)
    return total


@njit(cache=True, nogil=True)
def _cells(x, y, z, cells, seed):
    """1 at the middle of a cell, 0 far from any (Worley 1996), repeating after `cells`."""
    ix, iy, iz = int(np.floor(x)), int(np.floor(y)), int(np.floor(z))
    nearest = 4.0
    for dz in range(-1, 2):
        for dy in range(-1, 2):
            for dx in range(-1, 2):
                h = hashed((ix + dx) % cells, (iy + dy) % cells, (iz + dz) % cells, seed)
                px = ix + dx + (h & np.uint32(1023)) / 1024.0 - x
                py = iy + dy + ((h >> np.uint32(10)) & np.uint32(1023)) / 1024.0 - y
                pz = iz + dz + ((h >> np.uint32(20)) & np.uint32(1023)) / 1024.0 - z
                nearest = min(nearest, px * px + py * py + pz * pz)
    return 1 - min(1.0, np.sqrt(nearest))


@njit(cache=True, nogil=True, parallel=True)
def _fill(out, first, octaves, seed, celled):
    side = out.shape[0]
    for z in prange(side):
        for y in range(side):
            for x in range(side):
                value, amount, whole, cells = 0.0, 1.0, 0.0, first
                for o in range(octaves):
                    k = cells / side
                    if celled:
                        n = _cells(x * k, y * k, z * k, cells, seed + o)
                    else:
                        n = 0.5 + 0.75 * _gradient(x * k, y * k, z * k, cells, seed + o)
                    value += amount * n
                    whole += amount
                    amount *= 0.5
                    cells *= 2
                out[z, y, x] = value / whole


@lru_cache(maxsize=1)
def billows() -> np.ndarray:
    """Two fields of 0..1, float32 (2, side, side, side): soft heaps, and fine curls to eat at
    their rims. Each is levelled so that any share of it lies below that number.
    """
    soft, heaps, curls = (np.empty((SIDE,) * 3, np.float32) for _ in range(3))
    _fill(soft, 4, 4, 11, False)
    _fill(heaps, 4, 3, 23, True)
    _fill(curls, 8, 3, 37, True)
    return np.stack([_levelled(0.55 * soft + 0.45 * heaps), _levelled(curls)])


def _levelled(field: np.ndarray) -> np.ndarray:
    ranks = np.empty(field.size, np.float32)
    ranks[np.argsort(field, axis=None, kind="stable")] = np.linspace(0, 1, field.size)
    return ranks.reshape(field.shape)


@njit(cache=True, nogil=True, forceinline=True)
def at(field, x, y, z):
    """A field between its texels, repeating; one turn is 1. Its side is a power of two."""
    side = field.shape[0]
    last = side - 1
    x, y, z = x * side, y * side, z * side
    bx, by, bz = np.floor(x), np.floor(y), np.floor(z)
    fx, fy, fz = x - bx, y - by, z - bz
    ix, iy, iz = int(bx) & last, int(by) & last, int(bz) & last
    jx, jy, jz = (ix + 1) & last, (iy + 1) & last, (iz + 1) & last
    a = field[iz, iy, ix] * (1 - fx) + field[iz, iy, jx] * fx
    b = field[iz, jy, ix] * (1 - fx) + field[iz, jy, jx] * fx
    c = field[jz, iy, ix] * (1 - fx) + field[jz, iy, jx] * fx
    d = field[jz, jy, ix] * (1 - fx) + field[jz, jy, jx] * fx
    return (a * (1 - fy) + b * fy) * (1 - fz) + (c * (1 - fy) + d * fy) * fz


def level(field: np.ndarray, z: float) -> np.ndarray:
    """A field (side, side, side) cut at a height, float32 (side, side)."""
    side = len(field)
    below = int(np.floor(z * side))
    share = np.float32(z * side - below)
    return field[below % side] * (1 - share) + field[(below + 1) % side] * share


@njit(cache=True, nogil=True, forceinline=True)
def on(plane, x, y):
    """A plane of a field between its texels, repeating; one turn is 1."""
    side = plane.shape[0]
    last = side - 1
    x, y = x * side, y * side
    bx, by = np.floor(x), np.floor(y)
    fx, fy = x - bx, y - by
    ix, iy = int(bx) & last, int(by) & last
    jx, jy = (ix + 1) & last, (iy + 1) & last
    a = plane[iy, ix] * (1 - fx) + plane[iy, jx] * fx
    b = plane[jy, ix] * (1 - fx) + plane[jy, jx] * fx
    return a * (1 - fy) + b * fy
