"""Shots: the focus set on what is pointed at, the exposure by a meter, the whole by a picture."""

from pydantic import Field

from ..document.entry import Strict
from ..errors import SceneError
from ..judge.shot_faults import metered
from ..shots.match import Known, by_lines, by_places
from .base import Asked, Done, Hand, work

FIRST_APERTURE = 2.8  # of a shot that had all sharp


class Focus(Asked):
    """A place in the plot (m), and how high over the ground what is pointed at stands."""

    shot: str
    east: float
    north: float
    over: float = 0.3


@work("focus on a place", Focus)
def focus_on_place(hand: Hand, asked: Focus) -> Done:
    """A shot is sharp at a place, and stays so when its eye moves; its lens is opened where it had
    all sharp.
    """
    entries, index = hand.find(asked.shot)
    shot = entries[index]
    if entries is not hand.document["shots"]:
        raise SceneError(f"“{shot['name']}” is no shot.", "shot", "Choose a shot.")
    shot.update(
        {
            "focus_by": "place",
            "focus_east_m": round(asked.east, 2),
            "focus_north_m": round(asked.north, 2),
            "focus_over_m": round(asked.over, 2),
        }
    )
    if shot["aperture"] == 0:
        shot["aperture"] = FIRST_APERTURE
    return Done(hand.document, f"{shot['name']}: focus", shot["id"])


class Meter(Asked):
    shot: str


@work("meter a shot", Meter)
def meter(hand: Hand, asked: Meter) -> Done:
    """A shot's exposure set so that the middle of what it sees is middle grey."""
    entries, index = hand.find(asked.shot)
    shot = entries[index]
    if entries is not hand.document["shots"]:
        raise SceneError(f"“{shot['name']}” is no shot.", "shot", "Choose a shot.")
    shot["exposure"] = metered(hand.build(), hand.build().shots()[index])
    told = f"{shot['name']}: {shot['exposure']:+.2f} EV"
    return Done(hand.document, f"{shot['name']}: metered", shot["id"], told)


class KnownPlace(Strict):
    """A place (m) and where in the picture it shows: across and down, 0..1."""

    across: float
    down: float
    east: float
    north: float
    over: float = 0.0


class Match(Asked):
    """Marks on a shot's picture: two points of its horizon, two uprights of two points each, known
    places.
    """

    shot: str
    horizon: list[tuple[float, float]] = Field(default_factory=list, max_length=2)
    uprights: list[list[tuple[float, float]]] = Field(default_factory=list, max_length=2)
    places: list[KnownPlace] = Field(default_factory=list, max_length=40)


@work("match a shot", Match)
def match(hand: Hand, asked: Match) -> Done:
    """A shot set so that it sees what a picture shows: its tilt and lens by a horizon and uprights,
    its place too by known places.
    """
    entries, index = hand.find(asked.shot)
    if entries is not hand.document["shots"]:
        raise SceneError(f"“{entries[index]['name']}” is no shot.", "shot", "Choose a shot.")
    shot = hand.scene.shots[index]
    horizon = asked.horizon if len(asked.horizon) == 2 else None
    whole = [line for line in asked.uprights if len(line) == 2]
    uprights = whole if len(whole) == 2 else None
    if asked.places:
        known = [Known(p.across, p.down, p.east, p.north, p.over) for p in asked.places]
        found = by_places(shot, known, hand.build().ground_at)
        shot, off = found.shot, f"; the marks miss by {100 * found.off:.1f} % of the width"
    elif horizon or uprights:
        shot, off = by_lines(hand.build().shots()[index], horizon, uprights), ""
    else:
        raise SceneError(
            "Nothing is marked on the picture yet.",
            "horizon",
            "Mark its horizon, two uprights, or three places or more.",
        )
    entries[index] = shot.model_dump(mode="json")
    told = f"{shot.name}: {shot.focal_mm:.0f} mm, tilt {shot.tilt:.1f}°{off}"
    return Done(hand.document, f"{shot.name}: matched", shot.id, told)
