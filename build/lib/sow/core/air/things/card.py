"""A card: a picture with transparency that stands in the scene, such as a flock of birds, people
far off, or a backdrop behind the land.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from ...document.fields import bearing, length_m, percent, place_m, setting, shown
from ...document.offers import Context, Offer
from ..base import InAir, Over, airs
from ..card_pictures import BACKDROPS, PICTURES, picture_of


class Card(InAir):
    kind: Literal["card"] = "card"
    picture: str = Field(
        "ready-birds",
        max_length=80,
        title="Picture",
        json_schema_extra=shown(file="card"),
    )
    east_m: float = place_m("East", 0, slider=(0, "width"))
    north_m: float = place_m("North", 0, slider=(0, "depth"))
    over_m: float = setting(
        0, "Over the ground", "m", lo=-500, hi=20000, slider=(-10, 300), help="Its lower edge."
    )
    height_m: float = length_m("Height", 10, lo=0.05, hi=20000, slider=(0.5, 2000))
    faces: Literal["eye", "fixed"] = Field(
        "eye",
        title="Faces",
        json_schema_extra=shown(labels={"eye": "the eye", "fixed": "one way"}),
    )
    turn: float = bearing("Faces to", 180, only={"faces": ["fixed"]})
    shines: float = percent(
        "Shines",
        0,
        hi=1000,
        slider=(0, 200),
        help="Of a middling picture's light; what does not shine is lit as the land is.",
    )
    hazed: bool = Field(True, title="Haze lies before it")
    shadow: bool = Field(False, title="Casts a shadow")


@dataclass(frozen=True)
class CardStands:
    """A card in the world: the middle of its lower edge (m), its sizes (m), the bearing that it
    faces (None: the eye), how it is lit.
    """

    id: str
    picture: str
    place: tuple[float, float, float]
    width_m: float
    height_m: float
    faces: float | None
    shines: float
    hazed: bool
    shadow: bool


def _first(picture: str):
    height, over, away = PICTURES[picture].first

    def first(c: Context) -> dict:
        far = {"north_m": round(c.depth_m + c.reach * away)} if away else {}
        return {
            **c.centre,
            **far,
            "picture": picture,
            "height_m": c.nice(height * (c.reach / 800 if away else 1)),
            "over_m": over,
        }

    return first


OFFERS = [
    Offer(
        f"card-{name}",
        found.label,
        "backdrop" if name in BACKDROPS else "card",
        first=_first(name),
        lists=("air",),
    )
    for name, found in PICTURES.items()
]


@airs.add(Card, offers=OFFERS, subtitle="{height_m} m high")
def card(entry: Card, over: Over) -> list[CardStands]:
    """The card where it stands over the land; beyond the plot over its edge's ground."""
    foot = over.ground_at(np.array([entry.east_m]), np.array([entry.north_m]))[0]
    sheet = picture_of(entry.picture, over.picture)
    rows, columns = sheet.shape[:2]
    return [
        CardStands(
            entry.id,
            entry.picture,
            (entry.east_m, entry.north_m, float(foot) + entry.over_m),
            entry.height_m * columns / rows,
            entry.height_m,
            entry.turn if entry.faces == "fixed" else None,
            entry.shines / 100,
            entry.hazed,
            entry.shadow,
        )
    ]
