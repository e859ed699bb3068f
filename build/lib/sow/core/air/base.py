"""Things in the air: mists, lamps, cards. One file in `things` adds one kind."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..document.entry import Entry, Register
from ..errors import SceneError

airs = Register("thing in the air")


def no_picture(name: str) -> np.ndarray:
    """Where no rasters are at hand. Raises SceneError."""
    raise SceneError(f"The picture '{name}' is missing.", "air.picture", "Choose another.")


@dataclass(frozen=True)
class Over:
    """What a thing in the air stands over: heights (m) on a grid, and the scene's marks and rasters
    by name.
    """

    heights: np.ndarray
    xs: np.ndarray
    ys: np.ndarray
    marks: list
    picture: Callable[[str], np.ndarray] = no_picture
    beyond: Callable[[np.ndarray, np.ndarray], np.ndarray] | None = None

    def ground_at(self, east: np.ndarray, north: np.ndarray) -> np.ndarray:
        """Height of the ground at places in m; off the grid by `beyond`, or that of its edge."""
        column = np.interp(east, self.xs, np.arange(len(self.xs)))
        row = np.interp(-np.asarray(north), -self.ys, np.arange(len(self.ys)))
        i = np.minimum(row.astype(int), len(self.ys) - 2)
        j = np.minimum(column.astype(int), len(self.xs) - 2)
        fr, fc = row - i, column - j
        h = self.heights
        upper = h[i, j] * (1 - fc) + h[i, j + 1] * fc
        lower = h[i + 1, j] * (1 - fc) + h[i + 1, j + 1] * fc
        ground = upper * (1 - fr) + lower * fr
        off = (east < self.xs[0]) | (east > self.xs[-1])
        off |= (north < self.ys[-1]) | (north > self.ys[0])
        if self.beyond is not None and np.any(off):
            ground[off] = self.beyond(east[off], north[off])
        return ground


class InAir(Entry):
    """The base of everything in the air that has a place."""
