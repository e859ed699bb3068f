"""Water: a pool filled to the rim of its hollow."""

from ..errors import SceneError
from ..water.hollow import hollow_at
from .base import Asked, Done, Hand, work

SHALLOW_M = 0.05  # less is no hollow
FREEBOARD_M = 0.05  # how far below the rim a pool stands, at most a quarter of its depth


class Fill(Asked):
    """A place in the hollow; `above` asks for a rim higher than this level (m)."""

    water: str
    east: float
    north: float
    above: float | None = None


@work("fill a hollow", Fill)
def fill(hand: Hand, asked: Fill) -> Done:
    """A pool stands just below the rim of the hollow at a place; on ground that is no hollow it is
    laid shallow and the person is told.
    """
    entries, index = hand.find(asked.water)
    pool = entries[index]
    if entries is not hand.document["water"]:
        raise SceneError(f"“{pool['name']}” is no water.", "water", "Choose one.")
    build = hand.build()
    least = float("-inf") if asked.above is None else asked.above
    floor, rim = hollow_at(build.heights, build.grid, asked.east, asked.north, least)
    deep = rim - floor
    if deep <= SHALLOW_M and asked.above is not None:
        return Done(hand.document, "", pool["id"], "No rim lies higher.")
    level = rim - min(FREEBOARD_M, deep / 4) if deep > SHALLOW_M else floor + 0.3
    place = {"east_m": round(asked.east, 1), "north_m": round(asked.north, 1)}
    pool.update({"reach": "pool", "level_m": round(level, 2), **place})
    told = (
        ""
        if deep > SHALLOW_M
        else "The ground is no hollow here: water would run off. Dig one with the basin brush, or "
        "lower the level."
    )
    return Done(hand.document, "Pool filled", pool["id"], told)
