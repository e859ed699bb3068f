"""Contours: all of some levels, and the one through a place."""

import contourpy
import numpy as np

from ..errors import SceneError
from ..plot import Grid
from ..sample import heights_at


def isoline_at(
    heights: np.ndarray, grid: Grid, east: float, north: float, most: int = 400
) -> tuple[float, np.ndarray]:
    """Height (m) at a place of the plot and the contour of that height which passes it, as points
    east and north in m, float64 (n, 2).

    Marching squares (contourpy); thinned to `most` points at most. Raises SceneError on ground that
    is level there or off the plot.
    """

    if not (0 <= east <= grid.width_m and 0 <= north <= grid.depth_m):
        raise SceneError("This place is off the plot.", "east", "Point at the land.")
    level = float(heights_at(heights, grid, [east], [north])[0])
    lines: list[np.ndarray] = contourpy.contour_generator(grid.xs(), grid.ys(), heights).lines(
        level
    )  # type: ignore[assignment]
    if not lines:
        raise SceneError(
            "The ground is level here: no contour passes.", "east", "Point at a slope."
        )
    line = min(lines, key=lambda p: np.hypot(p[:, 0] - east, p[:, 1] - north).min())
    keep = np.unique(np.linspace(0, len(line) - 1, min(len(line), most)).round().astype(int))
    return level, line[keep].astype(np.float64)


def isolines(field: np.ndarray, levels: list[float]) -> list[tuple[float, np.ndarray]]:
    """Lines of equal value of a field (ny, nx), each with its level: points as column and row in
    posts, row 0 at the north, float32 (n, 2).

    Marching squares (contourpy). A level that the field does not reach has no line.
    """
    found = contourpy.contour_generator(z=np.asarray(field, np.float64))
    return [
        (level, np.asarray(line, np.float32)) for level in levels for line in found.lines(level)
    ]
