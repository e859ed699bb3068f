"""Landform: a bank along a line, whose field for the line is called `line`."""

from typing import Literal

import numpy as np
from pydantic import Field

from sow.core.document.fields import length_m, shown
from sow.core.land.base import Below, Landform, Shape, landforms
from sow.core.marks.shapes import near, way


class Causeway(Landform):
    kind: Literal["toy-causeway"] = "toy-causeway"
    line: str = Field("", max_length=64, title="Line", json_schema_extra=shown(mark="line"))
    height_m: float = length_m("Height", 12)
    wide_m: float = length_m("Half width", 20)


@landforms.add(Causeway)
def heights(p: Causeway, below: Below) -> Shape:
    """`height_m` along the line, falling to nothing at `wide_m` from it."""
    mark = below.drawn(p.line)
    if mark is None:
        return Shape(np.zeros(below.grid.shape, np.float32))
    away = near(way(mark), below.grid, p.wide_m)[0]
    return Shape((p.height_m * np.clip(1 - away / p.wide_m, 0, 1)).astype(np.float32))
