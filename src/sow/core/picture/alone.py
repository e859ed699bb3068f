"""Stills taken one after another: by the command line, or in a process of their own beside other
work (`python -m sow.core.picture.alone PACKAGE OUT QUALITY [layers]`), since the renderer fills
much of a machine and sets itself up for the whole of its process.
"""

import sys
import tempfile
from pathlib import Path
from typing import Any

from ..build import Build
from ..cache import Cache
from ..errors import SceneError
from ..formats.folder import open_scene
from ..formats.raster import file_name
from ..formats.stillfiles import write_still
from ..shots.shot import Shot
from .order import Order
from .still import Progress, Still

CACHE_BYTES = 6 << 30


def take(build: Build, shot: Shot, order: Order, out: Path, name: str) -> list[str]:
    """One still into a folder; gives the names of its files. Tells how far it is on stderr."""
    with tempfile.TemporaryDirectory() as kept:
        still = Still(build, shot, order, Path(kept), tell=_tell)
        still.run()
        return write_still(still, out, name)


def _tell(told: Progress) -> None:
    left = "" if told.left is None else f", {told.left:.0f} s left"
    noise = "" if told.noise is None else f", noise {100 * told.noise:.1f} %"
    print(f"  {told.doing}: {100 * told.share:.0f} %{left}{noise}", file=sys.stderr)


def main(package: str, out: str, quality: Any, *more: str) -> int:
    """Every shot of a scene; gives the exit status."""
    try:
        scene, rasters = open_scene(package)
        build = Build(scene, scene.plot.grid(), Cache(CACHE_BYTES), rasters)
        taken: set[str] = set()
        for shot in scene.shots:
            order = Order(
                width_px=shot.width_px,
                height_px=shot.height_px,
                quality=quality,
                layers="layers" in more,
            )
            take(build, shot, order, Path(out), file_name(shot.name, taken))
        return 0
    except SceneError as e:
        print(e, file=sys.stderr)
        return 2


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
