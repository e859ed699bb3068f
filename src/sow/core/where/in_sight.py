"""Where: only what the shots see."""

from functools import partial
from typing import Literal

import numpy as np
from pydantic import Field

from ..document.fields import length_m, setting
from ..survey.sight import hidden_by
from .base import Absent, Condition, condition, fields_of, ramp
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
    within_m: float = length_m(
        "Within", 200000, lo=0, hi=200000, slider=(5, 5000), help="Of the viewpoint."
    )


def hidden(p: InSight, site: Site, path: str) -> np.ndarray:
    """Metres by which the ground lies below the sight of the shot, or of the one that sees it best;
    0 in sight.
    """
    if p.shot and p.shot not in site.shots:
        raise Absent(f"There is no shot '{p.shot}'.", f"{path}.shot", "Choose another.")
    eyes = [site.shots[p.shot]] if p.shot else list(site.shots.values())
    if not eyes:
        raise Absent("There is no shot.", f"{path}.shot", "Set one under Shots.")
    each = [
        site.measure(f"hidden from {e}", partial(hidden_by, site.heights, site.grid, *e))
        for e in eyes
    ]
    return np.minimum.reduce(each)


fields_of["in-sight"] = hidden


@condition(InSight, stage="water", label="in sight of the shots", sees=("shots",))
def answer(p: InSight, site: Site, path: str) -> np.ndarray:
    """1 where the ground is seen from the shot's viewpoint, whichever way it looks; fading with the
    metres by which it is hidden.
    """
    out = 1 - np.clip(hidden(p, site, path) / np.float32(max(p.soft, 0.05)), 0, 1)
    if p.within_m < 200000:
        eyes = [site.shots[p.shot]] if p.shot else site.shots.values()
        x, y = site.grid.xs()[None, :], site.grid.ys()[:, None]
        out = out * ramp(
            (p.within_m - np.minimum.reduce([np.hypot(x - e[0], y - e[1]) for e in eyes]))
            / max(0.05 * p.within_m, 1e-3)
        )
    return out.astype(np.float32)
