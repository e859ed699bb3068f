"""Openness to the sky and hours of sun."""

import numpy as np
from numba import njit, prange

from .shape import calm


@njit(cache=True, nogil=True, parallel=True)
def _horizons(h, spacing, directions, first, reach, out):
    ny, nx = h.shape
    for r in prange(ny):
        for c in range(nx):
            total = 0.0
            for d in range(directions):
                a = 2 * np.pi * (d + 0.5 * ((r + c) & 1)) / directions
                sx, sy = np.sin(a), -np.cos(a)
                top, k = 0.0, first
                while k <= reach:
                    y, x = r + sy * k, c + sx * k
                    if y < 0 or x < 0 or y > ny - 1 or x > nx - 1:
                        break
                    iy, ix = min(int(y), ny - 2), min(int(x), nx - 2)
                    fy, fx = y - iy, x - ix
                    v = (h[iy, ix] * (1 - fx) + h[iy, ix + 1] * fx) * (1 - fy) + (
                        h[iy + 1, ix] * (1 - fx) + h[iy + 1, ix + 1] * fx
                    ) * fy
                    top = max(top, (v - h[r, c]) / (k * spacing))
                    k = k * 1.32 + 0.4 * first
                total += 1.0 / (1.0 + top * top)  # square of the cosine of the horizon's angle
            out[r, c] = 100.0 * total / directions


def openness(
    heights: np.ndarray, spacing: float, support_m: float = 0.0, directions: int = 16
) -> np.ndarray:
    """Part of the sky that is seen, in per cent, float32 (ny, nx): the mean of cos² of the
    horizon's angle (Dozier & Frew 1990), over shapes longer than the support.
    """
    out = np.empty(heights.shape, np.float32)
    _horizons(
        np.ascontiguousarray(calm(heights, spacing, support_m), np.float32),
        spacing,
        directions,
        max(1.0, support_m / spacing),
        max(heights.shape) * 0.7,
        out,
    )
    return out


@njit(cache=True, nogil=True)
def shade_line(h, dx, dy, fall, out):
    """For each post the height above which the sun is seen: a sweep away from the sun, whose way is
    (dx, dy) in columns and rows with the larger of the two being 1 or -1; `fall` is the drop of its
    ray in m a step.
    """
    ny, nx = h.shape
    columns = abs(dx) >= abs(dy)
    na, nb = (nx, ny) if columns else (ny, nx)
    sa = (1 if dx > 0 else -1) if columns else (1 if dy > 0 else -1)
    slip = dy if columns else dx
    for k in range(na):
        a = na - 1 - k if sa > 0 else k
        prev = a + sa
        for b in range(nb):
            if prev < 0 or prev >= na:
                if columns:
                    out[b, a] = -1e9
                else:
                    out[a, b] = -1e9
                continue
            pb = b + slip
            j = int(np.floor(pb))
            t = pb - j
            j0, j1 = min(max(j, 0), nb - 1), min(max(j + 1, 0), nb - 1)
            if columns:
                out[b, a] = (
                    max(out[j0, prev], h[j0, prev]) * (1 - t)
                    + max(out[j1, prev], h[j1, prev]) * t
                    - fall
                )
            else:
                out[a, b] = (
                    max(out[prev, j0], h[prev, j0]) * (1 - t)
                    + max(out[prev, j1], h[prev, j1]) * t
                    - fall
                )


def sun_line(heights: np.ndarray, spacing: float, sun: np.ndarray) -> np.ndarray:
    """For each post the height (m) above which the sun is seen over the land, float32 (ny, nx);
    `sun` is the unit vector (east, north, up) to it. Far below all ground where nothing hides it.
    """
    line = np.full(heights.shape, -1e6, np.float32)
    major = max(abs(float(sun[0])), abs(float(sun[1])))
    if major < 1e-3:
        return line
    way = float(sun[0]) / major, -float(sun[1]) / major
    fall = float(sun[2]) / major * spacing
    shade_line(np.ascontiguousarray(heights, np.float32), *way, fall, line)
    return line


def sun_at(latitude: float, day: int, hour: float) -> np.ndarray:
    """Unit vector (east, north, up) to the sun at a solar hour; declination after Spencer
    (1971).
    """
    g = 2 * np.pi * (day - 1) / 365
    tilt = (
        0.006918
        - 0.399912 * np.cos(g)
        + 0.070257 * np.sin(g)
        - 0.006758 * np.cos(2 * g)
        + 0.000907 * np.sin(2 * g)
        - 0.002697 * np.cos(3 * g)
        + 0.00148 * np.sin(3 * g)
    )
    lat, turn = np.deg2rad(latitude), np.deg2rad(15 * (hour - 12))
    return np.array(
        [
            -np.cos(tilt) * np.sin(turn),
            np.cos(lat) * np.sin(tilt) - np.sin(lat) * np.cos(tilt) * np.cos(turn),
            np.sin(lat) * np.sin(tilt) + np.cos(lat) * np.cos(tilt) * np.cos(turn),
        ]
    )


def sunlit(
    heights: np.ndarray, spacing: float, latitude: float = 50.0, day: int = 172, step_h: float = 0.5
) -> np.ndarray:
    """Hours of direct sun on a clear day, float32 (ny, nx): the ground's own shadow and that of
    what stands around it.
    """
    h = np.ascontiguousarray(heights, np.float32)
    north, east = np.gradient(h, np.float32(spacing))
    hours = np.zeros(h.shape, np.float32)
    line = np.empty(h.shape, np.float32)
    for hour in np.arange(step_h / 2, 24, step_h):
        sun = sun_at(latitude, day, hour)
        if sun[2] <= 0.005:
            continue
        faces = -east * sun[0] + north * sun[1] + sun[2] > 0
        major = max(abs(sun[0]), abs(sun[1]))
        if major > 1e-3:
            shade_line(h, sun[0] / major, -sun[1] / major, sun[2] / major * spacing, line)
            faces &= h > line - np.float32(0.02 * spacing)
        hours += faces * np.float32(step_h)
    return hours
