"""Where: near where the land of one landform shows."""

from typing import Literal

import numpy as np
from pydantic import Field

from .base import condition
from .near_material import NearCover, away
from .site import Site


class NearLandform(NearCover):
    kind: Literal["near-landform"] = "near-landform"
    landform: str = Field(
        "",
        max_length=64,
        title="Landform",
        json_schema_extra={"sow": {"entry": "land", "far": True}},
    )


def _distance(p: NearLandform, site: Site, path: str) -> np.ndarray:
    return away(site.cover(p.landform, f"{path}.landform"), site.grid.spacing)


@condition(
    NearLandform,
    label="distance to a landform",
    first=lambda c: {"landform": c.before.get("landform", "")},
    measures=_distance,
)
def answer(p: NearLandform, site: Site, path: str) -> np.ndarray:
    """1 within the band of distance to where the landform's own land shows."""
    return p.held(_distance(p, site, path))
