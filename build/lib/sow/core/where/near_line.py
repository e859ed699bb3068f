"""Where: near a line or the edge of an area."""

from typing import Literal

import numpy as np
from pydantic import Field

from ..document.entry import at_place
from ..document.fields import length_m, setting
from .base import Condition, condition, ramp
from .site import Site


class NearLine(Condition):
    kind: Literal["near-line"] = "near-line"
    mark: str = Field("", max_length=64, title="Line", json_schema_extra={"sow": {"mark": "line"}})
    within_m: float = length_m("Within", 5, lo=0, hi=50000, slider=(0.2, 500))
    soft: float = setting(3, "Softness", "m", lo=0, hi=50000, slider=(0, 100))


@condition(NearLine, label="near a line", first=lambda c: {"mark": c.mark("line")}, reach=at_place)
def answer(p: NearLine, site: Site, path: str) -> np.ndarray:
    """1 within this distance of the line, to either hand."""
    away = site.near(p.mark, p.within_m + p.soft + site.grid.spacing, f"{path}.mark")
    return ramp((p.within_m - away) / max(p.soft / 2, 1e-3)).astype("float32")
