"""What a build of a part of a plot must be told of the whole."""

from dataclasses import dataclass, field

import numpy as np

from ..planting.place import Amount
from ..plot import Grid
from ..sample import bicubic, heights_at, values_at
from ..survey.slope import slope


@dataclass(frozen=True)
class LandBelow:
    """The whole land below an entry: its lowest and highest place (m), and its heights."""

    band: tuple[float, float]
    heights: np.ndarray
    grid: Grid

    def at(self, east: np.ndarray, north: np.ndarray) -> np.ndarray:
        """Heights at places (m), float64 (n,)."""
        return heights_at(self.heights, self.grid, east, north).astype(np.float64)

    def slope(self, grid: Grid, support_m: float) -> np.ndarray:
        """Slope in degrees on a grid, float32 (ny, nx)."""
        own = slope(self.heights, self.grid.spacing, support_m)
        return bicubic(own, self.grid.rows_of(grid.ys()), self.grid.cols_of(grid.xs()))


@dataclass
class Around:
    """What was found of a whole plot on a coarse grid, for builds of its parts on a finer one.

    `finished` is the whole land (m). `changes` holds what entries of the land add (m) that look too
    far for a part, `answers` what conditions say that do, by their place in the document; `pools`
    where a pool lies or next to it, `streams` the surface of a stream, `amounts` what decides how
    many plants a sowing gives.
    """

    grid: Grid
    finished: np.ndarray
    lands: dict[str, LandBelow] = field(default_factory=dict)
    changes: dict[str, np.ndarray] = field(default_factory=dict)
    answers: dict[str, np.ndarray] = field(default_factory=dict)
    pools: dict[str, np.ndarray] = field(default_factory=dict)
    streams: dict[str, np.ndarray] = field(default_factory=dict)
    amounts: dict[str, Amount] = field(default_factory=dict)

    def below(self, entry_id: str) -> LandBelow:
        """What an entry sees of the whole land."""
        return self.lands[entry_id]

    def _on(self, values: np.ndarray, grid: Grid) -> np.ndarray:
        return bicubic(values, self.grid.rows_of(grid.ys()), self.grid.cols_of(grid.xs()))

    def change(self, entry_id: str, grid: Grid) -> np.ndarray | None:
        """What an entry that looks too far adds on a grid, m; None for the others."""
        found = self.changes.get(entry_id)
        return None if found is None else self._on(found, grid)

    def answer(self, place: str, grid: Grid) -> np.ndarray | None:
        """What a condition that looks too far answers on a grid, 0..1; None for the others."""
        found = self.answers.get(place)
        return None if found is None else np.clip(self._on(found, grid), 0, 1)

    def stream(self, water_id: str) -> np.ndarray:
        """A stream's surface: east, north, level (m), float64 (n, 3)."""
        return self.streams[water_id]

    def pool(self, water_id: str, grid: Grid) -> np.ndarray:
        """Where a pool's hollow lies, or next to it, bool (ny, nx)."""
        x, y = np.meshgrid(grid.xs(), grid.ys())
        found = values_at(self.pools[water_id], self.grid, x.ravel(), y.ravel())
        return (found > 0.5).reshape(grid.shape)
