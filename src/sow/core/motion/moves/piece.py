"""Moves: a piece goes along a line."""

from typing import Literal

from pydantic import Field

from ...document.fields import bearing, setting, shown
from ...document.offers import Context, Offer
from ...errors import SceneError
from ..base import AlongLine, Moment, OverTime, StanceAt, along, moves


class PieceGoes(AlongLine):
    kind: Literal["piece"] = "piece"
    piece: str = Field("", max_length=64, title="Piece", json_schema_extra=shown(entry="pieces"))
    over_m: float = setting(0, "At a height of", "m", lo=-50, hi=5000, slider=(0, 100))
    front: float = bearing(
        "Its front",
        0,
        fold="More",
        help="Where the thing looks that is to face its way, as it was made: 0 is north.",
    )


@moves.add(
    PieceGoes,
    offers=[
        Offer(
            "piece",
            "A piece goes",
            "along a line",
            first=lambda c: _first(c),
            lists=("moves",),
        )
    ],
    subtitle="{starts_s} s, for {lasts_s} s",
)
def piece(move: PieceGoes, moment: Moment, over: OverTime) -> None:
    """A piece along the line, facing its way, at its height over ground or water."""
    own = next((p for p in over.pieces if p.id == move.piece), None)
    if own is None:
        raise SceneError(
            f"“{move.name}” moves no piece.", "moves", "Choose a piece for it.", move.name
        )
    points = move.way(over)
    place, way_deg = along(points, move.share(moment.at_s))
    below = move.below(over)
    east, north = float(place[0]), float(place[1])
    up = below(east, north) + move.over_m - own.sink_cm / 100
    moment.pieces[own.id] = StanceAt(east, north, up, (way_deg - move.front) % 360)


def _first(c: Context) -> dict:
    return {"line": c.mark("line"), "pace": "evenly", "lasts_s": 10}
