"""Landform: a broad form, placed, turned and sized in metres."""
from typing import Literal

import numpy as np
from pydantic import Field

from ..fields import setting
from .base import Below, Landform, landforms


class Form(Landform):
    kind: Literal["form"] = "form"
    form: Literal["slope", "valley", "dome", "basin"] = Field("dome", title="Form")
    height_m: float = setting(80, "Height", "m", lo=0, hi=8000, slider=(0, 800))
    length_m: float = setting(800, "Length", "m", lo=1, hi=100000, slider=(10, 8000), scale="log",
                              help="Along its own axis: a dome's diameter, the run of a slope.")
    breadth_m: float = setting(800, "Breadth", "m", lo=1, hi=100000, slider=(10, 8000), scale="log",
                               help="Across its axis: the width of a valley.")
    east_m: float = setting(500, "Centre east", "m", lo=-100000, hi=100000, slider=(0, "width"))
    north_m: float = setting(500, "Centre north", "m", lo=-100000, hi=100000, slider=(0, "depth"))
    turn: float = setting(0, "Turn", "°", lo=0, hi=360, help="Clockwise from north; a slope rises towards it.")


def _bell(t: np.ndarray) -> np.ndarray:
    """1 at t = 0, falling smoothly to 0 at t = 1 with level ends."""
    t = np.clip(t, 0, 1)
    return 1 - t * t * (3 - 2 * t)


@landforms.add(Form)
def heights(p: Form, below: Below) -> np.ndarray:
    """Heights in m, 0 outside a dome or basin; a valley is `height_m` deep along its axis."""
    a = np.deg2rad(p.turn)
    x = (below.grid.xs() - p.east_m)[None, :]
    y = (below.grid.ys() - p.north_m)[:, None]
    along = x * np.sin(a) + y * np.cos(a)
    across = x * np.cos(a) - y * np.sin(a)
    if p.form == "slope":
        shape = np.clip(along / p.length_m + 0.5, 0, 1)
        shape = shape * shape * (3 - 2 * shape)
    elif p.form == "valley":
        shape = -_bell(np.abs(across) / (p.breadth_m / 2))
    else:
        shape = _bell(np.hypot(along / (p.length_m / 2), across / (p.breadth_m / 2)))
        if p.form == "basin":
            shape = -shape
    return (shape * p.height_m).astype(np.float32)
