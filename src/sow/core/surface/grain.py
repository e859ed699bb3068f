"""What a ground shows below the texels of its texture: its own finest features once more, smaller.

Natural surfaces look alike at neighbouring scales (Mandelbrot 1982; Perlin's turbulence, 1985), so
the texture without its broad features is laid again at an eighth of its size: grains among grains,
as fine as a texture eight times as wide would be, for no memory.
"""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter

STEP = 8  # times as small
BROAD_PX = 5.0  # from which on features of a texture are not repeated
STRENGTH = 0.85  # of what is repeated
LEAST_LIGHT = 0.01


@dataclass(frozen=True)
class FineGrain:
    """The finest features of a texture, float32 (n, n, 4): `colour` as a part of what is around
    them, with height 0..1; `detail` as it stands in the maps: lean, roughness, openness.
    """

    colour: np.ndarray
    detail: np.ndarray


def _fine(values: np.ndarray) -> np.ndarray:
    return values - _broad(values)


def _broad(values: np.ndarray) -> np.ndarray:
    return gaussian_filter(values, (BROAD_PX, BROAD_PX, 0), mode="wrap")


def grain_of(tinted: np.ndarray, leaning: np.ndarray) -> FineGrain:
    """The grain of a ground's maps: linear colour with height, and lean, roughness, openness, each
    float32 (n, n, 4).
    """
    broad = _broad(tinted)
    around = np.maximum(broad[..., :3].mean(-1, keepdims=True), LEAST_LIGHT)
    parts = (tinted[..., :3] - broad[..., :3]) / around
    height = (tinted[..., 3:] - broad[..., 3:]) / STEP
    colour = np.concatenate([np.clip(parts, -0.8, 0.8), height], -1)
    return FineGrain(STRENGTH * colour, STRENGTH * _fine(leaning))
