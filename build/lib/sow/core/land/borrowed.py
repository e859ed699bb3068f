"""Landform: the land of another scene, as it was at one revision."""

from typing import Literal

from pydantic import Field

from ..document.entry import Handles, at_place
from ..document.fields import file_setting, setting
from ..document.offers import Offer
from ..errors import SceneError
from .base import Below, Shape, landforms
from .heightmap import Laid, lay, prepared


class Borrowed(Laid):
    kind: Literal["borrowed"] = "borrowed"
    raster: str = file_setting("Land", "Heights in metres, taken from another scene.")
    source: str = Field(
        "", max_length=120, title="Taken from", json_schema_extra={"sow": {"told": True}}
    )
    times: float = setting(1, "Heights", "×", lo=-20, hi=20, slider=(0, 3), step=0.01)
    lift_m: float = setting(0, "Lift", "m", lo=-12000, hi=12000, slider=(-500, 500))


@landforms.add(
    Borrowed,
    reach=at_place,
    offers=[
        Offer(
            "borrowed",
            "Another scene's land",
            "at its revision",
            first=lambda c: c.centre,
            name="Another land",
            group="From elsewhere",
        )
    ],
    subtitle="{source}",
    handles=Handles("width_m", "depth_m"),
)
def heights(p: Borrowed, below: Below) -> Shape:
    """The other land's own metres, times `times`, lifted."""
    if not p.raster:
        raise SceneError(
            "No scene is chosen.", below.path + ".raster", "Choose the scene whose land this is."
        )
    field, coefficients, post = prepared(
        p, below, p.raster, lambda: below.raster(p.raster), p.frame(below.plot)
    )
    shape = lay(p, below, field, coefficients, post)
    shape.heights = shape.heights * p.times + p.lift_m
    return shape
