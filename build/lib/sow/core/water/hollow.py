"""The hollow at one place and the level at which it runs over."""

import heapq

import numpy as np

from ..errors import SceneError
from ..plot import Grid

LEAST_M = 0.3  # shallower hollows are the ground's own roughness, and are filled on the way


def _around(r, c, ny, nx):
    return [
        (a, b)
        for a in range(max(r - 1, 0), min(r + 2, ny))
        for b in range(max(c - 1, 0), min(c + 2, nx))
        if (a, b) != (r, c)
    ]


def hollow_at(
    heights: np.ndarray, grid: Grid, east: float, north: float, above: float = -np.inf
) -> tuple[float, float]:
    """Floor and rim (m) of the hollow that holds a place: water over the rim runs off into lower
    ground, or off the plot.

    The innermost hollow at least LEAST_M deep whose rim is higher than `above`, so that asking
    again with the last answer gives the next one out. Both are the ground's height where the place
    is in no hollow. Down the steepest way to the floor, then posts taken in order of height
    (priority flood, Barnes, Lehman & Mulla 2014) until the water falls again. Raises SceneError off
    the plot.
    """
    ny, nx = heights.shape
    r = int(round(float(grid.rows_of(north))))
    c = int(round(float(grid.cols_of(east))))
    if not (0 <= r < ny and 0 <= c < nx):
        raise SceneError("This place is off the plot.", "east", "Point at the land.")
    here = float(heights[r, c])
    while True:
        low = min(_around(r, c, ny, nx), key=lambda p: heights[p])
        if heights[low] >= heights[r, c]:
            break
        r, c = low
    floor = level = float(heights[r, c])
    waiting, seen = [(floor, r, c)], {(r, c)}
    while waiting:
        h, r, c = heapq.heappop(waiting)
        if (
            h < level - max(0.03, 0.1 * (level - floor))
            and level - floor >= LEAST_M
            and level > max(above, here)
        ):
            break
        level, floor = max(level, h), min(floor, h)
        if r in (0, ny - 1) or c in (0, nx - 1):
            break
        for p in _around(r, c, ny, nx):
            if p not in seen:
                seen.add(p)
                heapq.heappush(waiting, (float(heights[p]), *p))
    return (floor, level) if level > here and level - floor >= LEAST_M else (here, here)
