"""Moves: the focus is drawn to another distance."""

from typing import Literal

from ...document.fields import length_m
from ...document.offers import Offer
from ...shots.shot import eye_over, focus_of
from ..base import Moment, Move, OverTime, by_ratio, moves


class FocusMoves(Move):
    kind: Literal["focus"] = "focus"
    to_m: float = length_m("To", 30, lo=0.1, hi=1e6, slider=(0.3, 500))


@moves.add(
    FocusMoves,
    offers=[Offer("focus", "Focus", "drawn to another distance", lists=("moves",))],
    subtitle="to {to_m} m",
)
def focus(move: FocusMoves, moment: Moment, over: OverTime) -> None:
    """What is sharp from the distance where it is to another, by equal ratios."""
    shot = moment.shot
    eye = eye_over(shot, over.ground)
    now = focus_of(shot, eye, over.ground)
    to = by_ratio(now, move.to_m, move.share(moment.at_s))
    moment.shot = shot.model_copy(update={"focus_by": "distance", "focus_m": to})
