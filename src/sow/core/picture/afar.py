"""Low plants where they no longer stand one by one: a mosaic of what each sowing hides, as a moor
shows it across a valley, rather than a mixture of all their colours.
"""

from dataclasses import dataclass

import numpy as np

from ..build import Build
from ..cabinet import kind_of
from ..planting.seen import hidden_by
from ..surface.look import field_at
from ..surface.material import stood_out
from ..surface.strewn import ranks
from .choose import LOW_M

LEAST = 0.03  # of the ground that a sowing hides at the most, below which it does not show
STANDS = 0.8  # how far patches part, against mixing evenly
SOFT = 0.45  # of the edges of patches
COARSE_M = 20.0  # what is seen so coarsely shows no patches


@dataclass(frozen=True)
class GrownAfar:
    """A low sowing from afar: the share of ground that it hides (ny, nx), its mean linear
    colour.
    """

    hidden: np.ndarray
    colour: np.ndarray


def low_sowings(build: Build) -> list[GrownAfar]:
    """The low sowings that show from afar, in their order."""
    out = []
    plot = build.scene.plot
    for i, sowing in enumerate(build.scene.planting):
        if not sowing.on or any(kind_of(p.kind).height_m >= LOW_M for p in sowing.mix):
            continue
        number = len(build.plants(i)) if sowing.layout == "given" else None
        held = build.sowing_mask(i)
        hidden, colour = hidden_by(sowing, build.scene.season, held, plot.area_m2, number)
        hidden = np.broadcast_to(hidden, build.grid.shape)
        if float(hidden.max()) >= LEAST:
            out.append(GrownAfar(hidden, colour))
    return out


def mosaic(
    build: Build, grown: list[GrownAfar], x: np.ndarray, y: np.ndarray, fine_m: float
) -> tuple[np.ndarray, np.ndarray]:
    """Linear colour (n, 3) and share of ground hidden (n,) of the low sowings at places in m;
    nothing finer than `fine_m` shows. Over an area each hides what it would hide evenly.
    """
    left = np.ones(len(x), np.float32)
    colour = np.zeros((len(x), 3), np.float32)
    stands = STANDS * float(np.clip(1 - fine_m / COARSE_M, 0, 1))
    for index, sowing in reversed(list(enumerate(grown))):
        even = field_at(build, sowing.hidden, x, y)
        patchy = stood_out(even, ranks(x, y, fine_m, index), stands, SOFT)
        share = np.clip(patchy, 0, 1).astype(np.float32)
        colour += (left * share)[:, None] * sowing.colour
        left *= 1 - share
    hides = 1 - left
    return colour / np.maximum(hides, 1e-4)[:, None], hides
