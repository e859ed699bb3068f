"""The process that takes stills: `python -m sow.stills.worker FOLDER`.

It takes one after another, keeps what builds share, and ends when nothing has been asked of it for
a while. What was under way when it was ended, it begins again from the passes already summed.
"""

import contextlib
import ctypes
import errno
import os
import signal
import sys
import time
from pathlib import Path

from ..core.build import Build
from ..core.cache import Cache
from ..core.document.text import file_stem
from ..core.errors import Cancelled, SceneError
from ..core.formats.folder import open_scene
from ..core.formats.stillfiles import write_still
from ..core.picture.still import Still, Told
from .folder import Kept, Shelf, State

IDLE_S = 300.0
LOOKS_EVERY_S = 0.4
TELLS_EVERY_S = 0.25
CACHE_BYTES = 2 << 30
PARENT_DIES = 1  # PR_SET_PDEATHSIG of Linux


class Taking:
    """One still under way: hears what it tells and what is wished of it."""

    def __init__(self, kept: Kept, cache: Cache):
        self.kept, self.cache = kept, cache
        self.state = State("running")
        self.last = 0.0
        self.picture = 0.0

    def tell(self, told: Told) -> None:
        """Writes how far it is, not too often."""
        now = time.monotonic()
        if now - self.last < TELLS_EVERY_S and told.share < 1:
            return
        self.last = now
        s = self.state
        s.step, s.share, s.noise = told.doing, told.share, told.noise
        s.seconds, s.left = told.seconds, told.left
        with contextlib.suppress(OSError):
            changed = self.kept.so_far.stat().st_mtime
            s.shown += changed != self.picture
            self.picture = changed
        self.kept.state = s

    def check(self) -> None:
        """Raises Cancelled when it is to pause or to stop."""
        if self.kept.wish != "run" or not self.kept.folder.exists():
            raise Cancelled

    def run(self) -> None:
        """Takes it; at the end its state tells what became of it."""
        kept, s = self.kept, self.state
        kept.state = s
        try:
            scene, rasters = open_scene(kept.folder / "scene.zip")
            build = Build(scene, scene.plot.grid(), self.cache, rasters)
            still = Still(build, kept.shot, kept.order, kept.gathered, self.tell, self.check)
            still.run()
            s.files = write_still(still, kept.files, file_stem(kept.told["name"]))
            for left in kept.gathered.glob("*.sums"):
                left.unlink()
            s.doing, s.share, s.left = "done", 1.0, 0.0
        except Cancelled:
            s.doing = "paused" if kept.wish == "pause" else "stopped"
        except SceneError as e:
            s.doing, s.trouble, s.advice = "failed", e.message, e.advice
        except OSError as e:
            s.doing, s.trouble = "failed", f"Its files could not be written: {e.strerror or e}."
            full = e.errno in (errno.ENOSPC, errno.EDQUOT)
            s.advice = (
                "Free some room on the disk, then go on: nothing of it is lost." if full else ""
            )
        except MemoryError:
            s.doing, s.trouble = "failed", "There is not enough memory for it."
            s.advice = "Order it smaller, then begin anew."
        except Exception as e:  # a process has no one else to tell
            s.doing, s.trouble = "failed", f"{type(e).__name__}: {str(e)[:300]}"
            s.advice = "The scene itself is untouched."
        if kept.folder.exists():
            kept.state = s


def main(folder: Path) -> None:
    """Takes stills until none has been asked for in a while."""
    ctypes.CDLL(None).prctl(PARENT_DIES, signal.SIGKILL)
    os.nice(8)  # whoever works in the page goes first
    shelf, cache = Shelf(folder), Cache(CACHE_BYTES)
    idle = time.monotonic()
    while time.monotonic() - idle < IDLE_S:
        kept = shelf.next()
        if kept is None:
            time.sleep(LOOKS_EVERY_S)
            continue
        Taking(kept, cache).run()
        idle = time.monotonic()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
