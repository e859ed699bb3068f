"""The jobs of one data folder: some are done by threads of this process, all others by a process
of its own, which is begun when there is work and again when it was ended.

Nothing looks at files over and over: the two processes tell each other by lines. This one writes
`look` (there is a new job) and `wish ID WISH`; the other `changed ID`.
"""

import contextlib
import subprocess
import threading
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from ..launch import started
from .job import ENDED, Job, Shelf, Wish
from .running import RunningJob

MOST_ENDS = 3  # of the process within one job, before that job is given up

Work = Callable[[RunningJob], list[str]]


class Queue:
    """`heard(job)` is called when one has changed. `here` are works done by threads; `there` those
    of the process that runs `module`, to which the folder is given.
    """

    def __init__(
        self,
        folder: Path,
        module: str = "",
        there: Sequence[str] = (),
        here: Mapping[str, Work] | None = None,
        heard: Callable[[Job], None] = lambda job: None,
    ):
        self.shelf = Shelf(folder)
        self.module, self.there, self.here = module, there, here or {}
        self.heard = heard
        self.process: subprocess.Popen[str] | None = None
        self.ends: dict[str, int] = {}
        self._wishes: dict[str, Wish] = {}  # of what runs here
        self._ended = False
        self._lock = threading.RLock()

    def look(self) -> None:
        """Begins what is due, or tells the process that there may be something."""
        with self._lock:
            if self._ended:
                return
            for job in self.shelf.due(self.here):
                if job.id not in self._wishes:
                    self._wishes[job.id] = job.wish
                    threading.Thread(target=self._do, args=(job,), daemon=True).start()
            if self.process is not None:
                self._say("look")
            elif self.shelf.due(self.there):
                self._begin()

    def _do(self, job: Job) -> None:
        try:
            RunningJob(job, self.heard, lambda j: self._wishes[j.id]).run(self.here[job.work])
        finally:
            self._wishes.pop(job.id)
            self.look()

    def _begin(self) -> None:
        self.process = started(self.module, str(self.shelf.folder), text=True, bufsize=1)
        threading.Thread(target=self._listen, args=(self.process,), daemon=True).start()

    def _say(self, line: str) -> None:
        if self.process is not None and self.process.stdin is not None:
            with contextlib.suppress(OSError, ValueError):  # it has ended: `_listen` begins another
                self.process.stdin.write(f"{line}\n")
                self.process.stdin.flush()

    def _listen(self, process: subprocess.Popen[str]) -> None:
        assert process.stdout is not None
        for line in process.stdout:
            job = self.shelf.get(line.split()[-1], *self.there)
            if job is not None:
                self.heard(job)
        code = process.wait()
        with self._lock:
            self.process = None
            due = self.shelf.due(self.there)
            if due and code and not self._ended:
                self._count_end(due[0])
            self.look()

    def _count_end(self, job: Job) -> None:
        self.ends[job.id] = self.ends.get(job.id, 0) + 1
        if self.ends[job.id] >= MOST_ENDS:
            state = job.state
            state.doing = "failed"
            state.trouble = "The process that does it was ended again and again."
            state.advice = "Most often memory ran out: order it smaller."
            self._write(job, state)

    def _write(self, job: Job, state) -> None:
        job.state = state
        self.heard(job)

    def wished(self, job: Job, wish: Wish) -> None:
        """Passes on a wish; one that has ended and is wished to run goes on or begins anew."""
        job.wish = wish
        if job.id in self._wishes:
            self._wishes[job.id] = wish
        state = job.state
        if wish == "run" and state.doing in ("paused", "stopped", "failed"):
            state.doing, state.trouble, state.advice = "waiting", "", ""
            self.ends.pop(job.id, None)
            self._write(job, state)
        elif wish != "run" and state.doing in ("waiting", "paused"):
            state.doing = "paused" if wish == "pause" else "stopped"
            self._write(job, state)
        self._say(f"wish {job.id} {wish}")
        self.look()

    def drop(self, job: Job) -> None:
        """Takes a job away; one that is under way is stopped."""
        if job.state.doing not in ENDED:
            self.wished(job, "stop")
        job.drop()

    def end(self) -> None:
        """Ends the process; what it had gathered is kept."""
        with self._lock:
            self._ended = True
            if self.process is not None:
                self.process.terminate()
