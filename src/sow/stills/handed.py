"""Frames of moving pictures and passes of stills, handed to a crew."""

from collections.abc import Callable, Iterator

from ..core.picture.order import Order
from ..core.picture.parts import PicturePart
from ..core.picture.still import Laid, Passed, Tile
from ..core.shots.shot import Shot
from ..crew.crew import Crew
from . import tasks


def frames(
    crew: Crew,
    package: bytes,
    shot: Shot,
    order: Order,
    wanted: list[int],
    check: Callable[[], None] = lambda: None,
) -> Iterator[tuple[int, dict[str, bytes]]]:
    """Frames with their files as they are done; `check` is asked while they are waited for."""
    given = crew.held(package), shot.model_dump(), order.model_dump()
    return crew.each(tasks.frame, given, wanted, check)


def passed(
    crew: Crew, package: bytes, shot: Shot, order: Order, check: Callable[[], None]
) -> Passed:
    """Passes of stills made by the workers, in the order in which they are asked for."""
    values = crew.held(package), shot.model_dump(), order.model_dump()

    def given(part: PicturePart, todo: list[Tile]) -> Iterator[Laid]:
        asked = [[tile] for tile in todo]
        for done in crew.in_order(tasks.passes, (*values, part.name), asked, check):
            yield done[0]

    return given
