"""The ground as triangles, as files hold it."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from ..build import Build
from ..document.entry import Strict
from ..document.fields import setting, shown
from ..plot import grid_faces
from ..sample import resample
from ..survey.slope import normals
from .net import net_of

MOST_POSTS = 513  # of a regular grid along its longer side


class GroundForm(Strict):
    """How the ground is written: as a regular grid, or as a net that spends triangles where the
    land asks for them.
    """

    ground_px: int = Field(
        2048, ge=64, le=8192, title="Baked ground", description="Pixels along the longer side."
    )
    ground_as: Literal["grid", "budget", "error"] = Field(
        "grid",
        title="Ground",
        json_schema_extra=shown(
            labels={
                "grid": "regular grid, 513 posts at most",
                "budget": "so many triangles",
                "error": "as near to every post as",
            }
        ),
    )
    ground_triangles: int = setting(
        100_000,
        "Triangles",
        lo=2,
        hi=8_000_000,
        slider=(1000, 2_000_000),
        scale="log",
        step=1,
        only={"ground_as": ["budget"]},
    )
    ground_error_m: float = setting(
        0.2,
        "Farthest off",
        "m",
        lo=0.001,
        hi=100,
        slider=(0.01, 5),
        scale="log",
        help="Borders are thinned by themselves, so that plots side by side meet.",
        only={"ground_as": ["error"]},
    )
    far: bool = Field(
        False, title="Far land", description="Both rings beyond the plot, with their colours."
    )


@dataclass(frozen=True)
class GroundMesh:
    """Positions in m east, north, up float64 (n, 3), unit normals (n, 3), uv (n, 2) from the
    picture's upper left corner, faces (m, 3); `heights` are those of the grid that it was made
    from, and `error_m` how far it is off the full grid at most.
    """

    positions: np.ndarray
    normals: np.ndarray
    uv: np.ndarray
    faces: np.ndarray
    heights: np.ndarray
    error_m: float


def ground_mesh(build: Build, form: GroundForm) -> GroundMesh:
    """The ground of a build in the form that is asked for."""
    if form.ground_as == "grid":
        return _regular(build)
    high = build.heights
    if form.ground_as == "budget":
        net = net_of(high, triangles=form.ground_triangles)
    else:
        net = net_of(high, error_m=form.ground_error_m)
    grid = build.grid
    rows, columns = net.rows, net.columns
    across, down = columns / (grid.nx - 1), rows / (grid.ny - 1)
    place = [across * grid.width_m, (1 - down) * grid.depth_m, high[rows, columns]]
    return GroundMesh(
        np.stack(place, 1),
        normals(high, grid.spacing)[rows, columns],
        np.stack([across, down], 1),
        net.faces,
        high,
        net.error_m,
    )


def _regular(build: Build) -> GroundMesh:
    grid, heights = build.grid, build.heights
    step = max(1, (max(grid.shape) - 1 + MOST_POSTS - 2) // (MOST_POSTS - 1))
    error = 0.0
    if step > 1:
        full = heights
        heights = resample(full, tuple(max(2, (n - 1) // step + 1) for n in full.shape))
        error = float(np.abs(resample(heights, full.shape) - full).max())
    ny, nx = heights.shape
    east, north = np.meshgrid(np.linspace(0, grid.width_m, nx), np.linspace(grid.depth_m, 0, ny))
    return GroundMesh(
        np.stack([east.ravel(), north.ravel(), heights.ravel()], 1),
        normals(heights, grid.width_m / (nx - 1)).reshape(-1, 3),
        np.stack([east.ravel() / grid.width_m, 1 - north.ravel() / grid.depth_m], 1),
        grid_faces(ny, nx),
        heights,
        error,
    )
