"""Frames of moving pictures and passes of stills, handed to a pool."""

from collections.abc import Callable, Iterator

from ..core.picture.order import Order
from ..core.picture.parts import PicturePart
from ..core.picture.still import Laid, Passed, Tile
from ..core.shots.shot import Shot
from ..workers.pool import Pool
from . import tasks


def frames(
    pool: Pool,
    package: bytes,
    shot: Shot,
    order: Order,
    wanted: list[int],
    check: Callable[[], None] = lambda: None,
) -> Iterator[tuple[int, dict[str, bytes]]]:
    """Frames with their files as they are done; `check` is asked while they are waited for."""
    given = pool.held(package), shot.model_dump(), order.model_dump()
    return pool.each(tasks.frame, given, wanted, check)


def passed(
    pool: Pool, package: bytes, shot: Shot, order: Order, check: Callable[[], None]
) -> Passed:
    """Passes of stills made by the workers, in the order in which they are asked for."""
    values = pool.held(package), shot.model_dump(), order.model_dump()

    def given(part: PicturePart, todo: list[Tile]) -> Iterator[Laid]:
        asked = [[tile] for tile in todo]
        for done in pool.in_order(tasks.passes, (*values, part.name), asked, check):
            yield done[0]

    return given
