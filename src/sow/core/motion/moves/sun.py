"""Moves: the sun goes on through its day, or to another place in the sky."""

from datetime import datetime, timedelta
from typing import Any, Literal

from pydantic import Field

from ...document.fields import bearing, setting, shown
from ...document.offers import Offer
from ...errors import SceneError
from ..base import Moment, Move, OverTime, between, moves, turned


class SunMoves(Move):
    kind: Literal["sun"] = "sun"
    by: Literal["place", "hours"] = Field(
        "place",
        title="By",
        json_schema_extra=shown(labels={"place": "bearing and height", "hours": "hours"}),
    )
    bearing: float = bearing("To bearing", 270, only={"by": ["place"]})
    height: float = setting(
        6, "To height", "°", lo=-18, hi=90, slider=(-10, 90), only={"by": ["place"]}
    )
    hours: float = setting(
        4,
        "Hours",
        "h",
        lo=-72,
        hi=72,
        slider=(-12, 12),
        only={"by": ["hours"]},
        help="Of a light whose sun stands by place and date.",
    )


@moves.add(
    SunMoves,
    offers=[Offer("sun", "Sun", "through the day", lists=("moves",))],
    subtitle="{starts_s} s, for {lasts_s} s",
)
def sun(move: SunMoves, moment: Moment, over: OverTime) -> None:
    """The sun from where it stands to a place, or on by hours."""
    share, light = move.share(moment.at_s), moment.light
    to: dict[str, Any]
    if move.by == "place":
        if light.sun_by != "bearing":
            raise SceneError(
                f"“{move.name}” moves the sun to a bearing, but it stands by date.",
                "moves",
                "Move it by hours, or let the light's sun stand by bearing and height.",
                move.name,
            )
        to = {
            "sun_bearing": turned(light.sun_bearing, move.bearing, share),
            "sun_height": between(light.sun_height, move.height, share),
        }
    else:
        if light.sun_by != "date":
            raise SceneError(
                f"“{move.name}” moves the sun by hours, but it stands by bearing.",
                "moves",
                "Let the light's sun stand by place and date, or move it to a bearing.",
                move.name,
            )
        passed = timedelta(hours=move.hours * share)
        to = {"moment": (datetime.fromisoformat(light.moment) + passed).isoformat()}
    moment.light = light.model_copy(update=to)
