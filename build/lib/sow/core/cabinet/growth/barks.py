"""Tiles of bark by how it breaks: ridged, ringed, smooth or in plates. A tile is drawn when it is
first looked at.
"""

import functools
from collections.abc import Callable

import numpy as np

from .skin import Bark, Tile

ROWS, COLUMNS = 512, 256


def ripples(rng: np.random.Generator, long: float, wide: float, shape=(ROWS, COLUMNS)):
    """Noise of unit spread that repeats both ways, its patches `long` rows by `wide` columns,
    float64 of `shape`.
    """
    rows, columns = shape
    fy, fx = np.meshgrid(np.fft.fftfreq(rows), np.fft.rfftfreq(columns), indexing="ij")
    keep = np.exp(-2 * ((np.pi * fy * long / 2) ** 2 + (np.pi * fx * wide / 2) ** 2))
    white = np.fft.rfft2(rng.normal(size=shape))
    out = np.fft.irfft2(white * keep, s=shape)
    return (out - out.mean()) / max(float(out.std()), 1e-9)


def _mixed(pale, dark, share: np.ndarray) -> np.ndarray:
    share = np.clip(share, 0, 1)[..., None]
    return np.asarray(pale) * (1 - share) + np.asarray(dark) * share


def _crusted(colour: np.ndarray, rng: np.random.Generator, lichen: float) -> np.ndarray:
    """Grey-green crusts of lichen over a share of the bark."""
    where = ripples(rng, 26, 26) + 0.6 * ripples(rng, 8, 8)
    share = np.clip((where - np.quantile(where, 1 - lichen)) * 3, 0, 1)[..., None] * 0.75
    crust = np.array((0.25, 0.27, 0.2)) * (1 + 0.2 * ripples(rng, 3, 3))[..., None]
    return colour * (1 - share) + crust * share


def _ridged(pale, dark, seed: int, lichen: float) -> Tile:
    rng = np.random.default_rng(seed)
    lines = np.abs(ripples(rng, 90, 15) + 0.35 * ripples(rng, 30, 8))
    ridge = np.clip(lines / 0.75, 0, 1) ** 0.6
    cracks = np.clip(1.2 - 5 * np.abs(ripples(rng, 10, 34)), 0, 1) * (ridge > 0.6)
    height = ridge * (1 - 0.4 * cracks) + 0.1 * ripples(rng, 6, 3)
    grain = 0.16 * ripples(rng, 14, 2) + 0.12 * ripples(rng, 3, 3)
    colour = _mixed(pale, dark, 0.95 - height) * np.clip(1 + grain, 0.4, 1.7)[..., None]
    return _crusted(colour, rng, lichen), height


def _ringed(pale, dark, seed: int) -> Tile:
    rng = np.random.default_rng(seed)
    marks = np.clip((ripples(rng, 3, 40) + 0.5 * ripples(rng, 2, 12) - 1.35) * 2.2, 0, 1)
    scars = np.clip((ripples(rng, 22, 44) + 0.35 * ripples(rng, 6, 6) - 1.75) * 5, 0, 1)
    paper = 0.06 * ripples(rng, 2, 60) + 0.05 * ripples(rng, 40, 40)
    warm = np.array((1.0, 0.93, 0.84)) ** (0.7 * np.clip(ripples(rng, 60, 60), 0, 2))[..., None]
    colour = _mixed(pale, dark, np.maximum(0.85 * marks, scars))
    colour = colour * np.clip(1 + paper, 0.6, 1.3)[..., None] * warm
    height = 0.5 + 0.2 * marks - 0.4 * scars + 0.25 * scars * ripples(rng, 8, 5) + paper
    return _crusted(colour, rng, 0.05), height


def _smooth(pale, dark, seed: int, lichen: float) -> Tile:
    rng = np.random.default_rng(seed)
    pores = np.clip((ripples(rng, 2, 9) - 1.6) * 2, 0, 1)
    folds = 0.5 * ripples(rng, 8, 60) + 0.5 * ripples(rng, 40, 20)
    colour = _mixed(pale, dark, 0.25 + 0.16 * folds + 0.6 * pores)
    return _crusted(colour, rng, lichen), 0.5 + 0.16 * folds + 0.2 * pores


def _weathered(pale, dark, seed: int) -> Tile:
    rng = np.random.default_rng(seed)
    grain = ripples(rng, 120, 3)
    checks = np.clip(1 - 6 * np.abs(ripples(rng, 160, 10)), 0, 1)
    colour = _mixed(pale, dark, 0.3 + 0.15 * grain + 0.7 * checks)
    return _crusted(colour, rng, 0.08), 0.6 + 0.06 * grain - 0.5 * checks


def _bark(draw: Callable[..., Tile], *with_: object, long_m: float, wide_m: float, deep_m: float):
    @functools.cache
    def tile() -> Tile:
        colour, height = draw(*with_)
        shown = np.clip(colour, 0.004, 0.85).astype(np.float32)
        return shown, np.clip(height, 0, 1).astype(np.float32)

    return Bark(tile, long_m, wide_m, deep_m)


def ridged(pale, dark, seed: int = 5, lichen: float = 0.14, deep_m: float = 0.014) -> Bark:
    """Long ridges that part and meet again, with cracks across: oak, alder, willow, pine."""
    return _bark(_ridged, pale, dark, seed, lichen, long_m=0.55, wide_m=0.3, deep_m=deep_m)


def ringed(pale, dark, seed: int = 5) -> Bark:
    """White paper with level marks and dark scars: birch."""
    return _bark(_ringed, pale, dark, seed, long_m=0.5, wide_m=0.3, deep_m=0.008)


def smooth(pale, dark, seed: int = 5, lichen: float = 0.22) -> Bark:
    """Even skin with pores and wrinkles: rowan, thorn when young, beech."""
    return _bark(_smooth, pale, dark, seed, lichen, long_m=0.45, wide_m=0.26, deep_m=0.006)


def weathered(pale, dark, seed: int = 5) -> Bark:
    """Grey wood without its bark, checked along its grain: dead trees and fence posts."""
    return _bark(_weathered, pale, dark, seed, long_m=0.8, wide_m=0.3, deep_m=0.01)
