"""Landform: even ripples across the plot."""

from typing import Literal

import numpy as np

from sow.core.document.fields import bearing, length_m
from sow.core.document.offers import Offer
from sow.core.land.base import Below, Landform, Shape, landforms


class Ripples(Landform):
    kind: Literal["toy-ripples"] = "toy-ripples"
    spacing_m: float = length_m("Ripple spacing", 60, slider=(5, 500))
    height_m: float = length_m("Ripple height", 8, slider=(1, 100))
    run: float = bearing("Ripples run", 90)


@landforms.add(
    Ripples,
    offers=[
        Offer(
            "toy-ripples",
            "Toy ripples",
            "for a test",
            first=lambda c: {"spacing_m": c.nice(c.reach * 0.2)},
            group="Toys",
        )
    ],
    subtitle="{spacing_m} m apart",
)
def heights(p: Ripples, below: Below) -> Shape:
    """A sine of the distance along the bearing, 0 to `height_m`, in m."""
    a = np.deg2rad(p.run)
    x, y = below.grid.xs()[None, :], below.grid.ys()[:, None]
    wave = np.sin((x * np.sin(a) + y * np.cos(a)) * 2 * np.pi / p.spacing_m)
    return Shape(((wave + 1) / 2 * p.height_m).astype(np.float32))
