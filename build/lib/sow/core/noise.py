"""Gradient noise on a grid (Perlin 1985, 2002), in the same shape at every spacing.

`fbm` sums octaves (Mandelbrot's fractional Brownian motion as used by Musgrave 1989); `ridged` is
the ridged multifractal of Musgrave (1994) and `billow` its reverse; `damped` bends each octave by
the slopes before it and lets detail fade in the hollows, as wash does (after de Carpentier &
Bidarra 2009). Octaves shorter than the grid can carry fade out softly. A row's lattice columns are
folded in y first, so that a post costs four multiply-adds an octave; turned or warped noise is
computed post by post.
"""

from dataclasses import dataclass

import numpy as np

from .noise_kernels import (
    BILLOW,
    DAMPED,
    FBM,
    RIDGED,
    cell_kernel,
    damped_kernel,
    grid_kernel,
    scattered_kernel,
)
from .plot import Grid

OCTAVE_SD = 0.2554  # standard deviation of one octave, measured


@dataclass(frozen=True)
class Lay:
    """How a pattern lies: its origin moved (m), turned (degrees clockwise) and stretched along its
    own north.
    """

    east_m: float = 0.0
    north_m: float = 0.0
    turn: float = 0.0
    stretch: float = 1.0


def _octaves(grid: Grid, feature_m, octaves, gain, lacunarity, seed):
    """Wavelengths, amplitudes (faded where the grid is too coarse), seeds and shifts of the octaves
    reached.
    """
    steps = np.arange(octaves)
    wave = feature_m / lacunarity**steps
    amps = gain**steps
    reach = np.clip((wave / grid.spacing - 2) / 2, 0, 1)
    keep = reach > 0
    keep[0] = True
    seeds = np.array(
        [np.uint32((seed * 2654435761 + 7919 * int(o)) & 0xFFFFFFFF) for o in steps[keep]],
        np.uint32,
    )
    shift = (seeds % 1013).astype(np.float64) / 7.0
    return (
        wave[keep],
        (amps * np.maximum(reach, steps == 0))[keep].astype(np.float32),
        seeds,
        shift,
        amps,
    )


NOWHERE = np.zeros((1, 1), np.float32)


def _axes(lay: Lay) -> np.ndarray:
    a = np.deg2rad(lay.turn)
    return np.array([np.cos(a), -np.sin(a), np.sin(a) / lay.stretch, np.cos(a) / lay.stretch])


def _noise(
    grid,
    feature_m,
    octaves,
    gain,
    lacunarity,
    seed,
    mode,
    displaced=None,
    lay=Lay(),
    sharp=1.0,
    scale=1.0,
):
    wave, amps, seeds, shift, _ = _octaves(grid, feature_m, octaves, gain, lacunarity, seed)
    amps *= np.float32(scale)
    inverse = 1.0 / wave
    out = np.empty(grid.shape, np.float32)
    xs, ys = grid.xs() - lay.east_m, grid.ys() - lay.north_m
    keep, sharp = np.float32(2.0), np.float32(sharp)
    if displaced is not None or lay.turn or mode == DAMPED:
        dx, dy = displaced or (NOWHERE, NOWHERE)
        if mode == DAMPED:
            damped_kernel(out, xs, ys, _axes(lay), dx, dy, inverse, shift, seeds, amps, sharp)
        else:
            scattered_kernel(
                out, xs, ys, _axes(lay), dx, dy, inverse, shift, seeds, amps, mode, keep, sharp
            )
        return out
    ys = ys / lay.stretch
    lattice = xs[None, :] * inverse[:, None] + shift[:, None]
    cells = np.floor(lattice)
    fracs = (lattice - cells).astype(np.float32)
    fades = fracs**3 * (fracs * (fracs * np.float32(6) - np.float32(15)) + np.float32(10))
    cells = cells.astype(np.int64)
    first = cells[:, 0].copy()
    counts = cells[:, -1] - first + 1
    starts = np.zeros((len(wave), int(counts.max()) + 1), np.int64)
    for o in range(len(wave)):
        starts[o, : counts[o] + 1] = np.searchsorted(cells[o], first[o] + np.arange(counts[o] + 1))
    grid_kernel(
        out,
        ys,
        cells,
        fracs,
        fades,
        starts,
        first,
        counts,
        inverse,
        shift,
        seeds,
        amps,
        mode,
        keep,
        sharp,
    )
    return out


def warp_field(
    grid: Grid, amount_m: float, size_m: float, seed: int, lay: Lay = Lay()
) -> tuple[np.ndarray, np.ndarray]:
    """Two fields of displacement in m, each with a standard deviation of about half of
    `amount_m`.
    """
    return tuple(
        _noise(
            grid, size_m, 2, 0.45, 2.0, seed + k, FBM, None, lay, scale=amount_m * 0.5 / OCTAVE_SD
        )
        for k in (101, 211)
    )


def _made(
    mode, grid, feature_m, octaves, gain, lacunarity, seed, warp_m, warp_size_m, lay, sharp, unit
):
    """The noise divided by what `unit` makes of the full amplitudes."""
    displaced = (
        warp_field(grid, warp_m, warp_size_m or 2 * feature_m, seed, Lay(lay.east_m, lay.north_m))
        if warp_m
        else None
    )
    scale = 1 / unit(gain ** np.arange(octaves))
    if mode == DAMPED:  # its octaves hear of the sum so far
        return _noise(
            grid, feature_m, octaves, gain, lacunarity, seed, mode, displaced, lay, sharp
        ) * np.float32(scale)
    return _noise(
        grid, feature_m, octaves, gain, lacunarity, seed, mode, displaced, lay, sharp, scale
    )


def fbm(
    grid: Grid,
    feature_m: float,
    octaves=6,
    gain=0.5,
    lacunarity=2.0,
    seed=1,
    warp_m=0.0,
    warp_size_m=None,
    lay=Lay(),
    sharp=1.0,
):
    """Fractional Brownian motion with a standard deviation of about 1, float32 (ny, nx).

    `sharp` other than 1 (0..2) makes the tops sharper and the floors flatter, or the reverse.
    """
    field = _made(
        FBM,
        grid,
        feature_m,
        octaves,
        gain,
        lacunarity,
        seed,
        warp_m,
        warp_size_m,
        lay,
        1.0,
        lambda full: OCTAVE_SD * np.sqrt((full**2).sum()),
    )
    if sharp != 1.0:
        field = (
            np.clip(field / 6 + np.float32(0.5), 0, 1) ** np.float32(2.0 ** (1.5 * (sharp - 1))) * 6
            - 3
        )
    return field


def ridged(
    grid: Grid,
    feature_m: float,
    octaves=6,
    gain=0.5,
    lacunarity=2.0,
    seed=1,
    warp_m=0.0,
    warp_size_m=None,
    lay=Lay(),
    sharp=1.0,
):
    """Ridged multifractal, about 0 (valleys) to 1 (crests), float32 (ny, nx)."""
    return _made(
        RIDGED,
        grid,
        feature_m,
        octaves,
        gain,
        lacunarity,
        seed,
        warp_m,
        warp_size_m,
        lay,
        sharp,
        lambda full: full.sum(),
    )


def billow(
    grid: Grid,
    feature_m: float,
    octaves=6,
    gain=0.5,
    lacunarity=2.0,
    seed=1,
    warp_m=0.0,
    warp_size_m=None,
    lay=Lay(),
    sharp=1.0,
):
    """Rounded swellings between creases, about 0 (creases) to 1, float32 (ny, nx)."""
    return _made(
        BILLOW,
        grid,
        feature_m,
        octaves,
        gain,
        lacunarity,
        seed,
        warp_m,
        warp_size_m,
        lay,
        sharp,
        lambda full: full.sum() * 0.75,
    )


def damped(
    grid: Grid,
    feature_m: float,
    octaves=6,
    gain=0.5,
    lacunarity=2.0,
    seed=1,
    warp_m=0.0,
    warp_size_m=None,
    lay=Lay(),
    sharp=1.0,
):
    """Ridges with flutes down their sides whose detail fades in the hollows, as if washed, about 0
    to 1, float32 (ny, nx).
    """
    return _made(
        DAMPED,
        grid,
        feature_m,
        octaves,
        gain,
        lacunarity,
        seed,
        warp_m,
        warp_size_m,
        lay,
        sharp,
        lambda full: full.sum(),
    )


def cells(
    grid: Grid,
    feature_m: float,
    octaves=1,
    gain=0.5,
    lacunarity=2.0,
    seed=1,
    warp_m=0.0,
    warp_size_m=None,
    lay=Lay(),
    edge=False,
):
    """Distance to the nearest of scattered points, or from the line between the two nearest (Worley
    1996).

    Divided by the feature size and summed over octaves, about 0..1, float32 (ny, nx).
    """
    wave, amps, seeds, _, full = _octaves(grid, feature_m, octaves, gain, lacunarity, seed)
    dx, dy = (
        warp_field(grid, warp_m, warp_size_m or 2 * feature_m, seed, Lay(lay.east_m, lay.north_m))
        if warp_m
        else (NOWHERE, NOWHERE)
    )
    out = np.empty(grid.shape, np.float32)
    cell_kernel(
        out,
        grid.xs() - lay.east_m,
        grid.ys() - lay.north_m,
        _axes(lay),
        dx,
        dy,
        1.0 / wave,
        seeds,
        amps,
        edge,
    )
    return out / np.float32(full.sum())
