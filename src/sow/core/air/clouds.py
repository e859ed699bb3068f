"""Clouds as volumes, marched through from the middle of the plot.

Shapes: a field of cover, cut at the amount, with a flat base and eroded rims (after Schneider &
Vos 2015). Light: towards the sun through the cloud itself, with weaker, wider octaves for light
that is scattered often (Wrenninge, Kulla & Lundqvist 2013); from sky and ground by height within
the cloud.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numba import njit, prange

from .atmosphere import dust_phase
from .billows import at, billows, hashed, level, on
from .harmonics import directions

HEAPS, LAYER, VEIL, BANK = range(4)
THICKNESS = (0.045, 0.02, 0.0012, 0.05)  # extinction of full cloud, 1/m
LIGHT_STEPS_M = np.array([25.0, 50.0, 100.0, 200.0, 400.0])
EARTH_M = 6_360_000.0
LEAST_WORN = 0.3
TOLD_ROWS = 32  # of a picture of clouds between two tellings
LOWEST_RISE = 0.012  # sine of the height above the horizon below which haze hides all clouds


Heard = Callable[[float], None]


def unheard(share: float) -> None:
    """Hears how much is done for one who does not wish to know."""


@dataclass(frozen=True)
class Cloud:
    """One kind of cloud over the plot. Lengths in m above the land; `amount` 0..1; `east_m` and
    `north_m` are how far it has drifted, or where a bank stands, `reach_m` half its breadth. With
    `ends_m` a layer ends so far away towards a bearing, and the sky is clear beyond.
    """

    kind: int
    amount: float
    size_m: float
    base_m: float
    thick_m: float
    seed: int
    east_m: float = 0.0
    north_m: float = 0.0
    reach_m: float = 0.0
    ends_m: float = 0.0
    ends_at_deg: float = 0.0

    def packed(self) -> np.ndarray:
        """As the kernels read it, float64."""
        spread = self.seed * 0.6180339887
        return np.array(
            [
                self.kind,
                self.amount,
                1.0 / (self.size_m * 7.0),
                self.base_m,
                self.thick_m,
                spread % 1.0,
                (spread * 7.0) % 1.0,
                self.east_m,
                self.north_m,
                self.reach_m,
                THICKNESS[self.kind],
                np.sin(np.deg2rad(self.ends_at_deg)),
                np.cos(np.deg2rad(self.ends_at_deg)),
                self.ends_m,
            ]
        )


@njit(cache=True, nogil=True, forceinline=True)
def _ramp(low, high, v):
    t = min(1.0, max(0.0, (v - low) / (high - low)))
    return t * t * (3 - 2 * t)


@njit(cache=True, nogil=True)
def _density(covers, soft, curls, c, x, y, h):
    """Share of full cloud at a place, `h` being 0 at the base and 1 at the top."""
    if h <= 0.0 or h >= 1.0:
        return 0.0
    kind, amount, f, thick = int(c[0]), c[1], c[2], c[4]
    inside = 0.0
    if kind == BANK:
        px, py = (x - c[7]) / c[9], (y - c[8]) / c[9]
        inside = 1.0 - (px * px + py * py)
        if inside <= 0.0:
            return 0.0
    px, py = (x - c[7]) * f + c[5], (y - c[8]) * f + c[6]
    if kind == VEIL:
        along, across = 0.8 * px + 0.6 * py, 0.8 * py - 0.6 * px
        n = 0.7 * at(soft, along * 0.35, across, c[5])
        n += 0.3 * at(curls, along * 0.9, across * 2.6, c[6])
        return _ramp(0.85 - amount, 1.35 - 0.55 * amount, n)
    cover = 0.72 * on(covers[0], px, py)
    # most of the sky is open: what cannot be cloud whatever else is asked, asks no more
    if kind != BANK and cover + 0.28 <= 1.0 - amount:
        return 0.0
    cover += 0.28 * on(covers[1], px * 0.31, py * 0.31)
    if kind == BANK:
        m = min(1.0, inside * (0.55 + 0.9 * cover) * (0.4 + amount))
    else:
        m = (cover - (1.0 - amount)) / (0.16 + 0.34 * amount)
    if m <= 0.0:
        return 0.0
    m = min(m, 1.0)
    pz = h * thick * f
    if kind == LAYER:
        if c[13] > 0.0:
            m *= _ramp(1.2 * c[13], 0.8 * c[13], x * c[11] + y * c[12])
        shape = m * _ramp(0.0, 0.3, h) * _ramp(1.0, 0.55, h)
        worn = 0.5 * (1.0 - at(soft, px * 3.1, py * 3.1, pz * 3.1))
        worn += 0.2 * (1.0 - at(curls, px * 6.3, py * 6.3, pz * 6.3))
        return min(1.0, max(0.0, (shape * 1.4 - worn) * 2.5))
    # heaps: a flat base, a top that stands higher where there is more of it
    shape = _ramp(0.0, 0.07, h) * min(1.0, max(0.0, 1.6 * np.sqrt(m) - 0.2 - h * 1.1))
    if shape <= 0.0:
        return 0.0
    lumps = at(soft, px * 3.3 + 0.3, py * 3.3, pz * 3.3)
    eats = 0.45 + 0.75 * h
    if kind == HEAPS and shape <= max(0.42 * (1.0 - lumps), LEAST_WORN) * eats:
        return 0.0
    knobs = at(curls, px * 4.7, py * 4.7 + 0.3, pz * 4.7)
    fine = at(curls, px * 13.7, py * 13.7, pz * 13.7)
    if kind == BANK:
        worn = 0.62 * (1.0 - lumps) + 0.3 * (1.0 - knobs) + 0.08 * (1.0 - fine)
        return min(1.0, max(0.0, (shape - 0.75 * worn) * 3.0))
    worn = 0.42 * (1.0 - lumps) + 0.40 * (1.0 - knobs) + 0.26 * (1.0 - fine)
    # where there is little cloud all of it is worn, so that no crumbs are left about its rim
    worn = max(worn, LEAST_WORN)
    return min(1.0, max(0.0, (shape - worn * eats) * 4.0))


@njit(cache=True, nogil=True)
def _octaves(nu, tau):
    """Sunlight turned towards the eye behind `tau` of cloud, 1/sr."""
    total, dims, amount, g = 0.0, 1.0, 1.0, 0.82
    for _ in range(4):
        ahead, back = dust_phase(nu, g), dust_phase(nu, -0.35 * g)
        total += amount * (0.75 * ahead + 0.25 * back) * np.exp(-dims * tau)
        dims *= 0.4
        amount *= 0.8
        g *= 0.55
    return total


@njit(cache=True, nogil=True, parallel=True)
def _march(covers, soft, curls, c, sun, lengths, least, most, rays, out):
    """For each direction: sunlit, lit by sky, lit by ground (shares), what passes, and how far away
    in m.
    """
    rows, columns = out.shape[0], out.shape[1]
    base, thick, sigma = c[3], c[4], c[10]
    for row in prange(rows):
        for column in range(columns):
            dx, dy, rise = rays[row, column]
            flat = np.sqrt(dx * dx + dy * dy)
            out[row, column, 0] = 0.0
            out[row, column, 1] = 0.0
            out[row, column, 2] = 0.0
            out[row, column, 3] = 1.0
            out[row, column, 4] = 0.0
            if rise < LOWEST_RISE:
                continue
            nu = dx * sun[0] + dy * sun[1] + rise * sun[2]
            enter = -EARTH_M * rise + np.sqrt((EARTH_M * rise) ** 2 + 2 * EARTH_M * base)
            leave = -EARTH_M * rise + np.sqrt((EARTH_M * rise) ** 2 + 2 * EARTH_M * (base + thick))
            if c[0] == VEIL:
                x, y = dx * 0.5 * (enter + leave), dy * 0.5 * (enter + leave)
                tau = (
                    sigma * thick * _density(covers, soft, curls, c, x, y, 0.5) * min(1 / rise, 4.0)
                )
                hides = 1.0 - np.exp(-tau)
                out[row, column, 0] = hides * (dust_phase(nu, 0.75) + 0.03)
                out[row, column, 1] = hides * 0.7
                out[row, column, 2] = hides * 0.3
                out[row, column, 3] = 1.0 - hides
                out[row, column, 4] = enter
                continue
            steps = int(least + (most - least) * (1.0 - rise) ** 2)
            dt = (leave - enter) / steps
            # a start of its own for each direction, so that steps do not show as shells
            start = (hashed(column, row, 5, 17) & np.uint32(65535)) / 65536.0
            passes, far, seen = 1.0, 0.0, 0.0
            for k in range(steps):
                t = enter + (k + start) * dt
                up = t * rise + t * t * flat * flat / (2 * EARTH_M)
                h = (up - base) / thick
                d = _density(covers, soft, curls, c, dx * t, dy * t, h)
                if d <= 0.002:
                    continue
                tau, way = 0.0, 0.0
                for q in range(len(lengths)):
                    spot = hashed(column, row, k, 29 + q) & np.uint32(65535)
                    s = way + spot / 65536.0 * lengths[q]
                    way += lengths[q]
                    at_h = h + sun[2] * s / thick
                    x, y = dx * t + sun[0] * s, dy * t + sun[1] * s
                    tau += _density(covers, soft, curls, c, x, y, at_h) * lengths[q]
                dims = np.exp(-sigma * d * dt)
                share = passes * (1.0 - dims)
                out[row, column, 0] += share * _octaves(nu, sigma * tau)
                out[row, column, 1] += share * (0.25 + 0.75 * h) * (1.0 - 0.35 * d)
                out[row, column, 2] += share * (1.0 - 0.75 * h) * 0.5
                far += share * t
                seen += share
                passes *= dims
                if passes < 0.004:
                    passes = 0.0
                    break
            out[row, column, 3] = passes
            out[row, column, 4] = far / seen if seen > 1e-6 else 0.0


@njit(cache=True, nogil=True, parallel=True)
def _shade(covers, soft, curls, c, sun, reach, steps, out):
    """Part of the sun that one cloud lets through to the ground's level."""
    rows, columns = out.shape
    base, thick, sigma = c[3], c[4], c[10]
    for row in prange(rows):
        for column in range(columns):
            x = ((column + 0.5) / columns - 0.5) * 2 * reach
            y = (0.5 - (row + 0.5) / rows) * 2 * reach
            tau = 0.0
            for k in range(steps):
                h = (k + 0.5) / steps
                t = (base + h * thick) / sun[2]
                d = _density(covers, soft, curls, c, x + sun[0] * t, y + sun[1] * t, h)
                tau += d * sigma * thick / steps / max(sun[2], 0.12)
            # light that is scattered ahead still arrives
            out[row, column] *= np.exp(-0.6 * tau)


def _covers(soft: np.ndarray, packed: np.ndarray) -> np.ndarray:
    """The two fields that decide over which land there is cloud, float32 (2, side, side)."""
    return np.stack([level(soft, z) for z in packed[5:7]])


def seen(
    cloud: Cloud, sun: np.ndarray, rows: int, fine: float = 1.0, tell: Heard = unheard
) -> np.ndarray:
    """One kind of cloud in the upper half of a panorama, float32 (rows, 4 rows, 5), as `along`."""
    return along(cloud, sun, directions(2 * rows, 4 * rows)[0][:rows], fine, tell)


def along(
    cloud: Cloud, sun: np.ndarray, rays: np.ndarray, fine: float = 1.0, tell: Heard = unheard
) -> np.ndarray:
    """One kind of cloud along unit directions (rows, columns, 3), float32 (rows, columns, 5):
    shares of sunlight (1/sr), of the sky's and of the ground's light, what passes, distance in m.
    `fine` scales the number of steps; `tell` hears how much is done, 0..1.
    """
    soft, curls = billows()
    packed = cloud.packed()
    covers = _covers(soft, packed)
    out = np.empty((*rays.shape[:2], 5), np.float32)
    least, most = max(8, round(26 * fine)), max(12, round(72 * fine))
    lengths = LIGHT_STEPS_M * min(1.0, cloud.thick_m / 500)
    if fine < 0.7:
        lengths = np.array([lengths[:3].sum(), lengths[3:].sum()])
    ways = np.ascontiguousarray(rays, np.float64)
    for row in range(0, len(out), TOLD_ROWS):
        band = slice(row, row + TOLD_ROWS)
        _march(covers, soft, curls, packed, sun, lengths, least, most, ways[band], out[band])
        tell(min(row + TOLD_ROWS, len(out)) / len(out))
    return out


def shade(
    clouds: list[Cloud], sun: np.ndarray, reach_m: float, side: int = 128, steps: int = 20
) -> np.ndarray:
    """Part of the sun, 0..1, that clouds let through to the ground within `reach_m` of the plot's
    middle, float32 (side, side), row 0 north.
    """
    out = np.ones((side, side), np.float32)
    if sun[2] < 0.02:
        return out
    soft, curls = billows()
    for cloud in clouds:
        packed = cloud.packed()
        _shade(_covers(soft, packed), soft, curls, packed, sun, reach_m, steps, out)
    return out
