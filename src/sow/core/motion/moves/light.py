"""Moves: one number of the light changes."""

from typing import Literal

from pydantic import Field

from ...document.fields import setting, shown
from ...document.offers import Offer
from ...errors import SceneError
from ..base import Moment, Move, OverTime, between, by_ratio, moves

RATIOS = ("haze_m", "white_k")
LABELS = {
    "haze_m": "haze: seen to (m)",
    "clouds": "heaps of cloud (%)",
    "layer": "layer of cloud (%)",
    "veil": "veil (%)",
    "exposure": "exposure (EV)",
    "white_k": "white (K)",
    "sun_strength": "sun strength (%)",
    "sky_strength": "sky light (%)",
    "shafts": "light shafts (%)",
}


class LightChanges(Move):
    kind: Literal["light"] = "light"
    what: Literal[
        "haze_m",
        "clouds",
        "layer",
        "veil",
        "exposure",
        "white_k",
        "sun_strength",
        "sky_strength",
        "shafts",
    ] = Field("haze_m", title="What", json_schema_extra=shown(labels=LABELS))
    to: float = setting(1500, "To", "", lo=-8, hi=500000, slider=(0, 10000))


@moves.add(
    LightChanges,
    offers=[
        Offer("haze", "Haze", "thicker or thinner", lists=("moves",)),
        Offer(
            "clouding",
            "Clouds gather",
            "more or fewer",
            first=lambda c: {"what": "clouds", "to": 70},
            lists=("moves",),
        ),
    ],
    subtitle="{what} to {to}",
)
def light(move: LightChanges, moment: Moment, over: OverTime) -> None:
    """A number of the light from what it is to another."""
    now = getattr(moment.light, move.what)
    by = by_ratio if move.what in RATIOS else between
    values = moment.light.model_dump() | {move.what: by(now, move.to, move.share(moment.at_s))}
    try:
        moment.light = type(moment.light).model_validate(values)
    except ValueError:
        raise SceneError(
            f"“{move.name}” takes {LABELS[move.what]} to {move.to:g}, which cannot be.",
            "moves",
            "Give a value that the light itself could have.",
            move.name,
        ) from None
