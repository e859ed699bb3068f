"""Pictures of kinds for their cards."""

import numpy as np

from .draw import picture
from .family import families
from .keep import kept
from .kind import Kind, kinds
from .stone import weathered

SIDE_PX = 96
MOST_SKY_PX = 60  # rows without anything that are cut off above a low kind


def portrait(kind: Kind, look: str = "summer") -> np.ndarray:
    """A kind seen level from the south, uint8 sRGB with its cover (rows, 96, 4), kept with its
    shape; a model brought in is drawn anew each time.
    """
    look = kind.look(look)
    if kind.name.startswith("own-") or kind.outside:
        return _drawn(kind, look)
    return kept(f"portrait-{kind.name}-{look}", lambda: _drawn(kind, look))


def _drawn(kind: Kind, look: str) -> np.ndarray:
    shape = kind.shape(look)
    mesh = shape.levels[0][0]
    if families[kind.family].foot_tone and look != "snow":
        mesh = weathered(mesh)
    across = 2.08 * float(np.abs(mesh.positions[:, :2]).max())
    side = max(across, 1.04 * float(mesh.positions[:, 2].max()))
    drawn = picture(mesh, shape.sheet, SIDE_PX, side, side)
    top = int(np.argmax(drawn[..., 3].any(axis=1)))
    return drawn[min(top, MOST_SKY_PX) :]


def all_kinds() -> None:
    """Draws every kind in summer, so that the cabinet opens with all its cards filled."""
    for kind in list(kinds.values()):
        portrait(kind)
