"""The other end of a queue's line, in the process that does its jobs."""

import contextlib
import fcntl
import os
import sys
import threading
from collections.abc import Iterator
from pathlib import Path

from .job import Job, Wish


@contextlib.contextmanager
def only_one(folder: Path) -> Iterator[None]:
    """Waits until no other process does the jobs of a folder."""
    with open(folder / ".lock", "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


class QueueLine:
    """Hears what is wished of jobs and tells what has changed. What is printed besides goes to the
    error output.
    """

    def __init__(self) -> None:
        self.out = os.fdopen(os.dup(1), "w", buffering=1)
        os.dup2(2, 1)
        self._wishes: dict[str, Wish] = {}
        self._news = threading.Event()
        self._lock = threading.Lock()
        threading.Thread(target=self._hear, daemon=True).start()

    def _hear(self) -> None:
        for line in sys.stdin:
            match line.split():
                case ["wish", name, ("run" | "pause" | "stop") as wish]:
                    self._wishes[name] = wish
            self._news.set()
        os._exit(1)  # nobody asks any more

    def wait(self, seconds: float) -> bool:
        """Waits for news; tells whether there was any."""
        heard = self._news.wait(seconds)
        self._news.clear()
        return heard

    def wished(self, job: Job) -> Wish:
        """What is wished of a job now."""
        return self._wishes.get(job.id) or self._wishes.setdefault(job.id, job.wish)

    def changed(self, job: Job) -> None:
        """Tells that a job's state was written."""
        with self._lock:
            self.out.write(f"changed {job.id}\n")
            self.out.flush()
