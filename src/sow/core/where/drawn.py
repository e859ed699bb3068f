"""Where: inside a mask picture kept among the marks."""

from typing import Literal

from pydantic import Field

from . import Condition, condition


class Drawn(Condition):
    kind: Literal["mask"] = "mask"
    mark: str = Field("", title="Mask", json_schema_extra={"sow": {"mark": "mask"}})
    bound: str = Field(
        "",
        max_length=64,
        title="Lies over",
        json_schema_extra={"sow": {"entry": "land", "none": "the plot"}},
        description="Bound to a landform it moves, turns and stretches with it, and is black outside it.",
    )


@condition(Drawn)
def answer(p: Drawn, site, path):
    """The mask's own value, white = 1, stretched over the plot or one landform, and interpolated."""
    return site.mark(p, path)
