"""Look-up tables from files: .cube, .3dl, Common LUT Format, CDL, and others (OpenColorIO)."""

from pathlib import PurePath

import numpy as np
import PyOpenColorIO as ocio  # noqa: N813  (its own name is longer than its use)

from ..errors import SceneError
from ..picture.grade.tables import LUT_SIDE, applied, axes_of
from .scratch import scratch

MOST_BYTES = 60 << 20
ENDINGS = (".cube", ".3dl", ".clf", ".ctf", ".csp", ".spi1d", ".spi3d", ".cc", ".cdl", ".ccc")


def read_lut(data: bytes, name: str) -> np.ndarray:
    """A look-up table on a lattice of LUT_SIDE a side, float32 (side, side, side, 3), blue
    outermost, from values 0..1.

    Raises SceneError when it is none, too large, or gives values that are no colours.
    """
    ending = PurePath(name).suffix.lower()
    if ending not in ENDINGS:
        raise SceneError(
            f"“{name}” is no look-up table that is known here.",
            "file",
            f"Give one that ends in {', '.join(ENDINGS[:4])} or {ENDINGS[-2]}.",
        )
    if len(data) > MOST_BYTES:
        raise SceneError(
            f"“{name}” has {len(data) >> 20} MB; at most {MOST_BYTES >> 20} are read.",
            "file",
            "Save it with fewer entries: 65 a side are plenty.",
        )
    ocio.ClearAllCaches()  # it knows files by their names, and this one is often the same
    try:
        with scratch(data) as path:
            way = ocio.FileTransform(src=path, interpolation=ocio.INTERP_BEST)
            config = ocio.Config.CreateRaw()
            processor = config.getProcessor(way).getDefaultCPUProcessor()
    except (ocio.Exception, UnicodeDecodeError):
        raise SceneError(
            f"“{name}” is no look-up table, or a damaged one.",
            "file",
            "Save it again from the program that made it, as .cube.",
        ) from None
    table = applied(processor, axes_of(LUT_SIDE))
    if not np.isfinite(table).all() or np.abs(table).max() > 1e3:
        raise SceneError(
            f"“{name}” gives values that are no colours.", "file", "Save it again as .cube."
        )
    return table
