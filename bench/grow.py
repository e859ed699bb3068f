"""The files of the demo: how long each takes beside what they are made from."""

import json
import tempfile
from pathlib import Path

from bench.told import wanted

POSTS = 513


def grow():
    """The demo grown at 513 posts, as `./sow grow` does it, and each of its writers."""
    from sow.core.cache import Cache
    from sow.core.formats.folder import open_scene
    from sow.core.grow import grow as write

    scene, rasters = open_scene("samples/brackenhope.json")
    cache = Cache(8 << 30)
    with tempfile.TemporaryDirectory() as folder:
        write(scene, rasters, Path(folder) / "first", 129)  # kernels and kinds are there afterwards
        whole = _report(write, scene, rasters, Path(folder) / "files", cache)["seconds_total"]
        yield wanted(f"grow of the demo at {POSTS}", whole, 15)
        # each alone: in the whole two are written beside each other
        for name, most in {"plants": 1.5, "scene": 4, "planting": 3, "ground": 2}.items():
            report = _report(write, scene, rasters, Path(folder) / name, cache, [name])
            yield wanted(f"of that: {name}", report["seconds"][f"write {name}"], most)


def _report(write, scene, rasters, out: Path, cache, only: list[str] | None = None) -> dict:
    write(scene, rasters, out, POSTS, cache=cache, only=only)
    return json.loads((out / "report.json").read_text())
