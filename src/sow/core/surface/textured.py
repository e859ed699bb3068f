"""A material's texture at places, as fine as it is asked for."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..cabinet.kind import Ground, linear
from .grain import STEP, FineGrain, grain_of
from .material import Material
from .tiling import laid, shrunk

TEXELS = 512
SHOWS_GRAIN = 0.7  # of a texel: what is wanted as fine as that shows what lies below texels


@dataclass(frozen=True)
class Maps:
    """A ground's textures, float32 (n, n, 4): linear colour with height; lean -1..1 with roughness
    and openness 0..1.
    """

    tinted: np.ndarray
    leaning: np.ndarray

    @cached_property
    def grain(self) -> FineGrain:
        """What shows below their texels."""
        return grain_of(self.tinted, self.leaning)


def maps_of(ground: Ground) -> Maps:
    """The textures of a ground."""
    colour, detail = ground.maps()
    tinted = np.dstack([linear(colour[..., :3]), colour[..., 3:].astype(np.float32) / 255])
    leaning = np.dstack(
        [detail[..., :2].astype(np.float32) / 127.5 - 1, detail[..., 2:].astype(np.float32) / 255]
    )
    return Maps(tinted, leaning)


def _mean_of(picture: np.ndarray) -> np.ndarray:
    """The mean of a picture's channels; a matrix product sums them twenty times as fast."""
    flat = picture.reshape(-1, picture.shape[-1])
    return np.ones(len(flat), np.float32) @ flat / len(flat)


def taken(
    m: Material,
    ground: Ground,
    maps: Maps,
    u: np.ndarray,
    v: np.ndarray,
    fine_m: float,
) -> tuple[np.ndarray, np.ndarray]:
    """A material's colour with height (n, 4) and its detail (n, 4): lean along u and v -1..1,
    roughness and openness 0..1.
    """
    wide = m.size_m
    texels = int(np.clip(round(wide / fine_m), 1, TEXELS))
    if texels <= 2:
        whole = lambda c: np.broadcast_to(_mean_of(c), (len(u), 4)).astype(np.float32)
        return whole(maps.tinted), whole(maps.leaning)

    def lay(colour: np.ndarray, detail: np.ndarray, size_m: float, px: int):
        one = lambda picture, keep, spins: laid(
            shrunk(picture, px), u, v, size_m, m.turn, ground.directed, keep, spins
        )
        return one(colour, True, False), one(detail, False, True)

    c, t = lay(maps.tinted, maps.leaning, wide, texels)
    if fine_m < SHOWS_GRAIN * wide / TEXELS:
        px = int(np.clip(round(wide / STEP / fine_m), 1, TEXELS))
        finer, bent = lay(maps.grain.colour, maps.grain.detail, wide / STEP, px)
        c[:, :3] *= 1 + finer[:, :3]
        c[:, 3] += finer[:, 3]
        t += bent
        t[:, 2:] = np.clip(t[:, 2:], 0, 1)
    a = np.deg2rad(m.turn)
    east = np.cos(a) * t[:, 0] + np.sin(a) * t[:, 1]
    north = -np.sin(a) * t[:, 0] + np.cos(a) * t[:, 1]
    t[:, 0], t[:, 1] = east, north
    return np.maximum(c, 0), t
