"""A still or a clip that is ordered: what its job's folder holds."""

import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any, BinaryIO

from pydantic import ValidationError

from ..core.errors import SceneError
from ..core.picture.order import Order, checked
from ..core.shots.shot import Shot
from ..jobs import Job, Shelf

STILL, CLIP = "still", "clip"
WORKS = (STILL, CLIP)
BYTES_A_PIXEL = 28 + 2 * 9  # of what is gathered, and of the files made of it
BYTES_A_FRAME = 6  # for each pixel: its PNG, and a share of the clip
BYTES_OF_LAYERS = 60
SPARE_BYTES = 64 << 20


def shot_of(job: Job) -> Shot:
    """The shot that a picture is of."""
    return Shot(**job.told["shot"])


def order_of(job: Job) -> Order:
    """How a picture was ordered."""
    return Order(**job.told["order"])


def so_far(job: Job) -> Path:
    """A picture as far as it is, small."""
    return job.gathered / "so-far.jpg"


def package_of(job: Job) -> Path:
    """The scene that a picture is of, as a zip."""
    return job.folder / "scene.zip"


def ordered(
    shelf: Shelf,
    scene: int,
    name: str,
    shot: Shot,
    order: Order,
    write_scene: Callable[[BinaryIO], Any],
) -> Job:
    """Keeps a new still or clip; `write_scene` writes its scene as a zip. Raises SceneError where
    it cannot be, or where there is no room for it.
    """
    try:
        order = checked(Order(**order.model_dump()))
    except ValidationError as e:
        first = e.errors()[0]
        place = ".".join(map(str, first["loc"]))
        raise SceneError(f"{place}: {first['msg']}.", place, "Give another value.") from None
    _refuse_without_room(shelf.folder, order)

    def fill(folder: Path) -> None:
        with open(package_of(Job(folder)), "wb") as file:
            write_scene(file)

    told = {
        "scene": scene,
        "name": name,
        "shot": shot.model_dump(),
        "order": order.model_dump(),
    }
    return shelf.add(CLIP if order.clip else STILL, told, fill)


def _refuse_without_room(folder: Path, order: Order) -> None:
    faces = 6 if order.projection == "cube" else 1
    frames = len(order.clip.times) if order.clip else 1
    each = BYTES_A_FRAME if order.clip else BYTES_A_PIXEL
    each += BYTES_OF_LAYERS if order.layers else 0
    needed = order.width_px * order.height_px * faces * each * frames + SPARE_BYTES
    folder.mkdir(parents=True, exist_ok=True)
    free = shutil.disk_usage(folder).free
    if free < needed:
        raise SceneError(
            f"The still needs {needed >> 20} MB on the disk; {free >> 20} MB are free.",
            "width_px",
            "Free some room, or order it smaller.",
        )
