"""The light of the air: tables of what passes and of what is scattered again and again.

Single scattering is summed along every ray. Higher orders are found one after another (successive
orders of scattering, Bruneton & Neyret 2008); instead of their four dimensions the light that
arrives at a height, for a height of the sun, is kept as spherical harmonics about the vertical and
the sun's own plane. Air (Rayleigh) asks for degrees 0 and 2 of it only, dust (Henyey & Greenstein)
for all. Dust throws most of its light ahead, more narrowly than so few harmonics can tell: that
part counts as not scattered (delta-M, Wiscombe 1977), but for the first order, whose phase function
is whole (Nakajima & Tanaka 1988, TMS).
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numba import njit, prange

from .gases import (
    DUST_OVER_KM,
    FORWARD,
    GROUND_KM,
    OZONE_AT_KM,
    OZONE_HALF_KM,
    RAYLEIGH_OVER_KM,
    TOP_KM,
    Gases,
)

HEIGHTS, SUNS = 20, 40  # nodes of the scattered light
DEGREE = 4
PARTS = (DEGREE + 1) * (DEGREE + 2) // 2
LOWEST_SUN = -0.32  # sine of the sun's height below which no light is left
ORDERS = 5  # those after it are taken to fall as the last two did
FIRST = 14, 12, 32  # rises of half a sphere, turns of half a circle, steps of a ray: first order
LATER = 6, 6, 18  # and the smoother light of later ones
THROUGH_R, THROUGH_MU = 48, 192
GREYS = (0.05, 0.2, 0.45, 0.9)  # grounds for which tables are made


@dataclass(frozen=True)
class Tables:
    """What passes to the top of the air (height, zenith): with what dust throws straight ahead, and
    as a beam without it. What is scattered (height, sun's height, part, colour) per unit of
    sunlight, and the light of the sky on flat ground (sun's height).
    """

    gases: Gases
    packed: np.ndarray
    through: np.ndarray
    beam: np.ndarray
    scattered: np.ndarray
    flat: np.ndarray


@njit(cache=True, nogil=True, forceinline=True)
def densities(h):
    """Amounts of air, dust and ozone at a height in km beside those that the coefficients name."""
    h = max(h, 0.0)
    tent = max(0.0, 1.0 - abs(h - OZONE_AT_KM) / OZONE_HALF_KM)
    return np.exp(-h / RAYLEIGH_OVER_KM), np.exp(-h / DUST_OVER_KM), tent


@njit(cache=True, nogil=True, forceinline=True)
def to_top(r, mu):
    """Way in km from radius `r` along the cosine `mu` of the zenith angle to the top of the air."""
    return -r * mu + np.sqrt(max(0.0, r * r * (mu * mu - 1.0) + TOP_KM * TOP_KM))


@njit(cache=True, nogil=True, forceinline=True)
def to_ground(r, mu):
    """Way in km to the ground, or -1 where the ray misses it."""
    inside = r * r * (mu * mu - 1.0) + GROUND_KM * GROUND_KM
    if mu >= 0.0 or inside < 0.0:
        return -1.0
    return max(0.0, -r * mu - np.sqrt(inside))


@njit(cache=True, nogil=True, parallel=True)
def _fill_through(g, out):
    """What of a beam passes to the top, by height and zenith (Bruneton & Neyret 2008, 4)."""
    span = np.sqrt(TOP_KM**2 - GROUND_KM**2)
    for i in prange(THROUGH_R):
        rho = span * i / (THROUGH_R - 1)
        r = np.sqrt(rho * rho + GROUND_KM * GROUND_KM)
        for j in range(THROUGH_MU):
            shortest, longest = TOP_KM - r, rho + span
            d = shortest + (longest - shortest) * j / (THROUGH_MU - 1)
            mu = 1.0
            if d > 0.0:
                mu = min(1.0, max(-1.0, (span * span - rho * rho - d * d) / (2.0 * r * d)))
            air, dust, ozone = 0.0, 0.0, 0.0
            n = 120
            for k in range(n + 1):
                t = d * k / n
                a, b, c = densities(np.sqrt(r * r + t * t + 2.0 * r * mu * t) - GROUND_KM)
                w = (0.5 if k == 0 or k == n else 1.0) * d / n
                air += a * w
                dust += b * w
                ozone += c * w
            for ch in range(3):
                out[i, j, ch] = np.exp(-(g[ch] * air + g[4] * dust + g[5 + ch] * ozone))


@njit(cache=True, nogil=True)
def passes(through, r, mu, out):
    """What of a beam passes from `r` towards `mu` to the top, for each colour."""
    span = np.sqrt(TOP_KM**2 - GROUND_KM**2)
    r = min(max(r, GROUND_KM), TOP_KM)
    rho = np.sqrt(max(0.0, r * r - GROUND_KM * GROUND_KM))
    shortest, longest = TOP_KM - r, rho + span
    y = rho / span * (THROUGH_R - 1)
    x = (to_top(r, mu) - shortest) / max(longest - shortest, 1e-9) * (THROUGH_MU - 1)
    x = min(max(x, 0.0), THROUGH_MU - 1.0)
    i, j = min(int(y), THROUGH_R - 2), min(int(x), THROUGH_MU - 2)
    fy, fx = y - i, x - j
    for ch in range(3):
        upper = through[i, j, ch] * (1 - fx) + through[i, j + 1, ch] * fx
        lower = through[i + 1, j, ch] * (1 - fx) + through[i + 1, j + 1, ch] * fx
        out[ch] = upper * (1 - fy) + lower * fy


@njit(cache=True, nogil=True)
def sun_passes(through, r, mu_s, out):
    """What of the sun's light arrives at `r`: none where the ground hides its disc."""
    hidden = -np.sqrt(max(0.0, 1.0 - (GROUND_KM / r) ** 2))
    share = min(1.0, max(0.0, (mu_s - hidden + 0.00465) / 0.0093))
    if share <= 0.0:
        out[:] = 0.0
        return
    passes(through, r, max(mu_s, hidden), out)
    for ch in range(3):
        out[ch] *= share


@njit(cache=True, nogil=True)
def harmonics(mu, cos_turn, out):
    """Orthonormal real spherical harmonics even about the sun's plane, (l, m) in rows of l.

    They obey the recurrences of Press and others (Numerical Recipes, 6.7).
    """
    sine = np.sqrt(max(0.0, 1.0 - mu * mu))
    before, now = 1.0, cos_turn  # cos(m turn)
    diagonal = np.sqrt(1.0 / (4.0 * np.pi))
    for m in range(DEGREE + 1):
        if m > 0:
            diagonal *= -np.sqrt((2.0 * m + 1.0) / (2.0 * m)) * sine
        wave = 1.0 if m == 0 else np.sqrt(2.0) * now
        lower, value = 0.0, diagonal
        for l in range(m, DEGREE + 1):
            if l > m:
                a = np.sqrt((4.0 * l * l - 1.0) / (l * l - m * m))
                b = np.sqrt(((l - 1.0) ** 2 - m * m) / (4.0 * (l - 1.0) ** 2 - 1.0))
                lower, value = value, a * (mu * value - b * lower)
            out[l * (l + 1) // 2 + m] = value * wave
        if m > 0:
            before, now = now, 2.0 * cos_turn * now - before


@njit(cache=True, nogil=True, forceinline=True)
def _sun_row(mu_s):
    """Where among the nodes a sun's height lies; they are closest at the horizon."""
    low = np.sqrt(-LOWEST_SUN)
    at = -np.sqrt(-mu_s) if mu_s < 0 else np.sqrt(mu_s)
    return min(max((at + low) / (1.0 + low) * (SUNS - 1), 0.0), SUNS - 1.0)


@njit(cache=True, nogil=True, forceinline=True)
def _sun_of(j):
    low = np.sqrt(-LOWEST_SUN)
    at = j / (SUNS - 1) * (1.0 + low) - low
    return at * abs(at)


@njit(cache=True, nogil=True, forceinline=True)
def _height_of(i):
    return (TOP_KM - GROUND_KM) * (i / (HEIGHTS - 1.0)) ** 2.5


@njit(cache=True, nogil=True, forceinline=True)
def air_phase(nu):
    """Rayleigh's phase function, 1/sr."""
    return 3.0 / (16.0 * np.pi) * (1.0 + nu * nu)


@njit(cache=True, nogil=True, forceinline=True)
def dust_phase(nu, g):
    """Henyey & Greenstein's phase function as Cornette & Shanks (1992) mended it, 1/sr."""
    k = 3.0 / (8.0 * np.pi) * (1.0 - g * g) / (2.0 + g * g)
    return k * (1.0 + nu * nu) / (1.0 + g * g - 2.0 * g * nu) ** 1.5


def _moments() -> np.ndarray:
    """The dust's phase function in Legendre's polynomials, degree 0 to DEGREE + 1."""
    nodes, weights = np.polynomial.legendre.leggauss(400)
    phase = np.array([dust_phase(x, FORWARD) for x in nodes]) * 2.0 * np.pi * weights
    basis = np.polynomial.legendre.legvander(nodes, DEGREE + 1)
    return basis.T @ phase


MOMENTS = _moments()
AHEAD = float(MOMENTS[-1])  # of what dust scatters


@njit(cache=True, nogil=True)
def blunt_phase(nu):
    """The dust's phase function without what goes straight ahead, by its harmonics, 1/sr."""
    before, now, total = 1.0, nu, 1.0 - AHEAD
    for l in range(1, DEGREE + 1):
        total += (2 * l + 1) * (MOMENTS[l] - AHEAD) * now
        before, now = now, ((2 * l + 1) * nu * now - l * before) / (l + 1)
    return total / (4.0 * np.pi)


@njit(cache=True, nogil=True)
def again(scattered, g, h, mu, mu_s, nu, air, dust, base, out):
    """Light scattered towards `mu` per km at a height, for each colour, of all orders in the table.

    `nu` is the cosine of the angle to the sun; `base` is room for the harmonics.
    """
    y = (min(max(h, 0.0), 99.99) / (TOP_KM - GROUND_KM)) ** 0.4 * (HEIGHTS - 1)
    x = _sun_row(mu_s)
    i, j = min(int(y), HEIGHTS - 2), min(int(x), SUNS - 2)
    fy, fx = y - i, x - j
    sines = np.sqrt(max(1e-12, (1.0 - mu * mu) * (1.0 - mu_s * mu_s)))
    harmonics(mu, min(1.0, max(-1.0, (nu - mu * mu_s) / sines)), base)
    out[:] = 0.0
    p = 0
    for l in range(DEGREE + 1):
        thin = 1.0 if l == 0 else (0.1 if l == 2 else 0.0)
        for _ in range(l + 1):
            for ch in range(3):
                kept = (scattered[i, j, p, ch] * (1 - fx) + scattered[i, j + 1, p, ch] * fx) * (
                    1 - fy
                ) + (
                    scattered[i + 1, j, p, ch] * (1 - fx) + scattered[i + 1, j + 1, p, ch] * fx
                ) * fy
                turned = g[ch] * air * thin + g[3] * dust * (MOMENTS[l] - AHEAD)
                out[ch] += kept * base[p] * turned
            p += 1


@njit(cache=True, nogil=True)
def radiance(through, scattered, flat, g, r, mu, mu_s, nu, steps, once, work, out):
    """Light that arrives at radius `r` from `mu`, for each colour, per unit of sunlight.

    With `once` above 0 it is the light scattered once, and with `once` below 2 also what the table
    holds (at 2 dust scatters without what goes straight ahead, as later orders ask); ground that is
    hit adds what it throws back. `work` is room (3, PARTS).
    """
    sun, more, base = work[0], work[1], work[2]
    ground = to_ground(r, mu)
    d = ground if ground >= 0.0 else to_top(r, mu)
    air_way, dust_way, ozone_way = 0.0, 0.0, 0.0
    out[:] = 0.0
    at = 0.0
    thin, thick = air_phase(nu), dust_phase(nu, FORWARD)
    if once > 1:
        thick = blunt_phase(nu)
    for k in range(steps):
        end = d * ((k + 1.0) / steps) ** 2
        dt, t = end - at, 0.5 * (at + end)
        at = end
        here = np.sqrt(r * r + t * t + 2.0 * r * mu * t)
        mu_here = min(1.0, max(-1.0, (r * mu + t) / here))
        sun_here = min(1.0, max(-1.0, (r * mu_s + t * nu) / here))
        air, dust, ozone = densities(here - GROUND_KM)
        if once > 0:
            sun_passes(through, here, sun_here, sun)
        if once < 2:
            again(scattered, g, here - GROUND_KM, mu_here, sun_here, nu, air, dust, base, more)
        for ch in range(3):
            takes = g[ch] * air + g[4] * dust + g[5 + ch] * ozone
            before = np.exp(-(g[ch] * air_way + g[4] * dust_way + g[5 + ch] * ozone_way))
            # light that is scattered within a step is dimmed within it (Hillaire 2015)
            share = before * ((1.0 - np.exp(-takes * dt)) / takes if takes > 1e-9 else dt)
            light = more[ch] if once < 2 else 0.0
            if once > 0:
                light += sun[ch] * (g[ch] * air * thin + g[3] * dust * thick)
            out[ch] += share * light
        air_way += air * dt
        dust_way += dust * dt
        ozone_way += ozone * dt
    if ground >= 0.0:
        here = min(1.0, max(-1.0, (r * mu_s + d * nu) / GROUND_KM))
        sun_passes(through, GROUND_KM, here, sun)
        x = _sun_row(here)
        j = min(int(x), SUNS - 2)
        for ch in range(3):
            left = np.exp(-(g[ch] * air_way + g[4] * dust_way + g[5 + ch] * ozone_way))
            arrives = 0.0
            if once < 2:
                arrives = flat[j, ch] * (1 - x + j) + flat[j + 1, ch] * (x - j)
            if once > 0:
                arrives += sun[ch] * max(here, 0.0)
            out[ch] += left * g[8 + ch] / np.pi * arrives


@njit(cache=True, nogil=True, parallel=True)
def _order(through, last, flat, g, rises, weights, turns, steps, once, out, flat_out):
    """One more order: what arrives at each node, as harmonics, from the order before."""
    for node in prange(HEIGHTS * SUNS):
        i, j = node // SUNS, node % SUNS
        mu_s = _sun_of(j)
        r = min(max(GROUND_KM + _height_of(i), GROUND_KM + 0.001), TOP_KM - 0.001)
        light = np.zeros(PARTS)
        base = np.zeros(PARTS)
        work = np.zeros((3, PARTS))
        sine_s = np.sqrt(1.0 - mu_s * mu_s)
        for a in range(len(rises)):
            mu = rises[a]
            sine = np.sqrt(1.0 - mu * mu)
            for b in range(turns):
                cos_turn = np.cos((b + 0.5) * np.pi / turns)
                nu = mu * mu_s + sine * sine_s * cos_turn
                radiance(through, last, flat, g, r, mu, mu_s, nu, steps, once, work, light)
                harmonics(mu, cos_turn, base)
                w = weights[a] * 2.0 * np.pi / turns
                for p in range(PARTS):
                    for ch in range(3):
                        out[i, j, p, ch] += light[ch] * base[p] * w
                if i == 0 and mu > 0.0:
                    for ch in range(3):
                        flat_out[j, ch] += light[ch] * mu * w


def tables_of(gases: Gases) -> Tables:
    """The tables of a kind of air: about a second on two cores."""
    whole = gases.packed()
    beam = np.zeros((THROUGH_R, THROUGH_MU, 3))
    _fill_through(whole, beam)
    g = whole.copy()
    g[4] -= AHEAD * g[3]
    through = np.zeros_like(beam)
    _fill_through(g, through)
    shape = (HEIGHTS, SUNS, PARTS, 3)
    last, flat = np.zeros(shape), np.zeros((SUNS, 3))
    total, flat_total = np.zeros(shape), np.zeros((SUNS, 3))
    before = now = last
    for order in range(ORDERS):
        rises, turns, steps = LATER if order else FIRST
        sines, weights = _halves(rises)
        now, flat_now = np.zeros(shape), np.zeros((SUNS, 3))
        once = 0 if order else 2
        _order(through, last, flat, g, sines, weights, turns, steps, once, now, flat_now)
        total += now
        flat_total += flat_now
        before, last, flat = last, now, flat_now
    falls = np.clip(now[..., :1, :] / np.maximum(before[..., :1, :], 1e-12), 0, 0.95)
    total += now * falls / (1 - falls)
    flat_total += flat * (falls / (1 - falls))[0, :, 0]
    return Tables(gases, g, through, beam, total, flat_total)


def tables_between(gases: Gases, of: Callable[[Gases], Tables]) -> Tables:
    """The tables over ground of any colour, from those over the two greys about each band: bands do
    not mix, and light from the ground adds up smoothly (within 0.5 % over land, 1.5 % over snow).
    `of` gives the tables of a grey ground; few are ever asked for.
    """
    scattered, flat = [], []
    for band, share in enumerate(gases.ground):
        above = int(np.clip(np.searchsorted(GREYS, share), 1, len(GREYS) - 1))
        below = above - 1
        part = float(np.clip((share - GREYS[below]) / (GREYS[above] - GREYS[below]), 0, 1))
        low, high = (of(replace(gases, ground=(GREYS[k],) * 3)) for k in (below, above))
        scattered.append((1 - part) * low.scattered[..., band] + part * high.scattered[..., band])
        flat.append((1 - part) * low.flat[..., band] + part * high.flat[..., band])
    packed = high.packed.copy()
    packed[-3:] = gases.ground
    mixed = np.stack(scattered, -1), np.stack(flat, -1)
    return Tables(gases, packed, high.through, high.beam, *mixed)


def _halves(rises: int) -> tuple[np.ndarray, np.ndarray]:
    """Sines and weights of the sphere's directions: its upper and lower half each by Gauss's rule,
    as light steps at the horizon.
    """
    nodes, shares = np.polynomial.legendre.leggauss(rises)
    sines = np.concatenate([0.5 * nodes - 0.5, 0.5 * nodes + 0.5])
    return sines, np.concatenate([shares, shares]) * 0.5


def sun_at_ground(tables: Tables, mu_s: float, altitude_km: float = 0.0) -> np.ndarray:
    """Share of the sun's light that arrives on a plane turned to it, float64 (3)."""
    out = np.zeros(3)
    sun_passes(tables.beam, GROUND_KM + max(altitude_km, 0.0005), mu_s, out)
    return out
