"""What the processes along a line share."""

import numpy as np
from pydantic import Field

from ..errors import SceneError
from ..marks.shapes import way
from .base import Below, Process


class Along(Process):
    """A process along a line or the edge of an area, kept among the marks."""

    mark: str = Field("", max_length=64, title="Line", json_schema_extra={"sow": {"mark": "line"}})


def followed(p: Along, below: Below) -> np.ndarray:
    """The way of the process's mark, sampled about every half post, float64 (n, 2)."""
    mark = below.drawn(p.mark)
    if mark is None:
        raise SceneError(
            "No line is chosen." if not p.mark else f"There is no line '{p.mark}'.",
            f"{below.path}.mark",
            "Draw a line under Marks, then choose it here.",
        )
    points = way(mark, f"{below.path}.mark")
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    count = int(min(max(length[-1] / (below.plot.support_m / 4), 8), 20000)) + 1
    t = np.linspace(0, length[-1], count)
    return np.stack([np.interp(t, length, points[:, 0]), np.interp(t, length, points[:, 1])], 1)


def profile(points: np.ndarray, below: Below) -> np.ndarray:
    """Heights of the land below along the way, float64; where it leaves the plot the edge's height
    is held.
    """
    plot = below.plot
    inside = np.clip(points, 0, [plot.width_m, plot.depth_m])
    return below.at(inside[:, 0], inside[:, 1])
