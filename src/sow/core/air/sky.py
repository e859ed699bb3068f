"""The clear sky in every direction, as a full panorama."""

import numpy as np
from numba import njit, prange

from .atmosphere import PARTS, Tables, dust_phase, radiance
from .gases import FORWARD, GROUND_KM, SUN_KLUX

# directions that are computed and steps along each; the rest lies between
FULL = 72, 40, 28
QUICK = 44, 24, 18
QUICK_ROWS = 128  # a picture of so few rows is a draft


@njit(cache=True, nogil=True, forceinline=True)
def _glow(nu):
    """How the sky brightens towards the sun: what is left of it by this is smooth, and may be read
    between few directions.
    """
    return 0.05 + dust_phase(nu, FORWARD)


@njit(cache=True, nogil=True, parallel=True)
def _fan(through, scattered, flat, g, r, mu_s, rises, turns, steps, out):
    for i in prange(len(rises)):
        work = np.zeros((3, PARTS))
        light = np.zeros(3)
        mu = np.sin(rises[i])
        sines = np.cos(rises[i]) * np.sqrt(max(0.0, 1.0 - mu_s * mu_s))
        for j in range(len(turns)):
            nu = min(1.0, max(-1.0, mu * mu_s + sines * np.cos(turns[j])))
            radiance(through, scattered, flat, g, r, mu, mu_s, nu, steps, 1, work, light)
            for ch in range(3):
                out[i, j, ch] = light[ch] / _glow(nu)


@njit(cache=True, nogil=True, parallel=True)
def _spread(fan, sun_turn, mu_s, out):
    """The fan of directions laid out as a panorama."""
    rows, columns = out.shape[0], out.shape[1]
    nr, nt = fan.shape[0], fan.shape[1]
    for row in prange(rows):
        height = 0.5 - (row + 0.5) / rows  # of half a turn
        y = (0.5 + 0.5 * np.sign(height) * np.sqrt(2.0 * abs(height))) * (nr - 1)
        i = min(int(y), nr - 2)
        fy = y - i
        # up to the horizon and down from it, never across it
        half = nr // 2
        if i == half - 1:
            i, fy = (half - 2, 1.0) if height < 0 else (half, 0.0)
        for column in range(columns):
            turn = abs((column + 0.5) / columns * 2.0 * np.pi - sun_turn) % (2.0 * np.pi)
            turn = min(turn, 2.0 * np.pi - turn)
            x = np.sqrt(turn / np.pi) * (nt - 1)
            j = min(int(x), nt - 2)
            fx = x - j
            sines = np.cos(np.pi * height) * np.sqrt(max(0.0, 1.0 - mu_s * mu_s))
            nu = min(1.0, max(-1.0, np.sin(np.pi * height) * mu_s + sines * np.cos(turn)))
            glow = _glow(nu)
            for ch in range(3):
                lower = fan[i, j, ch] * (1 - fx) + fan[i, j + 1, ch] * fx
                upper = fan[i + 1, j, ch] * (1 - fx) + fan[i + 1, j + 1, ch] * fx
                out[row, column, ch] = (lower * (1 - fy) + upper * fy) * glow


def clear_sky(tables: Tables, sun: np.ndarray, rows: int, altitude_km: float = 0.0) -> np.ndarray:
    """Radiance in kcd/m2 (linear Rec.709) of a full panorama, float32 (rows, 2 rows, 3), without
    the sun's disc; below the horizon the ground as the air shows it. `sun` is the unit vector to
    the sun.
    """
    # directions closest together at the horizon and about the sun's bearing
    up, across, steps = QUICK if rows <= QUICK_ROWS else FULL
    along = np.linspace(-1, 1, up)
    rises = np.sign(along) * along**2 * np.pi / 2
    turns = np.linspace(0, 1, across) ** 2 * np.pi
    fan = np.empty((up, across, 3))
    r = GROUND_KM + max(altitude_km, 0.0005)
    args = tables.through, tables.scattered, tables.flat, tables.packed
    _fan(*args, r, float(sun[2]), rises, turns, steps, fan)
    fan *= SUN_KLUX
    out = np.empty((rows, 2 * rows, 3), np.float32)
    _spread(fan, float(np.arctan2(sun[0], sun[1])) % (2 * np.pi), float(sun[2]), out)
    return out
