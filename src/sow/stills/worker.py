"""The process that takes stills: `python -m sow.stills.worker FOLDER`.

It takes one after another, keeps what builds share, and ends when nothing has been asked of it for
a while. What was under way when it was ended, it begins again from what was gathered.
"""

import ctypes
import os
import signal
import sys
import time
from pathlib import Path

from ..core.cache import Cache
from ..core.settings import settings
from ..workers.pool import Pool
from .folder import Shelf
from .taking import Taking

IDLE_S = 300.0
LOOKS_EVERY_S = 0.4
CACHE_BYTES = 2 << 30
PARENT_DIES = 1  # PR_SET_PDEATHSIG of Linux


def main(folder: Path) -> None:
    """Takes stills until none has been asked for in a while."""
    ctypes.CDLL(None).prctl(PARENT_DIES, signal.SIGKILL)
    os.nice(8)  # whoever works in the page goes first
    shelf, cache = Shelf(folder), Cache(CACHE_BYTES)
    pool: Pool | None = None
    idle = time.monotonic()
    while time.monotonic() - idle < IDLE_S:
        kept = shelf.next()
        if kept is None:
            time.sleep(LOOKS_EVERY_S)
            continue
        if pool is None and (kept.order.clip or settings().scheduler):
            pool = Pool.of_this_machine()
        Taking(kept, cache, pool).run()
        idle = time.monotonic()
    if pool is not None:
        pool.go_home()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
