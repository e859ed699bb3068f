"""The rasters and marks of a scene: masks laid over a grid, lines and areas, frames of
landforms.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, cast

import numpy as np
from scipy.ndimage import map_coordinates

from ..errors import SceneError
from ..land.base import Frame
from ..marks.mask import Mask, worked
from ..marks.shapes import Drawn
from ..plot import Grid
from ..scene import Scene
from ..where import Absent


def _other_sort(wanted: str, path: str) -> SceneError:
    return SceneError(
        f"What is chosen as {wanted} is a raster of another sort.", path, "Bring its file in again."
    )


class Rasters:
    """Where a scene's rasters come from.

    This one has none; the store and the scene folder have their own.
    """

    def load(self, name: str) -> np.ndarray:
        """A raster's values. Raises SceneError when it is not there."""
        raise SceneError(
            f"The raster '{name}' is missing.", "", "Put it beside the scene, or choose another."
        )

    def key(self, name: str) -> str:
        """What stands for the content of a raster in keys."""
        return name


@dataclass(frozen=True)
class Marks:
    """The marks of a scene with their rasters."""

    scene: Scene
    rasters: Rasters

    def raster(self, name: str, path: str) -> np.ndarray:
        """A raster by its name. Raises SceneError with the path that names it."""
        try:
            return self.rasters.load(name)
        except SceneError as e:
            raise SceneError(e.message, path, e.advice) from None

    def places(self, name: str) -> np.ndarray:
        """Places brought in, float64 (n, 5): name's number, east, north, turn, size."""
        values = self.raster(name, "planting.places")
        if values.dtype != np.float32 or values.ndim != 2 or values.shape[1] != 5:
            raise _other_sort("places", "planting.places")
        return values.astype(np.float64)

    def sheet(self, name: str, path: str) -> np.ndarray:
        """A picture of a whole ground, uint8 (rows, columns * 4)."""
        values = self.raster(name, path)
        if values.dtype != np.uint8 or values.shape[1] % 4:
            raise _other_sort("a ground's picture", path)
        return values

    def line(self, mark_id: str) -> Drawn | None:
        """A line or an area of the marks, or None."""
        return next((m for m in self.scene.marks if m.id == mark_id and m.kind != "mask"), None)

    def drawn(self, mark_id: str, wanted: str, path: str) -> Drawn:
        """A line or an area of the marks; where a line is wanted an area's edge serves too."""
        mark = next((m for m in self.scene.marks if m.id == mark_id and m.kind != "mask"), None)
        if mark is None or (wanted == "area" and mark.kind != "area"):
            raise Absent(
                f"No {wanted} is chosen." if not mark_id else f"There is no {wanted} '{mark_id}'.",
                path,
                f"Draw {'an area' if wanted == 'area' else 'a line'} under Marks, then "
                "choose it here.",
            )
        return mark

    def mask(self, mark_id: str, path: str) -> Mask:
        """A mask of the marks. Raises SceneError with the path that names it."""
        found = next((m for m in self.scene.marks if m.id == mark_id and m.kind == "mask"), None)
        if found is None:
            raise SceneError(
                "No mask is chosen." if not mark_id else f"There is no mask '{mark_id}'.",
                path,
                "Paint one under Marks, or bring in a picture there, then choose it here.",
            )
        return cast(Mask, found)

    def picture(self, mark_id: str, path: str) -> np.ndarray:
        """A mask's picture as it is, float32 0..1."""
        mark = self.mask(mark_id, path)
        if not mark.raster:
            return np.zeros((2, 2), np.float32)
        values = self.raster(mark.raster, path)
        return (
            values
            / np.float32(
                255.0 if values.dtype == np.uint8 else 65535.0 if values.dtype == np.uint16 else 1.0
            )
        ).astype(np.float32)

    def laid(
        self,
        condition: Any,
        path: str,
        grid: Grid,
        frame_of: Callable[[str], Frame | None] | None = None,
    ) -> np.ndarray:
        """A mask as a condition asks for it, over the plot or bound to a landform, float32 0..1.
        `frame_of` gives a landform's frame where that is not where its settings put it.
        """
        if not any(m.id == condition.mark and m.kind == "mask" for m in self.scene.marks):
            raise Absent(
                "No mask is chosen."
                if not condition.mark
                else f"There is no mask '{condition.mark}'.",
                f"{path}.mark",
                "Paint one under Marks, or bring in a picture there, then choose it here.",
            )
        values = self.picture(condition.mark, f"{path}.mark")
        frame = (frame_of or self.frame)(condition.bound) if condition.bound else None
        if condition.bound and frame is None:
            raise Absent(
                f"The mask is bound to a landform '{condition.bound}' that is not there.",
                f"{path}.bound",
                "Bind it to another, or to the plot.",
            )
        plot = self.scene.plot
        frame = frame or Frame(plot.width_m / 2, plot.depth_m / 2, plot.width_m, plot.depth_m)
        across, along = frame.local(grid)
        rows = (0.5 - along / np.float32(frame.depth_m)) * np.float32(values.shape[0] - 1)
        cols = (across / np.float32(frame.width_m) + 0.5) * np.float32(values.shape[1] - 1)
        kind = (
            {"order": 1, "mode": "constant", "cval": 0.0}
            if condition.bound
            else {"order": 1, "mode": "nearest"}
        )
        laid = np.clip(map_coordinates(values, [rows, cols], np.float32, **kind), 0, 1)
        return worked(laid, self.mask(condition.mark, f"{path}.mark"), grid.spacing)

    def mask_on(self, mark_id: str, grid: Grid) -> np.ndarray:
        """A mask of the marks over the plot on a grid, float32 0..1, as its picture is: neither
        widened, blurred nor inverted.
        """
        values, plot = self.picture(mark_id, "mark"), self.scene.plot
        rows = (1 - (grid.ys() / plot.depth_m))[:, None] * (values.shape[0] - 1)
        cols = (grid.xs() / plot.width_m)[None, :] * (values.shape[1] - 1)
        return np.clip(
            map_coordinates(
                values, np.broadcast_arrays(rows, cols), np.float32, order=1, mode="nearest"
            ),
            0,
            1,
        )

    def mask_answer(self, mark_id: str, grid: Grid) -> np.ndarray:
        """A mask over the plot on a grid as conditions see it, float32 0..1."""
        return worked(self.mask_on(mark_id, grid), self.mask(mark_id, "mark"), grid.spacing)

    def frame(self, entry_id: str) -> Any:
        """The frame of a landform by its id, or None."""
        entry = next(
            (
                e
                for e in [*self.scene.land, *self.scene.beyond.land]
                if e.id == entry_id and hasattr(e, "frame")
            ),
            None,
        )
        return entry.frame(self.scene.plot) if entry else None
