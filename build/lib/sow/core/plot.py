"""The ground plan: the size of the land, its grid, and the one convention for axes, rows and
posts.
"""

from dataclasses import dataclass, replace

import numpy as np
from pydantic import Field

from .document.entry import Strict
from .document.fields import length_m, setting


@dataclass(frozen=True)
class Grid:
    """Posts that span a rectangle edge to edge at one spacing.

    Row 0 is north, column 0 west. (`east_m`, `north_m`) is the south-west corner of the whole grid;
    a window of it keeps `row0`, `col0` and the row count of the whole, so that a tile's posts have
    bit for bit the coordinates that they have in the whole.
    """

    nx: int
    ny: int
    spacing: float
    east_m: float = 0.0
    north_m: float = 0.0
    col0: int = 0
    row0: int = 0
    whole_ny: int = 0

    @property
    def width_m(self) -> float:
        """From the first to the last column, m."""
        return (self.nx - 1) * self.spacing

    @property
    def depth_m(self) -> float:
        """From the first to the last row, m."""
        return (self.ny - 1) * self.spacing

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns."""
        return self.ny, self.nx

    def xs(self) -> np.ndarray:
        """East of each column in m, float64 (nx,)."""
        return self.east_m + (self.col0 + np.arange(self.nx)) * self.spacing

    def ys(self) -> np.ndarray:
        """North of each row in m, float64 (ny,), falling."""
        return (
            self.north_m
            + ((self.whole_ny or self.ny) - 1 - self.row0 - np.arange(self.ny)) * self.spacing
        )

    def window(self, row0: int, col0: int, ny: int, nx: int) -> "Grid":
        """A part of the grid whose posts keep their coordinates bit for bit."""
        return replace(
            self,
            nx=nx,
            ny=ny,
            row0=self.row0 + row0,
            col0=self.col0 + col0,
            whole_ny=self.whole_ny or self.ny,
        )

    def bounds(self) -> tuple[float, float, float, float]:
        """West, south, east and north edge, m."""
        x, y = self.xs(), self.ys()
        return float(x[0]), float(y[-1]), float(x[-1]), float(y[0])

    def rows_of(self, north) -> np.ndarray:
        """Fractional row of a place given in metres north."""
        return (
            self.north_m + ((self.whole_ny or self.ny) - 1) * self.spacing - np.asarray(north)
        ) / self.spacing - self.row0

    def cols_of(self, east) -> np.ndarray:
        """Fractional column of a place given in metres east."""
        return (np.asarray(east) - self.east_m) / self.spacing - self.col0


DRAFT_POSTS, VIEW_POSTS = 129, 513


class Plot(Strict):
    width_m: float = length_m(
        "Width", 1000.0, lo=2, hi=64000, slider=(10, 20000), help="West to east."
    )
    depth_m: float = length_m(
        "Depth", 1000.0, lo=2, hi=64000, slider=(10, 20000), help="South to north."
    )
    posts: int = setting(
        1025,
        "Grid",
        "posts",
        lo=33,
        hi=4097,
        slider=(129, 4097),
        scale="log",
        help="Posts along the longer side of the full grid, used for files.",
    )
    seed: int = Field(1, ge=0, le=2**31 - 1, title="Seed")

    @property
    def longer_m(self) -> float:
        """The longer side, m."""
        return max(self.width_m, self.depth_m)

    @property
    def area_m2(self) -> float:
        """The area, m²."""
        return self.width_m * self.depth_m

    def grid(self, posts: int | None = None) -> Grid:
        """The grid with `posts` along the longer side (default: the full grid).

        The shorter side takes the nearest whole number of spacings.
        """
        posts = posts or self.posts
        spacing = self.longer_m / (posts - 1)
        side = lambda metres: max(2, round(metres / spacing) + 1)
        return Grid(side(self.width_m), side(self.depth_m), spacing)

    def view_grid(self) -> Grid:
        """The grid of the view: 513 posts along the longer side, or fewer."""
        return self.grid(min(self.posts, VIEW_POSTS))

    def draft_grid(self) -> Grid:
        """The grid of a draft: 129 posts along the longer side, or fewer."""
        return self.grid(min(self.posts, DRAFT_POSTS))

    @property
    def support_m(self) -> float:
        """The length over which slope and its like are measured: twice the view grid's spacing."""
        return 2 * self.view_grid().spacing

    def beyond_grid(self, ring: int = 0, reach_km: float = 0.0, posts: int = 193) -> Grid:
        """A coarse grid around the plot: ring 0 is 2.6 times as long as its longer side, ring 1
        reaches `reach_km` from its middle (0: 12 km or three lengths, whichever is farther).
        """
        length = (
            self.longer_m * 2.6 if ring == 0 else max(2000 * (reach_km or 12), self.longer_m * 6)
        )
        posts += 64 * ring
        spacing = length / (posts - 1)
        return Grid(posts, posts, spacing, (self.width_m - length) / 2, (self.depth_m - length) / 2)


def grid_faces(ny: int, nx: int, squares: np.ndarray | None = None) -> np.ndarray:
    """Triangles of a grid, each square cut from north-west to south-east, seen from above
    anticlockwise, uint32 (n, 3); of those `squares` (ny - 1, nx - 1) alone that are true.
    """
    i = np.arange(ny - 1)[:, None] * nx + np.arange(nx - 1)
    i = i.ravel() if squares is None else i[squares]
    return np.concatenate(
        [np.stack([i, i + nx, i + nx + 1], 1), np.stack([i, i + nx + 1, i + 1], 1)]
    ).astype(np.uint32)


def whole_squares(posts: np.ndarray) -> np.ndarray:
    """Squares of a grid whose four posts are all true, bool (ny - 1, nx - 1)."""
    return posts[:-1, :-1] & posts[1:, :-1] & posts[:-1, 1:] & posts[1:, 1:]


def texel_places(ny: int, nx: int) -> np.ndarray:
    """Where the posts of a grid lie in a picture that has a texel for each, float32 (ny nx, 2)."""
    across, down = np.meshgrid((np.arange(nx) + 0.5) / nx, (np.arange(ny) + 0.5) / ny)
    return np.stack([across, down], -1).reshape(-1, 2).astype(np.float32)
