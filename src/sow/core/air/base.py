"""Things in the air: banks of mist, mist in hollows, lamps. One file in `things` adds one kind."""

from dataclasses import dataclass

import numpy as np

from ..document.entry import Entry, Register

airs = Register("thing in the air")


@dataclass(frozen=True)
class Over:
    """What a thing in the air stands over: heights (m) on a grid, and the marks of the scene."""

    heights: np.ndarray
    xs: np.ndarray
    ys: np.ndarray
    marks: list

    def ground_at(self, east: np.ndarray, north: np.ndarray) -> np.ndarray:
        """Height of the ground at places in m, that of the edge beyond it."""
        column = np.interp(east, self.xs, np.arange(len(self.xs)))
        row = np.interp(-np.asarray(north), -self.ys, np.arange(len(self.ys)))
        i = np.minimum(row.astype(int), len(self.ys) - 2)
        j = np.minimum(column.astype(int), len(self.xs) - 2)
        fr, fc = row - i, column - j
        h = self.heights
        upper = h[i, j] * (1 - fc) + h[i, j + 1] * fc
        lower = h[i + 1, j] * (1 - fc) + h[i + 1, j + 1] * fc
        return upper * (1 - fr) + lower * fr


class InAir(Entry):
    """The base of everything in the air that has a place."""
