"""The stills of this server, as the page is told of them."""

from functools import cache
from importlib.util import find_spec

from ..core.picture.order import Order
from ..jobs import Job
from ..stills.order import STILL, WORKS, order_of
from ..stills.proofs import ProofProcess
from .jobs import HEARD, queue
from .live import announce
from .shapes.stills import StillLine

READY_S = 25.0  # until a new place is ready, where no still tells it better
PIXELS_A_SECOND = 330_000.0  # samples, likewise
FINISHES_S = 4e-6  # for each pixel


@cache
def proofs() -> ProofProcess:
    """Where small pictures are drawn by following the light."""
    return ProofProcess()


def renderer_there() -> bool:
    """Whether the renderer and what cleans its pictures are installed."""
    return all(find_spec(name) for name in ("mitsuba", "pyoidn"))


def line_of(job: Job) -> StillLine:
    """A still as the page knows it."""
    told, state = job.told, job.state
    return StillLine(
        id=job.id,
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
    for job in [j for j in queue().shelf.all() if j.work == STILL][-4:]:
        told, state = order_of(job), job.state
        if state.doing == "done" and told.projection == "flat":
            samples = told.width_px * told.height_px * told.passes
            speeds.append(samples / max(state.seconds - READY_S, 1.0))
    one = READY_S + pixels * (order.passes / min(speeds) + FINISHES_S)
    return one * (len(order.clip.times) if order.clip else 1)


def _heard(job: Job) -> None:
    line = line_of(job)
    announce(line.of_scene, "still", {"still": line.model_dump()})


HEARD.update(dict.fromkeys(WORKS, _heard))
