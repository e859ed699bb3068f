"""Far land as triangles: rings about the plot, each with the colour of what clothes it."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..plot import grid_faces, texel_places, whole_squares
from ..survey.slope import normals
from .far_land import far_colour, far_land, far_texture

if TYPE_CHECKING:
    from .build import Build


@dataclass(frozen=True)
class FarRing:
    """Places in m (n, 3), faces (m, 3), unit normals (n, 3), uv (n, 2) from the upper left corner,
    linear colour (ny, nx, 3).
    """

    places: np.ndarray
    faces: np.ndarray
    normals: np.ndarray
    uv: np.ndarray
    colour: np.ndarray


def far_rings(build: "Build", finer: int = 1) -> Iterator[FarRing]:
    """The land beyond the plot, ring by ring; what lies within goes under what is finer. `finer`
    texels of colour lie between two posts.
    """
    plot = build.scene.plot
    bounds = (0.0, 0.0, plot.width_m, plot.depth_m)
    for ring in (0, 1):
        heights, grid = far_land(build, ring)
        x, y = np.meshgrid(grid.xs(), grid.ys())
        west, south, east, north = bounds
        s = grid.spacing
        inner = (x > west + s) & (x < east - s) & (y > south + s) & (y < north - s)
        edge = (x > west) & (x < east) & (y > south) & (y < north)
        z = np.where(edge, heights - 0.25 * s, heights)
        ny, nx = grid.shape
        yield FarRing(
            np.stack([x, y, z], -1).reshape(-1, 3),
            grid_faces(ny, nx, ~whole_squares(inner)),
            normals(heights, s).reshape(-1, 3),
            texel_places(ny, nx),
            _colour(build, ring, finer),
        )
        bounds = grid.bounds()


def _colour(build: "Build", ring: int, finer: int) -> np.ndarray:
    if finer > 1:
        return far_texture(build, ring, finer)
    return (far_colour(build, ring)[..., :3].astype(np.float32) / 255) ** 2
