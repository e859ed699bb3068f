"""A small picture of the land from a viewpoint or from above, drawn by the core."""

from collections.abc import Sequence

import cv2
import numpy as np
from numba import njit

from ..air.harmonics import arriving
from ..air.light_of import Daylight
from ..air.mist import Mist, mist_depth, packed
from ..plot import Grid
from ..surface.relief import INK, PAPER
from ..survey.sky import openness, sun_line
from ..survey.slope import normals

MIRROR = 0.02  # what water mirrors of what falls straight on it


@njit(cache=True, nogil=True)
def _cast(
    h,
    colour,
    mirror,
    east0,
    north_top,
    spacing,
    pose,
    haze,
    takes,
    tone,
    sky,
    mists,
    packs,
    far,
    out,
):
    """Column by column, from near to far: each step of the ground that rises above what is drawn
    fills the rows between.
    """
    rows, cols = out.shape[0], out.shape[1]
    ny, nx = h.shape
    east, north, up, bearing, tilt, focal = pose
    scale = cols / (36.0 / focal)
    k, top, base, begins = haze
    for x in range(cols):
        side = (x + 0.5 - cols / 2) / scale
        a = bearing + np.arctan(side)
        sx, sy = np.sin(a), np.cos(a)
        drawn = rows
        d = spacing * 0.5
        while d < far and drawn > 0:
            c = (east + sx * d - east0) / spacing
            r = (north_top - north - sy * d) / spacing
            if c >= 0 and r >= 0 and c <= nx - 1.001 and r <= ny - 1.001:
                ic, ir = int(c), int(r)
                fc, fr = c - ic, r - ir
                z = (h[ir, ic] * (1 - fc) + h[ir, ic + 1] * fc) * (1 - fr) + (
                    h[ir + 1, ic] * (1 - fc) + h[ir + 1, ic + 1] * fc
                ) * fr
                y = int(rows / 2 - np.tan(np.arctan2(z - up, d) - tilt) * scale)
                if y < drawn:
                    ea = np.exp(-max((up - base) / top, -4.0))
                    eb = np.exp(-max((z - base) / top, -4.0))
                    gap = (z - up) / top
                    thin = ea if abs(gap) < 1e-3 else (ea - eb) / gap
                    deep = k * max(d - begins, 0.0) * min(max(thin, 0.0), 4.0)
                    v = np.arccos((z - up) / np.sqrt(d * d + (z - up) ** 2)) / np.pi
                    u = (a / (2 * np.pi)) % 1.0
                    tr = min(int(v * tone.shape[0]), tone.shape[0] - 1)
                    tc = min(int(u * tone.shape[1]), tone.shape[1] - 1)
                    sr = min(int((1 - v) * sky.shape[0]), sky.shape[0] - 1)
                    sc = min(int(u * sky.shape[1]), sky.shape[1] - 1)
                    flat = abs(up - z) / np.sqrt(d * d + (z - up) ** 2)
                    shines = (MIRROR + (1 - MIRROR) * (1 - flat) ** 5) * mirror[ir, ic]
                    if len(packs) > 0:
                        x1, y1 = east + sx * d, north + sy * d
                        deep += mist_depth(mists, packs, east, north, up, x1, y1, z)
                    for ch in range(3):
                        passes = np.exp(-deep - takes[ch] * d)
                        upper = colour[ir, ic, ch] * (1 - fc) + colour[ir, ic + 1, ch] * fc
                        lower = colour[ir + 1, ic, ch] * (1 - fc) + colour[ir + 1, ic + 1, ch] * fc
                        own = upper * (1 - fr) + lower * fr
                        own = own * (1 - shines) + sky[sr, sc, ch] * shines
                        light = own * passes + tone[tr, tc, ch] * (1 - passes)
                        for yy in range(max(y, 0), drawn):
                            out[yy, x, ch] = light
                    drawn = max(y, 0)
            d += max(spacing * 0.5, d * 0.006)


def lit_ground(
    heights: np.ndarray,
    spacing: float,
    colour: np.ndarray,
    lit: Daylight,
    opens: np.ndarray | None = None,
) -> np.ndarray:
    """Radiance of ground of a linear colour (ny, nx, 3) in a light, float32, of the light's units:
    the sun where the land does not hide it, the sky as far as it is seen, the rest from ground.
    `opens` is that part of the sky in per cent, where it is known.
    """
    n = normals(heights, spacing)
    facing = np.clip(n @ lit.sun.astype(np.float32), 0, 1)
    if lit.sun[2] > 0.01:
        line = sun_line(heights, spacing, lit.sun)
        facing = facing * np.clip((heights - line + 1.6) / 2.8, 0, 1)
    open_ = (openness(heights, spacing) if opens is None else opens)[..., None] / 100
    sky = arriving(lit.numbers, n.astype(np.float64))
    flat = arriving(lit.numbers, np.array([0.0, 0.0, 1.0]))
    bounce = colour.mean((0, 1)) * (flat + lit.sunlight * max(float(lit.sun[2]), 0))
    arrives = facing[..., None] * lit.sunlight + sky * open_ + bounce * (1 - open_)
    return (np.asarray(colour) * arrives / np.pi).astype(np.float32)


def sky_behind(pose: dict, lit: Daylight, size: tuple[int, int]) -> np.ndarray:
    """The sky in a picture of (rows, columns) from a pose, float32 linear light in units."""
    rows, cols = size
    scale = cols * float(pose["focal"]) / 36
    side = (np.arange(cols) + 0.5 - cols / 2) / scale
    rise = np.arctan((rows / 2 - np.arange(rows) - 0.5) / scale) + np.deg2rad(float(pose["tilt"]))
    turn = np.deg2rad(float(pose["bearing"])) + np.arctan(side)
    high, wide = lit.sky.shape[:2]
    u = (turn / (2 * np.pi) % 1.0 * wide - 0.5).astype(np.float32)
    v = ((0.5 - rise / np.pi) * high - 0.5).astype(np.float32)
    across, down = np.meshgrid(u, v)
    return cv2.remap(lit.sky, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)


def from_shot(
    heights: np.ndarray,
    grid: Grid,
    colour: np.ndarray,
    pose: dict,
    lit: Daylight,
    size: tuple[int, int],
    wet: np.ndarray | None = None,
    mists: Sequence[Mist] = (),
    opens: np.ndarray | None = None,
) -> np.ndarray:
    """The land seen from `pose` (east, north, up in m; bearing, tilt in degrees; focal in mm), as
    linear light in the light's units, float32 (rows, columns, 3).

    `colour` is the ground's linear colour (ny, nx, 3); where `wet` it mirrors the sky; `opens` as
    in `lit_ground`.
    """
    out = np.ascontiguousarray(sky_behind(pose, lit, size))
    ground = lit_ground(heights, grid.spacing, colour, lit, opens)
    top = grid.north_m + ((grid.whole_ny or grid.ny) - 1) * grid.spacing
    haze = lit.haze
    eye = [pose["east"], pose["north"], pose["up"]]
    turned = [np.deg2rad(pose["bearing"]), np.deg2rad(pose["tilt"]), pose["focal"]]
    _cast(
        np.ascontiguousarray(heights, np.float32),
        ground,
        np.zeros(grid.shape, np.float32) if wet is None else wet.astype(np.float32),
        grid.east_m,
        top,
        grid.spacing,
        np.array([*eye, *turned], float),
        np.array([haze.k, haze.top_m, haze.base_m, haze.from_m]),
        haze.air,
        lit.tone,
        lit.sky,
        *packed(list(mists)),
        2.2 * max(grid.width_m, grid.depth_m),
        out,
    )
    return out


def from_above(heights, spacing, water_m=None, tone=None, size: int = 256) -> np.ndarray:
    """Shaded relief on paper with water in slate, uint8, the longer side `size` px or less."""

    sun = np.array((-0.5, 0.5, 0.7071), np.float32)
    light = np.clip(normals(heights, spacing) @ sun, 0, 1)[..., None]
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
