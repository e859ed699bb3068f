"""Looks after the process that takes stills: begins it when there is work, and again when it was
ended; passes on what is wished.
"""

import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path

from .folder import ENDED, Kept, Shelf, Wish

LOOKS_EVERY_S = 0.3
MOST_ENDS = 3  # of the process within one still, before that still is given up


class Keeper:
    """The stills of one data folder. `heard(kept)` is called when one has changed."""

    def __init__(self, folder: Path, heard: Callable[[Kept], None] = lambda kept: None):
        self.shelf = Shelf(folder)
        self.heard = heard
        self.process: subprocess.Popen | None = None
        self.ends: dict[str, int] = {}
        self._known: dict[str, str] = {}
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None

    def begin(self) -> None:
        """Goes on with what was left, and looks after all that comes."""
        with self._lock:
            if self._thread is None:
                self._thread = threading.Thread(target=self._look_after, daemon=True)
                self._thread.start()

    def _look_after(self) -> None:
        while True:
            self._once()
            time.sleep(LOOKS_EVERY_S)

    def _once(self) -> None:
        todo = self.shelf.next()
        ended = self.process is not None and self.process.poll() is not None
        if todo is not None and (self.process is None or ended):
            if ended and todo.state.doing == "running":
                self._count_end(todo)
            self.process = subprocess.Popen(
                [sys.executable, "-m", "sow.stills.worker", str(self.shelf.folder)],
                stdin=subprocess.DEVNULL,
            )
        for kept in self.shelf.all():
            text = str((kept.state, kept.wish))
            if self._known.get(kept.id) != text:
                self._known[kept.id] = text
                self.heard(kept)

    def _count_end(self, kept: Kept) -> None:
        self.ends[kept.id] = self.ends.get(kept.id, 0) + 1
        if self.ends[kept.id] >= MOST_ENDS:
            state = kept.state
            state.doing = "failed"
            state.trouble = "The process that takes it was ended again and again."
            state.advice = "Most often memory ran out: order it smaller."
            kept.state = state

    def wished(self, kept: Kept, wish: Wish) -> None:
        """Passes on a wish; one that has ended and is wished to run goes on or begins anew."""
        kept.wish = wish
        state = kept.state
        if wish == "run" and state.doing in ("paused", "stopped", "failed"):
            state.doing, state.trouble, state.advice = "waiting", "", ""
            self.ends.pop(kept.id, None)
            kept.state = state
        elif wish != "run" and state.doing in ("waiting", "paused"):
            state.doing = "paused" if wish == "pause" else "stopped"
            kept.state = state

    def drop(self, kept: Kept) -> None:
        """Takes a still away, once it is not under way any more."""
        if kept.state.doing not in ENDED:
            kept.wish = "stop"
        kept.drop()
        self._known.pop(kept.id, None)

    def end(self) -> None:
        """Ends the process; what it had gathered is kept."""
        if self.process is not None:
            self.process.terminate()
