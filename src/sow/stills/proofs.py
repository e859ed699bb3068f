"""Asks the process that draws proofs; ends it when it overruns or is idle for long."""

import subprocess
import threading
from collections.abc import Callable
from typing import Any

import numpy as np

from ..core import message
from ..core.errors import SceneError
from ..launch import started

MOST_S = 150.0  # for one picture, its stage set up anew
IDLE_S = 600.0
MOST_BYTES = 64 << 20


class ProofProcess:
    """One process that draws small pictures, begun when first asked."""

    def __init__(self) -> None:
        self.process: subprocess.Popen | None = None
        self.lock = threading.Lock()
        self.clock: threading.Timer | None = None

    def _begun(self) -> subprocess.Popen:
        if self.process is None or self.process.poll() is not None:
            self.process = started("sow.stills.proof_worker")
        return self.process

    def _end_later(self, seconds: float) -> None:
        if self.clock is not None:
            self.clock.cancel()
        self.clock = threading.Timer(seconds, self.end)
        self.clock.daemon = True
        self.clock.start()

    def end(self) -> None:
        """Ends the process; the next picture begins another."""
        if self.process is not None:
            self.process.kill()

    def draw(
        self,
        document: dict,
        shot: dict,
        size: tuple[int, int],
        passes: int,
        load: Callable[[str], np.ndarray],
    ) -> np.ndarray:
        """A picture of (rows, columns) of a document from a shot, uint8; `load` gives a raster by
        its name. Raises SceneError.
        """
        order = {
            "document": document,
            "shot": shot,
            "height": size[0],
            "width": size[1],
            "passes": passes,
        }
        with self.lock:
            process = self._begun()
            self._end_later(MOST_S)
            try:
                reply = self._asked(process, order, load)
            except (EOFError, OSError, message.Broken):
                self.end()
                raise SceneError(
                    "The small picture could not be drawn: its process was ended.",
                    "",
                    "Try again; if it comes back, memory is short.",
                ) from None
            finally:
                self._end_later(IDLE_S)
        if "problem" in reply:
            raise SceneError(*reply["problem"])
        return reply["picture"]

    def _asked(
        self, process: subprocess.Popen, order: dict, load: Callable[[str], np.ndarray]
    ) -> dict[str, Any]:
        source, out = process.stdin, process.stdout
        message.write(source, order)  # type: ignore[arg-type]
        while True:
            reply = message.read(out, MOST_BYTES)  # type: ignore[arg-type]
            if "need" not in reply:
                return reply
            try:
                given: dict[str, Any] = {"raster": load(reply["need"])}
            except SceneError as e:
                given = {"problem": [e.message, e.path, e.advice]}
            message.write(source, given)  # type: ignore[arg-type]
