"""Where: inside a mask picture kept among the marks."""

from typing import Any, Literal

import numpy as np
from pydantic import Field

from .base import Condition, condition
from .site import Site


class InMask(Condition):
    kind: Literal["mask"] = "mask"
    mark: str = Field("", title="Mask", json_schema_extra={"sow": {"mark": "mask"}})
    bound: str = Field(
        "",
        max_length=64,
        title="Lies over",
        json_schema_extra={"sow": {"entry": "land", "far": True, "none": "the plot"}},
        description="Bound to a landform it moves, turns and stretches with it, and is black "
        "outside it.",
    )


def _reach(p: InMask, scene: Any) -> float:
    mask = next((m for m in scene.marks if m.id == p.mark and m.kind == "mask"), None)
    return 0.0 if mask is None else abs(mask.widen_m) + 1.5 * mask.blur_m


@condition(
    InMask,
    label="mask: painted, picture, zone",
    first=lambda c: {"mark": c.mark("mask"), "bound": c.before.get("own landform", "")},
    reach=_reach,
)
def answer(p: InMask, site: Site, path: str) -> np.ndarray:
    """The mask's own value, white = 1, stretched over the plot or one landform, and
    interpolated.
    """
    return site.mark(p, path)
