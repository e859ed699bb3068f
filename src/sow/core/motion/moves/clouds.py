"""Moves: clouds drift with the wind."""

from typing import Literal

from ...document.fields import setting
from ...document.offers import Offer
from ..base import Moment, Move, OverTime, moves


class CloudsDrift(Move):
    kind: Literal["clouds"] = "clouds"
    speed: float = setting(
        60,
        "Speed",
        "m/s",
        lo=-2000,
        hi=2000,
        slider=(0, 200),
        help="A fresh wind carries them at 10; the quick skies of films take 50 to 200.",
    )


@moves.add(
    CloudsDrift,
    offers=[
        Offer(
            "clouds",
            "Clouds drift",
            "with the wind",
            first=lambda c: {"pace": "evenly", "lasts_s": 10},
            lists=("moves",),
        )
    ],
    subtitle="{speed} m/s",
)
def clouds(move: CloudsDrift, moment: Moment, over: OverTime) -> None:
    """Clouds carried on for as long as it lasts."""
    far = move.speed * move.lasts_s * move.share(moment.at_s)
    drifted = moment.light.cloud_drift_m + far
    moment.light = moment.light.model_copy(update={"cloud_drift_m": drifted})
