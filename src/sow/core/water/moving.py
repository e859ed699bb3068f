"""The waters of a built scene as they move: the sea of each, its way to the shore, its surface."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import distance_transform_edt

from ..plot import Grid
from ..sample import values_at
from .clear import FOAM
from .entry import Water
from .field import Waves, waves_at
from .foam import drifting
from .ice import SNOW, ice_at
from .runin import FAR_S, facing, shore_time
from .spectrum import Sea, raised_by
from .surf import run_up, surf_at
from .wake import Wake, wakes_at

SUITS, LEAST_LONG_M = 28.0, 0.5  # length over height, and at no height, where none is told
STEEPEST = 0.14  # height over length at which any wave breaks (Michell 1893), here significant
FILLS = 0.6  # of the depth, at most
SMOOTH_ICE, WHITE_ICE = 0.0004, 0.6  # mean square slope of ice; what its white throws back
OPEN_M = 60.0  # depth of a sea that runs on beyond the plot


def raised(water: Water) -> tuple[float, float]:
    """Significant height and length of the highest waves (m) that a water is asked for."""
    if water.raised == "wind":
        return raised_by(water.wind_ms, water.fetch_m)
    high = water.waves_cm / 100
    return high, water.wave_m or SUITS * high + LEAST_LONG_M


def sea_of(water: Water, deep_m: float, seconds_to_loop: float = 0.0) -> Sea:
    """The sea of a water over such a depth (m): waves no steeper than can stand, nor higher than
    the depth allows.
    """
    high, long = raised(water)
    high = min(high, STEEPEST * long * 0.6, FILLS * max(deep_m, 0.02))
    return Sea(
        high,
        long,
        (water.waves_from + 180) % 360,
        water.spread / 100,
        max(deep_m, 0.02),
        water.wave_seed,
        water.speed / 100,
        water.loop_s or seconds_to_loop,
    )


def typical_depth(water: Water, deep: np.ndarray, wet: np.ndarray) -> float:
    """The depth (m) that the waves of a water go by, on a coarse scale so that it is the same on
    every grid: that of its deeper parts; of a sea beyond the plot OPEN_M at least.
    """
    if not wet.any():
        return 1.0
    own = float(np.percentile(deep[wet], 85))
    if water.reach == "everywhere" and (wet[[0, -1]].any() or wet[:, [0, -1]].any()):
        own = max(own, OPEN_M)
    return float(2.0 ** (np.round(2 * np.log2(max(own, 0.02))) / 2))


@dataclass(frozen=True)
class ShoreWaves:
    """What a standing water has at each post, float32 (ny, nx): time to the shore (s), how far the
    shore lies open to its waves 0..1, its depth (m, negative on land).
    """

    time: np.ndarray
    open_to: np.ndarray
    deep: np.ndarray


def shore_of(
    sea: Sea, level_m: float, heights: np.ndarray, wet: np.ndarray, step: float
) -> ShoreWaves:
    """The shore of a water that stands at a level."""
    deep = (level_m - heights).astype(np.float32)
    # low ground that is another water's, or dry, lies behind the shore
    deep = np.where(wet | (deep <= 0), deep, -0.05)
    time = shore_time(deep, sea, step)
    return ShoreWaves(time, facing(time, sea, step), deep)


def reaches(water: Water, sea: Sea) -> float:
    """How high over its level a water wets its shore, m."""
    return run_up(sea, water.surf / 100) if water.reach != "stream" else 0.06


@dataclass(frozen=True)
class WaterSurface:
    """A water's surface at places, float32 (n,): shift east and north and height over the still
    level (m), slope east and north, mean square of the slopes too small to show, foam 0..1, how far
    the surface is drawn together, about -1..1; how bright the foam is, and how far a stream frays
    at its edges, 0..1.
    """

    aside: np.ndarray
    ahead: np.ndarray
    high: np.ndarray
    east: np.ndarray
    north: np.ndarray
    rough: np.ndarray
    foam: np.ndarray
    bend: np.ndarray
    bright: np.ndarray | float = FOAM
    frays: np.ndarray | float = 0.0


@dataclass(frozen=True)
class Moving:
    """A standing water that moves, at a time."""

    water: Water
    sea: Sea
    shore: ShoreWaves
    grid: Grid
    waves: Waves
    seconds: float
    ice: np.ndarray | None = None
    wakes: Sequence[Wake] = ()

    def at(self, x: np.ndarray, y: np.ndarray, fine_m: np.ndarray) -> WaterSurface:
        """The surface at places (m) of an undisturbed plane, in details of `fine_m` and larger."""
        time, open_to, deep, run_east, run_north = self._shore_at(x, y)
        own = self.waves.at(x, y, fine_m)
        amount = self.water.surf / 100
        s = surf_at(time, deep, open_to, x, y, self.sea, self.seconds, amount)
        # crests too near to one another to show are left out
        seen = np.clip(self.sea.long_m * 0.15 / np.maximum(fine_m, 1e-6), 0, 1)
        # the open sea's waves end where those that run in have taken their place
        calm = s.calm * np.clip(deep / (0.6 * self.sea.high_m + 1e-6), 0, 1) + (1 - s.calm) * 0.25
        calm = np.where(deep > self.sea.long_m * 0.5, 1.0, calm)
        whitecaps = np.clip((own[:, 5] - 0.52) * 4, 0, 1)
        foam = np.maximum(s.foam, whitecaps * calm) * self.water.foam / 100
        slope = s.slope * seen
        if self.wakes:
            high, east, north, white = wakes_at(self.wakes, x, y)
            own[:, 0] += high / np.maximum(calm, 0.05)
            own[:, 1] += east / np.maximum(calm, 0.05)
            own[:, 2] += north / np.maximum(calm, 0.05)
            foam = np.maximum(foam, white * self.water.foam / 100)
        if self.ice is not None:
            return self._frozen(x, y, own, calm, s.high_m * seen, slope, run_east, run_north, foam)
        return WaterSurface(
            own[:, 3] * calm,
            own[:, 4] * calm,
            own[:, 0] * calm + s.high_m * seen,
            own[:, 1] * calm + slope * run_east,
            own[:, 2] * calm + slope * run_north,
            own[:, 6],
            drifting(x, y, np.clip(foam, 0, 1), fine_m, self.sea, self.seconds),
            own[:, 5],
        )

    def _frozen(self, x, y, own, calm, high, slope, run_east, run_north, foam) -> WaterSurface:
        """The surface with ice on it: still where it is frozen."""
        assert self.ice is not None
        g = self.grid
        px = np.clip(x, g.east_m, g.east_m + g.width_m)
        py = np.clip(y, g.north_m, g.north_m + g.depth_m)
        thick = values_at(self.ice, g, px, py)
        frozen, white, snow = ice_at(x, y, thick, self.water)
        free = 1 - frozen
        calm = calm * free
        bright = WHITE_ICE + (SNOW - WHITE_ICE) * snow
        return WaterSurface(
            own[:, 3] * calm,
            own[:, 4] * calm,
            own[:, 0] * calm + high * free,
            own[:, 1] * calm + slope * run_east * free,
            own[:, 2] * calm + slope * run_north * free,
            own[:, 6] * free + frozen * SMOOTH_ICE,
            np.maximum(np.clip(foam, 0, 1) * free, white),
            own[:, 5] * free,
            np.where(frozen > 0.5, bright, FOAM),
        )

    def _shore_at(self, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, ...]:
        """Time, openness, depth, and the way away from the shore; beyond the plot the open sea."""
        g = self.grid
        inside = (x >= g.east_m) & (x <= g.east_m + g.width_m)
        inside &= (y >= g.north_m) & (y <= g.north_m + g.depth_m)
        px = np.clip(x, g.east_m, g.east_m + g.width_m)
        py = np.clip(y, g.north_m, g.north_m + g.depth_m)
        at = lambda field: values_at(field, g, px, py).astype(np.float64)
        held = np.minimum(self.shore.time, 600.0)
        down, across = np.gradient(held)
        east, north = at(across), -at(down)
        long = np.maximum(np.hypot(east, north), 1e-9)
        time = np.where(inside, at(held), FAR_S)
        time = np.where(time >= 599, FAR_S, time)
        open_to = at(self.shore.open_to)
        deep = np.where(inside, at(self.shore.deep), self.sea.deep_m)
        return time, open_to, deep, east / long, north / long


def level_around(level: np.ndarray, wet: np.ndarray) -> np.ndarray:
    """A water's level at each post, carried on over the land beside it, float32 (ny, nx)."""
    _, (rows, columns) = distance_transform_edt(~wet, return_indices=True)
    return level[rows, columns]


def moving(
    water: Water,
    sea: Sea,
    shore: ShoreWaves,
    grid: Grid,
    seconds: float,
    ice: np.ndarray | None = None,
    wakes: Sequence[Wake] = (),
) -> Moving:
    """A standing water at a time, with the thickness of its ice at each post (m) if any, and the
    wakes on it.
    """
    waves = waves_at(sea, seconds, water.chop / 100)
    return Moving(water, sea, shore, grid, waves, seconds, ice, wakes)
