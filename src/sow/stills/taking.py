"""One picture under way: a still, or a moving picture frame by frame."""

import contextlib
import json
import time
from pathlib import Path

from ..core.build import Build
from ..core.cache import Cache
from ..core.document.text import file_stem
from ..core.formats.clipfiles import refuse_without, write_clip
from ..core.formats.folder import open_scene
from ..core.formats.stillfiles import write_still
from ..core.picture.order import Order
from ..core.picture.pace import frames_left
from ..core.picture.still import Progress, Still
from ..jobs import RunningJob
from ..workers.pool import Pool
from . import handed, tasks
from .order import order_of, package_of, shot_of, so_far

SHOWN_PX = 960


class Taking:
    """A picture under way; `pool` does its tasks."""

    def __init__(self, running: RunningJob, cache: Cache, pool: Pool | None):
        self.running, self.cache, self.pool = running, cache, pool
        self.job, self.order = running.job, order_of(running.job)
        self.picture = 0.0  # when the picture so far was written

    def tell(self, told: Progress) -> None:
        """Passes on how far it is."""
        state = self.running.state
        state.noise, state.seconds, state.left = told.noise, told.seconds, told.left
        with contextlib.suppress(OSError):
            changed = so_far(self.job).stat().st_mtime
            state.shown += changed != self.picture
            self.picture = changed
        self.running.tell(told.doing, told.share)

    def still(self) -> list[str]:
        """Takes a still; gives the names of its files."""
        job, check = self.job, self.running.check
        scene, rasters = open_scene(package_of(job))
        build = Build(scene, scene.plot.grid(), self.cache, rasters)
        shot = shot_of(job)
        passed = None
        if self.pool is not None and self.pool.far:
            package = package_of(job).read_bytes()
            passed = handed.passed(self.pool, package, shot, self.order, check)
        still = Still(build, shot, self.order, job.gathered, self.tell, check, passed=passed)
        still.run()
        files = write_still(still, job.files, file_stem(job.told["name"]))
        for left in job.gathered.glob("*.sums"):
            left.unlink()
        return files

    def clip(self) -> list[str]:
        """Takes a moving picture; gives the names of its files."""
        if self.order.clip and self.order.clip.form != "frames":
            refuse_without()
        return MovingPicture(self).run()


def taken(running: RunningJob, cache: Cache, pool: Pool | None) -> list[str]:
    """Takes the picture that a job orders; gives the names of its files."""
    taking = Taking(running, cache, pool)
    return taking.clip() if taking.order.clip else taking.still()


class MovingPicture:
    """A moving picture: frames that are there stay there, whatever ends the process."""

    def __init__(self, taking: Taking):
        self.taking, self.job = taking, taking.job
        self.order: Order = taking.order
        clip = self.order.clip
        assert clip is not None
        self.clip = clip
        self.name = file_stem(self.job.told["name"])
        alone = clip.form == "frames"
        self.folder = self.job.files if alone else self.job.gathered / "frames"
        self.began = time.perf_counter()
        self.before = self._read_seconds()

    def _read_seconds(self) -> float:
        try:
            return float(json.loads((self.job.gathered / "seconds.json").read_text()))
        except (OSError, ValueError):
            return 0.0

    def path(self, k: int, suffix: str = ".png") -> Path:
        """Where the k-th frame lies, numbered from 1."""
        return self.folder / f"{self.name}-{k + 1:05d}{suffix}"

    def run(self) -> list[str]:
        """Makes what is missing of the frames, and the clip of them. Raises Cancelled."""
        taking, job, clip = self.taking, self.job, self.clip
        self.folder.mkdir(parents=True, exist_ok=True)
        job.gathered.mkdir(parents=True, exist_ok=True)
        count = len(clip.times)
        wanted = [k for k in range(count) if not self.path(k).exists()]
        there, made = count - len(wanted), 0
        self._tell("preparing: the first frame", there / count, None)
        if wanted:
            pool = taking.pool or Pool.of_this_machine(job.gathered)
            taking.running.state.note = pool.told
            package = package_of(job).read_bytes()
            began = time.perf_counter()
            done: list[float] = []
            for k, files in handed.frames(
                pool, package, shot_of(job), self.order, wanted, taking.running.check
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
        part = so_far(self.job).with_suffix(".part.jpg")
        part.write_bytes(tasks.shown_small(files[".png"], SHOWN_PX))
        part.replace(so_far(self.job))
        seconds = self.before + time.perf_counter() - self.began
        (self.job.gathered / "seconds.json").write_text(json.dumps(seconds))

    def _tell(self, doing: str, share: float, left: float | None) -> None:
        seconds = self.before + time.perf_counter() - self.began
        self.taking.tell(Progress(doing, share, seconds, left, None))

    def _files(self, count: int) -> list[str]:
        clip, out = self.clip, self.job.files
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
