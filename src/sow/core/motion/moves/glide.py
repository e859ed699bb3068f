"""Moves: the eye glides along a line."""

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ...document.fields import length_m, place_m, setting
from ...document.offers import Context, Offer
from ..base import AlongLine, Moment, OverTime, along, moves

AIMED = {"looks": ["to a place"]}


class Glide(AlongLine):
    kind: Literal["glide"] = "glide"
    over_m: float = length_m("At a height of", 1.7, slider=(0.2, 200))
    looks: Literal["ahead", "as the shot", "to a place"] = Field("ahead", title="Looks")
    tilt: float = setting(
        0, "Tilt", "°", lo=-90, hi=90, slider=(-45, 45), only={"looks": ["ahead"]}
    )
    aim_east_m: float = place_m("Aim east", 0, slider=(0, "width"), only=AIMED)
    aim_north_m: float = place_m("Aim north", 0, slider=(0, "depth"), only=AIMED)
    aim_over_m: float = setting(
        1.5, "Aim over the ground", "m", lo=-50, hi=5000, slider=(0, 50), only=AIMED
    )
    smooth_m: float = length_m(
        "Evens out bumps over", 6, lo=0, hi=500, slider=(0.5, 60), fold="More"
    )


def _first(c: Context) -> dict:
    return {
        "line": c.mark("line"),
        "lasts_s": 8,
        "aim_east_m": c.centre["east_m"],
        "aim_north_m": c.centre["north_m"],
    }


@moves.add(
    Glide,
    offers=[Offer("glide", "Glide", "the eye along a line", first=_first, lists=("moves",))],
    subtitle="{over_m} m over the ground, looks {looks}",
)
def glide(move: Glide, moment: Moment, over: OverTime) -> None:
    """The eye along the line, at its height over what lies below, bumps evened out."""
    points = move.way(over)
    place, bearing = along(points, move.share(moment.at_s))
    below = move.below(over)
    length = float(np.hypot(*np.diff(points, axis=0).T).sum())
    shares = np.array([0.0])
    if move.smooth_m > 0:
        reach = 0.5 * move.smooth_m / max(length, 1e-6)
        shares = np.linspace(-reach, reach, 9)
    now = move.share(moment.at_s)
    heights = [below(*along(points, min(max(now + s, 0.0), 1.0))[0]) for s in shares]
    here = below(*place)
    # never lower than its height over what is right below
    up = max(float(np.mean(heights)), here) + move.over_m
    foot = over.ground(*place)
    to: dict[str, Any] = {
        "east_m": float(place[0]),
        "north_m": float(place[1]),
        "eye_m": max(up - foot, 0.05),
    }
    if move.looks == "ahead":
        to |= {"aim_by": "angles", "bearing": bearing, "tilt": move.tilt}
    elif move.looks == "to a place":
        to |= {
            "aim_by": "place",
            "aim_east_m": move.aim_east_m,
            "aim_north_m": move.aim_north_m,
            "aim_over_m": move.aim_over_m,
        }
    moment.shot = moment.shot.model_copy(update=to)
