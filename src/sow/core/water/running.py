"""A stream as it runs, at a time."""

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from ..surface.strewn import sampled
from .eddies import RUNS, Eddies, lengths
from .entry import Water
from .field import Waves, waves_at
from .flow import flow_along
from .moving import WaterSurface
from .spectrum import Sea

CARRIED_S = 1.6  # for which ripples are carried along before others take their place


@dataclass(frozen=True)
class Running:
    """A stream at a time: points of its surface (east, north, level in m), its speed (m/s) and
    whiteness there.
    """

    water: Water
    spine: np.ndarray
    fast: np.ndarray
    white: np.ndarray
    waves: Waves
    seconds: float
    eddies: Eddies | None = None

    def at(self, x: np.ndarray, y: np.ndarray, fine_m: np.ndarray) -> WaterSurface:
        """The surface at places (m), in details of `fine_m` and larger: ripples carried along by
        the stream, streaks of foam where it is white.
        """
        near = self._nearest(x, y)
        way, fast, white = self._ways()[near], self.fast[near], self.white[near]
        t = self.seconds / CARRIED_S
        part = abs(2 * (t % 1.0) - 1)
        one = self._carried(x, y, way, fast * CARRIED_S * (t % 1.0), fine_m)
        two = self._carried(x + 3.7, y + 3.7, way, fast * CARRIED_S * ((t + 0.5) % 1.0), fine_m)
        own = one + (two - one) * np.float32(part)
        along, side = self._place(x, y, near, way)
        stirred = self._stirred(along, side)
        white = np.maximum(white, stirred[:, 0] * 0.9)
        rise = (0.6 + 1.4 * np.minimum(fast, 2.5) + 2 * white) * (1 + stirred[:, 1])
        zero = np.zeros(len(x), np.float32)
        streaks, frays = self._streaks(x, y, along, way, fast, stirred)
        t = np.clip((white - 0.03) / 0.22, 0, 1)
        foam = np.clip((streaks - 1.3 + 0.95 * white) * 1.7, 0, 1) * t * t * (3 - 2 * t)
        return WaterSurface(
            zero,
            zero,
            zero,
            own[:, 1] * rise,
            own[:, 2] * rise,
            own[:, 6] * rise**2 + 0.02 * white,
            np.clip(foam * self.water.foam / 100, 0, 1),
            own[:, 5],
            0.2 + 0.5 * np.clip((streaks - 0.7) * 1.2, 0, 1),
            white * frays,
        )

    def flow(self, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Unit way (n, 2), speed (m/s) and whiteness 0..1 of the stream at places (m): slower in
        the lee of stones, and swung aside by the eddies behind them.
        """
        near = self._nearest(x, y)
        way, fast, white = self._ways()[near], self.fast[near], self.white[near]
        if self.eddies is None:
            return way, fast, white
        along, side = self._place(x, y, near, way)
        stirred = self._stirred(along, side)
        turn = 2 * np.pi / stirred[:, 3]
        swing = stirred[:, 2] * turn * np.cos(turn * (along - RUNS * fast * self.seconds))
        left = np.column_stack([-way[:, 1], way[:, 0]])
        swung = way - left * swing[:, None]
        swung = swung / np.linalg.norm(swung, axis=1, keepdims=True)
        calm = 1 + np.minimum(stirred[:, 1], 0)
        return swung, fast * calm, np.maximum(white, stirred[:, 0] * 0.9)

    def _nearest(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        return cKDTree(self.spine[:, :2]).query(np.column_stack([x, y]))[1]

    def _ways(self) -> np.ndarray:
        ahead = np.gradient(self.spine[:, :2], axis=0)
        return ahead / np.maximum(np.linalg.norm(ahead, axis=1, keepdims=True), 1e-9)

    def _carried(self, x, y, way, by, fine_m) -> np.ndarray:
        return self.waves.at(x - way[:, 0] * by, y - way[:, 1] * by, fine_m)

    def _place(self, x, y, near, way) -> tuple[np.ndarray, np.ndarray]:
        """Metres along the stream, and -1 at its left edge to 1 at its right."""
        off = np.column_stack([x, y]) - self.spine[near, :2]
        right = off[:, 0] * way[:, 1] - off[:, 1] * way[:, 0]
        return lengths(self.spine)[near] + (off * way).sum(1), right / (self.water.width_m / 2)

    def _stirred(self, along: np.ndarray, side: np.ndarray) -> np.ndarray:
        if self.eddies is None:
            return np.tile(np.array([0, 0, 0, 1], np.float32), (len(along), 1))
        return self.eddies.at(along, side)

    def _streaks(self, x, y, along, way, fast, stirred) -> tuple[np.ndarray, np.ndarray]:
        """Streaks along the stream, about 0..2, and how far its edges fray, 0..1."""
        gone = 2 * np.pi * (along - RUNS * fast * self.seconds) / stirred[:, 3]
        across = -x * way[:, 1] + y * way[:, 0] + stirred[:, 2] * np.sin(gone)
        along = along - self.seconds * fast
        streaks = sampled(along / 4.0, across / 0.8, 0)
        streaks += sampled(along / 1.3 + 0.4, across / 0.35 + 0.4, 1)
        streaks += 0.7 * (sampled(x / 5.3, y / 5.3, 2) - 0.5)
        return streaks, sampled(along / 7.0, across / 2.0, 2)


def running(
    water: Water, spine: np.ndarray, sea: Sea, seconds: float, eddies: Eddies | None = None
) -> Running:
    """A stream at a time, with the eddies in it; its points lie downstream."""
    fast, white = flow_along(spine, water.deep_m)
    waves = waves_at(sea, seconds, water.chop / 100)
    return Running(water, spine, fast, white, waves, seconds, eddies)
