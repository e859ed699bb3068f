"""A land grown by tiles into a folder; what is there already is kept."""

import io
import json
import shutil
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..core.build import Rasters
from ..core.errors import SceneError
from ..core.formats.package import write_package
from ..core.scene import Scene
from ..core.tiles.cut import Cut
from ..core.tiles.files import TileOrder, name_of, write_index
from ..core.tiles.whole import Whole
from ..workers.pool import Pool
from . import tasks

POST_BYTES = 14  # of heights and weights, packed, in the mean of lands that were measured


def grow_tiles(
    scene: Scene,
    rasters: Rasters,
    out: Path,
    order: TileOrder,
    pool: Pool,
    tell: Callable[[int, int], None] = lambda done, of: None,
    check: Callable[[], None] = lambda: None,
) -> dict[str, Any]:
    """Every tile of a scene's plot into `out`, with tiles.json; gives a report.

    Tiles that lie there whole and belong to the same scene and order are not grown again, so that
    what was ended goes on. Raises SceneError before anything is written when the scene can't be
    built or the disk is too small.
    """
    began = time.perf_counter()
    cut = Cut.of(scene.plot, order.posts, order.spacing_m)
    _refuse_without_room(out, cut)
    zipped = io.BytesIO()
    write_package(scene, rasters, zipped)
    package = pool.held(zipped.getvalue())
    values = order.model_dump()
    asked = pool.client.submit(tasks.whole, package, values)
    found: Whole = pool.awaited(asked, check)
    key = order.key(found)
    whole_s = time.perf_counter() - began
    out.mkdir(parents=True, exist_ok=True)
    every = [(row, column) for row in range(cut.down) for column in range(cut.across)]
    lines = {place: line for place in every if (line := _kept(out, place, key)) is not None}
    missing = [place for place in every if place not in lines]
    tell(len(lines), len(every))
    for place, files in pool.each(tasks.tile, (package, values, asked), missing, check):
        lines[place] = _keep(out, place, files)
        tell(len(lines), len(every))
    told = [{k: v for k, v in lines[p].items() if k != "key"} for p in every]
    write_index(out, found, cut, order, told)
    return {
        "tiles": len(every),
        "grown": len(missing),
        "posts": [cut.grid.nx, cut.grid.ny],
        "plants": sum(line.get("count", 0) for line in told),
        "whole_seconds": round(whole_s, 2),
        "seconds": round(time.perf_counter() - began, 2),
    }


def _refuse_without_room(out: Path, cut: Cut) -> None:
    """Raises SceneError when the files will not fit on the disk."""
    wanted = cut.across * cut.down * cut.posts**2 * POST_BYTES
    there = next(p for p in [out, *out.absolute().parents] if p.exists())
    free = shutil.disk_usage(there).free
    if wanted > free:
        raise SceneError(
            f"About {wanted / 1e9:,.1f} GB will be written, and {free / 1e9:,.1f} GB are free.",
            "out",
            "Make room, or put the posts farther apart.",
        )


def _line(out: Path, place: tuple[int, int]) -> Path:
    return out / f"tile-{name_of(*place)}.json"


def _kept(out: Path, place: tuple[int, int], key: str) -> dict[str, Any] | None:
    """What was said of a tile that lies there whole and up to date, or None."""
    try:
        line = json.loads(_line(out, place).read_text())
    except (OSError, ValueError):
        return None
    if line.get("key") != key:
        return None
    files = [*line["heights"].values(), *line.get("weights", ())]
    files += [line[name] for name in ("water", "plants") if name in line]
    return line if all((out / name).exists() for name in files) else None


def _keep(out: Path, place: tuple[int, int], files: dict[str, bytes]) -> dict[str, Any]:
    """Writes a tile; what says that it is there comes last."""
    _line(out, place).unlink(missing_ok=True)
    for name, data in files.items():
        if name != "line":
            (out / name).write_bytes(data)
    begun = out / f"{_line(out, place).name}.part"
    begun.write_bytes(files["line"])
    begun.replace(_line(out, place))
    return json.loads(files["line"])
