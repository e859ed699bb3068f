"""What a fresh install would make a person wait for, made ahead: compiled kernels, then pictures of
the cabinet. Run beside the server, giving way to all else: python -m sow.warm
"""

import contextlib
import fcntl
import os
import tempfile
from pathlib import Path
from typing import Any

from .core.air.base import airs
from .core.air.light_of import DRAFT_ROWS
from .core.build import Build
from .core.cabinet import portrait
from .core.cache import Cache
from .core.errors import SceneError
from .core.formats.folder import open_scene
from .core.grow import grow
from .core.land.base import landforms, processes
from .core.scene import Scene, read_scene
from .core.settings import settings
from .core.survey.sheets import sheets
from .core.version import version

POSTS = 65
SAMPLE = Path(__file__).parents[2] / "samples" / "brackenhope.json"
NOISE = {"id": "below", "name": "Below", "kind": "noise", "height_m": 60, "feature_m": 200}


def trial(entry: dict[str, Any] | None = None) -> Scene:
    """A small scene with noise and one entry upon it. Raises SceneError where the entry needs more,
    such as a line.
    """
    land = [NOISE, entry] if entry else [NOISE]
    plot = {"width_m": 400, "depth_m": 400, "posts": POSTS}
    return read_scene({"name": "Ahead", "plot": plot, "land": land})


def lit() -> Scene:
    """A small scene with every kind of cloud and everything that stands in the air."""
    light = {"clouds": 50, "layer": 50, "veil": 50, "bank": 50}
    air = [{"kind": kind, "id": kind, "name": kind} for kind in airs.models]
    return read_scene({**trial().model_dump(mode="json"), "light": light, "air": air})


def compile_land() -> None:
    """Runs every landform, process and survey sheet once."""
    for kind in [*landforms.models, *processes.models]:
        with contextlib.suppress(SceneError):
            scene = trial({"id": "one", "name": "One", "kind": kind})
            Build(scene, scene.plot.grid(), Cache()).heights  # noqa: B018
    scene = trial()
    build = Build(scene, scene.plot.grid(), Cache())
    for sheet in sheets.values():
        with contextlib.suppress(SceneError):
            sheet.make(build.site("planting"))


def compile_rest() -> None:
    """Makes a sky with all that stands in the air, and the sample with its files."""
    bright = lit()
    air = Build(bright, bright.plot.grid(), Cache())
    air.in_air()
    air.daylight(DRAFT_ROWS)
    scene, rasters = open_scene(SAMPLE)
    with tempfile.TemporaryDirectory() as folder:
        grow(scene, rasters, Path(folder) / "files", 129)


def compile_kernels() -> None:
    """Compiles what is not compiled yet; the compiled kernels lie beside their files."""
    if mark().exists():
        return
    compile_land()
    compile_rest()
    mark().parent.mkdir(exist_ok=True)
    mark().touch()


def read_kernels() -> None:
    """Brings the kernels of landforms and processes from their files into this process, so that
    no first use waits for it; does nothing where they are not compiled yet.
    """
    if mark().exists():
        compile_land()


def mark() -> Path:
    """The file that tells that the kernels of these sources are compiled."""
    beside = os.environ.get("NUMBA_CACHE_DIR") or Path(__file__).parent / "__pycache__"
    return Path(beside) / f"kernels-{version()}"


def main() -> None:
    """Makes everything ahead, unless another process does so."""
    folder = settings().cache or Path(tempfile.mkdtemp(prefix="sow-ahead-"))
    folder.mkdir(parents=True, exist_ok=True)
    with open(folder / "ahead.lock", "w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return
        compile_kernels()
        portrait.all_kinds()


if __name__ == "__main__":
    main()
