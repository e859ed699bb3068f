"""What the page offers to add: complete first values for a new entry, suited to the plot.

An offer stands beside the kind that it makes, in that kind's own file.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

Values = dict[str, Any]


@dataclass(frozen=True)
class Context:
    """What first values may go by: the plot's sizes and the land's band (m), a seed, the document.

    `far` is true for the land beyond the plot, whose features are five times as large. `before`
    names the entries that a new one may go by: the earlier "ground" and "planting", the first
    "landform", the "own landform" of a mask.
    """

    width_m: float
    depth_m: float
    posts: int
    lowest: float = 0.0
    highest: float = 0.0
    seed: int = 1
    far: bool = False
    marks: Sequence[Any] = ()
    stage: str = "land"
    first_in_list: bool = True
    wet: bool = False
    before: dict[str, str] = field(default_factory=dict)

    @property
    def reach(self) -> float:
        """The plot's longer side in m; five times that beyond the plot."""
        return max(self.width_m, self.depth_m) * (5 if self.far else 1)

    @property
    def span(self) -> float:
        """Relief in m."""
        return self.highest - self.lowest

    @property
    def centre(self) -> Values:
        """The middle of the plot as the fields of an entry that has a place."""
        return {"east_m": round(self.width_m / 2), "north_m": round(self.depth_m / 2)}

    def nice(self, value: float) -> float:
        """Two significant digits, as a person would type it."""
        return float(f"{value:.2g}")

    def mark(self, kind: str) -> str:
        """The first mark of a kind ("line", "area", "mask"), or nothing."""
        return next((m.id for m in self.marks if m.kind == kind), "")


@dataclass(frozen=True)
class Offer:
    """One line of a menu, and what choosing it makes.

    `group` is the heading that it stands under; `lists` are the lists of a scene that offer it
    ("land", "far", "water"); `name` is the new entry's own name where it is not the label.
    """

    key: str
    label: str
    note: str = ""
    first: Callable[[Context], Values] = lambda context: {}
    name: str = ""
    group: str = ""
    lists: tuple[str, ...] = ("land", "far")
    kind: str = ""

    def of(self, kind: str) -> "Offer":
        """This offer, made by a kind."""
        return replace(self, kind=kind)

    def values(self, context: Context) -> Values:
        """First values of the new entry, without its id."""
        own = {"kind": self.kind} if self.kind else {}
        return {"name": self.name or self.label, "on": True, **own, **self.first(context)}
