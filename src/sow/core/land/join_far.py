"""Far land: moved as a whole, shaped by its edge, and joined to what lies within it."""

import numpy as np
from scipy.ndimage import map_coordinates

from ..plot import Grid, Plot
from ..sample import heights_at
from .base import Frame
from .beyond import FarEdge


def moved_far(far: np.ndarray, grid: Grid, b: FarEdge, plot: Plot) -> np.ndarray:
    """A field of the far land on `grid`, turned, sized and moved about the plot's middle."""
    if not (b.turn or b.size != 100 or b.east_m or b.north_m):
        return far.copy()
    frame = Frame(plot.width_m / 2 + b.east_m, plot.depth_m / 2 + b.north_m, 1, 1, b.turn)
    across, along = frame.local(grid)
    k = np.float32(100 / b.size)
    rows = grid.rows_of(plot.depth_m / 2 + along * k)
    cols = grid.cols_of(plot.width_m / 2 + across * k)
    return map_coordinates(far, [rows, cols], np.float32, order=1, mode="mirror")


def moved_frame(frame: Frame, b: FarEdge, plot: Plot) -> Frame:
    """The frame of a landform of the far land where it lies once that is moved."""
    k = b.size / 100
    a = np.deg2rad(b.turn)
    across = (frame.east_m - plot.width_m / 2) * k
    along = (frame.north_m - plot.depth_m / 2) * k
    return Frame(
        plot.width_m / 2 + b.east_m + across * np.cos(a) + along * np.sin(a),
        plot.depth_m / 2 + b.north_m - across * np.sin(a) + along * np.cos(a),
        frame.width_m * k,
        frame.depth_m * k,
        frame.turn + b.turn,
    )


def join_far(
    far: np.ndarray,
    grid: Grid,
    within: np.ndarray,
    inner: Grid,
    b: FarEdge,
    plot: Plot,
    ring: int,
) -> np.ndarray:
    """Far land (m, on `grid`) joined to the land `within` it on the grid `inner`: the step between
    the two fades over `join_m`. By its edge it fades to a level, rises as a rim, or runs on.
    """
    west, south = (0.0, 0.0) if ring == 0 else (inner.east_m, inner.north_m)
    east = plot.width_m if ring == 0 else inner.east_m + inner.width_m
    north = plot.depth_m if ring == 0 else inner.north_m + inner.depth_m
    x, y = np.meshgrid(grid.xs(), grid.ys())
    off_plot = np.hypot(x - np.clip(x, 0, plot.width_m), y - np.clip(y, 0, plot.depth_m)).astype(
        np.float32
    )
    if b.edge == "fade":
        far = np.full_like(far, np.float32(b.level_m))
    if b.edge == "rise":
        far = far + np.float32(b.rise_m) * _bell(off_plot / np.float32(b.join_m) - 1)
    cx, cy = np.clip(x, west, east), np.clip(y, south, north)
    away = np.hypot(x - cx, y - cy).astype(np.float32)
    edge = heights_at(within, inner, cx.ravel(), cy.ravel()).reshape(grid.shape)
    step = edge - heights_at(far, grid, cx.ravel(), cy.ravel()).reshape(grid.shape)
    t = np.clip(away / np.float32(b.join_m if ring == 0 else plot.longer_m), 0, 1)
    return np.where(away == 0, edge, far + step * (1 - t * t * (3 - 2 * t))).astype(np.float32)


def _bell(t: np.ndarray) -> np.ndarray:
    """1 at 0, falling smoothly to 0 at -1 and 1."""
    t = np.clip(np.abs(t), 0, 1)
    return 1 - t * t * (3 - 2 * t)
