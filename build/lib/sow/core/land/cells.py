"""Landform: cellular noise."""

from typing import Literal

import numpy as np
from pydantic import Field

from .. import noise as source
from ..document.entry import at_place
from ..document.fields import percent, setting
from ..document.offers import Offer
from .base import Below, Shape, landforms
from .noise import Pattern


class Cells(Pattern):
    kind: Literal["cells"] = "cells"
    form: Literal["hills", "pits", "blocks"] = Field(
        "hills",
        title="Form",
        json_schema_extra={
            "sow": {"labels": {"hills": "hills", "pits": "pits", "blocks": "blocks"}}
        },
        description="By distance to the nearest point, or to the line between two.",
    )
    octaves: int = setting(1, "Octaves", "", lo=1, hi=10)
    gain: float = setting(
        0.3,
        "Gain",
        "",
        lo=0.05,
        hi=0.95,
        step=0.01,
        help="Height of each octave beside the one before.",
    )
    lacunarity: float = setting(
        2.3, "Lacunarity", "", lo=1.3, hi=4, step=0.01, help="How much finer each octave is."
    )
    sharp: float = percent(
        "Sharpness", 50, help="Steeper sides and flatter tops or floors; 50 is the plain form."
    )


@landforms.add(
    Cells,
    reach=at_place,
    offers=[
        Offer(
            "cells",
            "Cells",
            "cellular noise",
            first=lambda c: {
                "feature_m": c.nice(c.reach * 0.12),
                "height_m": c.nice(c.reach * 0.05),
                "seed": c.seed,
            },
            group="Noise",
        )
    ],
    subtitle="{form}, {feature_m} m",
)
def heights(p: Cells, below: Below) -> Shape:
    """Heights in m from 0 up: domes about the points, pits at them, or blocks parted by grooves."""
    field = source.cells(
        below.grid,
        p.feature_m,
        p.octaves,
        p.gain,
        p.lacunarity,
        below.seed(p.seed),
        p.warp_m,
        p.warp_size_m,
        p.lay(),
        p.form == "blocks",
    )
    t = np.clip(field * np.float32(1.15 if p.form == "blocks" else 1.0), 0, 1)
    if p.form == "hills":
        t = 1 - t
    k = np.float32(4.0 ** (p.sharp / 50 - 1))
    t = t**k / (t**k + (1 - t) ** k) if p.sharp != 50 else t * t * (3 - 2 * t)
    return Shape(t * np.float32(p.height_m))
