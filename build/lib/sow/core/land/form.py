"""Landform: a broad form, placed, turned and sized in metres."""

from functools import partial
from typing import Literal

import numpy as np
from pydantic import Field

from .. import noise
from ..document.curve import Curve, curve_setting
from ..document.curve import along as at
from ..document.entry import Handles, at_place
from ..document.fields import bearing, percent, setting
from ..document.offers import Context, Offer
from ..plot import Plot
from .base import Below, Frame, Landform, Shape, landforms

ROUND: list[list[float]] = [[0, 1], [0.25, 0.844], [0.5, 0.5], [0.75, 0.156], [1, 0]]
LABELS = {
    "slope": "Slope",
    "valley": "Valley",
    "ridge": "Ridge",
    "dome": "Dome",
    "cone": "Cone with crater",
    "basin": "Basin",
    "ring": "Ring of hills",
    "island": "Island",
    "plateau": "Plateau",
}
FORMS = tuple(LABELS)
# forms that are not as wide as they are long, or fall off by a curve of their own
NARROW = ("valley", "ridge")
SHAPED = {
    "cone": {"inner": 18, "profile": [[0, 1], [0.25, 0.7], [0.55, 0.28], [1, 0]]},
    "plateau": {"inner": 60, "profile": [[0, 1], [0.3, 0.93], [0.6, 0.35], [1, 0]]},
}


def _first(form: str, c: Context) -> dict:
    """First values of a broad form on a plot."""
    return {
        "form": form,
        "height_m": c.nice(c.reach * 0.08),
        "length_m": c.nice(c.reach * 0.7),
        "breadth_m": c.nice(c.reach * (0.35 if form in NARROW else 0.7)),
        "rough_m": c.nice(c.reach * 0.15),
        **c.centre,
        **SHAPED.get(form, {}),
    }


class Form(Landform):
    kind: Literal["form"] = "form"
    form: Literal[FORMS] = Field(  # type: ignore[valid-type]
        "dome", title="Form", json_schema_extra={"sow": {"labels": {"cone": "cone with crater"}}}
    )
    height_m: float = setting(80, "Height", "m", lo=0, hi=8000, slider=(0, 800))
    length_m: float = setting(
        800,
        "Length",
        "m",
        lo=1,
        hi=100000,
        slider=(10, 8000),
        scale="log",
        help="Along its own axis: a dome's diameter, the run of a slope.",
    )
    breadth_m: float = setting(
        800,
        "Breadth",
        "m",
        lo=1,
        hi=100000,
        slider=(10, 8000),
        scale="log",
        help="Across its axis: the width of a valley.",
    )
    east_m: float = setting(500, "Centre east", "m", lo=-100000, hi=100000, slider=(0, "width"))
    north_m: float = setting(500, "Centre north", "m", lo=-100000, hi=100000, slider=(0, "depth"))
    turn: float = bearing("Turn", 0, help="Clockwise from north; a slope rises towards it.")
    inner: float = percent(
        "Inner part",
        40,
        hi=95,
        only={"form": ["cone", "ring", "plateau"]},
        help="Size of the crater, of the flat centre, of the plateau's top, beside the whole.",
    )
    profile: Curve = curve_setting(
        ROUND,
        "Edge profile",
        "middle to edge",
        "height",
        "From the middle or crest (left) to the edge (right).",
    )
    rough: float = percent(
        "Roughness", 0, help="Noise that bends the outline and ruffles the sides."
    )
    rough_m: float = setting(
        120, "Roughness size", "m", lo=0.1, hi=50000, slider=(2, 2000), scale="log"
    )
    rough_octaves: int = setting(
        6,
        "Octaves of roughness",
        "",
        lo=1,
        hi=12,
        slider=(1, 10),
        step=1,
        help="Each is half as large as the one before; the last ones are the finest.",
    )
    rough_gain: float = percent(
        "Gain of roughness", 42, hi=95, help="How strong each octave is beside the one before."
    )
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)

    def frame(self, plot: Plot) -> Frame:
        """Where a mask bound to the form lies."""
        return Frame(self.east_m, self.north_m, self.breadth_m, self.length_m, self.turn)


@landforms.add(
    Form,
    reach=at_place,
    offers=[
        Offer(f"form-{form}", label, first=partial(_first, form), group="Broad forms")
        for form, label in LABELS.items()
    ],
    subtitle="{form}, {length_m} by {breadth_m} m",
    handles=Handles("breadth_m", "length_m", round=True),
)
def heights(p: Form, below: Below) -> Shape:
    """Heights in m, 0 outside the outline; a valley and a basin go down; an island sinks by a
    quarter beyond its edge.
    """
    across, along = p.frame(below.plot).local(below.grid)
    half_l = np.float32(p.length_m / 2)
    half_b = np.float32(p.breadth_m / 2)
    inner = np.float32(p.inner / 100)
    bend = None
    if p.rough:
        bend = noise.fbm(
            below.grid,
            p.rough_m,
            p.rough_octaves,
            p.rough_gain / 100,
            seed=below.seed(p.seed + 401),
        ) * np.float32(p.rough / 100)
    if p.form == "slope":
        t = np.clip(np.float32(0.5) - along / np.float32(p.length_m), 0, 1)
    elif p.form in ("valley", "ridge"):
        over = np.maximum(np.abs(along) - np.maximum(half_l - half_b, 0), 0)
        t = np.hypot(over, across) / half_b
    else:
        t = np.hypot(along / half_l, across / half_b)
    if bend is not None:
        t = t + bend * np.float32(0.16) * (np.clip(t * 3, 0, 1) if p.form != "slope" else 1)
    edge = t
    if p.form == "plateau":
        t = np.maximum(t - inner, 0) / (1 - inner)
    elif p.form == "ring":
        t = np.abs(t - (1 + inner) / 2) / ((1 - inner) / 2)
    shape = at(p.profile, np.clip(t, 0, 1))
    if p.form == "cone":
        rim = at(p.profile, inner)
        dip = np.clip(t / max(inner, np.float32(1e-3)), 0, 1)
        shape = np.where(t < inner, rim * (np.float32(0.42) + np.float32(0.58) * dip * dip), shape)
    if p.form == "island":
        shape = shape * np.float32(1.25) - np.float32(0.25)
    if bend is not None:
        shape = shape * (1 + bend * np.float32(0.3))
    if p.form in ("valley", "basin"):
        shape = -shape
    extent = None if p.form in ("slope", "island") else np.clip((1 - edge) * 12, 0, 1)
    return Shape((shape * np.float32(p.height_m)).astype(np.float32, copy=False), extent=extent)
