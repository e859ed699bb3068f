"""How a stream runs: its speed, and where it is white.

By Manning's (1891) formula; white where it shoots (Froude's number over one)."""

import numpy as np

from .spectrum import GRAVITY

ROUGH = 0.045  # Manning's n of a bed of stones, s/m^(1/3)
LEAST_FALL = 0.0004
SHOOTS = (0.75, 1.7)  # Froude's number at which water begins to be white, and is white


def flow_along(surface: np.ndarray, deep_m: float) -> tuple[np.ndarray, np.ndarray]:
    """Speed (m/s) and whiteness 0..1 at each point (east, north, level in m, downstream) of a
    stream's surface.

    What is white is carried on: foam made at a step thins out over some seconds below it.
    """
    length = np.hypot(*np.diff(surface[:, :2], axis=0).T)
    fall = -np.diff(surface[:, 2]) / np.maximum(length, 1e-6)
    fall = np.concatenate([fall[:1], fall])
    fast = deep_m ** (2 / 3) * np.sqrt(np.maximum(fall, LEAST_FALL)) / ROUGH
    froude = fast / np.sqrt(GRAVITY * deep_m)
    t = np.clip((froude - SHOOTS[0]) / (SHOOTS[1] - SHOOTS[0]), 0, 1)
    made = t * t * (3 - 2 * t)
    white = made.copy()
    for i in range(1, len(white)):
        seconds = length[i - 1] / max(fast[i], 0.1)
        white[i] = max(made[i], white[i - 1] * np.exp(-seconds / 4.0))
    return fast, white
