"""Moves: wind sways the plants and waves run."""

from typing import Literal

from ...document.fields import percent
from ...document.offers import Offer
from ..base import Moment, Move, OverTime, moves


class WindBlows(Move):
    kind: Literal["wind"] = "wind"
    strength: float = percent("Strength", 50, hi=300, slider=(0, 150))


@moves.add(
    WindBlows,
    offers=[
        Offer(
            "wind",
            "Wind and waves",
            "plants sway, waters run",
            first=lambda c: {"pace": "evenly", "lasts_s": 10},
            lists=("moves",),
        )
    ],
    subtitle="{strength} %",
)
def wind(move: WindBlows, moment: Moment, over: OverTime) -> None:
    """Plants sway and waves run for as long as it lasts."""
    done = move.lasts_s * move.share(moment.at_s)
    moment.waves_s += done
    moment.blown_s += done
    rises = min(1.0, (moment.at_s - move.starts_s) / max(0.1 * move.lasts_s, 1e-6))
    falls = min(1.0, max(0.0, move.ends_s - moment.at_s) / max(0.1 * move.lasts_s, 1e-6))
    moment.wind = max(moment.wind, move.strength / 100 * max(0.0, min(rises, falls)))
