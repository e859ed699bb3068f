"""Waves that run in to a shore: they rise, steepen, break, and run up the beach.

Their crests are where the time to the shore (runin) comes to a whole number of periods. They grow
as they slow (Green 1838), break where they are higher than 0.78 of the depth (McCowan 1894), and
leave foam that thins out behind them. The view does the same with the same numbers
(web/src/view/waterShader.ts).
"""

from dataclasses import dataclass

import numpy as np

from ..shared import RUN_UP, RUN_UP_LEAST_M
from .runin import FAR_S
from .spectrum import GRAVITY, Sea

BREAKS = 0.78  # height over depth
FOAMS_M = (0.06, 0.5)  # heights of waves from which on they leave foam, and leave it in full
REACHES = 0.5  # depth over the waves' length at which they begin to feel the bed


@dataclass(frozen=True)
class Surf:
    """What waves do at places: height (m) and slope away from the shore of the surface, foam
    0..1, and what they leave of the open sea's own waves, 0..1.
    """

    high_m: np.ndarray
    slope: np.ndarray
    foam: np.ndarray
    calm: np.ndarray


def _smooth(low: float, high: float, x: float | np.ndarray) -> np.ndarray:
    t = np.clip((x - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def sets(number: np.ndarray) -> np.ndarray:
    """How high each wave of a row is, 0.3..1: they come in sets, with gaps."""
    return 0.65 + 0.35 * np.sin(number * 0.9 + 1.7 * np.sin(number * 0.37))


def uneven(x: np.ndarray, y: np.ndarray, long_m: float) -> np.ndarray:
    """How far a crest is ahead or behind along the shore, in radians."""
    a = np.sin(x / (long_m * 1.9) + 2.0 * np.sin(y / (long_m * 4.3)))
    b = np.sin(y / (long_m * 1.7) + 2.0 * np.sin(x / (long_m * 3.1)) + 1.3)
    return 0.55 * (a + b)


def surf_at(
    time: np.ndarray,
    deep_m: np.ndarray,
    open_to: np.ndarray,
    x: np.ndarray,
    y: np.ndarray,
    sea: Sea,
    seconds: float,
    amount: float = 1.0,
) -> Surf:
    """Waves at places with their time to the shore (s), depth below the still level (m) and how far
    they lie open to the sea.
    """
    omega = 2 * np.pi / sea.period_s
    natural = sea.peak
    deep = np.maximum(deep_m, 0.02)
    near = 1 - _smooth(0.08 * sea.long_m, REACHES * 0.6 * sea.long_m, deep)
    near = near * (1 - _smooth(8.0, 14.0, time * natural / (2 * np.pi)))
    near = np.where(time > FAR_S / 2, 0.0, near) * min(amount, 1.0)
    phase = omega * seconds + natural * time + uneven(x, y, sea.long_m)
    number = np.floor(phase / (2 * np.pi))
    turn = phase - 2 * np.pi * number
    # a wave's own height fades into the next one's in the trough between
    aside = uneven(x, y, 3.7 * sea.long_m)
    own = sets(in_loop(number, sea) + aside)
    after = sets(in_loop(number + 1, sea) + aside)
    row = own + (after - own) * _smooth(np.pi * 0.8, np.pi * 1.2, turn)
    grown = np.minimum((0.12 * sea.long_m / deep) ** 0.25, 1.7)
    free = sea.high_m * np.maximum(grown, 1.0) * open_to * row * amount
    most = BREAKS * deep
    broken = _smooth(0.75, 1.15, free / most)
    high = np.minimum(free, most) * near
    # the front is steep: the trough lies nearer to the crest that comes than to the one that went
    steep = _smooth(0.25, 1.0, free / most)
    trough = np.pi * (1 + 0.6 * steep)
    rate = np.where(turn < trough, np.pi / trough, np.pi / (2 * np.pi - trough))
    bent = np.where(turn < trough, turn * rate, np.pi + (turn - trough) * rate)
    sharp = 1.0 + 2.5 * steep
    up = np.maximum(0.5 + 0.5 * np.cos(bent), 1e-6)
    surface = high * (up**sharp - 0.5 / np.sqrt(sharp))
    along = -0.5 * sharp * up ** (sharp - 1) * np.sin(bent) * rate
    slope = high * along * natural / np.sqrt(GRAVITY * deep)
    since = turn / omega  # s since the crest passed
    since = np.where(turn > 1.85 * np.pi, 0.0, since)
    lasts = 0.24 * sea.period_s + 0.5
    foam = broken * np.exp(-since / lasts) * near * row
    foam = foam * _smooth(*FOAMS_M, sea.high_m * amount) * open_to
    return Surf(surface, slope, np.clip(foam * 1.5, 0, 1), 1 - near)


def in_loop(number: np.ndarray, sea: Sea) -> np.ndarray:
    """A wave's number, which comes back where the sea loops."""
    if not sea.loop_s:
        return number
    return np.mod(number, max(1, round(sea.loop_s / sea.period_s)))


def run_up(sea: Sea, amount: float = 1.0) -> float:
    """How high over the still level waves wet a shore, m."""
    return RUN_UP_LEAST_M + RUN_UP * sea.high_m * amount
