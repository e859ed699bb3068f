"""Where: where the land of one landform shows."""

from typing import Literal

from pydantic import Field

from . import Condition, condition


class Shows(Condition):
    kind: Literal["shows"] = "shows"
    landform: str = Field(
        "", max_length=64, title="Landform", json_schema_extra={"sow": {"entry": "land"}}
    )


@condition(Shows)
def answer(p: Shows, site, path):
    """The landform's cover map: what it wins of the land, less what later ones take."""
    return site.cover(p.landform, path)
