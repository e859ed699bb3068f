"""Look-up tables of colours: kept as rasters, asked between their entries (OpenColorIO)."""

from collections import OrderedDict

import numpy as np
import PyOpenColorIO as ocio  # noqa: N813  (its own name is longer than its use)

from ...errors import SceneError

LUT_SIDE = 65
MOST_KEPT = 4
_kept: OrderedDict[int, tuple[np.ndarray, ocio.CPUProcessor]] = OrderedDict()


def axes_of(side: int) -> np.ndarray:
    """The colours of a lattice, float32 (side, side, side, 3), blue outermost and red innermost."""
    axis = np.linspace(0, 1, side, dtype=np.float32)
    blue, green, red = np.meshgrid(axis, axis, axis, indexing="ij")
    return np.ascontiguousarray(np.stack([red, green, blue], -1))


def applied(processor: ocio.CPUProcessor, colours: np.ndarray) -> np.ndarray:
    """Colours (..., 3) through a processor, float32."""
    out = np.array(colours, np.float32, order="C")
    flat = out.reshape(1, -1, 3)
    processor.apply(ocio.PackedImageDesc(flat, flat.shape[1], 1, 3))
    return flat.reshape(out.shape)


def as_raster(table: np.ndarray) -> np.ndarray:
    """A table (side, side, side, 3) as the store keeps it, float32 (side, 3 side squared)."""
    return np.ascontiguousarray(table.reshape(table.shape[0], -1), np.float32)


def from_raster(values: np.ndarray) -> np.ndarray:
    """A kept table, float32 (side, side, side, 3). Raises SceneError where it is none."""
    side = values.shape[0]
    if values.shape != (side, 3 * side * side) or values.dtype != np.float32 or side < 2:
        raise SceneError(
            "What is chosen as a look-up table is a raster of another sort.",
            "grade.table",
            "Bring its file in again.",
        )
    return values.reshape(side, side, side, 3)


def looked_up(table: np.ndarray, colours: np.ndarray) -> np.ndarray:
    """Colours (..., 3) through a table, between its entries by tetrahedra, float32."""
    key = table.__array_interface__["data"][0]  # a raster keeps its place while it is held
    if key not in _kept:
        lut = ocio.Lut3DTransform(gridSize=table.shape[0])
        lut.setInterpolation(ocio.INTERP_TETRAHEDRAL)
        # the library wants red outermost and blue innermost
        lut.setData(np.ascontiguousarray(table.transpose(2, 1, 0, 3)).ravel())
        processor = ocio.Config.CreateRaw().getProcessor(lut).getDefaultCPUProcessor()
        _kept[key] = table, processor  # held with it, so that none is taken for another
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)
    return applied(_kept[key][1], np.clip(colours, 0, 1))
