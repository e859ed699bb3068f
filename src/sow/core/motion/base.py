"""What all moves share: when they act, at which pace, and the moment that they act on."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..air.light import Light
from ..document.entry import Entry, Register
from ..document.fields import for_shot, setting, shown
from ..errors import SceneError
from ..marks.shapes import way
from ..shots.shot import Shot

moves = Register("move")
MOST_S = 3600.0


class Move(Entry):
    """A move acts from `starts_s` on for `lasts_s` (s of the picture) and leaves what it has done.

    It takes what is there when it begins, so that moves of one sort follow one another as keys do.
    """

    kind: str = ""
    shot: str = for_shot()
    starts_s: float = setting(0, "Starts", "s", lo=0, hi=MOST_S, slider=(0, 30), step=0.1)
    lasts_s: float = setting(5, "Lasts", "s", lo=0, hi=MOST_S, slider=(0, 30), step=0.1)
    pace: Literal["softly", "evenly", "soft start", "soft end"] = Field("softly", title="Pace")

    @property
    def ends_s(self) -> float:
        """When it is over, in s of the picture."""
        return self.starts_s + self.lasts_s

    def share(self, at_s: float) -> float:
        """How much of it is done at a time, 0..1, by its pace."""
        t = (at_s - self.starts_s) / self.lasts_s if self.lasts_s > 0 else 1.0
        t = min(max(t, 0.0), 1.0)
        if self.pace == "softly":
            return t * t * (3 - 2 * t)
        if self.pace == "soft start":
            return t * t
        return t * (2 - t) if self.pace == "soft end" else t


@dataclass(frozen=True)
class StanceAt:
    """Where a piece stands at a moment: place and height in m, turn in degrees."""

    east_m: float
    north_m: float
    up_m: float
    turn: float


@dataclass
class Moment:
    """A scene at a time `at_s`: its light, the shot that it is seen from, pieces that are elsewhere
    by id, seconds for which waves have run and wind has blown, and how strongly it blows, 0..1.
    """

    at_s: float
    light: Light
    shot: Shot
    pieces: dict[str, StanceAt] = field(default_factory=dict)
    waves_s: float = 0.0
    blown_s: float = 0.0
    wind: float = 0.0


@dataclass(frozen=True)
class OverTime:
    """What moves ask of a scene: the height of ground and of water or ground at a place in m, its
    marks, shots and pieces.
    """

    ground: Callable[[float, float], float]
    surface: Callable[[float, float], float]
    marks: Sequence[Any]
    shots: Sequence[Shot]
    pieces: Sequence[Any]

    def line(self, name: str, what: str) -> np.ndarray:
        """Points of a line by its id, float64 (n, 2). Raises SceneError."""
        mark = next((m for m in self.marks if m.id == name and m.kind != "mask"), None)
        if mark is None:
            raise SceneError(
                f"“{what}” follows no line.", "moves", "Draw one on the map and choose it."
            )
        return way(mark, "moves")

    def shot(self, name: str, what: str) -> Shot:
        """A shot by its id. Raises SceneError."""
        found = next((s for s in self.shots if s.id == name), None)
        if found is None:
            raise SceneError(f"“{what}” goes to no shot.", "moves", "Choose a shot for it.")
        return found


class AlongLine(Move):
    """A move along a line, at a height over the ground, or over water where there is any."""

    line: str = Field(
        "",
        max_length=64,
        title="Along",
        json_schema_extra=shown(mark="line"),
    )
    over: Literal["ground", "surface"] = Field(
        "ground",
        title="Height over",
        json_schema_extra=shown(labels={"ground": "the ground", "surface": "ground or water"}),
    )
    back: bool = Field(False, title="From its end", json_schema_extra=shown(fold="More"))

    def way(self, over: OverTime) -> np.ndarray:
        """The points that it follows, float64 (n, 2). Raises SceneError."""
        points = over.line(self.line, self.name)
        return points[::-1] if self.back else points

    def below(self, over: OverTime) -> Callable[[float, float], float]:
        """Height in m of what it goes over, at a place."""
        return over.ground if self.over == "ground" else over.surface


def along(points: np.ndarray, share: float) -> tuple[np.ndarray, float]:
    """The place at a share of a way's length, and the bearing in degrees of the way there."""
    steps = np.hypot(*np.diff(points, axis=0).T)
    ends = np.concatenate([[0.0], np.cumsum(steps)])
    at = share * ends[-1]
    k = int(np.clip(np.searchsorted(ends, at, side="right") - 1, 0, len(steps) - 1))
    place = points[k] + (points[k + 1] - points[k]) * (at - ends[k]) / max(steps[k], 1e-9)
    # the way a little before and after, so that corners are turned and not jumped
    reach = min(0.02 * ends[-1], 2.0)
    east = np.interp([at - reach, at + reach], ends, points[:, 0])
    north = np.interp([at - reach, at + reach], ends, points[:, 1])
    bearing = float(np.degrees(np.arctan2(np.diff(east)[0], np.diff(north)[0])) % 360)
    return place, bearing


def between(a: float, b: float, share: float) -> float:
    """A number between two."""
    return a + (b - a) * share


def turned(a: float, b: float, share: float) -> float:
    """A bearing between two in degrees, by the shorter way round."""
    return (a + ((b - a + 180) % 360 - 180) * share) % 360


def by_ratio(a: float, b: float, share: float) -> float:
    """A length between two, by equal ratios."""
    return float(np.exp(between(np.log(max(a, 1e-6)), np.log(max(b, 1e-6)), share)))
