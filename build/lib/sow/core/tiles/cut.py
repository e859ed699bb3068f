"""How a plot is cut into tiles."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..document.entry import Register
from ..errors import SceneError
from ..land.base import landforms, processes
from ..planting.sowing import aparts
from ..plot import Grid, Plot
from ..scene import Scene
from ..where import conditions
from ..where.base import sees_of
from .places import lists_of

TILE_POSTS = (129, 257, 513, 1025, 2049)
MOST_POSTS = 1 << 17  # along a side
MOST_IN_ALL = 1 << 32
CHAIN = 3  # neighbours that decide on each other, one after another
HALO_POSTS = 192  # an entry that looks farther is found on the coarse grid


@dataclass(frozen=True)
class Cut:
    """A plot in `across` by `down` tiles of `posts` posts a side from its north-west corner, every
    post `grid.spacing` m apart; neighbours share the posts of the edge between them. The last tiles
    to the south or the east may reach over the plot's edge.
    """

    grid: Grid
    posts: int

    @staticmethod
    def of(plot: Plot, posts: int, spacing_m: float) -> "Cut":
        """The cut whose spacing is nearest to the wish, so that whole tiles go along the longer
        side. Raises SceneError.
        """
        if posts not in TILE_POSTS:
            told = ", ".join(map(str, TILE_POSTS))
            raise SceneError(
                f"A tile of {posts} posts is not possible.", "posts", f"One of {told}."
            )
        if not 0.01 <= spacing_m <= plot.longer_m / 32:
            raise SceneError(
                f"Posts {spacing_m:g} m apart are not possible on this plot.",
                "spacing",
                f"Give 0.01 to {plot.longer_m / 32:g} m.",
            )
        along = max(1, round(plot.longer_m / spacing_m / (posts - 1)))
        count = along * (posts - 1) + 1
        narrow = min(plot.width_m, plot.depth_m) / plot.longer_m
        fits = min(MOST_POSTS, int((MOST_IN_ALL / narrow) ** 0.5)) - 1
        fits = fits // (posts - 1) * (posts - 1)
        advice = f"Posts {plot.longer_m / fits:.6g} m apart fit."
        if count > MOST_POSTS:
            raise SceneError(
                f"{count:,} posts along a side are more than {MOST_POSTS:,}.", "spacing", advice
            )
        grid = plot.grid(count)
        if grid.nx * grid.ny > MOST_IN_ALL:
            raise SceneError(
                f"{grid.nx:,} by {grid.ny:,} posts are more than {MOST_IN_ALL:,} in all.",
                "spacing",
                advice,
            )
        return Cut(grid, posts)

    @property
    def across(self) -> int:
        """Tiles from west to east."""
        return max(1, -(-(self.grid.nx - 1) // (self.posts - 1)))

    @property
    def down(self) -> int:
        """Tiles from north to south."""
        return max(1, -(-(self.grid.ny - 1) // (self.posts - 1)))

    def tile(self, row: int, column: int) -> Grid:
        """The posts of a tile that lie in the plot."""
        size = self.posts - 1
        rows = min(self.posts, self.grid.ny - row * size)
        columns = min(self.posts, self.grid.nx - column * size)
        return self.grid.window(row * size, column * size, rows, columns)


def widened(plot: Grid, part: Grid, halo: int) -> Grid:
    """A part of a plot's posts with so many more on each side as the plot has."""
    r0 = max(part.row0 - halo, 0)
    c0 = max(part.col0 - halo, 0)
    r1 = min(part.row0 + part.ny + halo, plot.ny)
    c1 = min(part.col0 + part.nx + halo, plot.nx)
    return plot.window(r0, c0, r1 - r0, c1 - c0)


def reach_of(register: Register, entry: Any, scene: Scene, spacing: float) -> float | None:
    """How far an entry or a condition looks, m; None where it looks farther than a tile's
    neighbourhood, or where nobody said how far.
    """
    asked = register.reaches.get(entry.kind)
    if asked is None:
        return None
    reach = asked(entry, scene)
    if register is conditions and "sowings" in sees_of[entry.kind]:
        return min(reach, HALO_POSTS * spacing)  # plants are never told from a coarse grid
    return reach if reach <= HALO_POSTS * spacing else None


def halo_of(scene: Scene, spacing: float) -> int:
    """How many posts about a tile have a say in it: those that the land's entries look at, one
    after another, then the conditions, then the plants that contest.
    """
    land = sum(_reach_of_land(scene, i, spacing) for i, e in enumerate(scene.land) if e.on)
    later = [w for path, w in lists_of(scene) if not path.startswith("land.")]
    asked = max((_widest(where, scene, spacing) for where in later), default=0.0)
    metres = land + asked + _contest_m(scene, spacing)
    return int(np.ceil(metres / spacing)) + 3


def _reach_of_land(scene: Scene, index: int, spacing: float) -> float:
    """How far an entry of the land looks, with the conditions that it asks, m."""
    entry = scene.land[index]
    register = landforms if entry.kind in landforms.models else processes
    own = reach_of(register, entry, scene, spacing) or 0.0
    asked = [w for path, w in lists_of(scene) if path.startswith(f"land.{index}.")]
    return own + max((_widest(where, scene, spacing) for where in asked), default=0.0)


def _widest(where: list, scene: Scene, spacing: float) -> float:
    reaches = [reach_of(conditions, c, scene, spacing) or 0.0 for c in where if c.on]
    return max(reaches, default=0.0)


def _contest_m(scene: Scene, spacing: float) -> float:
    """How far off a plant may stand that has a say in another's place, m: over the widest two of
    the sowings, one of which keeps off the other. In longer rows of neighbours than CHAIN one may
    come out otherwise in the next tile: none of a hundred thousand did.
    """
    reaches = [
        (2 * CHAIN + 1) * float(np.max(aparts(s)))
        for s in scene.planting
        if s.on and s.layout in ("natural", "clumped")
    ]
    return min(sum(sorted(reaches)[-2:]), HALO_POSTS * spacing)
