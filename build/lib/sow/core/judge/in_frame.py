"""What a shot's frame meets: for a coarse picture of it, how far the land lies and where."""

from dataclasses import dataclass

import numpy as np

from ..build import Build
from ..build.far_land import far_land
from ..picture.prepared import view_of
from ..sample import heights_at
from ..shots.shot import Shot

ROWS, COLUMNS = 54, 96
STEPS = 260
NEAREST_M = 0.4


@dataclass(frozen=True)
class InFrame:
    """Of each pixel, float64 (ROWS, COLUMNS): the distance in m (NaN where no land is met), the
    place that is met (ROWS, COLUMNS, 3); `falls` where a ray that goes down leaves the land
    without meeting it; `reach_m` how far the land reaches from the eye.
    """

    away: np.ndarray
    place: np.ndarray
    falls: np.ndarray
    reach_m: float


def in_frame(build: Build, shot: Shot) -> InFrame:
    """Rays marched over the plot and the far land in steps that grow by ratio, the crossing found
    between two steps.
    """
    view = view_of(build, shot, COLUMNS, ROWS)
    rays = view.rays().reshape(-1, 3).astype(np.float64)
    plot = build.scene.plot
    on_plot = (plot.width_m, plot.depth_m)
    grids = [(build.heights, build.grid)]
    if build.scene.beyond.edge != "end":
        grids += [far_land(build, 0), far_land(build, 1)]
    outer = grids[-1][1]
    corner = np.array([outer.east_m, outer.north_m])
    size = np.array([outer.width_m, outer.depth_m])
    reach = float(np.hypot(*(np.abs(view.eye[:2] - corner - size / 2) + size / 2)))
    steps = NEAREST_M * (reach / NEAREST_M) ** np.linspace(0, 1, STEPS)
    away = np.full(len(rays), np.nan)
    left = np.zeros(len(rays), bool)
    before_gap = np.full(len(rays), np.inf)
    before_t = np.zeros(len(rays))
    for t in steps:
        going = np.isnan(away) & ~left
        if not going.any():
            break
        at = view.eye + rays[going] * t
        outside = ((at[:, :2] < corner) | (at[:, :2] > corner + size)).any(1)
        gap = at[:, 2] - _ground(grids, on_plot, at)
        index = np.flatnonzero(going)
        left[index[outside]] = True
        meets = (gap <= 0) & ~outside
        hit = index[meets]
        over = before_gap[hit]
        part = np.where(np.isfinite(over), over / np.maximum(over - gap[meets], 1e-9), 1.0)
        away[hit] = before_t[hit] + (t - before_t[hit]) * part
        before_gap[index] = gap
        before_t[index] = t
    place = view.eye + rays * np.nan_to_num(away)[:, None]
    falls = np.isnan(away) & (rays[:, 2] < -1e-3)
    shape = ROWS, COLUMNS
    return InFrame(away.reshape(shape), place.reshape(*shape, 3), falls.reshape(shape), reach)


def _ground(grids: list, plot: tuple[float, float], at: np.ndarray) -> np.ndarray:
    """Height of the land at places (n, 3), from the finest grid that holds each."""
    out = np.full(len(at), -np.inf)
    open_ = np.ones(len(at), bool)
    for k, (heights, grid) in enumerate(grids):
        low = np.array([grid.east_m, grid.north_m])
        high = low + (plot if k == 0 else (grid.width_m, grid.depth_m))
        here = open_ & ((at[:, :2] >= low) & (at[:, :2] <= high)).all(1)
        if here.any():
            out[here] = heights_at(heights, grid, at[here, 0], at[here, 1])
        open_ &= ~here
    return out
