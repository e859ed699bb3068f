"""Asking a process in the sandbox: a few are kept warm, one is ended when it overruns."""

import contextlib
import os
import threading
from collections.abc import Callable
from typing import Any

from ..core import message
from ..core.errors import SceneError
from ..launch import started
from .readers import READERS

SIDE_BY_SIDE = 2
MOST_WAITING = 6
MOST_OUTPUT = 1280 << 20
BYTES_A_SECOND = 8 << 20  # a reader is given a second more for each of these
BEGIN_S = 120.0  # a process is given to load its libraries; files do not pay for that


class Busy(Exception):
    """More files wait to be read than are read in reasonable time."""


class _Process:
    """One process in the sandbox."""

    def __init__(self) -> None:
        environment = {
            k: v
            for k, v in os.environ.items()
            if k in ("PATH", "PYTHONPATH", "HOME", "LANG", "TMPDIR") or k.startswith("NUMBA_")
        }
        threads = ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "NUMBA_NUM_THREADS")
        self.process = started("sow.sandbox.child", env=environment | dict.fromkeys(threads, "1"))
        self.begun = False

    def ask(self, order: dict, seconds: float) -> tuple[dict | None, bool]:
        """The answer, or None when the process came to its end; and whether time ran out."""
        if not self.begun:
            greeting, late = self._within(BEGIN_S, self._heard)
            if greeting is None:
                return None, late
            self.begun = True
        return self._within(seconds, lambda: self._told(order))

    def _within(self, seconds: float, do: Callable[[], dict]) -> tuple[dict | None, bool]:
        over = threading.Event()

        def end() -> None:
            over.set()
            self.process.kill()

        clock = threading.Timer(seconds, end)
        clock.daemon = True
        clock.start()
        try:
            return do(), False
        except (EOFError, OSError, ValueError, message.Broken):
            return None, over.is_set()
        finally:
            clock.cancel()

    def _told(self, order: dict) -> dict:
        message.write(self.process.stdin, order)  # type: ignore[arg-type]
        return self._heard()

    def _heard(self) -> dict:
        return message.read(self.process.stdout, MOST_OUTPUT)  # type: ignore[arg-type]

    def well(self) -> bool:
        return self.process.poll() is None

    def end(self) -> None:
        self.process.kill()
        for pipe in (self.process.stdin, self.process.stdout):
            with contextlib.suppress(OSError):
                pipe.close()  # type: ignore[union-attr]
        self.process.wait()


class Sandbox:
    """A few processes that read files from outside.

    A caller waits for a free one; when more than `waiting` wait already, Busy is raised at once.
    """

    def __init__(self, side_by_side: int = SIDE_BY_SIDE, waiting: int = MOST_WAITING) -> None:
        self.places = threading.Semaphore(side_by_side)
        self.room = threading.Semaphore(side_by_side + waiting)
        self.lock = threading.Lock()
        self.idle: list[_Process] = []

    def warm(self) -> None:
        """Begins a process, so that the first file need not wait for its libraries."""
        with self.lock:
            if not self.idle:
                self.idle.append(_Process())

    def _taken(self) -> _Process:
        with self.lock:
            while self.idle:
                found = self.idle.pop()
                if found.well():
                    return found
                found.end()
        return _Process()

    def read(
        self,
        reader: str,
        files: dict[str, bytes],
        seconds: float | None = None,
        **settings: Any,
    ) -> Any:
        """What a reader makes of files. Raises SceneError with what is wrong, Busy."""
        if not self.room.acquire(blocking=False):
            raise Busy
        try:
            with self.places:
                return self._read(reader, files, seconds, settings)
        finally:
            self.room.release()

    def _read(self, reader: str, files: dict[str, bytes], seconds: float | None, settings: dict):
        size = sum(len(data) for data in files.values())
        if seconds is None:
            seconds = READERS[reader].seconds + size / BYTES_A_SECOND
        order = {"reader": reader, "files": files, "settings": settings, "seconds": seconds}
        process = self._taken()
        reply = None
        try:
            reply, late = process.ask(order, seconds)
        finally:
            if reply is None:
                process.end()
            else:
                with self.lock:
                    self.idle.append(process)
        if reply is None:
            raise _overrun(next(iter(files), "the file"), seconds, late)
        if "problem" in reply:
            message_, path, advice = reply["problem"]
            raise SceneError(message_, path, advice)
        return reply["value"]

    def close(self) -> None:
        """Ends every process that waits for work."""
        with self.lock:
            idle, self.idle = self.idle, []
        for process in idle:
            process.end()


def _overrun(name: str, seconds: float, late: bool) -> SceneError:
    if late:
        return SceneError(
            f"Reading “{name}” took longer than the {seconds:.0f} s that it is given; it was "
            "stopped.",
            "file",
            "Nothing was kept. Simplify it, or give it in parts.",
        )
    return SceneError(
        f"Reading “{name}” needed more memory than a file is given, or broke its reader; it was "
        "stopped.",
        "file",
        "Nothing was kept. Make it smaller, or save it again by the program that made it.",
    )


_sandbox = Sandbox()


def read(reader: str, files: dict[str, bytes], **settings: Any) -> Any:
    """What a reader of `readers.py` makes of files, in the server's sandbox.

    Args:
        reader: the reader's name.
        files: bytes by file name.
        settings: what the reader needs besides.

    Raises:
        SceneError: it will not be read, or it overran its memory or time.
        Busy: more files wait than are read in reasonable time.
    """
    return _sandbox.read(reader, files, **settings)


def warm() -> None:
    """Makes the server's sandbox ready."""
    _sandbox.warm()
