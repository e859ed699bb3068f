"""A stroke under way: what each chunk of its points changes, at once."""

import threading
from typing import Any

import numpy as np

from ..build import Build
from ..build.site import site_on
from ..errors import SceneError
from ..hand.stroke import (
    Stroke,
    box,
    change,
    first_level,
    grade_places,
    lay_stamps,
    stamps,
)
from ..land.base import Below
from ..land.hand import ByHand, gathered
from ..marks.mask import SWIFT, paint
from ..sample import heights_at
from ..where import holding

# worked out from the whole stroke each time; the others stamp by stamp
ONE = ("basin", "pull", "grade")

Box = tuple[int, int, int, int]  # first row, row behind the last, first column, the one behind
Changed = tuple[Box, np.ndarray]


class LiveStroke:
    """One stroke under way, on the view grid: what it gathered, and the heights before it."""

    def __init__(self, build: Build, entry: str, brush: dict[str, Any]):
        self.build, document = build, build.scene
        self.index = next(
            (i for i, e in enumerate(document.land) if e.id == entry and e.kind == "hand"), None
        )
        if self.index is None:
            raise SceneError(
                "There is no landform by hand to work on.",
                "entry",
                "Choose one in the key, or add one.",
            )
        self.entry: ByHand = document.land[self.index]
        self.brush = brush
        self.points: list = []
        self.lock = threading.Lock()
        self.before = self.build.heights
        under = self.build.land_step(self.index)
        below = Below(
            under.heights,
            self.build.grid,
            document.plot,
            self.build.rasters.load,
            picture=lambda m: self.build.marks.picture(m, "picture"),
            ask=lambda where, path: holding(
                where,
                site_on(
                    self.build,
                    under.heights,
                    self.build.grid,
                    "land",
                    maps=under.maps,
                    before=entry,
                ),
                path,
            ),
        )
        self.made = gathered(self.entry, below)
        self.ground = under.heights + self.made
        self.field = np.zeros(self.build.grid.shape, np.float32)
        self.shape = (
            self.build.marks.picture(brush["picture"], "picture") if brush.get("picture") else None
        )
        self.now = self.before.copy()

    def add(self, points: list) -> Changed | None:
        """The rectangle that the new points change, and its heights; None when they miss the
        plot.
        """
        first = len(self.points)
        self.points += points
        stroke = Stroke(**self.brush, points=self.points)
        found = self._whole(stroke) if stroke.tool in ONE else self._further(stroke, first)
        if found is None:
            return None
        r0, r1, c0, c1 = found
        self.now[r0:r1, c0:c1] = self._heights(stroke, found)
        return found, self.now[r0:r1, c0:c1]

    def _at(self, east: float, north: float) -> float:
        return float(heights_at(self.ground, self.build.grid, [east], [north])[0])

    def _whole(self, stroke: Stroke) -> Box | None:
        """Lays the whole stroke anew; what it touches now or did before."""
        if stroke.tool == "grade" and len(self.points) > 1:
            places = grade_places(stroke)
        else:
            places = stamps(stroke)[:1].copy()
        if stroke.tool == "pull":
            places[:, 2] = sum(p[2] for p in self.points)
        old = self.field
        self.field = np.zeros_like(old)
        lay_stamps(stroke, self.field, self.build.grid, places, self.shape)
        touched = (self.field != 0) | (old != 0)
        rows, cols = np.nonzero(touched.any(1))[0], np.nonzero(touched.any(0))[0]
        if not len(rows):
            return None
        return int(rows[0]), int(rows[-1]) + 1, int(cols[0]), int(cols[-1]) + 1

    def _further(self, stroke: Stroke, first: int) -> Box | None:
        """Lays the stamps of the points from `first` on; what they touch."""
        places = stamps(stroke, first)
        found = box(self.build.grid, places, stroke.size_m)
        if found:
            r0, r1, c0, c1 = found
            part = self.build.grid.window(r0, c0, r1 - r0, c1 - c0)
            lay_stamps(stroke, self.field[r0:r1, c0:c1], part, places, self.shape)
        return found

    def _heights(self, stroke: Stroke, found: Box) -> np.ndarray:
        """The heights within a rectangle, with what the stroke makes of them."""
        grid = self.build.grid
        r0, r1, c0, c1 = found
        pad = int(stroke.size_m / grid.spacing) + 2 if stroke.tool == "smooth" else 0
        top, left = max(r0 - pad, 0), max(c0 - pad, 0)
        bottom, right = min(r1 + pad, grid.ny), min(c1 + pad, grid.nx)
        here = np.s_[top:bottom, left:right]
        ends = (0.0, 0.0)
        if stroke.tool == "grade":
            ends = self._at(*self.points[0][:2]), self._at(*self.points[-1][:2])
        delta = change(
            stroke,
            self.field[here],
            self.ground[here],
            grid.window(top, left, bottom - top, right - left),
            first_level(stroke, self._at),
            self.build.scene.plot,
            ends,
            self.made[here],
        )
        whole = self.before[here] + delta * np.float32(self.entry.times)
        return whole[r0 - top : r1 - top, c0 - left : c1 - left]


class LiveMask:
    """A stroke under way on a mask, on the view grid; what it gives are values 0..1."""

    def __init__(self, build: Build, entry: str, brush: dict[str, Any]):
        self.build = build
        self.brush = brush
        self.points: list[list[float]] = []
        self.lock = threading.Lock()
        self.before = self.build.marks.mask_on(entry, self.build.grid)
        self.field = np.zeros(self.build.grid.shape, np.float32)
        self.shape = (
            self.build.marks.picture(brush["picture"], "picture") if brush.get("picture") else None
        )
        self.now = self.before.copy()

    def add(self, points: list) -> Changed | None:
        """New points of the stroke; gives the rectangle that they changed, and its values."""
        grid, first = self.build.grid, len(self.points)
        self.points += points
        stroke = Stroke(**self.brush, points=self.points)
        places = stamps(stroke, first)
        found = box(grid, places, stroke.size_m)
        if found is None:
            return None
        r0, r1, c0, c1 = found
        here = np.s_[r0:r1, c0:c1]
        part = grid.window(r0, c0, r1 - r0, c1 - c0)
        places[:, 2] *= SWIFT
        lay_stamps(stroke, self.field[here], part, places, self.shape)
        self.now[here] = paint(stroke, self.field[here], self.before[here], part)
        return found, self.now[here]


def begun(build: Build, entry: str, brush: dict[str, Any]) -> LiveStroke | LiveMask:
    """A stroke that begins on a landform by hand or on a mask. Raises SceneError where there is
    neither.
    """
    on_mask = any(m.id == entry and m.kind == "mask" for m in build.scene.marks)
    return (LiveMask if on_mask else LiveStroke)(build, entry, brush)
