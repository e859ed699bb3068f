"""Where: in stripes from west to east."""

from typing import Literal

import numpy as np

from sow.core.document.fields import length_m
from sow.core.where.base import Condition, condition
from sow.core.where.site import Site


class Stripes(Condition):
    kind: Literal["toy-stripes"] = "toy-stripes"
    width_m: float = length_m("Stripe width", 40, slider=(2, 200))


@condition(Stripes, label="toy stripes", first=lambda c: {"width_m": c.nice(c.reach * 0.1)})
def answer(p: Stripes, site: Site, path: str) -> np.ndarray:
    """1 in every other stripe."""
    row = (np.floor(site.grid.xs() / p.width_m) % 2).astype(np.float32)
    return np.broadcast_to(row, site.heights.shape)
