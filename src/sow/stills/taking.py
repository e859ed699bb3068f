"""One picture under way: a still, or a moving picture frame by frame."""

import contextlib
import errno
import json
import time
from pathlib import Path

from ..core.build import Build
from ..core.cache import Cache
from ..core.document.text import file_stem
from ..core.errors import Cancelled, SceneError
from ..core.formats.clipfiles import refuse_without, write_clip
from ..core.formats.folder import open_scene
from ..core.formats.stillfiles import write_still
from ..core.picture.order import Order
from ..core.picture.pace import frames_left
from ..core.picture.still import Progress, Still
from ..workers.pool import Pool
from . import handed, tasks
from .folder import Kept, StillState

TELLS_EVERY_S = 0.25
SHOWN_PX = 960


class Taking:
    """A picture under way: hears what it tells and what is wished of it. `pool` does its tasks."""

    def __init__(self, kept: Kept, cache: Cache, pool: Pool | None):
        self.kept, self.cache, self.pool = kept, cache, pool
        self.state = StillState("running")
        self.last = 0.0
        self.picture = 0.0

    def tell(self, told: Progress) -> None:
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
            s.files = self._moving() if kept.order.clip else self._still()
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

    def _still(self) -> list[str]:
        kept = self.kept
        scene, rasters = open_scene(kept.folder / "scene.zip")
        build = Build(scene, scene.plot.grid(), self.cache, rasters)
        passed = None
        if self.pool is not None and self.pool.far:
            package = (kept.folder / "scene.zip").read_bytes()
            passed = handed.passed(self.pool, package, kept.shot, kept.order, self.check)
        still = Still(
            build, kept.shot, kept.order, kept.gathered, self.tell, self.check, passed=passed
        )
        still.run()
        files = write_still(still, kept.files, file_stem(kept.told["name"]))
        for left in kept.gathered.glob("*.sums"):
            left.unlink()
        return files

    def _moving(self) -> list[str]:
        order = self.kept.order
        if order.clip and order.clip.form != "frames":
            refuse_without()
        return MovingPicture(self).run()


class MovingPicture:
    """A moving picture: frames that are there stay there, whatever ends the process."""

    def __init__(self, taking: Taking):
        self.taking, self.kept = taking, taking.kept
        self.order: Order = self.kept.order
        clip = self.order.clip
        assert clip is not None
        self.clip = clip
        self.name = file_stem(self.kept.told["name"])
        alone = clip.form == "frames"
        self.folder = self.kept.files if alone else self.kept.gathered / "frames"
        self.began = time.perf_counter()
        self.before = self._read_seconds()

    def _read_seconds(self) -> float:
        try:
            return float(json.loads((self.kept.gathered / "seconds.json").read_text()))
        except (OSError, ValueError):
            return 0.0

    def path(self, k: int, suffix: str = ".png") -> Path:
        """Where the k-th frame lies, numbered from 1."""
        return self.folder / f"{self.name}-{k + 1:05d}{suffix}"

    def run(self) -> list[str]:
        """Makes what is missing of the frames, and the clip of them. Raises Cancelled."""
        taking, kept, clip = self.taking, self.kept, self.clip
        self.folder.mkdir(parents=True, exist_ok=True)
        kept.gathered.mkdir(parents=True, exist_ok=True)
        count = len(clip.times)
        wanted = [k for k in range(count) if not self.path(k).exists()]
        there, made = count - len(wanted), 0
        self._tell("preparing: the first frame", there / count, None)
        if wanted:
            pool = taking.pool or Pool.of_this_machine(kept.gathered)
            taking.state.note = pool.told
            package = (kept.folder / "scene.zip").read_bytes()
            began = time.perf_counter()
            done: list[float] = []
            for k, files in handed.frames(
                pool, package, kept.shot, self.order, wanted, taking.check
            ):
                self._keep(k, files)
                made += 1
                done.append(time.perf_counter() - began)
                left = frames_left(done, pool.workers, len(wanted) - made)
                self._tell(f"{there + made} of {count} frames", (there + made) / count, left)
        return self._files(count)

    def _keep(self, k: int, files: dict[str, bytes]) -> None:
        # the picture last: where it is, the frame is whole
        for suffix in sorted(files, reverse=True, key=lambda s: s != ".png"):
            path = self.path(k, suffix)
            part = path.with_name(f".{path.name}.part")
            part.write_bytes(files[suffix])
            part.replace(path)
        part = self.kept.so_far.with_suffix(".part.jpg")
        part.write_bytes(tasks.shown_small(files[".png"], SHOWN_PX))
        part.replace(self.kept.so_far)
        seconds = self.before + time.perf_counter() - self.began
        (self.kept.gathered / "seconds.json").write_text(json.dumps(seconds))

    def _tell(self, doing: str, share: float, left: float | None) -> None:
        seconds = self.before + time.perf_counter() - self.began
        self.taking.tell(Progress(doing, share, seconds, left, None))

    def _files(self, count: int) -> list[str]:
        clip, out = self.clip, self.kept.files
        frames = [self.path(k) for k in range(count)]
        told = [p for f in frames for p in (f, f.with_suffix(".exr")) if p.exists()]
        if clip.form == "frames":
            return [p.name for p in told]
        out.mkdir(parents=True, exist_ok=True)
        self._tell("writing the clip", 1.0, None)
        film = write_clip(out / self.name, frames, clip.fps, clip.form)
        lights = [p for p in told if p.suffix == ".exr"]
        for light in lights:
            light.replace(out / light.name)
        for frame in frames:
            frame.unlink()
        return [film.name, *(p.name for p in lights)]
