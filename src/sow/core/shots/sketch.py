"""A small picture of the land from a viewpoint or from above, drawn by the core."""

import cv2
import numpy as np
from numba import njit

from ..air.light import KOSCHMIEDER
from ..surface.relief import INK, PAPER
from ..survey.slope import normals


@njit(cache=True, nogil=True)
def _cast(
    h, colour, east0, north_top, spacing, east, north, up, bearing, tilt, focal, haze, far, out
):
    """Column by column, from near to far: each step of the ground that rises above what is drawn
    fills the rows between.
    """
    rows, cols = out.shape[0], out.shape[1]
    ny, nx = h.shape
    half = 18.0 / focal
    scale = cols / (2 * half)
    for x in range(cols):
        side = (x + 0.5 - cols / 2) / scale
        away = np.sqrt(1 + side * side)
        a = bearing + np.arctan(side)
        sx, sy = np.sin(a), np.cos(a)
        drawn = rows
        d = spacing * 0.5
        while d < far:
            c = (east + sx * d - east0) / spacing
            r = (north_top - north - sy * d) / spacing
            if c >= 0 and r >= 0 and c <= nx - 1.001 and r <= ny - 1.001:
                ic, ir = int(c), int(r)
                fc, fr = c - ic, r - ir
                z = (h[ir, ic] * (1 - fc) + h[ir, ic + 1] * fc) * (1 - fr) + (
                    h[ir + 1, ic] * (1 - fc) + h[ir + 1, ic + 1] * fc
                ) * fr
                y = int(
                    rows / 2
                    - (np.tan(np.arctan2(z - up, d) - tilt))
                    * scale
                    * away
                    / np.sqrt(1.0 + side * side)
                )
                if y < drawn:
                    k = 1 - np.exp(-KOSCHMIEDER * d / haze)
                    for ch in range(3):
                        upper = colour[ir, ic, ch] * (1 - fc) + colour[ir, ic + 1, ch] * fc
                        lower = colour[ir + 1, ic, ch] * (1 - fc) + colour[ir + 1, ic + 1, ch] * fc
                        tone = (upper * (1 - fr) + lower * fr) * (1 - k)
                        for yy in range(max(y, 0), drawn):
                            out[yy, x, ch] = tone + out[yy, x, ch] * k
                    drawn = max(y, 0)
            d += max(spacing * 0.5, d * 0.006)


def _lit(heights, spacing, sun) -> np.ndarray:
    n = normals(heights, spacing)
    return np.clip(n @ np.asarray(sun, np.float32), 0, 1)


def from_shot(
    heights, grid, tone, pose: dict, sun, size: tuple[int, int], haze_m: float = 6000.0
) -> np.ndarray:
    """The land seen from `pose` (east, north, up in m; bearing, tilt in degrees; focal in mm),
    uint8 (rows, columns, 3).

    `tone` is the ground's colour, 0..255 float (ny, nx, 3); `sun` the unit vector to it.
    """
    rows, cols = size
    light = _lit(heights, grid.spacing, sun)[..., None]
    colour = (np.asarray(tone, np.float32) * (0.34 + 0.85 * light)).astype(np.float32)
    sky = np.linspace(0, 1, rows)[:, None, None] * (
        np.array((222, 226, 224)) - np.array((158, 183, 202))
    ) + np.array((158, 183, 202))
    out = np.ascontiguousarray(np.broadcast_to(sky, (rows, cols, 3)), np.float32)
    top = grid.north_m + ((grid.whole_ny or grid.ny) - 1) * grid.spacing
    _cast(
        np.ascontiguousarray(heights, np.float32),
        colour,
        grid.east_m,
        top,
        grid.spacing,
        float(pose["east"]),
        float(pose["north"]),
        float(pose["up"]),
        np.deg2rad(float(pose["bearing"])),
        np.deg2rad(float(pose["tilt"])),
        float(pose["focal"]),
        max(haze_m, 50.0),
        2.2 * max(grid.width_m, grid.depth_m),
        out,
    )
    return np.clip(out, 0, 255).astype(np.uint8)


def from_above(heights, spacing, water_m=None, tone=None, size: int = 256) -> np.ndarray:
    """Shaded relief on paper with water in slate, uint8, the longer side `size` px or less."""

    sun = np.array((-0.5, 0.5, 0.7071), np.float32)
    light = _lit(heights, spacing, sun)[..., None]
    ground = PAPER if tone is None else np.asarray(tone) * 0.75 + PAPER * 0.25
    out = INK + (ground - INK) * (0.1 + 0.95 * light)
    if water_m is not None:
        wet = np.isfinite(water_m) & (heights < water_m)
        out[wet] = (122, 152, 166)
    k = size / max(heights.shape)
    rows, columns = (max(1, round(n * k)) for n in heights.shape)
    how = cv2.INTER_AREA if k < 1 else cv2.INTER_CUBIC
    small = cv2.resize(out.astype(np.float32), (columns, rows), interpolation=how)
    return np.clip(small, 0, 255).astype(np.uint8)
