"""What a condition sees of a scene."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..marks.shapes import depth, near, way
from ..plot import Grid, Plot
from ..shots.shot import Shot
from ..survey.sheets import sheets
from .base import Absent


def _unknown(*asked: Any) -> Any:
    """What a bare site says of what only a scene knows."""
    raise Absent("Only a scene knows this.", "", "Ask a site of a build.")


@dataclass
class Site:
    """What a condition sees: heights (m) on their grid, the plot, the maps that processes left (m),
    and, later on, water.

    `mark(condition, path)` gives a mask picture over this grid, `cover(landform, path)` where one
    landform shows, `drawn` a line or area, `shares(material, path)` the share of an earlier
    material, `plants(sowing, path)` the places (n, 2) of an earlier sowing's plants, `pieces` the
    places of pieces by id, `shots` those that are on, by id. `whole` gives the site
    of the plot's view grid where this one is another: what holds for the whole plot, as a target of
    cover, is found there. `carried(place)` is what was answered over the whole plot to the
    condition at a place of the document, where this site is a part of it that cannot tell.
    """

    heights: np.ndarray
    grid: Grid
    plot: Plot
    stage: str = "land"
    water_m: np.ndarray | None = None  # level of water over each post, NaN where dry for good
    mark: Callable[[Any, str], np.ndarray] = _unknown
    maps: dict[str, np.ndarray] = field(default_factory=dict)
    cover: Callable[[str, str], np.ndarray] = _unknown
    drawn: Callable[[str, str, str], Any] = _unknown
    shares: Callable[[str, str], np.ndarray] = _unknown
    plants: Callable[[str, str], np.ndarray] = _unknown
    pieces: dict[str, tuple[float, float]] = field(default_factory=dict)
    shots: dict[str, Shot] = field(default_factory=dict)
    whole: Callable[[], "Site"] | None = None
    carried: Callable[[str], np.ndarray | None] = lambda place: None
    _kept: dict = field(default_factory=dict)

    def measure(self, name: str, make: Callable[[], Any]) -> Any:
        """A survey field, computed once for this site."""
        if name not in self._kept:
            self._kept[name] = make()
        return self._kept[name]

    def near(self, mark_id: str, reach_m: float, path: str) -> np.ndarray:
        """Distance to a line, or to an area's edge, in m, float32; 1e9 beyond the reach."""
        return near(way(self.drawn(mark_id, "line", path), path), self.grid, reach_m)[0]

    def inside(self, mark_id: str, reach_m: float, path: str) -> np.ndarray:
        """Metres inside an area, below 0 outside, as far as the reach."""
        return depth(self.drawn(mark_id, "area", path), self.grid, reach_m, path)

    def sheet(self, kind: str, **asked: Any) -> np.ndarray:
        """A sheet of the survey over this site, float32 (ny, nx)."""
        return self.measure(
            f"{kind} {sorted(asked.items())}", lambda: sheets[kind].make(self, **asked)
        )
