"""Hand-over jobs: grow a scene into a zip in the background, with progress and cancel."""

import atexit
import os
import shutil
import tempfile
import threading
import uuid
import zipfile
from functools import cache
from pathlib import Path

from ..core.errors import Cancelled, SceneError
from ..core.grow import grow
from ..core.scene import Scene
from ..store.cluster import living
from ..store.models import database
from .forecasts import hand_over_seconds, learn_land
from .live import announce
from .shapes.files import HandOver, Job
from .shapes.shape import Problem
from .working import WORK, Stored

_jobs: dict[str, Job] = {}


_stopped: set[str] = set()


PLACE = "sow-hand-over-"


@cache
def _folder() -> Path:
    """A folder for this process's files; those of processes that are dead are taken away."""
    for left in Path(tempfile.gettempdir()).glob(f"{PLACE}*"):
        number = left.name.removeprefix(PLACE).partition("-")[0]
        if number.isdigit() and not living(int(number)):
            shutil.rmtree(left, ignore_errors=True)
    made = Path(tempfile.mkdtemp(prefix=f"{PLACE}{os.getpid()}-"))
    atexit.register(shutil.rmtree, made, ignore_errors=True)
    return made


pace = {
    "rest": 0.8
}  # how much slower this machine is than the one on which the forecast was measured


KEEP = 4  # finished zips that stay for download


def start(scene_id: int, scene: Scene, order: HandOver) -> Job:
    """Starts a hand-over in the background."""
    job = _jobs[uuid.uuid4().hex] = Job(id="", state="running", step="", share=0)
    job.id = next(k for k, v in _jobs.items() if v is job)
    threading.Thread(target=_run, args=(scene_id, job, scene, order), daemon=True).start()
    return job


def _run(scene_id: int, job: Job, scene: Scene, order: HandOver) -> None:
    def check():
        if job.id in _stopped:
            raise Cancelled

    def tell(step, share):
        job.step, job.share = step, share
        announce(scene_id, "job", job.model_dump())

    out = _folder() / job.id
    try:
        with database.connection_context():
            expected = hand_over_seconds(scene, order)
            job.report = grow(
                scene,
                Stored(),
                out,
                order.posts,
                tell=tell,
                check=check,
                cache=WORK,
                files=order.files,
            )
            learn(job.report, expected)
            if job.report["seconds"].get("land", 0) > 0.05:
                learn_land(
                    scene,
                    job.report["seconds"]["land"],
                    job.report["grid"][0] * job.report["grid"][1],
                )
        part = _folder() / f"{job.id}.part"
        with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as archive:
            for file in sorted(p for p in out.rglob("*") if p.is_file()):
                compress = zipfile.ZIP_STORED if file.suffix == ".png" else zipfile.ZIP_DEFLATED
                archive.write(file, file.relative_to(out), compress, 3)
        part.rename(_folder() / f"{job.id}.zip")
        job.state, job.share = "done", 1
    except Cancelled:
        job.state = "stopped"
    except SceneError as e:
        job.state = "failed"
        job.problem = Problem(
            title="The scene can't be built so",
            status=422,
            detail=e.message,
            path=e.path,
            advice=e.advice,
        )
    except Exception as e:  # told to the page: a thread has no one else to tell
        job.state, job.problem = (
            "failed",
            Problem(
                title="The files could not be written",
                status=500,
                detail=str(e)[:400],
                advice="The scene itself is untouched.",
            ),
        )
    finally:
        shutil.rmtree(out, ignore_errors=True)
        old = [k for k, v in _jobs.items() if v.state != "running"][:-KEEP]
        for key in old:
            _jobs.pop(key)
            (_folder() / f"{key}.zip").unlink(missing_ok=True)
        announce(scene_id, "job", job.model_dump())


def learn(report: dict, expected: tuple[float, float]) -> None:
    """The pace of this machine, from what a hand-over took beside what was forecast for all but the
    land (which may have lain in the cache).
    """
    took = report["seconds_total"] - report["seconds"].get("land", 0)
    pace["rest"] = min(20.0, max(0.05, took / max(expected[1], 1e-3)))


def get(job_id: str) -> Job | None:
    """A job by its id, or None."""
    return _jobs.get(job_id)


def stop(job_id: str) -> None:
    """Asks a job to stop."""
    _stopped.add(job_id)


def file_of(job_id: str) -> Path:
    """Where the zip of a job lies."""
    return _folder() / f"{job_id}.zip"
