"""Where: inside a mask picture kept among the marks."""
from typing import Literal

from pydantic import Field

from . import Condition, condition


class Drawn(Condition):
    kind: Literal["mask"] = "mask"
    mark: str = Field("", title="Mask", json_schema_extra={"sow": {"mark": "mask"}})


@condition(Drawn)
def answer(p: Drawn, site, path):
    """The mask's own value, white = 1, stretched over the plot and interpolated."""
    return site.mark(p.mark, path)
