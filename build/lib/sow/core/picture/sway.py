"""Plants that sway in the wind: how far each leans at a moment."""

from collections.abc import Callable

import numpy as np

from ..build import Build
from ..motion.base import Moment

Sway = Callable[
    [np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray], tuple[np.ndarray, np.ndarray]
]
FULL_DEG = 11.0  # that a low plant leans at most in a full wind
STIFF_M = 2.5  # height at which a plant leans half as far


def sway_of(build: Build, moment: Moment) -> Sway:
    """A function from places, heights, lean and bearing of plants to lean and bearing as the wind
    has them: gusts that run with the wind and a swing of each plant's own, as a rod held at its
    foot has it (after Habel, Kusternig & Wimmer 2009, simplified), taken at the plant's middle.
    """
    blows = np.deg2rad(moment.light.wind_from + 180)
    to = np.array([np.sin(blows), np.cos(blows)])
    t = moment.blown_s

    def swayed(east, north, height, lean, bearing):
        gust = np.sin(t * 0.9 - (east * to[0] + north * to[1]) * 0.11) * 0.5 + 0.5
        own = np.mod(east * 0.37 + north * 0.73, 1.0) * 2 * np.pi
        rate = 2.6 - 0.9 * np.minimum(height / 12.0, 1.0)
        swings = 0.35 + 0.65 * gust + 0.45 * np.sin(t * rate + own)
        by = np.tan(np.deg2rad(FULL_DEG * moment.wind)) * swings / (1 + height / STIFF_M)
        l, b = np.tan(np.deg2rad(lean)), np.deg2rad(bearing)
        x, y = l * np.sin(b) + by * to[0], l * np.cos(b) + by * to[1]
        return np.rad2deg(np.arctan(np.hypot(x, y))), np.rad2deg(np.arctan2(x, y))

    return swayed
