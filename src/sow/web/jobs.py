"""The jobs of this server. A file that has a sort of work registers what the page is told of it
(`HEARD`) and, where a thread of the server does it, how it is done (`HERE`).
"""

import tempfile
from collections.abc import Callable
from functools import cache
from pathlib import Path

from ..core.settings import settings
from ..jobs import Job, Queue
from ..jobs.queue import Work
from ..stills.order import WORKS

HERE: dict[str, Work] = {}
HEARD: dict[str, Callable[[Job], None]] = {}


@cache
def queue() -> Queue:
    """The jobs of the data folder, gone on with when first asked for."""
    folder = Path(settings().folder or tempfile.mkdtemp(prefix="sow-jobs-"))
    stills = folder / "stills"  # where an earlier Sow kept them
    if stills.is_dir() and not (folder / "jobs").exists():
        stills.rename(folder / "jobs")
    (folder / "jobs").mkdir(parents=True, exist_ok=True)
    made = Queue(
        folder / "jobs",
        "sow.stills.worker",
        WORKS,
        HERE,
        lambda job: HEARD[job.work](job),
    )
    made.look()
    return made


def drop_all_of(scene: int, *works: str) -> int:
    """Takes every job of a scene, of some works or of all, away; gives how many there were."""
    gone = queue().shelf.of(scene, *(works or HEARD))
    for job in gone:
        queue().drop(job)
    return len(gone)
