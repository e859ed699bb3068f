"""The moving surface of a water: heights, slopes and sideways shifts of its waves over place and
time.

Waves of a spectrum are laid on a few square tiles by Fourier's transform (Tessendorf 2001). Each
tile holds the waves of its own lengths; the longest are shared between two tiles of unlike size and
turn, so that the surface never comes back in rows. The view does the same with the same numbers
(web/src/view/waveTiles.ts).
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..sample import read_at
from .spectrum import Sea, density, omega_of, share_along

POSTS = 128
# of each tile: its side over the length of the highest waves, its turn, what it shares of its band
TILES = (
    (10.6, 0.0, 0.5),
    (14.3, 0.61, 0.5),
    (3.3, -0.37, 1.0),
    (0.73, 0.95, 1.0),
    (0.16, 0.2, 1.0),
)
SHOWN = 0.5  # of the numbers that a tile can hold, so that waves are whole between its posts
LEAST_M = 0.017  # shorter waves are the skin of the water


@dataclass(frozen=True)
class SpectrumTile:
    """Waves of one tile: its side (m), its turn (radians, counter-clockwise), complex heights (m)
    and omega of each wave, float (POSTS, POSTS) by number along v and u; the mean square of its
    slopes, and between which wave numbers it lies.
    """

    side_m: float
    turn: float
    high: np.ndarray
    omega: np.ndarray
    steep: float
    band: tuple[float, float]

    def numbers(self) -> tuple[np.ndarray, np.ndarray]:
        """Wave numbers along the tile's own u and v, float64 (POSTS, POSTS)."""
        k = np.fft.fftfreq(POSTS, self.side_m / POSTS) * 2 * np.pi
        return np.meshgrid(k, k)

    def at(self, seconds: float, chop: float) -> np.ndarray:
        """The tile at a time: height (m), slope along u and v, shift along u and v (m), and how far
        its surface is drawn together (1: it folds), float32 (POSTS, POSTS, 6); row 0 at v = 0.
        """
        ku, kv = self.numbers()
        k = np.maximum(np.hypot(ku, kv), 1e-9)
        waves = self.high * np.exp(-1j * self.omega * seconds)
        parts = (
            waves,
            1j * ku * waves,
            1j * kv * waves,
            1j * chop * ku / k * waves,
            1j * chop * kv / k * waves,
            chop * k * waves,
        )
        layers = [np.fft.ifft2(p).real * POSTS**2 for p in parts]
        return np.stack(layers, -1).astype(np.float32)


@lru_cache(32)
def tiles_of(sea: Sea) -> tuple[SpectrumTile, ...]:
    """The tiles of a sea, the longest waves first; they hold its height exactly together."""
    if sea.high_m <= 0:
        return ()
    rng = np.random.default_rng(sea.seed)
    raw: list[SpectrumTile] = []
    least = 0.0
    energy = 0.0
    for i, (across, turn, shares) in enumerate(TILES):
        side = across * sea.long_m
        # both of the long ones end where the larger one's waves do
        finest = max(side, TILES[1][0] * sea.long_m) if i < 2 else side
        most = np.pi * POSTS / finest * SHOWN
        band = (0.0 if i < 2 else least, min(most, 2 * np.pi / LEAST_M))
        phases = np.exp(2j * np.pi * rng.random((POSTS, POSTS)))
        if band[1] <= band[0]:
            continue
        tile = SpectrumTile(side, turn, phases, phases.real, 0.0, band)
        ku, kv = tile.numbers()
        k = np.hypot(ku, kv)
        own = (k > band[0]) & (k <= band[1])
        safe = np.where(own, k, 1.0)
        omega = omega_of(safe, sea.deep_m)
        step = (omega_of(safe * 1.001, sea.deep_m) - omega) / (safe * 0.001)
        toward = np.deg2rad(90 - sea.toward) - turn  # counter-clockwise from u
        angle = np.angle(np.exp(1j * (np.arctan2(kv, ku) - toward)))
        power = density(omega, sea) * share_along(angle, omega, sea) * step / safe
        power = np.where(own, power * shares, 0.0) * (2 * np.pi / side) ** 2
        energy += float(power.sum())
        steep = float((power * k * k).sum())
        run = np.where(own, sea.run(omega), 0.0)
        high = np.sqrt(2 * power) * phases / _blunted(ku, kv, side / POSTS)
        raw.append(SpectrumTile(side, turn, high, run, steep, band))
        if i > 0:
            least = band[1]
    scale = (sea.high_m / 4) ** 2 / max(energy, 1e-30)
    return tuple(
        SpectrumTile(t.side_m, t.turn, t.high * np.sqrt(scale), t.omega, t.steep * scale, t.band)
        for t in raw
    )


def _blunted(ku: np.ndarray, kv: np.ndarray, step_m: float) -> np.ndarray:
    """What reading between posts leaves of a wave's height in the mean, 0..1."""
    return np.sqrt((2 + np.cos(ku * step_m)) * (2 + np.cos(kv * step_m)) / 9)


@dataclass(frozen=True)
class Waves:
    """A sea at a moment, read at places."""

    tiles: tuple[SpectrumTile, ...]
    layers: tuple[np.ndarray, ...]

    def at(self, x: np.ndarray, y: np.ndarray, fine_m: np.ndarray | float) -> np.ndarray:
        """What stands at places (m) in an undisturbed plane, waves shorter than twice `fine_m` left
        out: height, slope east and north, shift east and north, fold, and the mean square of the
        slopes that are left out, float32 (n, 7).
        """
        out = np.zeros((len(x), 7), np.float32)
        fine = np.broadcast_to(np.asarray(fine_m, np.float64), np.shape(x))
        for tile, layer in zip(self.tiles, self.layers):
            seen = resolved(tile.band, fine)
            out[:, 6] += tile.steep * (1 - seen)
            here = seen > 0.004
            if not here.any():
                continue
            c, s = np.cos(tile.turn), np.sin(tile.turn)
            u = (x[here] * c + y[here] * s) / tile.side_m
            v = (-x[here] * s + y[here] * c) / tile.side_m
            own = read(layer, u, v) * seen[here, None].astype(np.float32)
            east = own[:, 1] * c - own[:, 2] * s
            north = own[:, 1] * s + own[:, 2] * c
            aside = own[:, 3] * c - own[:, 4] * s
            ahead = own[:, 3] * s + own[:, 4] * c
            out[here, :6] += np.stack([own[:, 0], east, north, aside, ahead, own[:, 5]], 1)
        return out


def resolved(band: tuple[float, float], fine_m: np.ndarray) -> np.ndarray:
    """Share of a band of wave numbers that posts so far apart show, 0..1: slopes lie evenly over
    the logarithm of the number.
    """
    most = np.pi / np.maximum(fine_m, 1e-6)
    low = max(band[0], band[1] / 40)
    return np.clip(np.log(most / low) / np.log(band[1] / low), 0, 1)


def read(layer: np.ndarray, u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """A tile's layer (POSTS, POSTS, 6) at places in its own repeats, between its posts."""
    wrapped = np.pad(layer, ((0, 1), (0, 1), (0, 0)), mode="wrap")
    across, down = (u % 1.0) * POSTS, (v % 1.0) * POSTS
    return np.hstack([read_at(wrapped[..., i : i + 3], across, down) for i in (0, 3)])


def waves_at(sea: Sea, seconds: float, chop: float = 0.6) -> Waves:
    """A sea's surface at a time; `chop` 0..1 draws its crests together."""
    tiles = tiles_of(sea)
    return Waves(tiles, tuple(t.at(seconds, chop) for t in tiles))
