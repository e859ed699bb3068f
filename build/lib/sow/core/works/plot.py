"""The plot set anew: its size and grid, the origin kept; and a new scene on one."""

from ..plot import Plot
from ..scene import read_scene
from .base import Asked, Document, Done, Hand, work


class SetPlot(Asked):
    """Sizes in m; posts along the longer side."""

    width_m: float
    depth_m: float
    posts: int


@work("set the plot", SetPlot)
def set_plot(hand: Hand, asked: SetPlot) -> Done:
    """Another size or grid; the south-west corner, and so every place, stays where it is."""
    hand.document["plot"].update(asked.model_dump())
    return Done(
        hand.document, f"Plot: {asked.width_m:g} by {asked.depth_m:g} m, {asked.posts} posts"
    )


def new_scene(name: str, plot: Plot, rolling: bool) -> Document:
    """A new scene's document on a plot: level and bare, or rolling ground with turf and rock, seen
    by an eye at a person's height from the south, with light from the side.
    """
    reach = max(plot.width_m, plot.depth_m)
    nice = lambda v: float(f"{v:.2g}")
    document: Document = {"name": name, "plot": plot.model_dump(mode="json")}
    if rolling:
        document["land"] = [
            {
                "id": "swell",
                "name": "Swell",
                "kind": "noise",
                "form": "smooth",
                "feature_m": nice(reach * 0.45),
                "height_m": nice(reach * 0.1),
                "octaves": 8,
                "gain": 0.45,
                "seed": 3,
            }
        ]
        document["ground"] = [
            {"id": "turf", "name": "Turf", "ground": "turf", "size_m": 3},
            {
                "id": "rock",
                "name": "Rock",
                "ground": "granite",
                "size_m": 6,
                "where": [{"kind": "slope", "low": 27, "high": 90, "soft": 8}],
            },
        ]
    document["light"] = {"sun_bearing": 262, "sun_height": 24, "haze_m": max(6000, reach * 8)}
    return read_scene(document).model_dump(mode="json")
