"""Process: turn and move everything below."""

from typing import Literal

import numpy as np
from scipy.ndimage import map_coordinates

from ..document.fields import bearing, percent, setting
from ..document.offers import Offer
from .base import Below, Process, needs_land, processes


class MoveLand(Process):
    kind: Literal["move"] = "move"
    east_m: float = setting(0, "East by", "m", lo=-100000, hi=100000, slider=(-1000, 1000))
    north_m: float = setting(0, "North by", "m", lo=-100000, hi=100000, slider=(-1000, 1000))
    turn: float = bearing("Turn", 0, help="About the middle of the plot.")
    size: float = percent("Size", 100, lo=5, hi=2000, slider=(25, 400), scale="log")
    lift_m: float = setting(0, "Lift", "m", lo=-12000, hi=12000, slider=(-500, 500))


@processes.add(
    MoveLand,
    offers=[
        Offer(
            "move",
            "Turn and move all below",
            "",
            name="Turned and moved",
            group="Rework the whole",
        )
    ],
    subtitle="turned {turn}°",
)
def rework(p: MoveLand, below: Below) -> np.ndarray:
    """The land below moved, turned and sized about the plot's middle; beyond its edges it is
    mirrored.
    """
    needs_land(below)
    grid, plot = below.grid, below.plot
    a = np.deg2rad(p.turn)
    x = (grid.xs() - plot.width_m / 2 - p.east_m)[None, :]
    y = (grid.ys() - plot.depth_m / 2 - p.north_m)[:, None]
    k = 100 / p.size
    east = plot.width_m / 2 + k * (x * np.cos(a) - y * np.sin(a))
    north = plot.depth_m / 2 + k * (x * np.sin(a) + y * np.cos(a))
    return map_coordinates(
        below.heights, [grid.rows_of(north), grid.cols_of(east)], np.float32, order=3, mode="mirror"
    ) + np.float32(p.lift_m)
