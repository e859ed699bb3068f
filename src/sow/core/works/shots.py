"""Shots: the focus set on what is pointed at, the exposure by a meter."""

from ..errors import SceneError
from ..judge.shot_faults import metered
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
