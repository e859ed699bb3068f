"""Work on the whole of a line or an area's edge."""

from typing import Literal

from pydantic import Field

from ..errors import SceneError
from ..marks import geometry
from ..survey.isoline import isoline_at
from .base import Asked, Done, Hand, work

HOW = Literal[
    "reverse", "simplify", "split", "left", "right", "close", "open", "join", "stretch", "carry"
]


class Reshape(Asked):
    """`amount_m` is an offset or a tolerance; `other` a line to join with; `start` and `end` the
    stretch in per cent of the length; `ground` the material to lay along it.
    """

    mark: str
    how: HOW
    amount_m: float = Field(0, ge=0, le=200000)
    other: str = ""
    start: float = Field(0, ge=0, le=100)
    end: float = Field(100, ge=0, le=100)
    ground: str = "gravel"


class ContourAt(Asked):
    """A place east and north in m."""

    east: float
    north: float


def _line(hand: Hand, mark_id: str) -> tuple[list, int, dict]:
    entries, index = hand.find(mark_id)
    mark = entries[index]
    if mark.get("kind") not in ("line", "area"):
        raise SceneError(f"“{mark['name']}” is no line or area.", "mark", "Choose one of those.")
    return entries, index, mark


def _beside(hand: Hand, name: str, points: geometry.Points, label: str) -> Done:
    """Another line of the marks, of these points."""
    new = hand.fresh_id("line")
    hand.document["marks"].append(
        {"id": new, "name": name[:80], "kind": "line", "points": geometry.rounded(points)}
    )
    return Done(hand.document, label, new)


@work("reshape line", Reshape)
def reshape(hand: Hand, asked: Reshape) -> Done:
    """Turns a line round, simplifies, splits, joins, closes or opens it, copies it to one side or a
    stretch of it, or lays a material along it.
    """
    _line(hand, asked.mark)
    return _HOW[asked.how](hand, asked)


def _reverse(hand: Hand, asked: Reshape) -> Done:
    _, _, mark = _line(hand, asked.mark)
    mark["points"] = mark["points"][::-1]
    return Done(hand.document, f"{mark['name']}: turned round", mark["id"])


def _simplify(hand: Hand, asked: Reshape) -> Done:
    _, _, mark = _line(hand, asked.mark)
    tolerance = asked.amount_m or hand.reach * 0.004
    mark["points"] = geometry.simplified(mark["points"], tolerance)
    return Done(hand.document, f"{mark['name']}: simplified", mark["id"])


def _close(hand: Hand, asked: Reshape) -> Done:
    _, _, mark = _line(hand, asked.mark)
    if len(mark["points"]) < 3:
        return Done(hand.document, "", mark["id"], "An area needs three points.")
    mark["kind"] = "area"
    return Done(hand.document, f"{mark['name']}: closed to an area", mark["id"])


def _open(hand: Hand, asked: Reshape) -> Done:
    _, _, mark = _line(hand, asked.mark)
    mark["kind"] = "line"
    return Done(hand.document, f"{mark['name']}: opened to a line", mark["id"])


def _split(hand: Hand, asked: Reshape) -> Done:
    marks, index, mark = _line(hand, asked.mark)
    points = mark["points"]
    if len(points) < 3 or mark["kind"] == "area":
        return Done(hand.document, "", mark["id"], "Only a line of three points or more is split.")
    middle = len(points) // 2
    second = {
        **mark,
        "id": hand.fresh_id("line"),
        "name": f"{mark['name'][:70]} 2",
        "points": points[middle:],
    }
    mark["points"] = points[: middle + 1]
    marks.insert(index + 1, second)
    return Done(hand.document, f"{mark['name']}: split", mark["id"])


def _join(hand: Hand, asked: Reshape) -> Done:
    marks, _, mark = _line(hand, asked.mark)
    _, other_index, other = _line(hand, asked.other)
    if "area" in (mark["kind"], other["kind"]) or other is mark:
        return Done(hand.document, "", mark["id"], "Two lines are joined, not areas.")
    mark["points"] = geometry.joined(mark["points"], other["points"], hand.reach * 1e-5)
    del marks[other_index]
    return Done(hand.document, f"{mark['name']}: joined with {other['name']}", mark["id"])


def _stretch(hand: Hand, asked: Reshape) -> Done:
    _, _, mark = _line(hand, asked.mark)
    low, high = sorted((asked.start, asked.end))
    if high - low < 0.1:
        return Done(hand.document, "", mark["id"], "The stretch has no length.")
    part = geometry.stretch(mark["points"], low / 100, high / 100)
    label = f"{mark['name']}: a stretch of it"
    return _beside(hand, f"{mark['name'][:60]}, stretch", part, label)


def _aside(hand: Hand, asked: Reshape) -> Done:
    _, _, mark = _line(hand, asked.mark)
    off = (asked.amount_m or hand.reach * 0.01) * (1 if asked.how == "right" else -1)
    points = geometry.offset(mark["points"], off)
    label = f"{mark['name']}: a line beside it"
    return _beside(hand, f"{mark['name'][:66]} beside", points, label)


def _carry(hand: Hand, asked: Reshape) -> Done:
    """A material along the line or in the area; on a path it takes the way's own width."""
    _, _, mark = _line(hand, asked.mark)
    rule = {"kind": "in-area", "mark": mark["id"], "soft": 2}
    if mark["kind"] == "line":
        ways = [
            e["width_m"]
            for e in hand.document["land"]
            if e.get("mark") == mark["id"] and "width_m" in e
        ]
        within = ways[0] / 2 if ways else max(1, mark["clear_m"])
        rule = {"kind": "near-line", "mark": mark["id"], "within_m": within, "soft": 1}
    new = hand.fresh_id("material")
    hand.document["ground"].append(
        {
            "id": new,
            "name": mark["name"],
            "ground": asked.ground,
            "edge": 80,
            "broken_m": 3,
            "where": [rule],
        }
    )
    return Done(hand.document, f"{mark['name']}: {asked.ground} laid", new)


_HOW = {
    "reverse": _reverse,
    "simplify": _simplify,
    "close": _close,
    "open": _open,
    "split": _split,
    "join": _join,
    "stretch": _stretch,
    "left": _aside,
    "right": _aside,
    "carry": _carry,
}


@work("contour as a line", ContourAt)
def contour(hand: Hand, asked: ContourAt) -> Done:
    """The contour of the finished land through a place becomes a line of the marks."""
    build = hand.build()
    level, points = isoline_at(build.heights, build.grid, asked.east, asked.north)
    name = f"Contour {level:.1f} m"
    return _beside(hand, name, points.tolist(), f"Contour of {level:.1f} m as a line")
