"""The process that takes stills and clips, begun by the queue.

It takes one after another, keeps what builds share, and ends when nothing has been asked of it for
a while. What was under way when it was ended, it begins again from what was gathered.
"""

import os
from functools import partial
from pathlib import Path

from ..core.cache import Cache
from ..core.settings import settings
from ..jobs import RunningJob, Shelf
from ..jobs.line import QueueLine, only_one
from ..workers.pool import Pool
from .order import CLIP, WORKS
from .taking import taken

IDLE_S = 300.0
CACHE_BYTES = 2 << 30


def main(folder: str) -> None:
    """Takes pictures until none has been asked for in a while."""
    line = QueueLine()
    os.nice(8)  # whoever works in the page goes first
    shelf, cache = Shelf(Path(folder)), Cache(CACHE_BYTES)
    pool: Pool | None = None
    with only_one(shelf.folder):
        while True:
            due = shelf.due(WORKS)
            if due:
                if pool is None and (due[0].work == CLIP or settings().scheduler):
                    pool = Pool.of_this_machine()
                work = partial(taken, cache=cache, pool=pool)
                RunningJob(due[0], line.changed, line.wished).run(work)
            elif not line.wait(IDLE_S):
                break
    if pool is not None:
        pool.go_home()
