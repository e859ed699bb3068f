"""Walls and paved ways: solids laid along a line, or round an area's edge."""

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..build import Build
from ..cabinet.solids import SLAB_M
from ..errors import SceneError
from ..marks.shapes import way
from .base import Asked, Done, Hand, work

MOST = 600  # pieces that one line makes
STEEPEST_FALL = 0.35  # of a wall's height that the ground may fall along one stretch of it
SHORTEST_M = 0.25
BEDDED = 0.6  # of a slab's thickness that lies in the ground


class SolidsAlong(Asked):
    """A wall stands so high above the highest ground along each stretch of it, and is so thick; a
    way of slabs is so broad, each so long, with joints. A wall leaves openings where it is told to:
    a middle and a width in m along the line.
    """

    mark: str
    what: Literal["wall", "slabs"]
    tall_m: float = Field(1.5, gt=0, le=100)
    thick_m: float = Field(0.4, gt=0, le=50)
    stretch_m: float = Field(4.0, ge=SHORTEST_M, le=100)
    coping_cm: float = Field(0, ge=0, le=200)
    joint_cm: float = Field(2, ge=0, le=500)
    openings: list[tuple[float, float]] = Field(default_factory=list, max_length=100)
    tint: str = Field("#ffffff", pattern=r"^#[0-9a-fA-F]{6}$")


class _Run:
    """A way in m: places along it."""

    def __init__(self, points: np.ndarray):
        self.points = points
        steps = np.hypot(*np.diff(points, axis=0).T)
        self.at_m = np.concatenate([[0.0], np.cumsum(steps)])

    @property
    def long_m(self) -> float:
        return float(self.at_m[-1])

    def at(self, m: np.ndarray) -> np.ndarray:
        """Places (n, 2) so many metres along."""
        return np.stack([np.interp(m, self.at_m, self.points[:, k]) for k in (0, 1)], 1)

    def corners(self) -> list[float]:
        """Where it turns, in m along it, its ends among them."""
        ways = np.diff(self.points, axis=0)
        ways /= np.maximum(np.hypot(*ways.T), 1e-9)[:, None]
        turns = np.flatnonzero((ways[1:] * ways[:-1]).sum(1) < 0.9995) + 1
        return [0.0, *self.at_m[turns].tolist(), self.long_m]


@work("build along a line", SolidsAlong)
def along(hand: Hand, asked: SolidsAlong) -> Done:
    """A wall of blocks that steps with the land, or a way of slabs, along a line or an area's edge.
    The pieces are one group.
    """
    mark = next((m for m in hand.scene.marks if m.id == asked.mark), None)
    if mark is None or mark.kind not in ("line", "area"):
        raise SceneError("There is no such line or area.", "mark", "Choose or draw one.")
    run = _Run(way(mark, "mark"))
    if run.long_m < SHORTEST_M:
        raise SceneError(
            f"“{mark.name}” is only {run.long_m:.2f} m long.", "mark", "Draw it longer."
        )
    build = hand.build(full=True)
    make = _wall if asked.what == "wall" else _slabs
    pieces = make(build, run, asked)
    if len(pieces) > MOST:
        raise SceneError(
            f"That would be {len(pieces)} pieces; one line may have {MOST}.",
            "stretch_m",
            "Give longer stretches or slabs, or split the line.",
        )
    word = "a wall" if asked.what == "wall" else "slabs"
    for k, piece in enumerate(pieces):
        hand.document["pieces"].append(
            {
                "id": hand.fresh_id("piece"),
                "name": f"{mark.name[:60]}, {asked.what} {k + 1}",
                "group": mark.name[:40],
                "tint": asked.tint,
                **piece,
            }
        )
    last = hand.document["pieces"][-1]["id"] if pieces else None
    return Done(hand.document, f"{mark.name}: {word} along it", last)


def _spans(run: _Run, asked: SolidsAlong) -> list[tuple[float, float]]:
    """Parts of the way between its corners and openings, each cut to the length that is wanted."""
    cuts = run.corners()
    gaps = [(m - w / 2, m + w / 2) for m, w in asked.openings]
    cuts = sorted({*cuts, *(float(np.clip(v, 0, run.long_m)) for g in gaps for v in g)})
    out = []
    for low, high in zip(cuts, cuts[1:]):
        middle = (low + high) / 2
        if high - low < 1e-3 or any(a < middle < b for a, b in gaps):
            continue
        count = max(1, int(np.ceil((high - low) / asked.stretch_m - 1e-6)))
        edges = np.linspace(low, high, count + 1)
        out += list(zip(edges[:-1].tolist(), edges[1:].tolist()))
    return out


def _ground(build: Build, places: np.ndarray) -> np.ndarray:
    return np.array([build.ground_at(float(e), float(n)) for e, n in places])


def _sizes(wide: float, deep: float, tall: float) -> dict[str, float]:
    return {
        "wide": round(100 * wide, 3),
        "deep": round(100 * deep, 3),
        "tall": round(100 * tall, 3),
    }


def _placed(a: np.ndarray, b: np.ndarray) -> dict[str, Any]:
    """Where a solid lies whose width runs from one place to another."""
    middle, ahead = (a + b) / 2, b - a
    return {
        "east_m": round(float(middle[0]), 4),
        "north_m": round(float(middle[1]), 4),
        "turn": round(float(np.degrees(np.arctan2(-ahead[1], ahead[0])) % 360), 4),
    }


def _stepped(build: Build, run: _Run, low: float, high: float, asked: SolidsAlong) -> list:
    """A span, halved until the ground falls little along each part."""
    ground = _ground(build, run.at(np.linspace(low, high, 7)))
    steep = float(np.ptp(ground)) > STEEPEST_FALL * asked.tall_m
    if steep and high - low > max(2 * SHORTEST_M, asked.thick_m):
        middle = (low + high) / 2
        parts = ((low, middle), (middle, high))
        return [s for part in parts for s in _stepped(build, run, *part, asked)]
    return [(low, high)]


def _wall(build: Build, run: _Run, asked: SolidsAlong) -> list[dict[str, Any]]:
    out = []
    spans = [s for span in _spans(run, asked) for s in _stepped(build, run, *span, asked)]
    for low, high in spans:
        a, b = run.at(np.array([low, high]))
        ground = _ground(build, run.at(np.linspace(low, high, 7)))
        tall = float(np.ptp(ground)) + asked.tall_m
        middle = float(_ground(build, (a + b)[None] / 2)[0])
        sink = 100 * (middle - float(ground.min()))
        place = _placed(a, b)
        # blocks run into each other where the way turns
        long = float(np.hypot(*(b - a))) + min(asked.thick_m, 0.5 * (high - low))
        body = {"kind": "block", **place, **_sizes(long, asked.thick_m, tall)}
        out.append({**body, "sink_cm": round(sink, 2)})
        if asked.coping_cm:
            cap = _sizes(long + 0.1, asked.thick_m + 0.1, asked.coping_cm / 100 / SLAB_M)
            lies = {"stands": "piece", "sink_cm": round(-asked.coping_cm / 2, 2)}
            out.append({"kind": "slab", **place, **cap, **lies})
    return out


def _slabs(build: Build, run: _Run, asked: SolidsAlong) -> list[dict[str, Any]]:
    out = []
    thick = min(asked.tall_m, 0.12)
    for low, high in _spans(run, asked):
        joint = min(asked.joint_cm / 100, 0.5 * (high - low)) / 2
        a, b = run.at(np.array([low + joint, high - joint]))
        rise = float(np.diff(_ground(build, np.stack([a, b])))[0])
        ahead = (b - a) / max(float(np.hypot(*(b - a))), 1e-9)
        lean = np.degrees(np.arctan2(abs(rise), float(np.hypot(*(b - a)))))
        down = -ahead if rise > 0 else ahead
        out.append(
            {
                "kind": "slab",
                **_placed(a, b),
                **_sizes(float(np.hypot(*(b - a))), asked.thick_m, thick / SLAB_M),
                "lean": round(float(lean), 3),
                "bearing": round(float(np.degrees(np.arctan2(*down)) % 360), 3),
                "sink_cm": round(100 * thick * (BEDDED - 0.5), 2),
            }
        )
    return out
