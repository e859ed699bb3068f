"""Process: the land bent so that its shore follows a drawn line."""

from typing import Literal

import numpy as np
from pydantic import Field

from ..document.entry import at_place
from ..document.fields import length_m, setting
from ..document.offers import Offer
from ..errors import SceneError
from ..marks.shapes import inside, near, way
from ..where import ramp
from .base import Below, processes
from .line import Along, profile


class ShoreLine(Along):
    kind: Literal["shore-line"] = "shore-line"
    level_m: float = setting(
        0, "Water level", "m", lo=-12000, hi=12000, slider=("lowest", "highest"), step=0.1
    )
    reach_m: float = length_m(
        "Reach", 40, lo=0.1, slider=(2, 400), help="To either hand, over which the land is bent."
    )
    beach: float = setting(
        3,
        "Beach",
        "°",
        lo=0,
        hi=60,
        slider=(0, 30),
        help="Slope of the ground where it meets the water.",
    )
    beach_m: float = setting(
        6, "Beach width", "m", lo=0, hi=5000, slider=(0, 60), help="To either hand."
    )
    water: Literal["left", "right"] = Field(
        "left",
        title="Water lies",
        json_schema_extra={
            "sow": {"labels": {"left": "left of the line", "right": "right of the line"}}
        },
        description="Looking along the line. An area holds its water within.",
    )


@processes.add(
    ShoreLine,
    reach=at_place,
    offers=[
        Offer(
            "shore-line",
            "Shore along a line",
            "bends the land to the water",
            first=lambda c: {
                "mark": c.mark("area") or c.mark("line"),
                "level_m": round(c.lowest + c.span * 0.12, 1),
            },
            name="Shore line",
            group="Along a line",
            lists=("land",),
        )
    ],
    subtitle="at {level_m} m",
)
def rework(p: ShoreLine, below: Below) -> np.ndarray:
    """The land is shifted by what it lacks to the level at the nearest place of the line, fading
    over the reach; within the beach it is drawn to a ramp through the level, and beyond it no
    ground on the water's side stands above the level nor on the land's side below it.
    """
    mark = below.drawn(p.mark)
    if mark is None:
        raise SceneError(
            "No line is chosen." if not p.mark else f"There is no line '{p.mark}'.",
            f"{below.path}.mark",
            "Draw a line under Marks, then choose it here.",
        )
    points = way(mark, f"{below.path}.mark")
    away, along, side = near(points, below.grid, p.reach_m)
    if mark.kind == "area":
        wet = np.where(inside(points, below.grid), np.float32(1), np.float32(-1))
    else:
        wet = side if p.water == "right" else -side
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    fine = np.linspace(
        0, length[-1], max(8, min(20000, int(length[-1] / (below.plot.support_m / 4)) + 1))
    )
    on_line = np.stack(
        [np.interp(fine, length, points[:, 0]), np.interp(fine, length, points[:, 1])], 1
    )
    lacks = np.interp(along, fine, p.level_m - profile(on_line, below)).astype(np.float32)
    hold = ramp(
        1 - 2 * np.clip(away / np.float32(p.reach_m), 0, 1)
    )  # 1 on the line, 0 at the reach
    level, signed = np.float32(p.level_m), -wet * away  # metres landward
    bent = below.heights + hold * lacks
    floor = np.float32(np.tan(np.deg2rad(max(p.beach, 0.5)))) * np.minimum(
        away, np.float32(max(p.beach_m, below.grid.spacing))
    )
    kept = np.where(
        signed >= 0, np.maximum(bent, level + floor), np.minimum(bent, level - floor)
    )  # land stays land and water water
    beach = level + np.float32(np.tan(np.deg2rad(p.beach))) * signed
    near_line = ramp(1 - 2 * np.clip(away / np.float32(max(p.beach_m, below.grid.spacing)), 0, 1))
    made = kept + near_line * (beach - kept)
    # what keeps land above the level is given up towards the reach, where the land is as it was
    return np.where(
        away < 1e8,
        below.heights
        + ramp(1 - 2 * np.clip((away / np.float32(p.reach_m) - np.float32(0.5)) * 2, 0, 1))
        * (made - below.heights),
        below.heights,
    ).astype(np.float32)
