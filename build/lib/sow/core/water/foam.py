"""How foam lies on water: as lace that thins as it goes, the same as in the view
(web/src/view/waterShader.ts).
"""

import numpy as np

from ..surface.strewn import SIDE, sampled
from .spectrum import GRAVITY, Sea

LEAST_MS, OF_WAVES = 0.1, 0.03  # speed of drift: by wind, and of that of the waves


def lace(x: np.ndarray, y: np.ndarray, foam: np.ndarray, fine_m: np.ndarray) -> np.ndarray:
    """Share of each place (m) that is white where there is so much foam, 0..1."""
    out = np.zeros(len(x), np.float32)
    some = foam > 0.004
    if not some.any():
        return out
    x, y, held = x[some], y[some], foam[some]
    fine = float(np.median(np.broadcast_to(fine_m, foam.shape)[some]))
    lod = lambda size: float(max(np.log2(max(fine, 1e-4) * SIDE / size), 0.0))
    of = lambda u, v, size, channel: sampled(u / size, v / size, channel, lod(size))
    qx = x + 0.9 * (of(x, y, 7.3, 0) - 0.5)
    qy = y + 0.9 * (of(x, y, 7.3, 1) - 0.5)
    a = 1 - np.abs(2 * of(qx, qy, 6.7, 0) - 0.94) * 2.6
    b = 1 - np.abs(2 * of(qy, qx, 2.3, 1) - 0.94) * 2.6
    patches = 0.5 + 0.5 * of(x, y, 31.0, 2)
    c = np.maximum(a, 0.6 * b + 0.4 * a)
    t = np.clip(held / 0.12, 0, 1)
    out[some] = np.clip((c - 1 + 1.5 * held * patches) * 1.7, 0, 1) * t * t * (3 - 2 * t)
    return out


def drift_of(sea: Sea) -> tuple[float, float]:
    """East and north (m/s) in which foam drifts on a sea: by its wind, and with its waves."""
    fast = LEAST_MS + OF_WAVES * np.sqrt(GRAVITY * max(sea.long_m, 0.01) / (2 * np.pi))
    b = np.deg2rad(sea.toward)
    return float(fast * np.sin(b)), float(fast * np.cos(b))


def drifting(
    x: np.ndarray, y: np.ndarray, foam: np.ndarray, fine_m: np.ndarray, sea: Sea, seconds: float
) -> np.ndarray:
    """Foam as lace that drifts with the waves; where the sea loops it drifts to and fro."""
    gone = seconds
    if sea.loop_s:
        turn = 2 * np.pi / sea.loop_s
        gone = float(np.sin(turn * seconds)) / turn
    east, north = drift_of(sea)
    return lace(x - east * gone, y - north * gone, foam, fine_m)
