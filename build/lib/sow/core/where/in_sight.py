"""Where: only what the shots see."""

from functools import partial
from typing import Literal

import numpy as np
from pydantic import Field

from ..document.fields import length_m, setting
from ..sample import heights_at
from ..shots.shot import Shot, aimed, beyond_frame, eye_over
from ..survey.sight import hidden_by
from .base import Absent, Condition, condition, ramp
from .site import Site


class InSight(Condition):
    kind: Literal["in-sight"] = "in-sight"
    shot: str = Field(
        "",
        max_length=64,
        title="Shot",
        json_schema_extra={"sow": {"entry": "shots", "none": "any shot"}},
    )
    soft: float = setting(
        2,
        "Softness",
        "m",
        lo=0,
        hi=1000,
        slider=(0, 30),
        help="Ground that lies this far below sight still counts in part: a tree on it would show.",
    )
    frame: Literal["its frame", "all around"] = Field("its frame", title="Sees")
    within_m: float = length_m(
        "Within", 200000, lo=0, hi=200000, slider=(5, 5000), help="Of the viewpoint."
    )


def _unseen(p: InSight, site: Site, shot: Shot) -> np.ndarray:
    heights, grid = site.heights, site.grid
    place = shot.east_m, shot.north_m, shot.eye_m
    below = site.measure(f"hidden from {place}", partial(hidden_by, heights, grid, *place))
    if p.frame == "all around":
        return below
    ground = lambda east, north: float(heights_at(heights, grid, [east], [north])[0])
    east, north = np.meshgrid(grid.xs(), grid.ys())
    eye = eye_over(shot, ground)
    return np.maximum(below, beyond_frame(aimed(shot, ground), eye, east, north, heights))


def hidden(p: InSight, site: Site, path: str) -> np.ndarray:
    """Metres by which the ground lies below the sight of the shot or outside its frame, or of the
    one that sees it best; 0 in sight.
    """
    if p.shot and p.shot not in site.shots:
        raise Absent(f"There is no shot '{p.shot}'.", f"{path}.shot", "Choose another.")
    eyes = [site.shots[p.shot]] if p.shot else list(site.shots.values())
    if not eyes:
        raise Absent("There is no shot.", f"{path}.shot", "Set one under Shots.")
    return np.minimum.reduce([_unseen(p, site, e) for e in eyes])


@condition(InSight, stage="water", label="in sight of the shots", sees=("shots",), measures=hidden)
def answer(p: InSight, site: Site, path: str) -> np.ndarray:
    """1 where the ground is seen from the shot's viewpoint, within its frame or whichever way it
    looks; fading with the metres by which it is hidden or outside.
    """
    out = 1 - np.clip(hidden(p, site, path) / np.float32(max(p.soft, 0.05)), 0, 1)
    if p.within_m < 200000:
        eyes = [site.shots[p.shot]] if p.shot else site.shots.values()
        x, y = site.grid.xs()[None, :], site.grid.ys()[:, None]
        out = out * ramp(
            (p.within_m - np.minimum.reduce([np.hypot(x - e.east_m, y - e.north_m) for e in eyes]))
            / max(0.05 * p.within_m, 1e-3)
        )
    return out.astype(np.float32)
