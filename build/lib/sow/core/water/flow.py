"""How a stream runs: its speed, and where it is white.

By Manning's (1891) formula with the roughness of steep streams (Jarrett 1984); white where it falls
steeply.
"""

import numpy as np

LEAST_FALL = 0.0004
LEAST_ROUGH = 0.03  # Manning's n, s/m^(1/3)
WHITE = (0.05, 0.5)  # fall (m a m) from which on water is white in places, and wholly
FALLS = (0.4, 1.6)  # from which on it falls rather than runs
THINS_S = 2.5  # in which foam that is carried on thins out


def _smooth(low: float, high: float, x: np.ndarray) -> np.ndarray:
    t = np.clip((x - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def flow_along(surface: np.ndarray, deep_m: float) -> tuple[np.ndarray, np.ndarray]:
    """Speed (m/s) and whiteness 0..1 at each point (east, north, level in m, downstream) of a
    stream's surface. What is made white at a step is carried on below it.
    """
    length = np.hypot(*np.diff(surface[:, :2], axis=0).T)
    fall = -np.diff(surface[:, 2]) / np.maximum(length, 1e-6)
    fall = np.maximum(np.concatenate([fall[:1], fall]), LEAST_FALL)
    rough = np.maximum(0.32 * fall**0.38 * deep_m**-0.16, LEAST_ROUGH)
    fast = deep_m ** (2 / 3) * np.sqrt(fall) / rough
    fast = fast * (1 + 2.5 * _smooth(*FALLS, fall))
    made = _smooth(*WHITE, fall)
    white = made.copy()
    for i in range(1, len(white)):
        seconds = length[i - 1] / max(fast[i], 0.1)
        white[i] = max(made[i], white[i - 1] * np.exp(-seconds / THINS_S))
    return fast, white
