"""What landforms and processes share."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal, Protocol

import numpy as np
from pydantic import Field

from ..document.entry import Entry, Register
from ..document.fields import percent, setting, shown
from ..errors import SceneError
from ..plot import Grid, Plot
from ..sample import heights_at
from ..survey.slope import slope
from ..where import Conditions, ramp

Combine = Literal["add", "subtract", "highest", "lowest", "mix", "replace"]
WORDS = {
    "add": "add",
    "subtract": "subtract",
    "highest": "highest of",
    "lowest": "lowest of",
    "mix": "mix by share",
    "replace": "replace",
}


@dataclass(frozen=True)
class Frame:
    """A rectangle that belongs to a landform: centre, size (m) and turn (degrees). A bound mask
    lies over it.
    """

    east_m: float
    north_m: float
    width_m: float
    depth_m: float
    turn: float = 0.0

    def local(self, grid: Grid) -> tuple[np.ndarray, np.ndarray]:
        """Metres across (to the right of its own north) and along (to its own north) from the
        centre, float32 (ny, nx).
        """
        a = np.deg2rad(self.turn)
        x = (grid.xs() - self.east_m)[None, :]
        y = (grid.ys() - self.north_m)[:, None]
        across = (x * np.cos(a)).astype(np.float32) - (y * np.sin(a)).astype(np.float32)
        along = (x * np.sin(a)).astype(np.float32) + (y * np.cos(a)).astype(np.float32)
        return across, along


class Landform(Entry):
    """An entry that adds shape: its function gives heights in m, which `combine` joins to the land
    below.
    """

    combine: Combine = Field("add", title="Combine", json_schema_extra=shown(labels=WORDS))
    share: float = percent(
        "Share", 50, help="Part of this landform when mixed.", only={"combine": ["mix"]}
    )
    join_m: float = setting(
        0,
        "Soft join",
        "m",
        lo=0,
        hi=5000,
        slider=(0, 100),
        only={"combine": ["highest", "lowest"]},
        help="Rounds the line where the two lands meet; 0 is a crease.",
    )
    group: str = Field("", max_length=40, title="Group")
    where: Conditions = Field(default_factory=list, title="Where")

    def frame(self, plot: Plot) -> Frame:
        """Where a mask bound to this landform lies: as it stands, the plot."""
        return Frame(plot.width_m / 2, plot.depth_m / 2, plot.width_m, plot.depth_m)


class Process(Entry):
    """An entry that reworks what lies below it."""

    group: str = Field("", max_length=40, title="Group")
    where: Conditions = Field(default_factory=list, title="Where")


@dataclass
class Shape:
    """What a landform's function gives: heights in m; `presence` 0..1, outside of which it leaves
    the land below as it is; `extent` 0..1, where it shows although it is defined everywhere.
    """

    heights: np.ndarray
    presence: np.ndarray | None = None
    extent: np.ndarray | None = None


@dataclass
class Step:
    """The land after an entry: heights (float32 m) and the maps that processes left so far (float32
    m), by name.

    `shows` is where this entry's own land shows and `takes` how much of all earlier land it hides
    (uint8, 255 = wholly); None is everywhere or nothing.
    """

    heights: np.ndarray
    maps: dict[str, np.ndarray] = field(default_factory=dict)
    shows: np.ndarray | None = None
    takes: np.ndarray | None = None


class WholeBelow(Protocol):
    """What is known of the whole land below an entry where only a part of it is at hand."""

    @property
    def band(self) -> tuple[float, float]:
        """Its lowest and highest place, m."""

    def at(self, east: np.ndarray, north: np.ndarray) -> np.ndarray:
        """Heights below at places (m), float64 (n,)."""

    def slope(self, grid: Grid, support_m: float) -> np.ndarray:
        """Slope below in degrees on a grid, float32 (ny, nx)."""


@dataclass
class Below:
    """What a land entry sees: the heights below it (float32 m), their grid, the plot and its
    rasters.

    `ask(where, path)` answers conditions over the land below; `picture(mark)` gives a mask picture
    as it is, 0..1; `drawn(mark)` a line or an area, or None. `once(name, make)` keeps what does not
    depend on the heights below, such as a heightmap made ready, for the next call. A process may
    add to `maps` what it moved. `around` knows the whole where the heights are those of a part.
    """

    heights: np.ndarray
    grid: Grid
    plot: Plot
    raster: Callable[[str], np.ndarray]
    path: str = ""
    check: Callable[[], None] = lambda: None
    once: Callable[[Any, Callable[[], Any]], Any] = lambda key, make: make()
    maps: dict[str, np.ndarray] = field(default_factory=dict)
    ask: Callable[[list, str], np.ndarray | None] = lambda where, path: None
    picture: Callable[[str], np.ndarray] | None = None
    drawn: Callable[[str], Any] = lambda mark: None
    around: "WholeBelow | None" = None

    def at(self, east: np.ndarray, north: np.ndarray) -> np.ndarray:
        """Heights below at places (m), float64 (n,), wherever in the plot they are."""
        if self.around is not None:
            return self.around.at(east, north)
        return heights_at(self.heights, self.grid, east, north).astype(np.float64)

    def slope(self) -> np.ndarray:
        """Slope below in degrees over the plot's support length, float32 (ny, nx). Where only a
        part of the land is at hand it is that of the whole on its coarse grid, which the support
        length spans four times.
        """
        if self.around is not None:
            return self.around.slope(self.grid, self.plot.support_m)
        return slope(self.heights, self.grid.spacing, self.plot.support_m)

    def leave(self, name: str, metres: np.ndarray) -> None:
        """Adds to the map `name` what this process lowered, laid or let fall."""
        self.maps[name] = (
            np.maximum(self.maps[name] + metres, 0)
            if name in self.maps
            else np.maximum(metres, 0).astype(np.float32)
        )

    def seed(self, own: int) -> int:
        """A landform's own seed joined with the plot's."""
        return (own + 7727 * self.plot.seed) & 0x7FFFFFFF

    def band(self) -> tuple[float, float]:
        """Lowest and highest of the land below."""
        if self.around is not None:
            return self.around.band
        return float(self.heights.min()), float(self.heights.max())


landforms = Register("landform")
processes = Register("process")


def _bytes(mask: np.ndarray | None) -> np.ndarray | None:
    return None if mask is None else np.rint(np.clip(mask, 0, 1) * 255).astype(np.uint8)


def _over(a: np.ndarray | None, b: np.ndarray | None) -> np.ndarray | None:
    return b if a is None else a if b is None else a * b


def join(below: Step, shape: Shape, entry: Landform, held: np.ndarray | None) -> Step:
    """The land below joined with a new shape, inside the mask `held` (None is everywhere)."""
    h = below.heights
    s = shape.heights
    combine = entry.combine
    presence = _over(shape.presence, held)
    if combine not in ("add", "subtract"):  # beyond its outline a form is not a plain at 0 m
        presence = _over(presence, shape.extent)
    takes, wins = None, None
    if combine in ("add", "subtract"):
        joined = h + s if combine == "add" else h - s
    elif combine in ("highest", "lowest"):
        up = np.float32(1 if combine == "highest" else -1)
        joined = np.maximum(h, s) if up > 0 else np.minimum(h, s)
        soft = np.float32(max(entry.join_m, 0))
        if soft > 0:  # quadratic join: the sum rises by a quarter of the join where both are level
            near = np.maximum(soft - np.abs(s - h), 0)
            joined = joined + up * near * near / (4 * soft)
        takes = wins = ramp((s - h) * up / max(soft, np.float32(0.1)))
    elif combine == "mix":
        joined = h + np.float32(entry.share / 100) * (s - h)
        takes = wins = np.full_like(h, entry.share / 100)
    else:
        joined = s
        takes = wins = np.ones_like(h)
    if presence is not None:
        joined = h + presence * (joined - h)
    shows = _over(wins, presence) if wins is not None else _over(presence, shape.extent)
    return Step(
        np.ascontiguousarray(joined, np.float32),
        below.maps,
        _bytes(shows),
        _bytes(_over(takes, presence) if takes is not None else None),
    )


def needs_land(below: Below) -> None:
    """Raises SceneError when a process has nothing to rework."""
    low, high = below.band()
    if low == high == 0.0:
        raise SceneError(
            "This process has no land under it.",
            below.path,
            "Move it below a landform in the key, or add a landform before it.",
        )
