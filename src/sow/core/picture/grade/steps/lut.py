"""Grading: a look-up table from a file."""

from collections.abc import Callable
from typing import Literal

import numpy as np
from pydantic import Field, PrivateAttr

from ....document.fields import percent, shown
from ....document.offers import Offer
from ..base import Graded, GradedFrame, steps
from ..tables import from_raster, looked_up


class LookUp(Graded):
    acts_on = "shown"
    kind: Literal["lut"] = "lut"
    table: str = Field("", max_length=80, title="Table", json_schema_extra=shown(file="lut"))
    takes: Literal["screen", "acescct"] = Field(
        "screen",
        title="Takes",
        description="What its maker meant it for: the finished picture, or the scene's light coded "
        "as ACEScct, for which it stands instead of the film.",
        json_schema_extra=shown(
            labels={"screen": "what the film shows", "acescct": "ACEScct, as a film"}
        ),
    )
    strength: float = percent("Strength", 100)
    _held: np.ndarray | None = PrivateAttr(None)

    @property
    def as_film(self) -> float:
        """How far it stands instead of the film."""
        held = self.takes == "acescct" and self._held is not None
        return self.strength / 100 if held else 0.0

    def with_rasters(self, load: Callable[[str], np.ndarray]) -> "LookUp":
        """With its table at hand. Raises SceneError where that is missing or none."""
        if not self.table:
            return self
        held = self.model_copy()
        held._held = from_raster(load(self.table))
        return held


@steps.add(
    LookUp,
    offers=[Offer("lut", "Look-up table", "from a .cube, .3dl or CLF", lists=("grade",))],
    subtitle="{strength} %",
)
def lut(entry: LookUp, values: np.ndarray, frame: GradedFrame) -> np.ndarray:
    """Colours as a table has them, mixed in by its strength."""
    if entry._held is None or not entry.strength:
        return values
    found = looked_up(entry._held, values)
    if entry.takes == "acescct":
        return found  # mixed with the film, not with the light that it takes
    return values + (found - values) * np.float32(entry.strength / 100)
