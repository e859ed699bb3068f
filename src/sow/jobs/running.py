"""A job that runs: it tells how far it is and hears what is wished of it."""

import contextlib
import errno
import time
from collections.abc import Callable

from ..core.errors import Cancelled, SceneError
from .job import Job, JobState, Wish

TELLS_EVERY_S = 0.25


class RunningJob:
    """`changed` is called when its state was written, `wished` tells what is wished of it now."""

    def __init__(self, job: Job, changed: Callable[[Job], None], wished: Callable[[Job], Wish]):
        self.job, self.changed, self.wished = job, changed, wished
        self.state = JobState("running")
        self.last = 0.0

    def tell(self, step: str, share: float) -> None:
        """Writes how far it is, not too often."""
        self.state.step, self.state.share = step, share
        now = time.monotonic()
        if now - self.last < TELLS_EVERY_S and share < 1:
            return
        self.last = now
        self._write()

    def check(self) -> None:
        """Raises Cancelled when it is to pause or to stop."""
        if self.wished(self.job) != "run":
            raise Cancelled

    def run(self, work: Callable[["RunningJob"], list[str]]) -> None:
        """Does the work, which gives the names of its files; at the end its state tells what
        became of it.
        """
        state = self.state
        self._write()
        try:
            state.files = work(self)
            state.doing, state.share, state.left = "done", 1.0, 0.0
        except Cancelled:
            state.doing = "paused" if self.wished(self.job) == "pause" else "stopped"
        except SceneError as e:
            state.refused, state.path = True, e.path
            self._failed(e.message, e.advice)
        except OSError as e:
            full = e.errno in (errno.ENOSPC, errno.EDQUOT)
            self._failed(
                f"Its files could not be written: {e.strerror or e}.",
                "Free some room on the disk, then go on: nothing of it is lost." if full else "",
            )
        except MemoryError:
            self._failed("There is not enough memory for it.", "Order it smaller, then begin anew.")
        except Exception as e:  # a process has no one else to tell
            told = f"{type(e).__name__}: {str(e)[:300]}"
            self._failed(told, "The scene itself is untouched.")
        self._write()

    def _failed(self, trouble: str, advice: str) -> None:
        self.state.doing, self.state.trouble, self.state.advice = "failed", trouble, advice

    def _write(self) -> None:
        with contextlib.suppress(FileNotFoundError):  # it was taken away meanwhile
            self.job.state = self.state
            self.changed(self.job)
