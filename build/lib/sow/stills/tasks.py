"""What workers do: frames of moving pictures, and passes of stills. Each task is whole in itself,
so that it may be done by any worker, and done again where a worker was lost.
"""

import hashlib
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from ..core.build import Build
from ..core.cache import Cache
from ..core.formats.folder import open_scene
from ..core.formats.stillfiles import write_frame
from ..core.picture.clip import Frames
from ..core.picture.order import Order
from ..core.picture.still import Laid, Still, Tile
from ..core.shots.shot import Shot

CACHE_BYTES = 2 << 30


@dataclass
class Held:
    """What a worker holds of the picture that it worked on last: the next task takes it up."""

    key: str
    work: Any


_builds: dict[str, Build] = {}
_held: list[Held] = []


def _build(package: bytes) -> Build:
    """The build of a scene in a zip; only the last is kept."""
    digest = hashlib.sha256(package).hexdigest()
    if digest not in _builds:
        _builds.clear()
        with tempfile.NamedTemporaryFile(suffix=".zip") as file:
            file.write(package)
            file.flush()
            scene, rasters = open_scene(file.name)
            build = Build(scene, scene.plot.grid(), Cache(CACHE_BYTES), rasters)
            build.ground()
            for index in range(len(scene.planting)):
                build.plants(index)  # rasters are read before their file goes
        _builds[digest] = build
    return _builds[digest]


def _work(key: str, make: Any) -> Any:
    if not _held or _held[0].key != key:
        _held.clear()
        _held.append(Held(key, make()))
    return _held[0].work


def frame(package: bytes, shot: dict, order: dict, k: int) -> dict[str, bytes]:
    """The files of the k-th frame of a moving picture, by suffix."""
    key = f"frame {hashlib.sha256(package).hexdigest()} {shot} {order}"
    make = lambda: Frames(_build(package), Shot(**shot), Order(**order))
    frames: Frames = _work(key, make)
    with tempfile.TemporaryDirectory(prefix="sow-frame-") as folder:
        names = write_frame(frames.still(k), Path(folder), "frame")
        return {Path(n).suffix: (Path(folder) / n).read_bytes() for n in names}


def passes(package: bytes, shot: dict, order: dict, part: str, todo: list[Tile]) -> list[Laid]:
    """Passes of tiles of a still's part: light with the air before it, and depth."""
    key = f"still {hashlib.sha256(package).hexdigest()} {shot} {order}"

    def make() -> Still:
        folder = Path(tempfile.mkdtemp(prefix="sow-passes-"))
        return Still(_build(package), Shot(**shot), Order(**order), folder)

    still: Still = _work(key, make)
    own = next(p for p in still.parts if p.name == part)
    return list(still.here(own, todo))


def shown_small(png: bytes, most_px: int) -> bytes:
    """A picture as a small JPEG."""
    picture = np.asarray(cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_COLOR))
    k = min(1.0, most_px / max(picture.shape[:2]))
    size = max(1, round(picture.shape[1] * k)), max(1, round(picture.shape[0] * k))
    small = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
    return cv2.imencode(".jpg", small, [cv2.IMWRITE_JPEG_QUALITY, 88])[1].tobytes()
