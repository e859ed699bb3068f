"""Hand-overs: a scene grown into a zip of files by a thread of the server, since much of what it
grows lies in the server's cache already.
"""

import shutil
import zipfile
from pathlib import Path

from ..core.grow import grow
from ..core.scene import Scene, read_scene
from ..jobs import ENDED, Job, RunningJob
from ..store.models import database
from .forecasts import hand_over_seconds, learn_land
from .jobs import HEARD, HERE, queue
from .live import announce
from .shapes.files import HandOver, HandOverLine
from .shapes.shape import Problem
from .working import WORK, Stored

HAND_OVER = "hand-over"
ZIP = "sow-files.zip"
KEEP = 4  # finished hand-overs that stay for download

pace = {
    "rest": 0.8
}  # how much slower this machine is than the one on which the forecast was measured


def line_of(job: Job) -> HandOverLine:
    """A hand-over as the page knows it."""
    state = job.state
    problem = None
    if state.doing == "failed":
        problem = Problem(
            title="The scene can't be built so" if state.refused else "The files were not written",
            status=422 if state.refused else 500,
            detail=state.trouble,
            path=state.path,
            advice=state.advice,
        )
    return HandOverLine(
        id=job.id,
        state=state.doing,
        step=state.step,
        share=state.share,
        problem=problem,
        report=state.report,
    )


def order_hand_over(scene_id: int, scene: Scene, order: HandOver) -> Job:
    """Keeps a hand-over as a job, and begins it; of those that are done the oldest go."""
    old = [j for j in queue().shelf.all() if j.work == HAND_OVER and j.state.doing in ENDED]
    for job in old[: max(0, len(old) - KEEP + 1)]:
        queue().drop(job)
    told = {
        "scene": scene_id,
        "name": scene.name,
        "document": scene.model_dump(mode="json"),
        "order": order.model_dump(),
    }
    job = queue().shelf.add(HAND_OVER, told)
    queue().look()
    return job


def hand_over(running: RunningJob) -> list[str]:
    """Grows a scene into a zip of files; whatever was half made is made anew."""
    job, state = running.job, running.state
    scene, order = read_scene(job.told["document"]), HandOver(**job.told["order"])
    out = job.gathered
    shutil.rmtree(out, ignore_errors=True)
    try:
        with database.connection_context():
            expected = hand_over_seconds(scene, order)
            state.report = grow(
                scene,
                Stored(),
                out,
                order.posts,
                tell=running.tell,
                check=running.check,
                cache=WORK,
                files=order.files,
            )
        learn(state.report, expected)
        seconds, grid = state.report["seconds"].get("land", 0), state.report["grid"]
        if seconds > 0.05:
            learn_land(scene, seconds, grid[0] * grid[1])
        _zip(out, job.files / ZIP)
    finally:
        shutil.rmtree(out, ignore_errors=True)
    return [ZIP]


def _zip(folder: Path, path: Path) -> None:
    path.parent.mkdir(exist_ok=True)
    part = path.with_name(f".{path.name}.part")
    with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as archive:
        for file in sorted(p for p in folder.rglob("*") if p.is_file()):
            compress = zipfile.ZIP_STORED if file.suffix == ".png" else zipfile.ZIP_DEFLATED
            archive.write(file, file.relative_to(folder), compress, 3)
    part.rename(path)


def learn(report: dict, expected: tuple[float, float]) -> None:
    """The pace of this machine, from what a hand-over took beside what was forecast for all but the
    land (which may have lain in the cache).
    """
    took = report["seconds_total"] - report["seconds"].get("land", 0)
    pace["rest"] = min(20.0, max(0.05, took / max(expected[1], 1e-3)))


HERE[HAND_OVER] = hand_over
HEARD[HAND_OVER] = lambda job: announce(job.told["scene"], "job", line_of(job).model_dump())
