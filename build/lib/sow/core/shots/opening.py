"""Where one stands when a scene opens that has no shot."""

from dataclasses import dataclass

import numpy as np

from ..plot import Grid
from ..sample import heights_at

EYE_M = 1.7
PLACES = 15


@dataclass(frozen=True)
class Opening:
    """An eye: place (m), bearing and tilt (degrees), focal length (mm)."""

    east: float
    north: float
    up: float
    bearing: float
    tilt: float = -1.0
    focal: float = 28.0


def opening(heights: np.ndarray, grid: Grid) -> Opening:
    """The eye of a person on the highest of a row of places along the south of the plot, turned to
    its middle.
    """
    i = np.arange(PLACES)
    east = grid.width_m * (0.3 + 0.4 * i / (PLACES - 1))
    north = grid.depth_m * (0.08 + 0.05 * (i % 3))
    up = heights_at(heights, grid, east, north)
    k = int(np.argmax(up))
    to = grid.width_m / 2 - east[k], grid.depth_m / 2 - north[k]
    bearing = float(np.rad2deg(np.arctan2(*to)) % 360)
    return Opening(float(east[k]), float(north[k]), float(up[k]) + EYE_M, bearing)
