"""Where: inside an area."""

from typing import Literal

import numpy as np
from pydantic import Field

from ..document.entry import at_place
from ..document.fields import setting
from .base import Condition, condition, ramp
from .site import Site


class InArea(Condition):
    kind: Literal["in-area"] = "in-area"
    mark: str = Field("", max_length=64, title="Area", json_schema_extra={"sow": {"mark": "area"}})
    grown_m: float = setting(
        0, "Grown by", "m", lo=-20000, hi=20000, slider=(-100, 100), help="Below 0 it shrinks."
    )
    soft: float = setting(3, "Softness", "m", lo=0, hi=50000, slider=(0, 100))


@condition(InArea, label="in an area", first=lambda c: {"mark": c.mark("area")}, reach=at_place)
def answer(p: InArea, site: Site, path: str) -> np.ndarray:
    """1 inside the area, with a soft edge centred on it."""
    deep = site.inside(p.mark, abs(p.grown_m) + p.soft + site.grid.spacing, f"{path}.mark")
    return ramp((deep + p.grown_m) / max(p.soft / 2, 1e-3)).astype("float32")
