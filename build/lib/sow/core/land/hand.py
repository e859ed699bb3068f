"""Landform: what was made by hand."""

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..document.fields import setting
from ..document.offers import Offer
from ..hand.stroke import Stroke, apply, carried
from .base import Below, Landform, Shape, landforms


class ByHand(Landform):
    """Strokes lie in metres on a grid of their own, so that what is below may still change.

    The newest stay as strokes and can be turned down; older ones are gathered into the raster.
    """

    kind: Literal["hand"] = "hand"
    raster: str = Field("", max_length=300, json_schema_extra={"sow": {"raster": True}})
    strokes: list[Stroke] = Field(default_factory=list, max_length=8)
    posts: int = setting(
        1025,
        "Own grid",
        "posts",
        lo=129,
        hi=4097,
        slider=(257, 4097),
        scale="log",
        help="Along the longer side of the plot; for strokes made from now on.",
    )
    count: int = Field(0, ge=0)
    times: float = setting(1, "All strokes", "×", lo=-5, hi=5, slider=(0, 2), step=0.01)


def gathered(entry: ByHand, below: Below) -> np.ndarray:
    """All strokes in m on the grid of `below`, float32 (ny, nx): those of the raster, then the
    loose ones in their order.
    """
    grid, plot = below.grid, below.plot
    made = np.zeros(grid.shape, np.float32)
    if entry.raster:
        kept = below.raster(entry.raster)
        made = carried(kept, plot.grid(max(kept.shape)), grid)
    for i, stroke in enumerate(entry.strokes):
        below.check()
        shape = below.picture(stroke.picture) if stroke.picture and below.picture else None
        done = apply(
            stroke,
            below.heights + made
            if stroke.tool not in ("raise", "lower", "pull", "basin", "roughen")
            else below.heights,
            grid,
            plot,
            made,
            shape,
            None if below.around is None else below.at,
        )
        if done is None:
            continue
        delta, (r0, r1, c0, c1) = done
        if stroke.where:
            held = below.ask(stroke.where, f"{below.path}.strokes.{i}.where")
            if held is not None:
                delta = delta * held[r0:r1, c0:c1]
        made[r0:r1, c0:c1] += delta
    return made


def _reach(p: ByHand, scene: Any) -> float:
    """A stroke that smooths looks about itself, and each that follows looks at what it left."""
    return sum(0.9 * s.size_m for s in p.strokes if s.tool == "smooth")


@landforms.add(
    ByHand,
    reach=_reach,
    offers=[
        Offer(
            "hand",
            "By hand",
            "brushes",
            first=lambda c: {"posts": min(2049, max(1025, c.posts))},
            group="By hand",
            lists=("land",),
        )
    ],
    subtitle="strokes: {count}",
)
def heights(p: ByHand, below: Below) -> Shape:
    """Metres made by hand; nothing beyond the plot."""
    made = gathered(p, below)
    return Shape(made * np.float32(p.times), extent=np.clip(np.abs(made) * 20, 0, 1))
