"""Where: by the cover of another material."""

from typing import Literal

import numpy as np
from pydantic import Field

from ..document.entry import at_place
from ..document.fields import percent
from .base import Band, condition
from .site import Site


class Covered(Band):
    kind: Literal["covered"] = "covered"
    material: str = Field(
        "", max_length=64, title="Material", json_schema_extra={"sow": {"entry": "ground"}}
    )
    low: float = percent("From", 50, slider=(0, 100))
    high: float = percent("To", 100, slider=(0, 100))
    soft: float = percent("Softness", 40, slider=(0, 100))


def _percent(p: Covered, site: Site, path: str) -> np.ndarray:
    return site.shares(p.material, f"{path}.material") * 100


@condition(
    Covered,
    stage="ground",
    label="cover of a material",
    sees=("ground",),
    first=lambda c: {"material": c.before.get("ground", "")},
    reach=at_place,
    measures=_percent,
)
def answer(p: Covered, site: Site, path: str) -> np.ndarray:
    """1 within the band of what the other material covers; a material sees the ones before it as
    they lie so far, a sowing the finished ground.
    """
    return p.band(
        _percent(p, site, path),
        p.low if p.low > 0 else -1e3,
        p.high if p.high < 100 else 1e3,
        p.soft,
    )
