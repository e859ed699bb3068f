"""Whole scenes: large ones, the demo, memory, histories of ten thousand steps."""

import json
import statistics
import subprocess
import sys
import time
from pathlib import Path

import numpy as np

from bench.told import pair


def large():
    """Land of nine entries on 4097 x 4097 posts: seconds, and memory at its peak against the bytes
    of one grid.
    """
    code = (
        "import resource, time; from sow.core.build import Build; from sow.core.cache "
        "import Cache; from sow.core.cabinet import lands; from sow.core.scene import "
        "read_scene\n"
        "s = read_scene(lands.text('alpine-ridge')); t = time.perf_counter(); b = Build(s, "
        "s.plot.grid(4097), Cache(1 << 30)); b.heights\n"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss, time.perf_counter() - t)"
    )
    peak, seconds = map(
        float,
        subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=True
        ).stdout.split(),
    )
    yield {
        "name": f"alpine ridge on 4097, peak {peak / 2**20:.2f} GB",
        "seconds": round(seconds, 2),
        "against": "one grid of floats, 67 MB",
        "ratio": round(peak * 1024 / (4097**2 * 4), 1),
        "unit": "times as much",
    }


def demo():
    """The demo scene on its view grid, step by step."""
    from sow.core.build import Build
    from sow.core.build.far_land import far_land
    from sow.core.cache import Cache
    from sow.core.formats.folder import open_scene

    scene, rasters = open_scene(Path("samples/brackenhope.json"))
    runs = []
    for _ in range(4):
        b = Build(scene, scene.plot.view_grid(), Cache(), rasters)
        far_land(b)
        b.ground()
        count = sum(len(b.plants(i)) for i in range(len(scene.planting)))
        b.plant_cover()
        runs.append(b.seconds)
    total = statistics.median(sum(r.values()) for r in runs[1:])
    for step in runs[0]:
        seconds = statistics.median(r[step] for r in runs[1:])
        yield {
            "name": f"demo build: {step}",
            "seconds": round(seconds, 4),
            "against": "the whole build",
            "ratio": round(seconds / total, 3),
            "unit": "of the whole",
        }
    yield {
        "name": f"demo build: all, {count:,} plants",
        "seconds": round(total, 4),
        "against": None,
        "ratio": None,
        "unit": "",
    }


def memory():
    """Peak memory of a process that builds the demo on its full grid, against the bytes of its
    plants and heights.
    """
    code = (
        "import resource; from pathlib import Path; from sow.core.build import Build; from "
        "sow.core.cache import Cache\n"
        "from sow.core.formats.folder import open_scene; s, r = "
        "open_scene(Path('samples/brackenhope.json'))\n"
        "b = Build(s, s.plot.grid(), Cache(), r); b.ground(); n = sum(len(b.plants(i)) for "
        "i in range(len(s.planting)))\n"
        "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss, n * 54 + b.heights.nbytes)"
    )
    start = time.perf_counter()
    peak, least = map(
        int,
        subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=True
        ).stdout.split(),
    )
    yield {
        "name": f"memory at peak, full demo: {peak / 1024:.0f} MB",
        "seconds": round(time.perf_counter() - start, 3),
        "against": f"its heights and plants alone, {least / 2**20:.0f} MB",
        "ratio": round(peak * 1024 / least, 2),
        "unit": "times as much",
    }


def history():
    """A scene of ten thousand revisions opened against one of ten; what a stroke takes in the
    store.
    """
    import psycopg2
    from tests.served import ask, server

    server()
    document = json.loads(Path("samples/brackenhope.json").read_text())
    state = ask("POST", "/api/scenes", {"document": document})[1]
    ids = [state["id"], ask("POST", f"/api/scenes/{state['id']}/duplicates")[1]["id"]]
    with psycopg2.connect(server().cluster.url) as c, c.cursor() as q:
        for scene, count in zip(ids, (9, 9999)):
            q.execute("SELECT head FROM scene WHERE id = %s", (scene,))
            head = q.fetchone()[0]
            q.execute("SELECT max(id) FROM revision")
            top = q.fetchone()[0]
            q.execute(
                """INSERT INTO revision (id, scene_id, parent, label, note, document,
                    made) SELECT %s + g, %s, CASE WHEN g = 1 THEN %s ELSE %s + g - 1 END, 'step',
                    '', (SELECT document FROM revision WHERE id = %s), now()
                FROM generate_series(1, %s) g""",
                (top, scene, head, top, head, count),
            )
            q.execute("SELECT setval(pg_get_serial_sequence('revision', 'id'), %s)", (top + count,))
            q.execute(
                "UPDATE scene SET head = %s, tip = %s WHERE id = %s",
                (top + count, top + count, scene),
            )
    for name, path in (
        ("opened", ""),
        ("its newest steps listed", "/history"),
        ("undone and redone", None),
    ):

        def work(scene):
            if path is None:
                ask("POST", f"/api/scenes/{scene}/undo")
                ask("POST", f"/api/scenes/{scene}/redo")
            else:
                ask("GET", f"/api/scenes/{scene}{path}")

        many, few = pair(lambda: work(ids[1]), lambda: work(ids[0]), 15)
        yield {
            "name": f"ten thousand revisions: {name}",
            "seconds": round(many, 5),
            "against": "ten revisions",
            "ratio": round(many / few, 2),
            "unit": "times as long",
        }
    state = ask(
        "POST",
        "/api/scenes",
        {
            "document": {
                "name": "b",
                "plot": {"width_m": 1600, "depth_m": 1600, "posts": 1025},
                "land": [
                    {"id": "n", "name": "n", "kind": "noise"},
                    {"id": "h", "name": "h", "kind": "hand", "posts": 1025},
                ],
            }
        },
    )[1]
    usage = lambda: ask("GET", f"/api/scenes/{state['id']}/usage")[1]
    before = usage()
    rng = np.random.default_rng(1)
    start = time.perf_counter()
    for k in range(40):
        e, n = rng.uniform(100, 1500, 2)
        ask(
            "POST",
            f"/api/scenes/{state['id']}/strokes/u{k}",
            {
                "seq": 0,
                "base": state["revision"],
                "entry": "h",
                "brush": {"tool": "raise", "size_m": 30, "strength_m": 3},
                "points": [[e + 4 * i, n + 2 * i, 0.05] for i in range(40)],
            },
        )
        state = ask("POST", f"/api/scenes/{state['id']}/strokes/u{k}/end", {})[1]
    after, seconds = usage(), (time.perf_counter() - start) / 40
    size = (after["documents"] + after["rasters"] - before["documents"] - before["rasters"]) / 40
    yield {
        "name": f"a stroke of 40 points in the store: {size / 1024:.1f} kB",
        "seconds": round(seconds, 4),
        "against": "the landform's grid, 4 bytes a post",
        "ratio": round(size / (4 * 1025 * 1025), 4),
        "unit": "of its bytes",
    }
