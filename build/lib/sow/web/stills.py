"""The stills of this server: their keeper, and how the page is told of them."""

import tempfile
from functools import cache
from importlib.util import find_spec
from pathlib import Path

from ..core.picture.order import Order
from ..core.settings import settings
from ..stills import Easel, Keeper, Kept
from .live import announce
from .shapes.stills import StillLine

READY_S = 25.0  # until a new place is ready, where no still tells it better
PIXELS_A_SECOND = 330_000.0  # samples, likewise
FINISHES_S = 4e-6  # for each pixel


@cache
def easel() -> Easel:
    """Where small pictures are drawn by following the light."""
    return Easel()


def renderer_there() -> bool:
    """Whether the renderer and what cleans its pictures are installed."""
    return all(find_spec(name) for name in ("mitsuba", "pyoidn"))


@cache
def keeper() -> Keeper:
    """The keeper, begun when first asked for."""
    folder = settings().folder or tempfile.mkdtemp(prefix="sow-stills-")
    made = Keeper(Path(folder) / "stills", _heard)
    made.begin()
    return made


def _heard(kept: Kept) -> None:
    line = line_of(kept)
    announce(line.of_scene, "still", {"still": line.model_dump()})


def drop_all_of(scene: int) -> int:
    """Takes every still of a scene away; gives how many there were."""
    own = [k for k in keeper().shelf.all() if k.told.get("scene") == scene]
    for kept in own:
        keeper().drop(kept)
    return len(own)


def line_of(kept: Kept) -> StillLine:
    """A still as the page knows it."""
    told, state = kept.told, kept.state
    return StillLine(
        id=kept.id,
        of_scene=told["scene"],
        name=told["name"],
        order=Order(**told["order"]),
        shot=told["shot"]["id"],
        doing=state.doing,
        step=state.step,
        share=round(state.share, 4),
        seconds=round(state.seconds, 1),
        left=None if state.left is None else round(state.left, 1),
        noise=None if state.noise is None else round(state.noise, 4),
        files=state.files,
        trouble=state.trouble,
        advice=state.advice,
        note=state.note,
        shown=state.shown,
    )


def forecast(order: Order) -> float:
    """Seconds that a still takes, by the pace of the last ones."""
    faces = 6 if order.projection == "cube" else 3 if order.projection == "curved" else 1
    part = order.region[2] * order.region[3] if order.region else 1.0
    pixels = order.width_px * order.height_px * faces * part
    speeds = [PIXELS_A_SECOND]
    for kept in keeper().shelf.all()[-4:]:
        told, state = kept.order, kept.state
        if state.doing == "done" and told.projection == "flat" and not told.clip:
            samples = told.width_px * told.height_px * told.passes
            speeds.append(samples / max(state.seconds - READY_S, 1.0))
    one = READY_S + pixels * (order.passes / min(speeds) + FINISHES_S)
    return one * (len(order.clip.times) if order.clip else 1)
