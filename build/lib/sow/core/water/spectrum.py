"""The spectrum of waves, and how fast each of its waves runs in water of a depth.

Wind waves after JONSWAP (Hasselmann and others 1973), weakened in shallow water as TMA (Bouws,
Günther, Rosenthal & Vincent 1985); their directions by a cosine's power (Longuet-Higgins,
Cartwright & Smith 1963). Lengths in m, times in s, k and omega in radians.
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import gammaln

GRAVITY = 9.81  # m/s2
TENSION = 7.3e-5  # surface tension of water over its density, m3/s2
PEAKED = 3.3  # JONSWAP's gamma


def omega_of(k: float | np.ndarray, deep_m: float) -> np.ndarray:
    """How fast the phase of a wave of number k turns in water so deep: gravity, depth and surface
    tension (Airy; Lamb 1932).
    """
    k = np.asarray(k, np.float64)
    return np.sqrt((GRAVITY * k + TENSION * k**3) * np.tanh(np.minimum(k * deep_m, 50.0)))


def wave_number(omega: float | np.ndarray, deep_m: float | np.ndarray) -> np.ndarray:
    """The number k of gravity waves whose phase turns so fast in water so deep, by Newton's method
    from Eckart's (1952) estimate.
    """
    deep = np.maximum(np.asarray(deep_m, np.float64), 1e-6)
    turns = np.asarray(omega, np.float64)
    y = turns**2 * deep / GRAVITY
    x = y / np.sqrt(np.tanh(np.maximum(y, 1e-12)))
    for _ in range(4):
        t = np.tanh(x)
        x = x - (x * t - y) / (t + x * (1 - t * t))
    return x / deep


@dataclass(frozen=True)
class Sea:
    """Waves: significant height (m), length of the highest (m), bearing that they run to (degrees),
    how far their directions spread (0 none .. 1 all around), depth below them (m), seed; all times
    run `speed` as fast, and every wave comes back after `loop_s` (0: never).
    """

    high_m: float
    long_m: float
    toward: float = 45.0
    spread: float = 0.4
    deep_m: float = 1000.0
    seed: int = 1
    speed: float = 1.0
    loop_s: float = 0.0

    @property
    def peak(self) -> float:
        """Omega of the highest waves."""
        return float(omega_of(2 * np.pi / self.long_m, self.deep_m))

    def run(self, omega: float | np.ndarray) -> np.ndarray:
        """Omega as it is shown: sped up, and a whole number of turns in a loop where it loops."""
        shown = np.asarray(omega) * self.speed
        if not self.loop_s:
            return shown
        turn = 2 * np.pi / self.loop_s
        return np.maximum(np.rint(shown / turn), 1) * turn

    @property
    def period_s(self) -> float:
        """Seconds from crest to crest of the highest waves, as shown."""
        return float(2 * np.pi / max(float(self.run(self.peak)), 1e-6))


def raised_by(wind_ms: float, fetch_m: float) -> tuple[float, float]:
    """Significant height and length of the highest waves (m) that a wind raises over a fetch, in
    deep water (Hasselmann and others 1973), at most those of a full-grown sea (Pierson & Moskowitz
    1964).
    """
    wind = max(wind_ms, 0.1)
    reach = GRAVITY * max(fetch_m, 1.0) / wind**2
    high = 4 * np.sqrt(1.6e-7 * reach) * wind**2 / GRAVITY
    peak = 2 * np.pi * 3.5 * (GRAVITY / wind) * reach**-0.33
    high = min(high, 0.21 * wind**2 / GRAVITY)
    peak = max(peak, 0.855 * GRAVITY / wind)
    return float(high), float(2 * np.pi * GRAVITY / peak**2)


def density(omega: np.ndarray, sea: Sea) -> np.ndarray:
    """Energy of waves over omega up to a factor: JONSWAP's form, weakened by the depth (TMA)."""
    peak = sea.peak
    w = np.maximum(omega, 1e-6)
    wide = np.where(w <= peak, 0.07, 0.09)
    swell = PEAKED ** np.exp(-(((w - peak) / (wide * peak)) ** 2) / 2)
    form = w**-5.0 * np.exp(-1.25 * (peak / w) ** 4) * swell
    h = w * np.sqrt(sea.deep_m / GRAVITY)
    weak = np.where(h <= 1, h * h / 2, np.where(h < 2, 1 - (2 - h) ** 2 / 2, 1.0))
    return form * weak


def share_along(turn: np.ndarray, omega: np.ndarray, sea: Sea) -> np.ndarray:
    """Share of the energy that runs at an angle (radians) to the waves' own direction, per radian:
    narrow about the peak and wider for what is shorter (Mitsuyasu and others 1975).
    """
    if sea.spread <= 0:
        power = np.full(np.shape(omega), 400.0)
    else:
        about = np.maximum(omega, 1e-6) / sea.peak
        power = 9.77 * np.where(about < 1, about**4.06, about**-2.34) * (0.4 / sea.spread) ** 2
        power = np.clip(power, 0.4, 400.0)
    # the integral of cos(t / 2)^(2 s) over a turn
    gammas = gammaln(power + 0.5) - gammaln(power + 1)
    whole = 2 * np.sqrt(np.pi) * np.exp(gammas)
    return np.abs(np.cos(turn / 2)) ** (2 * power) / whole
