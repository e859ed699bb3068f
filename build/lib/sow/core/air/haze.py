"""Haze by distance and height, and the light that it and the air throw in.

What is seen through `d` metres is `c * T + tone * (1 - T)`, where T = exp(-(k * thin + air) * d')
for each colour: k falls from its base with the height (`thin` is its mean along the way), `d'`
counts from where the haze begins, and `tone` is what a long way through it shows in that direction.
"""

from dataclasses import dataclass

import numpy as np

from .atmosphere import dust_phase
from .gases import DUST_SCATTERS, DUST_TAKES, RAYLEIGH
from .harmonics import directions
from .light import KOSCHMIEDER, Light

TONE_ROWS = 32
STRAYS = 0.25  # of the light that was turned more than once: what reaches haze in a shade


@dataclass(frozen=True)
class Haze:
    """Extinction of haze at its base and of the air for each colour (1/m), the height over which
    haze falls to a third, its base and beginning (m).
    """

    k: float
    top_m: float
    base_m: float
    from_m: float
    air: np.ndarray

    def depth(self, eye_m: float, place_m: np.ndarray, distance_m: np.ndarray) -> np.ndarray:
        """Optical depth of haze between heights in m, over a distance in m."""
        a = (eye_m - self.base_m) / self.top_m
        b = (np.asarray(place_m) - self.base_m) / self.top_m
        ea, eb = np.exp(-np.maximum(a, -4.0)), np.exp(-np.maximum(b, -4.0))
        gap = b - a
        level = np.abs(gap) < 1e-3
        thin = np.where(level, ea, (ea - eb) / np.where(level, 1.0, gap))
        way = np.maximum(np.asarray(distance_m) - self.from_m, 0)
        return self.k * way * np.clip(thin, 0, 4)

    def passes(self, eye_m: float, place_m: np.ndarray, distance_m: np.ndarray) -> np.ndarray:
        """What of a thing's light comes through, for each colour, float64 (..., 3)."""
        haze = self.depth(eye_m, place_m, distance_m)[..., None]
        return np.exp(-haze - self.air * np.asarray(distance_m)[..., None])

    def upward(self, rise: np.ndarray) -> np.ndarray:
        """Optical depth of haze from its base out of it, by the sine of the way's height."""
        deep = self.k * self.top_m
        return deep / np.sqrt(np.maximum(rise, 0) ** 2 + 0.002)


def haze_of(light: Light, lowest_m: float) -> Haze:
    """The haze of a light over land whose lowest ground is known, with the clear air's own part."""
    grown = np.exp(-light.altitude_m / 8000)
    air = RAYLEIGH * light.air / 100 * grown
    air = air + (DUST_SCATTERS + DUST_TAKES) * light.dust / 100
    return Haze(
        KOSCHMIEDER / light.haze_m,
        light.haze_top_m,
        lowest_m + light.haze_base_m,
        light.haze_from_m,
        air / 1000,
    )


def haze_light(
    light: Light, sun: np.ndarray, sunlight: np.ndarray, mean_sky: np.ndarray, tint: np.ndarray
) -> np.ndarray:
    """What haze shines with in every direction, float64 (rows, 2 rows, 3), of the unit of what is
    given: the sun's light on a plane turned to it and the mean radiance of the whole sphere.
    """
    vectors, _ = directions(TONE_ROWS, 2 * TONE_ROWS)
    glow = light.haze_glow / 100
    nu = vectors @ sun
    # light that was turned more than once has lost its direction: a broad lobe with the narrow one
    ahead = np.vectorize(dust_phase)(nu, 0.35 + 0.35 * glow)
    phase = (0.5 * glow * ahead + (1 - 0.5 * glow) / (4 * np.pi)) * 0.9
    return (phase[..., None] * sunlight + mean_sky) * tint


def shaded_light(
    light: Light, sunlight: np.ndarray, mean_sky: np.ndarray, tint: np.ndarray
) -> np.ndarray:
    """What haze shows with where something keeps the sun from it, in all directions alike (3): the
    sky's light and some that strays in. As `haze_light`.
    """
    spread = (1 - 0.5 * light.haze_glow / 100) / (4 * np.pi) * 0.9
    return (STRAYS * spread * sunlight + mean_sky) * tint


def tone(haze: Haze, shines: np.ndarray, clear: np.ndarray) -> np.ndarray:
    """What a long way through haze and air shows in each direction, float32 (rows, 2 rows, 3):
    haze's own light, and the clear sky's at the horizon, by how much each of them takes.
    """
    rows = shines.shape[0]
    low = clear[int(clear.shape[0] * 0.46) : clear.shape[0] // 2 - 1].mean(0)
    columns = low.reshape(shines.shape[1], -1, 3).mean(1)
    horizon = np.broadcast_to(columns, (rows, *columns.shape))
    share = haze.k / (haze.k + haze.air)
    return (shines * share + horizon * (1 - share)).astype(np.float32)
