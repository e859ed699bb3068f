"""What is seen from a place."""

import numpy as np
from numba import njit
from scipy.ndimage import minimum_filter

from ..plot import Grid
from ..sample import heights_at


@njit(cache=True, nogil=True)
def _sweep(h, r0, c0, eye, spacing, out):
    """One line of sight to each post of the edge; posts on the way learn how far they lie below the
    highest angle met so far.
    """
    ny, nx = h.shape
    edge = 2 * (nx + ny) - 4
    for k in range(edge):
        if k < nx:
            r1, c1 = 0.0, float(k)
        elif k < 2 * nx:
            r1, c1 = float(ny - 1), float(k - nx)
        elif k < 2 * nx + ny - 2:
            r1, c1 = float(k - 2 * nx + 1), 0.0
        else:
            r1, c1 = float(k - 2 * nx - ny + 3), float(nx - 1)
        dr, dc = r1 - r0, c1 - c0
        steps = int(np.ceil(max(abs(dr), abs(dc))))
        if steps < 1:
            continue
        dr, dc = dr / steps, dc / steps
        best = -1e30
        for s in range(1, steps + 1):
            r, c = r0 + dr * s, c0 + dc * s
            if r < 0 or c < 0 or r > ny - 1 or c > nx - 1:
                continue
            i, j = min(int(r), ny - 2), min(int(c), nx - 2)
            fr, fc = r - i, c - j
            z = (h[i, j] * (1 - fc) + h[i, j + 1] * fc) * (1 - fr) + (
                h[i + 1, j] * (1 - fc) + h[i + 1, j + 1] * fc
            ) * fr
            far = np.sqrt((dr * s) ** 2 + (dc * s) ** 2) * spacing
            p, q = int(r + 0.5), int(c + 0.5)
            sight = eye + best * far - h[p, q]
            if sight < 0:
                sight = 0.0
            if sight < out[p, q]:
                out[p, q] = sight
            t = (z - eye) / far
            if t > best:
                best = t


def hidden_by(
    heights: np.ndarray, grid: Grid, east: float, north: float, up_m: float
) -> np.ndarray:
    """Metres by which each post lies below the line of sight from an eye `up_m` over the ground at
    a place, float32; 0 where it is seen.

    Rays to every post of the edge, each remembering its steepest angle (R2, Franklin & Ray 1994):
    time grows with the posts, not with posts times distance. The eye may stand off the plot; the
    land between is then not known and hides nothing.
    """
    x = np.clip(east, grid.east_m, grid.east_m + grid.width_m)
    y = np.clip(north, grid.north_m, grid.north_m + grid.depth_m)
    eye = float(heights_at(heights, grid, [x], [y])[0]) + up_m
    out = np.full(heights.shape, 1e9, np.float32)
    r, c = float(grid.rows_of(north)), float(grid.cols_of(east))
    _sweep(np.ascontiguousarray(heights, np.float32), r, c, eye, grid.spacing, out)
    if 0 <= r <= grid.ny - 1 and 0 <= c <= grid.nx - 1:
        out[int(r + 0.5), int(c + 0.5)] = 0
    # posts that no ray came nearest to take the least of their neighbours
    gap = out > 1e8
    if gap.any():
        out[gap] = minimum_filter(out, 3)[gap]
    return out


def horizon(
    heights: np.ndarray, grid: Grid, east: float, north: float, up_m: float, steps: int = 120
) -> np.ndarray:
    """Height of the land's skyline in degrees from an eye `up_m` over the ground, by bearing
    clockwise from north in even steps, float64 (steps,); below the level where the land falls away.
    """
    x = float(np.clip(east, grid.east_m, grid.east_m + grid.width_m))
    y = float(np.clip(north, grid.north_m, grid.north_m + grid.depth_m))
    eye = float(heights_at(heights, grid, [x], [y])[0]) + up_m
    far = np.hypot(grid.width_m, grid.depth_m)
    way = np.arange(1, int(far / grid.spacing) + 2) * grid.spacing
    turns = 2 * np.pi * np.arange(steps) / steps
    xs = x + np.sin(turns)[:, None] * way
    ys = y + np.cos(turns)[:, None] * way
    inside = (xs >= grid.east_m) & (xs <= grid.east_m + grid.width_m)
    inside &= (ys >= grid.north_m) & (ys <= grid.north_m + grid.depth_m)
    z = heights_at(heights, grid, xs.ravel(), ys.ravel()).reshape(xs.shape)
    rise = np.where(inside, np.arctan2(z - eye, way), -np.pi / 2)
    highest = np.rad2deg(rise.max(1))
    return np.where(inside.any(1), highest, 0.0)
