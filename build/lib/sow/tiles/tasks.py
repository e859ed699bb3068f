"""What workers do of a land: what must be known of the whole, and each tile. Each task is whole in
itself, so that it may be done by any worker, and done again where a worker was lost.
"""

import hashlib
import json
import tempfile
from pathlib import Path
from typing import Any

from ..core.formats.folder import open_scene
from ..core.scene import Scene
from ..core.tiles.cut import Cut
from ..core.tiles.files import TileOrder, write_tile
from ..core.tiles.tile import tile_of
from ..core.tiles.whole import Whole, whole_of

_scenes: dict[str, tuple[Scene, Any, Any]] = {}


def _opened(package: bytes) -> tuple[Scene, Any]:
    """The scene of a zip with its rasters; only the last is kept, with the file they are in."""
    digest = hashlib.sha256(package).hexdigest()
    if digest not in _scenes:
        _scenes.clear()
        file = tempfile.NamedTemporaryFile(suffix=".zip")  # noqa: SIM115  (as long as it is held)
        file.write(package)
        file.flush()
        _scenes[digest] = (*open_scene(file.name), file)
    return _scenes[digest][:2]


def whole(package: bytes, order: dict[str, Any]) -> Whole:
    """What tiles must know of the whole plot."""
    scene, rasters = _opened(package)
    asked = TileOrder(**order)
    cut = Cut.of(scene.plot, asked.posts, asked.spacing_m)
    return whole_of(scene, rasters, cut.grid.spacing, asked.coarse_posts)


def tile(
    package: bytes, order: dict[str, Any], found: Whole, place: tuple[int, int]
) -> dict[str, bytes]:
    """The files of a tile by name; `tile-ROW-COLUMN.json` is what tiles.json says of it."""
    scene, rasters = _opened(package)
    asked = TileOrder(**order)
    cut = Cut.of(scene.plot, asked.posts, asked.spacing_m)
    made = tile_of(found, rasters, cut, *place, planted=asked.plants)
    with tempfile.TemporaryDirectory(prefix="sow-tile-") as folder:
        line = write_tile(Path(folder), made, found, cut, *place, asked)
        files = {path.name: path.read_bytes() for path in Path(folder).iterdir()}
    return {**files, "line": json.dumps({"key": asked.key(found), **line}).encode()}
