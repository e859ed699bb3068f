"""Where: where the land of one landform shows."""

from typing import Literal

import numpy as np
from pydantic import Field

from .base import Condition, condition
from .site import Site


class Shows(Condition):
    kind: Literal["shows"] = "shows"
    landform: str = Field(
        "",
        max_length=64,
        title="Landform",
        json_schema_extra={"sow": {"entry": "land", "far": True}},
    )


@condition(
    Shows,
    label="where a landform shows",
    first=lambda c: {"landform": c.before.get("landform", "")},
)
def answer(p: Shows, site: Site, path: str) -> np.ndarray:
    """The landform's cover map: what it wins of the land, less what later ones take."""
    return site.cover(p.landform, path)
