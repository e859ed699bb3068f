"""The files of the demo: how long each takes beside what they are made from."""

import json
import tempfile
from pathlib import Path

POSTS = 513


def grow():
    """The demo grown at 513 posts, as `./sow grow` does it, and each of its writers."""
    from sow.core.formats.folder import open_scene
    from sow.core.grow import grow as write

    scene, rasters = open_scene("samples/brackenhope.json")
    with tempfile.TemporaryDirectory() as folder:
        write(scene, rasters, Path(folder) / "first", 129)  # kernels and kinds are there afterwards
        out = Path(folder) / "files"
        write(scene, rasters, out, POSTS)
        report = json.loads((out / "report.json").read_text())
    whole = report["seconds_total"]
    yield {
        "name": f"grow of the demo at {POSTS}",
        "seconds": whole,
        "against": "15 s wanted",
        "ratio": round(15 / whole, 2),
        "unit": "times faster",
    }
    wanted = {"plants": 1.5, "scene": 4, "planting": 3, "ground": 2}
    for name, most in wanted.items():
        seconds = report["seconds"][f"write {name}"]
        yield {
            "name": f"of that: {name}",
            "seconds": seconds,
            "against": f"{most} s wanted",
            "ratio": round(most / seconds, 2),
            "unit": "times faster",
        }
