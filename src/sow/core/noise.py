"""Gradient noise on a grid (Perlin 1985, 2002), in the same shape at every spacing.

`fbm` sums octaves (Mandelbrot's fractional Brownian motion as used by Musgrave 1989); `ridged` is the
ridged multifractal of Musgrave (1994). Octaves shorter than the grid can carry fade out softly.
A row's lattice columns are folded in y first, so that a post costs four multiply-adds an octave.
"""
import numpy as np
from numba import njit, prange

from .hashing import hash3, u32
from .plot import Grid

_ANGLES = np.arange(256) * (2 * np.pi / 256)
GRADIENTS = np.stack([np.cos(_ANGLES), np.sin(_ANGLES)], 1).astype(np.float32)
OCTAVE_SD = 0.2190  # standard deviation of one octave, measured
_FBM, _RIDGED = 0, 1


@njit(cache=True, nogil=True, inline="always")
def _fade(f):
    return f * f * f * (f * (f * np.float32(6) - np.float32(15)) + np.float32(10))


@njit(cache=True, nogil=True, parallel=True)
def _grid_kernel(out, ys, cols, fracs, fades, starts, first, counts, inverse, shift, seeds, amps, mode, gain, grads):
    ny, nx = out.shape
    octaves = len(seeds)
    one, zero = np.float32(1), np.float32(0)
    widest = counts.max() + 2
    for block in prange((ny + 31) // 32):
        a = np.empty(widest, np.float32)
        b = np.empty(widest, np.float32)
        row = np.empty(nx, np.float32)
        weight = np.empty(nx, np.float32)
        for r in range(block * 32, min(ny, block * 32 + 32)):
            acc = out[r]
            for i in range(nx):
                acc[i] = zero
                weight[i] = one
            for o in range(octaves):
                yl = ys[r] * inverse[o] + shift[o]
                yi = np.floor(yl)
                fy = np.float32(yl - yi)
                sy = _fade(fy)
                iy = np.int64(yi)
                n = counts[o]
                for c in range(n + 1):
                    g0 = hash3(first[o] + c, iy, seeds[o]) & u32(255)
                    g1 = hash3(first[o] + c, iy + 1, seeds[o]) & u32(255)
                    a[c] = grads[g0, 0] + sy * (grads[g1, 0] - grads[g0, 0])
                    low = grads[g0, 1] * fy
                    b[c] = low + sy * (grads[g1, 1] * (fy - one) - low)
                amp = amps[o]
                for c in range(n):
                    s, e = starts[o, c], starts[o, c + 1]
                    a0, b0, a1 = a[c], b[c], a[c + 1]
                    b1 = b[c + 1] - a1
                    f, w = fracs[o, s:e], fades[o, s:e]
                    if mode == _FBM:
                        target = acc[s:e]
                        for i in range(e - s):
                            v = a0 * f[i] + b0
                            target[i] += amp * (v + w[i] * (a1 * f[i] + b1 - v))
                    else:
                        target = row[s:e]
                        for i in range(e - s):
                            v = a0 * f[i] + b0
                            target[i] = v + w[i] * (a1 * f[i] + b1 - v)
                if mode == _RIDGED:
                    for i in range(nx):
                        ridge = one - np.abs(row[i]) * np.float32(1.6)
                        ridge = ridge * ridge * weight[i]
                        acc[i] += amp * ridge
                        weight[i] = min(one, max(zero, ridge * gain))


@njit(cache=True, nogil=True, inline="always")
def _point(x, y, seed, grads):
    xi, yi = np.floor(x), np.floor(y)
    fx, fy = np.float32(x - xi), np.float32(y - yi)
    ix, iy = np.int64(xi), np.int64(yi)
    one = np.float32(1)
    g00 = hash3(ix, iy, seed) & u32(255)
    g10 = hash3(ix + 1, iy, seed) & u32(255)
    g01 = hash3(ix, iy + 1, seed) & u32(255)
    g11 = hash3(ix + 1, iy + 1, seed) & u32(255)
    n00 = grads[g00, 0] * fx + grads[g00, 1] * fy
    n10 = grads[g10, 0] * (fx - one) + grads[g10, 1] * fy
    n01 = grads[g01, 0] * fx + grads[g01, 1] * (fy - one)
    n11 = grads[g11, 0] * (fx - one) + grads[g11, 1] * (fy - one)
    sx, sy = _fade(fx), _fade(fy)
    low = n00 + sx * (n10 - n00)
    return low + sy * (n01 + sx * (n11 - n01) - low)


@njit(cache=True, nogil=True, parallel=True)
def _warped_kernel(out, xs, ys, dx, dy, inverse, shift, seeds, amps, mode, gain, grads):
    ny, nx = out.shape
    for r in prange(ny):
        for i in range(nx):
            x, y = xs[i] + dx[r, i], ys[r] + dy[r, i]
            total, weight = np.float32(0), np.float32(1)
            for o in range(len(seeds)):
                v = _point(x * inverse[o] + shift[o], y * inverse[o] + shift[o], seeds[o], grads)
                if mode == _FBM:
                    total += amps[o] * v
                else:
                    ridge = np.float32(1) - np.abs(v) * np.float32(1.6)
                    ridge = ridge * ridge * weight
                    total += amps[o] * ridge
                    weight = min(np.float32(1), max(np.float32(0), ridge * gain))
            out[r, i] = total


def _octaves(grid: Grid, feature_m, octaves, gain, lacunarity, seed):
    """Wavelengths, amplitudes (faded where the grid is too coarse), seeds and shifts of the octaves reached."""
    steps = np.arange(octaves)
    wave = feature_m / lacunarity**steps
    amps = gain**steps
    reach = np.clip((wave / grid.spacing - 2) / 2, 0, 1)
    keep = reach > 0
    keep[0] = True
    seeds = np.array([np.uint32((seed * 2654435761 + 7919 * int(o)) & 0xFFFFFFFF) for o in steps[keep]], np.uint32)
    shift = (seeds % 1013).astype(np.float64) / 7.0
    return wave[keep], (amps * np.maximum(reach, steps == 0))[keep].astype(np.float32), seeds, shift, amps


def _noise(grid, feature_m, octaves, gain, lacunarity, seed, mode, displaced=None):
    wave, amps, seeds, shift, _ = _octaves(grid, feature_m, octaves, gain, lacunarity, seed)
    inverse = 1.0 / wave
    out = np.empty(grid.shape, np.float32)
    xs, ys = grid.xs(), grid.ys()
    sharp = np.float32(2.0)
    if displaced is not None:
        _warped_kernel(out, xs, ys, displaced[0], displaced[1], inverse, shift, seeds, amps, mode, sharp, GRADIENTS)
        return out
    lattice = xs[None, :] * inverse[:, None] + shift[:, None]
    cells = np.floor(lattice)
    fracs = (lattice - cells).astype(np.float32)
    fades = fracs**3 * (fracs * (fracs * np.float32(6) - np.float32(15)) + np.float32(10))
    cells = cells.astype(np.int64)
    first = cells[:, 0].copy()
    counts = cells[:, -1] - first + 1
    starts = np.zeros((len(wave), int(counts.max()) + 1), np.int64)
    for o in range(len(wave)):
        starts[o, :counts[o] + 1] = np.searchsorted(cells[o], first[o] + np.arange(counts[o] + 1))
    _grid_kernel(out, ys, cells, fracs, fades, starts, first, counts, inverse, shift, seeds, amps, mode, sharp, GRADIENTS)
    return out


def warp_field(grid: Grid, amount_m: float, size_m: float, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Two fields of displacement in m, each with a standard deviation of about half of `amount_m`."""
    scale = np.float32(amount_m * 0.5 / OCTAVE_SD)
    return tuple(scale * _noise(grid, size_m, 3, 0.45, 2.0, seed + k, _FBM) for k in (101, 211))


def fbm(grid: Grid, feature_m: float, octaves=6, gain=0.5, lacunarity=2.0, seed=1, warp_m=0.0, warp_size_m=None):
    """Fractional Brownian motion with a standard deviation of about 1, float32 (ny, nx)."""
    displaced = warp_field(grid, warp_m, warp_size_m or 2 * feature_m, seed) if warp_m else None
    full = gain ** np.arange(octaves)
    return _noise(grid, feature_m, octaves, gain, lacunarity, seed, _FBM, displaced) / np.float32(
        OCTAVE_SD * np.sqrt((full**2).sum()))


def ridged(grid: Grid, feature_m: float, octaves=6, gain=0.5, lacunarity=2.0, seed=1, warp_m=0.0, warp_size_m=None):
    """Ridged multifractal, about 0 (valleys) to 1 (crests), float32 (ny, nx)."""
    displaced = warp_field(grid, warp_m, warp_size_m or 2 * feature_m, seed) if warp_m else None
    full = gain ** np.arange(octaves)
    return _noise(grid, feature_m, octaves, gain, lacunarity, seed, _RIDGED, displaced) / np.float32(full.sum())
