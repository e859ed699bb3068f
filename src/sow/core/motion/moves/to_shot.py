"""Moves: the eye goes to another shot."""

from typing import Literal

from pydantic import Field

from ...document.fields import shown
from ...document.offers import Offer
from ...shots.shot import aimed
from ..base import Moment, Move, OverTime, between, by_ratio, moves, turned


class ToShot(Move):
    kind: Literal["to-shot"] = "to-shot"
    to: str = Field("", max_length=64, title="To", json_schema_extra=shown(entry="shots"))


@moves.add(
    ToShot,
    offers=[Offer("to-shot", "To another shot", "the eye, aim and lens", lists=("moves",))],
    subtitle="{starts_s} s, for {lasts_s} s",
)
def to_shot(move: ToShot, moment: Moment, over: OverTime) -> None:
    """Place, height over the ground, aim and lens from those of the shot to those of another."""
    a = aimed(moment.shot, over.ground)
    b = aimed(over.shot(move.to, move.name), over.ground)
    s = move.share(moment.at_s)
    even = ("east_m", "north_m", "tilt", "shift_up", "shift_aside", "exposure")
    to = {name: between(getattr(a, name), getattr(b, name), s) for name in even}
    for name in ("eye_m", "focal_mm", "focus_m"):
        to[name] = by_ratio(getattr(a, name), getattr(b, name), s)
    if a.aperture > 0 and b.aperture > 0:
        to["aperture"] = by_ratio(a.aperture, b.aperture, s)
    bearing = turned(a.bearing, b.bearing, s)
    moment.shot = a.model_copy(update={**to, "bearing": bearing, "aim_by": "angles"})
