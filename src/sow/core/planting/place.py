"""Placement: which points of the ground take a plant.

Candidates are hashed into the cells of a square lattice and thinned by a mask; of any two nearer than the
least distance the one with the lower hash gives way. The accepted set is that of random sequential adsorption,
so the number of candidates for a wanted density follows from its kinetics (Schaaf & Talbot, 1989). The rounds are
counted, so what decides a place lies within a known halo, and a tile computed alone equals the same tile of the whole.
"""
from functools import lru_cache

import numpy as np
from numba import njit, prange

from ..hashing import hash3, unit
from ..sample import bilinear_at

ROUNDS = 7
JAM = 0.547  # part of the plane covered by discs when no more fit
FULLEST = 0.86 * JAM  # the part aimed at, at most: beyond it candidates grow without bound

RARE = 0.02  # density times the least distance squared under which neighbours hardly ever compete


@lru_cache(1)
def _kinetics():
    """Coverage against time of random sequential adsorption of discs; time is candidates per disc area."""
    x = np.linspace(0, FULLEST / JAM, 4000)
    free = (1 + 0.812 * x + 0.4258 * x**2 + 0.0716 * x**3) * (1 - x) ** 3
    dt = JAM * np.diff(x) * 0.5 * (1 / free[1:] + 1 / free[:-1])
    return x * JAM, np.concatenate([[0], np.cumsum(dt)])


def densest(apart_m: float) -> float:
    """The greatest density (1/m²) that the least distance leaves room for."""
    return np.inf if apart_m <= 0 else FULLEST / (np.pi * apart_m**2 / 4)


def candidates(density: np.ndarray, apart_m: float) -> np.ndarray:
    """Density of candidates that gives the wanted density after competition (both 1/m²)."""
    if apart_m <= 0 or np.max(density) * apart_m**2 < RARE:
        return np.asarray(density, np.float64)
    disc = np.pi * apart_m**2 / 4
    covered, time = _kinetics()
    return np.interp(np.asarray(density) * disc, covered, time) / disc


@njit(cache=True, nogil=True, parallel=True)
def _count(counts, c0, r0, mean, seed, poisson):
    """Candidates per cell: Poisson where they compete (the kinetics assume it), else as even as can be."""
    for r in prange(counts.shape[0]):
        for c in range(counts.shape[1]):
            u = unit(hash3(c0 + c, r0 + r, seed))
            if poisson:
                k, p = 0, np.exp(-mean)
                while u >= p and k < 400:
                    u -= p
                    k += 1
                    p *= mean / k
                counts[r, c] = k
            else:
                counts[r, c] = int(mean + u)


@njit(cache=True, nogil=True, parallel=True)
def _fill(offsets, c0, r0, cell, seed, keep, field, e0, n0, inverse, top, rate, full, x, y, priority, alive):
    """A candidate stays with a chance of the wanted candidates over all; `rate` tables density share -> chance."""
    ny, nx = offsets.shape[0], offsets.shape[1] - 1
    steps = len(rate) - 1
    for r in prange(ny):
        for c in range(nx):
            for k in range(offsets[r, c], offsets[r, c + 1]):
                i = k - offsets[r, c]
                sx = seed + 1 + 4 * i
                px = (c0 + c + unit(hash3(c0 + c, r0 + r, sx))) * cell
                py = (r0 + r + unit(hash3(c0 + c, r0 + r, sx + 1))) * cell
                x[k], y[k] = px, py
                priority[k] = hash3(c0 + c, r0 + r, sx + 2)
                inside = px >= 0 and py >= 0 and px <= e0 and py <= n0
                chance = 1.0
                if keep and inside:
                    share = bilinear_at(field, (top - py) * inverse, px * inverse) * steps
                    j = min(max(int(share), 0), steps - 1)
                    chance = rate[j] + (share - j) * (rate[j + 1] - rate[j])
                alive[k] = inside and unit(hash3(c0 + c, r0 + r, sx + 3)) < chance


@njit(cache=True, nogil=True, inline="always")
def _beats(pa, xa, ya, pb, xb, yb):
    if pa != pb:
        return pa > pb
    return xa > xb or (xa == xb and ya > yb)


@njit(cache=True, nogil=True, parallel=True)
def _round(offsets, cell_of, active, x, y, priority, state, square, reach, accepting, flag):
    """Accepting: flag those undecided that beat all undecided within reach. Otherwise: flag those near an accepted one."""
    ny, nx = offsets.shape[0], offsets.shape[1] - 1
    for a in prange(len(active)):
        k = active[a]
        r, c = cell_of[k] // nx, cell_of[k] % nx
        hit = False
        for rr in range(max(r - reach, 0), min(r + reach + 1, ny)):
            s, e = offsets[rr, max(c - reach, 0)], offsets[rr, min(c + reach, nx - 1) + 1]
            for j in range(s, e):
                if j == k or state[j] != (0 if accepting else 1):
                    continue
                dx, dy = x[j] - x[k], y[j] - y[k]
                if dx * dx + dy * dy < square and (not accepting or _beats(
                        priority[j], x[j], y[j], priority[k], x[k], y[k])):
                    hit = True
                    break
            if hit:
                break
        flag[a] = not hit if accepting else hit


@njit(cache=True, nogil=True)
def _cells(offsets, cell_of):
    ny, nx = offsets.shape[0], offsets.shape[1] - 1
    for r in range(ny):
        for c in range(nx):
            for k in range(offsets[r, c], offsets[r, c + 1]):
                cell_of[k] = r * nx + c


def place(density: float, apart_m: float, seed: int, size_m: tuple[float, float], mask: np.ndarray | None = None,
          spacing: float = 1.0, bounds: tuple[float, float, float, float] | None = None):
    """Places for plants: east and north (m, float64) and a unique-ish hash (uint32) each, ordered by cell.

    `density` is plants per m² where the mask is 1; `apart_m` the least distance between any two; `mask` float32
    0..1 on posts of `spacing` over a plot of `size_m` (width, depth). `bounds` (west, south, east, north) gives one
    tile, equal to the same part of the whole.
    """
    width, depth = size_m
    west, south, east, north = bounds or (0.0, 0.0, width, depth)
    density = min(density, densest(apart_m))
    full = float(candidates(density, apart_m))
    if full <= 0:
        empty = np.empty(0)
        return empty, empty.copy(), np.empty(0, np.uint32)
    cell = max(apart_m, np.sqrt(1.0 / full))
    halo = 2 * ROUNDS * apart_m + cell if apart_m > 0 else cell
    c0, r0 = int(np.floor(max(west - halo, 0) / cell)), int(np.floor(max(south - halo, 0) / cell))
    c1 = int(np.floor(min(east + halo, width) / cell)) + 1
    r1 = int(np.floor(min(north + halo, depth) / cell)) + 1
    counts = np.empty((r1 - r0, c1 - c0), np.int64)
    _count(counts, c0, r0, full * cell * cell, seed, density * apart_m**2 >= RARE)
    offsets = np.zeros((r1 - r0, c1 - c0 + 1), np.int64)
    flat = np.concatenate([[0], np.cumsum(counts.ravel())])
    offsets[:, :-1] = flat[:-1].reshape(counts.shape)
    offsets[:, -1] = flat[counts.shape[1]::counts.shape[1]]
    n = int(flat[-1])
    x, y, priority, alive = np.empty(n), np.empty(n), np.empty(n, np.uint32), np.empty(n, np.bool_)
    rate = candidates(density * np.linspace(0, 1, 257), apart_m) / full
    field = np.ones((2, 2), np.float32) if mask is None else mask
    _fill(offsets, c0, r0, cell, seed, mask is not None, field, width, depth, 1 / spacing,
          (field.shape[0] - 1) * spacing, rate, full, x, y, priority, alive)
    if apart_m > 0:
        state = np.where(alive, 0, 2).astype(np.uint8)
        cell_of = np.empty(n, np.int64)
        _cells(offsets, cell_of)
        active = np.flatnonzero(alive)
        for _ in range(ROUNDS):
            for accepting in (True, False):
                flag = np.empty(len(active), np.bool_)
                _round(offsets, cell_of, active, x, y, priority, state, apart_m**2, 1, accepting, flag)
                state[active[flag]] = 1 if accepting else 2
                active = active[~flag]
            if not len(active):
                break
        alive = state == 1
    if bounds:
        alive &= (x >= west) & (y >= south) & (x < east) & (y < north)
    return x[alive], y[alive], priority[alive]
