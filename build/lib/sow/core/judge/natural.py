"""How a picture's light is spread beside that of photographs of nature: a hint, no verdict."""

from dataclasses import dataclass

import numpy as np

LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
# power falls as frequency to the minus this: 1.81 (Ruderman & Bialek 1994, woods), 2 in the mean
# with 1.6 to 2.4 for single scenes (Torralba & Oliva 2003)
USUAL_FALL = (1.6, 2.4)
LOWEST, HIGHEST = 0.02, 0.35  # of the sampling frequency, between which the fall is read
DARKEST = 1e-3  # of the mean, below which light counts as this


@dataclass(frozen=True)
class Natural:
    """How fast the power of a picture's log luminance falls with frequency, along all directions,
    across and up, and the spread of that log luminance (natural log).
    """

    fall: float
    fall_across: float
    fall_up: float
    spread: float

    @property
    def usual(self) -> bool:
        """Whether it falls as in photographs of nature."""
        return USUAL_FALL[0] <= self.fall <= USUAL_FALL[1]


def natural(light: np.ndarray) -> Natural:
    """Measures linear light (height, width, 3), 32 px a side at least.

    Method: log luminance, a window without edges (Hann), and the line through log power over log
    frequency (Ruderman 1994; Torralba & Oliva 2003).
    """
    bright = np.maximum(np.asarray(light, np.float64) @ LUMINANCE, 0)
    log = np.log(np.maximum(bright, DARKEST * max(float(bright.mean()), 1e-12)))
    spread = float(log.std())
    window = np.outer(np.hanning(log.shape[0]), np.hanning(log.shape[1]))
    mean = float((log * window).sum() / window.sum())
    power = np.abs(np.fft.fft2((log - mean) * window)) ** 2
    fy, fx = np.meshgrid(*(np.fft.fftfreq(n) for n in log.shape), indexing="ij")
    along = np.hypot(fx, fy)
    across = np.abs(fy) < 0.35 * np.abs(fx)
    up = np.abs(fx) < 0.35 * np.abs(fy)
    everywhere = np.ones_like(across)
    fall = lambda here: _fall(along[here], power[here])
    return Natural(fall(everywhere), fall(across), fall(up), spread)


def _fall(frequency: np.ndarray, power: np.ndarray) -> float:
    edges = np.geomspace(LOWEST, HIGHEST, 16)
    which = np.digitize(frequency, edges)
    x, y = [], []
    for k in range(1, len(edges)):
        here = which == k
        if here.any():
            x.append(np.log(frequency[here].mean()))
            y.append(np.log(max(float(power[here].mean()), 1e-30)))
    return -float(np.polyfit(x, y, 1)[0])
