"""What is kept of one job: its order, what is wished of it and how far it is."""

import json
import os
import shutil
import time
import uuid
from collections.abc import Callable, Collection
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, Literal

from ..core.errors import SceneError

Doing = Literal["waiting", "running", "paused", "stopped", "done", "failed"]
Wish = Literal["run", "pause", "stop"]
ENDED = ("done", "stopped", "failed")
MOST_WAITING = 64


@dataclass
class JobState:
    """How far a job is. `share` 0..1, `noise` as a part of the range of the screen."""

    doing: Doing = "waiting"
    step: str = ""
    share: float = 0.0
    seconds: float = 0.0
    left: float | None = None
    noise: float | None = None
    files: list[str] = field(default_factory=list)
    trouble: str = ""
    advice: str = ""
    refused: bool = False  # the order itself cannot be done
    path: str = ""  # of the scene's value that the trouble is about
    shown: int = 0  # how often the picture so far has changed
    note: str = ""  # what was not as wished, though it goes on
    report: dict[str, Any] | None = None  # what was made, in numbers


class Job:
    """A job's folder."""

    def __init__(self, folder: Path):
        self.folder = Path(folder)

    @property
    def id(self) -> str:
        """Its name among the others."""
        return self.folder.name

    @property
    def files(self) -> Path:
        """Where its finished files lie."""
        return self.folder / "files"

    @property
    def gathered(self) -> Path:
        """Where lies what it has made so far."""
        return self.folder / "gathered"

    def _read(self, name: str) -> dict[str, Any]:
        try:
            found = json.loads((self.folder / name).read_text())
        except (OSError, ValueError):
            return {}
        return found if isinstance(found, dict) else {}

    def _write(self, name: str, values: dict[str, Any]) -> None:
        part = self.folder / f".{name}.{os.getpid()}.part"
        part.write_text(json.dumps(values))
        part.replace(self.folder / name)

    @property
    def told(self) -> dict[str, Any]:
        """What it was ordered with: work, scene, name, order and when."""
        return self._read("order.json")

    @property
    def work(self) -> str:
        """What sort of work it is."""
        return self.told.get("work", "still")  # an earlier Sow kept stills alone

    @property
    def scene(self) -> int | None:
        """The number of the scene that it is of."""
        return self.told.get("scene")

    @property
    def wish(self) -> Wish:
        """What is wished of it."""
        found = self._read("wish.json").get("wish")
        return found if found in ("pause", "stop") else "run"

    @wish.setter
    def wish(self, wish: Wish) -> None:
        self._write("wish.json", {"wish": wish})

    @property
    def state(self) -> JobState:
        """How far it is."""
        known = self._read("state.json")
        fields = JobState.__dataclass_fields__
        return JobState(**{k: v for k, v in known.items() if k in fields})

    @state.setter
    def state(self, state: JobState) -> None:
        self._write("state.json", asdict(state))

    def drop(self) -> None:
        """Takes it away with all that it holds."""
        shutil.rmtree(self.folder, ignore_errors=True)


class Shelf:
    """All jobs that are kept in a folder."""

    def __init__(self, folder: Path):
        self.folder = Path(folder)

    def all(self) -> list[Job]:
        """Every job, in the order in which they were asked for."""
        found = [Job(p.parent) for p in self.folder.glob("*/order.json")]
        return sorted(found, key=lambda job: (float(job.told.get("asked", 0)), job.id))

    def of(self, scene: int, *works: str) -> list[Job]:
        """The jobs of a scene, of some works."""
        return [job for job in self.all() if job.scene == scene and job.work in works]

    def due(self, works: Collection[str]) -> list[Job]:
        """The jobs of some works that are to be done."""
        return [
            job
            for job in self.all()
            if job.work in works and job.wish == "run" and job.state.doing not in (*ENDED, "paused")
        ]

    def get(self, name: str, *works: str) -> Job | None:
        """A job of some works by its name."""
        job = Job(self.folder / name)
        known = name.isalnum() and (job.folder / "order.json").exists()
        return job if known and job.work in works else None

    def add(
        self, work: str, told: dict[str, Any], fill: Callable[[Path], Any] = lambda folder: None
    ) -> Job:
        """Keeps a new job, whole or not at all; `fill` writes into its folder what it needs.
        Raises SceneError where too many wait.
        """
        waiting = sum(job.state.doing not in ENDED for job in self.all())
        if waiting >= MOST_WAITING:
            raise SceneError(
                f"{waiting} jobs wait already; no more are taken on.",
                "",
                "Wait until some are done, or take some away.",
            )
        folder = self.folder / uuid.uuid4().hex
        part = self.folder / f".{folder.name}.part"
        part.mkdir(parents=True)
        try:
            fill(part)
            whole = {**told, "work": work, "asked": time.time()}
            (part / "order.json").write_text(json.dumps(whole))
            part.replace(folder)
        except BaseException:
            shutil.rmtree(part, ignore_errors=True)
            raise
        return Job(folder)
