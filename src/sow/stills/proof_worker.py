"""The process that draws proofs: small pictures for the page, one for each message.

It asks for a raster by a message of its own where it needs one, and keeps what pictures share.
"""

import os
from typing import Any, BinaryIO

import numpy as np

from ..core import message
from ..core.build import Build, Rasters
from ..core.cache import Cache
from ..core.errors import SceneError
from ..core.picture.proof import Proofs
from ..core.scene import read_scene
from ..core.shots.shot import Shot

CACHE_BYTES = 1 << 30
POSTS = 385  # along the longer side of the land that small pictures are drawn from


class PipedRasters(Rasters):
    """Rasters asked for over the pipe, kept for the next picture."""

    def __init__(self, source: BinaryIO, out: BinaryIO):
        self.source, self.out = source, out
        self.kept: dict[str, np.ndarray] = {}

    def load(self, name: str) -> np.ndarray:
        """A raster by its name. Raises SceneError."""
        if name not in self.kept:
            message.write(self.out, {"need": name})  # type: ignore[arg-type]
            answer = message.read(self.source, 1 << 40)  # type: ignore[arg-type]
            if "problem" in answer:
                raise SceneError(*answer["problem"])
            self.kept[name] = answer["raster"]
        return self.kept[name]


def answer(order: dict, proofs: Proofs, cache: Cache, rasters: Rasters) -> dict[str, Any]:
    """The picture that was ordered, or why there is none, in words."""
    try:
        scene = read_scene(order["document"])
        posts = min(scene.plot.posts, POSTS)
        build = Build(scene, scene.plot.grid(posts), cache, rasters)
        size = order["height"], order["width"]
        return {"picture": proofs.picture(build, Shot(**order["shot"]), size, order["passes"])}
    except SceneError as e:
        return {"problem": [e.message, e.path, e.advice]}
    except MemoryError:
        return {"problem": ["There is not enough memory for this picture.", "", "Free some."]}


def main() -> None:
    """Answers until nobody asks any more."""
    source = os.fdopen(os.dup(0), "rb", buffering=1 << 16)
    out = os.fdopen(os.dup(1), "wb", buffering=1 << 16)
    os.dup2(2, 1)
    os.nice(3)
    proofs, cache, rasters = Proofs(), Cache(CACHE_BYTES), PipedRasters(source, out)
    while True:
        try:
            order = message.read(source, 1 << 40)  # type: ignore[arg-type]
            message.write(out, answer(order, proofs, cache, rasters))  # type: ignore[arg-type]
        except (EOFError, BrokenPipeError):
            return
