"""Pieces placed by hand: one placed, copied, in a row, a ring or an array, and several together."""

import math
from typing import Literal

from pydantic import Field

from ..cabinet import kind_of
from ..cabinet.family import families
from ..errors import SceneError
from ..hashing import name_seed
from .base import Asked, Done, Hand, work

MOST = 200  # pieces that one order makes


class Stand(Asked):
    """`facing` is the bearing that the eye looks along, for those that turn their face to it."""

    kind: str
    east: float
    north: float
    facing: float = 0


class CopiesOfPiece(Asked):
    """`count` counts the piece itself; `rows` is for an array."""

    piece: str
    how: Literal["beside", "row", "ring", "array"]
    count: int = Field(5, ge=2, le=MOST)
    rows: int = Field(2, ge=1, le=MOST)
    step_m: float = Field(2, gt=0, le=10000)
    radius_m: float = Field(6, gt=0, le=10000)


class Together(Asked):
    """What happens to several pieces; moved, turned about their middle, sized and sunk by these
    amounts.
    """

    pieces: list[str] = Field(min_length=1, max_length=2000)
    how: Literal["move", "scatter", "ground", "copy", "mirror", "remove", "group", "kind"]
    east_m: float = 0
    north_m: float = 0
    turn: float = 0
    size: float = Field(100, gt=0, le=10000)
    sink_cm: float = 0
    value: str = Field("", max_length=120)


def _turned(value: float) -> float:
    return round(value % 360, 2)


def _chance(*parts: object) -> float:
    """A number 0..1 from names, the same each time."""
    return name_seed(*parts) / 0x80000000


@work("stand a piece", Stand)
def stand(hand: Hand, asked: Stand) -> Done:
    """One piece of a kind at a place: what lies loose is turned at random, others face the eye."""
    kind = kind_of(asked.kind)
    family = families[kind.family]
    person = asked.kind == "person"
    new = hand.fresh_id("figure")
    turn = _chance(new, asked.east) * 360 if family.loose else asked.facing + (20 if person else 0)
    name = "Person" if person else kind.label
    hand.document["pieces"].append(
        {
            "id": new,
            "name": name,
            "kind": asked.kind,
            "east_m": round(asked.east, 2),
            "north_m": round(asked.north, 2),
            "turn": _turned(turn),
            "sink_cm": family.sink_cm(kind.height_m),
            "blend_cm": family.blend_cm(kind.height_m),
            "variant": name_seed(new) % len(kind.variants) if family.loose else 0,
        }
    )
    return Done(hand.document, "Person for scale" if person else f"{name} placed", new)


def _places(asked: CopiesOfPiece, piece: dict, wide: float) -> list[tuple[float, float, float]]:
    """East, north and turn of each copy; the piece itself is left out."""
    a = math.radians(piece["turn"])
    east, north = piece["east_m"], piece["north_m"]
    right = (math.cos(a), -math.sin(a))
    ahead = (math.sin(a), math.cos(a))
    if asked.how == "beside":
        turn = _chance(piece["id"], len(piece["name"]), east) * 360
        return [(east + wide * right[0], north + wide * right[1], turn)]
    if asked.how == "ring":
        number = max(3, min(MOST, round(2 * math.pi * asked.radius_m / asked.step_m)))
        middle = (east + asked.radius_m * ahead[0], north + asked.radius_m * ahead[1])
        angles = [a + math.pi + (k + 1) * 2 * math.pi / number for k in range(number - 2)]
        return [
            (
                middle[0] + asked.radius_m * math.sin(t),
                middle[1] + asked.radius_m * math.cos(t),
                math.degrees(t) - 180,
            )
            for t in angles
        ]
    rows = asked.rows if asked.how == "array" else 1
    return [
        (
            east + asked.step_m * (k * right[0] + r * ahead[0]),
            north + asked.step_m * (k * right[1] + r * ahead[1]),
            piece["turn"],
        )
        for r in range(rows)
        for k in range(asked.count)
        if r or k
    ][: MOST - 1]


@work("copy a piece", CopiesOfPiece)
def copies(hand: Hand, asked: CopiesOfPiece) -> Done:
    """Copies of a piece beside it, in a row to its right, in a ring that begins with it, or in an
    array of rows.
    """
    pieces, index = hand.find(asked.piece)
    piece = pieces[index]
    if pieces is not hand.document["pieces"]:
        raise SceneError(f"“{piece['name']}” is no piece.", "piece", "Choose one.")
    kind = kind_of(piece["kind"])
    wide = 2 * kind.reach_m * piece["size"] * piece["wide"] / 1e4
    for k, (east, north, turn) in enumerate(_places(asked, piece, wide)):
        pieces.append(
            {
                **piece,
                "id": hand.fresh_id("piece"),
                "name": f"{piece['name'][:70]} {k + 2}",
                "east_m": round(east, 3),
                "north_m": round(north, 3),
                "turn": _turned(turn),
                "variant": (piece["variant"] + k + 1) % max(1, len(kind.variants)),
            }
        )
    word = {"beside": "copied"}.get(asked.how, asked.how)
    return Done(hand.document, f"{piece['name']}: {word}", piece["id"])


@work("pieces together", Together)
def together(hand: Hand, asked: Together) -> Done:
    """Several pieces at once: moved, turned at random, dropped to the ground, copied, mirrored
    beside, removed, put into a group, or made another kind.
    """
    chosen = set(asked.pieces)
    mine = [p for p in hand.document["pieces"] if p["id"] in chosen]
    if not mine:
        raise SceneError("These pieces are gone.", "pieces", "Choose others.")
    label = _TOGETHER[asked.how](hand, asked, mine)
    several = [] if asked.how == "remove" else [p["id"] for p in mine]
    return Done(hand.document, f"{len(mine)} pieces: {label}", None, "", several)


def _middle(mine: list[dict]) -> tuple[float, float]:
    return sum(p["east_m"] for p in mine) / len(mine), sum(p["north_m"] for p in mine) / len(mine)


def _move(hand: Hand, asked: Together, mine: list[dict]) -> str:
    east, north = _middle(mine)
    a = math.radians(asked.turn)
    for p in mine:
        x, y = p["east_m"] - east, p["north_m"] - north
        p["east_m"] = round(east + x * math.cos(a) + y * math.sin(a) + asked.east_m, 3)
        p["north_m"] = round(north - x * math.sin(a) + y * math.cos(a) + asked.north_m, 3)
        p["turn"] = _turned(p["turn"] + asked.turn)
        p["size"] = min(5000, max(1, round(p["size"] * asked.size / 100, 2)))
        p["sink_cm"] = round(p["sink_cm"] + asked.sink_cm, 3)
    return "moved"


def _scatter(hand: Hand, asked: Together, mine: list[dict]) -> str:
    for p in mine:
        p["turn"] = round(_chance(p["id"], p["turn"]) * 360, 1)
    return "turned at random"


def _ground(hand: Hand, asked: Together, mine: list[dict]) -> str:
    for p in mine:
        p["stands"] = "ground"
        p["sink_cm"] = max(0, p["sink_cm"])
    return "on the ground"


def _again(hand: Hand, asked: Together, mine: list[dict]) -> str:
    """Copied to the east by their own width, or mirrored about a line there."""
    east, _ = _middle(mine)
    wide = max(2, *(abs(p["east_m"] - east) * 2 for p in mine)) + 2
    mirror = asked.how == "mirror"
    for p in mine:
        hand.document["pieces"].append(
            {
                **p,
                "id": hand.fresh_id("piece"),
                "name": f"{p['name'][:70]} 2",
                "east_m": round(
                    2 * (east + wide / 2) - p["east_m"] if mirror else p["east_m"] + wide, 3
                ),
                "mirrored": not p["mirrored"] if mirror else p["mirrored"],
                "turn": _turned(-p["turn"]) if mirror else p["turn"],
            }
        )
    return "mirrored" if mirror else "copied"


def _remove(hand: Hand, asked: Together, mine: list[dict]) -> str:
    gone = {p["id"] for p in mine}
    hand.document["pieces"] = [p for p in hand.document["pieces"] if p["id"] not in gone]
    return "removed"


def _group(hand: Hand, asked: Together, mine: list[dict]) -> str:
    group = asked.value.strip()[:40]
    for p in mine:
        p["group"] = group
    return f"in “{group}”" if group else "in no group"


def _kind(hand: Hand, asked: Together, mine: list[dict]) -> str:
    for p in mine:
        p["kind"] = asked.value
    return f"{asked.value} instead"


_TOGETHER = {
    "move": _move,
    "scatter": _scatter,
    "ground": _ground,
    "copy": _again,
    "mirror": _again,
    "remove": _remove,
    "group": _group,
    "kind": _kind,
}
