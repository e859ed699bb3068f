"""The ground as triangles, as files hold it."""

from dataclasses import dataclass

import numpy as np

from ..build import Build
from ..plot import grid_faces
from ..sample import resample
from ..survey.slope import normals

MOST_POSTS = 513


@dataclass(frozen=True)
class GroundMesh:
    """Positions in m east, north, up float64 (n, 3), unit normals (n, 3), uv (n, 2) from the
    picture's upper left corner, faces (m, 3); `heights` are those of the grid that it was made
    from.
    """

    positions: np.ndarray
    normals: np.ndarray
    uv: np.ndarray
    faces: np.ndarray
    heights: np.ndarray


def ground_mesh(build: Build, most: int = MOST_POSTS) -> GroundMesh:
    """The ground of a build on a regular grid of at most so many posts along its longer side."""
    grid, heights = build.grid, build.heights
    step = max(1, (max(grid.shape) - 1 + most - 2) // (most - 1))
    if step > 1:
        heights = resample(heights, tuple(max(2, (n - 1) // step + 1) for n in heights.shape))
    ny, nx = heights.shape
    east, north = np.meshgrid(np.linspace(0, grid.width_m, nx), np.linspace(grid.depth_m, 0, ny))
    return GroundMesh(
        np.stack([east.ravel(), north.ravel(), heights.ravel()], 1),
        normals(heights, grid.width_m / (nx - 1)).reshape(-1, 3),
        np.stack([east.ravel() / grid.width_m, 1 - north.ravel() / grid.depth_m], 1),
        grid_faces(ny, nx),
        heights,
    )
