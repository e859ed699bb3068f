"""What is kept of one still: its scene, its order, what is wished of it and how far it is."""

import json
import os
import shutil
import time
import uuid
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, BinaryIO, Literal

from pydantic import ValidationError

from ..core.errors import SceneError
from ..core.picture.order import Order, checked
from ..core.shots.shot import Shot

Doing = Literal["waiting", "running", "paused", "stopped", "done", "failed"]
Wish = Literal["run", "pause", "stop"]
ENDED = ("done", "stopped", "failed")
BYTES_A_PIXEL = 28 + 2 * 9  # of what is gathered, and of the files made of it
BYTES_A_FRAME = 6  # for each pixel: its PNG, and a share of the clip
BYTES_OF_LAYERS = 60
SPARE_BYTES = 64 << 20
MOST_WAITING = 64


@dataclass
class StillState:
    """How far a still is. `share` 0..1, `noise` as a part of the range of the screen."""

    doing: Doing = "waiting"
    step: str = ""
    share: float = 0.0
    seconds: float = 0.0
    left: float | None = None
    noise: float | None = None
    files: list[str] = field(default_factory=list)
    trouble: str = ""
    advice: str = ""
    shown: int = 0  # how often the picture so far has changed
    note: str = ""  # what was not as wished, though it goes on


class Kept:
    """A still's folder."""

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
        """Where the passes lie that are summed so far."""
        return self.folder / "gathered"

    @property
    def so_far(self) -> Path:
        """The picture so far, small."""
        return self.gathered / "so-far.jpg"

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
        """What it was ordered with: scene, name, shot, order and when."""
        return self._read("order.json")

    @property
    def shot(self) -> Shot:
        """Its shot."""
        return Shot(**self.told["shot"])

    @property
    def order(self) -> Order:
        """Its order."""
        return Order(**self.told["order"])

    @property
    def wish(self) -> Wish:
        """What is wished of it."""
        found = self._read("wish.json").get("wish")
        return found if found in ("pause", "stop") else "run"

    @wish.setter
    def wish(self, wish: Wish) -> None:
        self._write("wish.json", {"wish": wish})

    @property
    def state(self) -> StillState:
        """How far it is."""
        known = self._read("state.json")
        fields = StillState.__dataclass_fields__
        return StillState(**{k: v for k, v in known.items() if k in fields})

    @state.setter
    def state(self, state: StillState) -> None:
        self._write("state.json", asdict(state))

    def drop(self) -> None:
        """Takes it away with all that it holds."""
        shutil.rmtree(self.folder, ignore_errors=True)


class Shelf:
    """All stills that are kept in a folder."""

    def __init__(self, folder: Path):
        self.folder = Path(folder)

    def all(self) -> list[Kept]:
        """Every still, in the order in which they were asked for."""
        found = [Kept(p.parent) for p in self.folder.glob("*/order.json")]
        return sorted(found, key=lambda k: (float(k.told.get("asked", 0)), k.id))

    def next(self) -> Kept | None:
        """The first still that is to be taken."""
        for kept in self.all():
            if kept.wish == "run" and kept.state.doing not in ENDED:
                return kept
        return None

    def get(self, name: str) -> Kept | None:
        """A still by its name."""
        folder = self.folder / name
        known = name.isalnum() and (folder / "order.json").exists()
        return Kept(folder) if known else None

    def add(
        self,
        scene: int,
        name: str,
        shot: Shot,
        order: Order,
        write_scene: Callable[[BinaryIO], Any],
    ) -> Kept:
        """Keeps a new still; `write_scene` writes its scene as a zip. Raises SceneError where it
        cannot be, or where there is no room for it.
        """
        try:
            order = checked(Order(**order.model_dump()))
        except ValidationError as e:
            first = e.errors()[0]
            place = ".".join(map(str, first["loc"]))
            raise SceneError(f"{place}: {first['msg']}.", place, "Give another value.") from None
        self._refuse_too_many()
        self._refuse_without_room(order)
        folder = self.folder / uuid.uuid4().hex
        part = self.folder / f".{folder.name}.part"
        part.mkdir(parents=True)
        try:
            with open(part / "scene.zip", "wb") as file:
                write_scene(file)
            told = {
                "scene": scene,
                "name": name,
                "shot": shot.model_dump(),
                "order": order.model_dump(),
                "asked": time.time(),
            }
            (part / "order.json").write_text(json.dumps(told))
            part.replace(folder)
        except BaseException:
            shutil.rmtree(part, ignore_errors=True)
            raise
        return Kept(folder)

    def _refuse_too_many(self) -> None:
        waiting = sum(k.state.doing not in ENDED for k in self.all())
        if waiting >= MOST_WAITING:
            raise SceneError(
                f"{waiting} stills wait already; no more are taken on.",
                "",
                "Wait until some are done, or take some away.",
            )

    def _refuse_without_room(self, order: Order) -> None:
        faces = 6 if order.projection == "cube" else 1
        frames = len(order.clip.times) if order.clip else 1
        each = BYTES_A_FRAME if order.clip else BYTES_A_PIXEL
        each += BYTES_OF_LAYERS if order.layers else 0
        needed = order.width_px * order.height_px * faces * each * frames + SPARE_BYTES
        self.folder.mkdir(parents=True, exist_ok=True)
        free = shutil.disk_usage(self.folder).free
        if free < needed:
            raise SceneError(
                f"The still needs {needed >> 20} MB on the disk; {free >> 20} MB are free.",
                "width_px",
                "Free some room, or order it smaller.",
            )
