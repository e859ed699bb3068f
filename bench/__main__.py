"""Benchmarks as medians and ratios measured in one run, so that the machine's mood cancels out."""

import argparse
import itertools
import json
import resource
import statistics
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
from numba import njit, prange

from bench.first_use import first_use
from bench.grow import grow
from bench.view import view

ROUNDS = 5


def median(work, rounds=ROUNDS) -> float:
    work()
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def pair(ours, theirs, rounds=5) -> tuple[float, float]:
    """Medians of two works taken in turn, so that both meet the machine in the same mood."""
    ours(), theirs()
    mine, other = [], []
    for _ in range(rounds):
        for work, times in ((ours, mine), (theirs, other)):
            start = time.perf_counter()
            work()
            times.append(time.perf_counter() - start)
    return statistics.median(mine), statistics.median(other)


def row(name, seconds, against=None, other=None, unit="times faster"):
    return {
        "name": name,
        "seconds": round(seconds, 6),
        "against": against,
        "ratio": None if other is None else round(other / seconds, 3),
        "unit": unit,
    }


def noise():
    """8 octaves on 2049 x 2049 posts against a C++ library's Perlin fBm on the same grid, all its
    SIMD and one thread as it comes.
    """
    from pyfastnoiselite.pyfastnoiselite import FastNoiseLite, FractalType, NoiseType

    from sow.core import noise as ours
    from sow.core.plot import Plot

    grid = Plot(width_m=2000, depth_m=2000, posts=2049).grid()
    theirs = FastNoiseLite(seed=3)
    theirs.noise_type = NoiseType.NoiseType_Perlin
    theirs.fractal_type = FractalType.FractalType_FBm
    theirs.fractal_octaves, theirs.frequency = 8, 1 / 400
    xs, ys = np.meshgrid(grid.xs().astype(np.float32), grid.ys().astype(np.float32))
    coords = np.ascontiguousarray(np.stack([xs.ravel(), ys.ravel()]))
    for name, more, against in (
        ("noise 8 octaves 2049", {}, "pyfastnoiselite Perlin fBm"),
        ("warped noise 8 octaves 2049", {"warp_m": 60}, "pyfastnoiselite Perlin fBm, not warped"),
    ):
        mine, other = pair(
            lambda: ours.fbm(grid, 400, 8, seed=3, **more), lambda: theirs.gen_from_coords(coords)
        )
        yield row(name, mine, against, other)


@njit(parallel=True, cache=True)
def _copy(a, b):
    for r in prange(a.shape[0]):
        for c in range(a.shape[1]):
            b[r, c] = a[r, c]


def slope():
    """Slope on 4097 x 4097 posts against a parallel copy of the grid: how near to the memory's own
    speed.
    """
    from sow.core import noise as ours
    from sow.core.plot import Plot
    from sow.core.survey.slope import slope as measure

    grid = Plot(width_m=4000, depth_m=4000, posts=4097).grid()
    h = ours.fbm(grid, 500, 6) * np.float32(80)
    out = np.empty_like(h)
    yield row(
        "slope 4097",
        median(lambda: measure(h, grid.spacing)),
        "parallel copy of the grid",
        median(lambda: _copy(h, out)),
        "of a copy's speed",
    )


@njit(cache=True)
def _darts(width, radius, wanted, most, seed):
    """Dart throwing with a background grid (Mitchell 1987; grid as in Bridson 2007): one thread, as
    it must be.
    """
    cell = radius / np.sqrt(2)
    n = int(width / cell) + 1
    grid = np.full((n + 4, n + 4), -1, np.int64)
    x, y = np.empty(wanted), np.empty(wanted)
    np.random.seed(seed)
    done = 0
    for _ in range(most):
        px, py = np.random.random() * width, np.random.random() * width
        i, j = int(px / cell) + 2, int(py / cell) + 2
        ok = grid[i, j] < 0
        for a in range(i - 2, i + 3):
            for b in range(j - 2, j + 3):
                k = grid[a, b]
                if ok and k >= 0 and (x[k] - px) ** 2 + (y[k] - py) ** 2 < radius * radius:
                    ok = False
        if ok:
            grid[i, j] = done
            x[done], y[done] = px, py
            done += 1
            if done == wanted:
                break
    return done


def placing():
    """A million plants against dart throwing of one kind to the same number and distance; eight
    kinds with rules and all distances; how it grows; memory.
    """
    from sow.core.build import Build
    from sow.core.cache import Cache
    from sow.core.planting.place import place
    from sow.core.scene import read_scene

    count = [0]

    def ours():
        count[0] = len(place(1.0, 0.7, 5, (1000.0, 1000.0))[0])

    ours()
    seconds, darts = pair(ours, lambda: _darts(1000.0, 0.7, count[0], 60_000_000, 1), 3)
    yield row(
        f"placing {count[0]:,} plants of one kind",
        seconds,
        "dart throwing with a background grid (numba)",
        darts,
    )
    kinds = (
        "heather",
        "bilberry",
        "bracken",
        "moor-grass",
        "fescue",
        "tormentil",
        "cobble",
        "gorse",
    )
    apart = (0.5, 0.4, 0.8, 0.3, 0.25, 0.25, 0.3, 1.1)
    mix = [
        {"kind": k, "share": s, "apart_m": a}
        for k, s, a in zip(kinds, (15, 10, 8, 30, 20, 10, 5, 2), apart)
    ]
    rules = [
        {"kind": "slope", "low": 0, "high": 40, "soft": 8},
        {"kind": "patches", "size_m": 80, "share": 85},
        {"kind": "wetness", "low": 0, "high": 14, "soft": 2},
    ]
    document = {
        "name": "p",
        "plot": {"width_m": 1000, "depth_m": 1000, "posts": 1025},
        "land": [{"id": "n", "name": "n", "kind": "noise", "height_m": 60, "feature_m": 400}],
        "planting": [
            {
                "id": "s",
                "name": "s",
                "mix": mix,
                "density": 122,
                "apart_m": 0.3,
                "where": rules,
                "stance": {"edge": 60},
            }
        ],
    }
    scene = read_scene(document)
    build = Build(scene, scene.plot.view_grid(), Cache(4 << 30))
    site = build.site()
    build.plants(0)
    count[0] = 0

    def sown():
        fresh = Build(
            scene.model_copy(
                update={
                    "planting": [
                        scene.planting[0].model_copy(update={"density": 122 + 1e-4 * count[0]})
                    ]
                }
            ),
            build.grid,
            build.cache,
        )
        count[0] += 1
        site._kept.clear()
        return fresh.plants(0)

    plants = sown()
    seconds, darts = pair(sown, lambda: _darts(1000.0, 0.7, 1_000_000, 60_000_000, 1), 3)
    yield row(
        f"sowing {len(plants):,} of eight kinds, rules, all distances, stance",
        seconds * 1e6 / len(plants),
        "dart throwing of one kind, both for a million",
        darts,
    )
    size = sum(v.nbytes for v in vars(plants).values()) / len(plants)
    yield {
        "name": f"memory: {size:.0f} bytes a plant",
        "seconds": 0.0,
        "against": "",
        "ratio": None,
        "unit": "",
    }
    times = {}
    for wide in (316.0, 1000.0, 2236.0):
        n = len(place(1.0, apart, 5, (wide, wide), shares=[m["share"] for m in mix])[0])
        times[n] = median(
            lambda: place(1.0, apart, 5, (wide, wide), shares=[m["share"] for m in mix]), 3
        )
    least = min(times)
    for n, t in times.items():
        yield {
            "name": f"placing {n:,} of eight kinds",
            "seconds": round(t, 4),
            "against": f"as many at the speed of {least:,}",
            "ratio": round(t / n / (times[least] / least), 2),
            "unit": "times as long",
        }
    x, y, *_ = place(1.0, apart, 5, (1000.0, 1000.0), shares=[m["share"] for m in mix])
    blocks = np.histogram2d(x, y, 10, ((0, 1000), (0, 1000)))[0] / 1e4
    yield {
        "name": f"density: {len(x) / 1e6:.4f} of the wish, each hectare {blocks.min():.3f} to "
        f"{blocks.max():.3f}",
        "seconds": 0.0,
        "against": "",
        "ratio": None,
        "unit": "",
    }


def gdal_slope():
    """Slope on 4097 x 4097 posts against `gdaldem slope` (by rasterio's GDAL where the tool is
    missing: told), net of its reading and writing.
    """
    import shutil
    import tempfile

    import tifffile

    from sow.core import noise as ours
    from sow.core.plot import Plot
    from sow.core.survey.slope import slope as measure

    tool = shutil.which("gdaldem")
    if tool is None:
        print(
            "gdaldem is not installed (apt-get install gdal-bin); its row is left out",
            file=sys.stderr,
        )
        return
    grid = Plot(width_m=4000, depth_m=4000, posts=4097).grid()
    h = ours.fbm(grid, 500, 6) * np.float32(80)
    with tempfile.TemporaryDirectory() as folder:
        source, out = Path(folder) / "h.tif", Path(folder) / "s.tif"
        tifffile.imwrite(
            source,
            h,
            metadata=None,
            extratags=[
                (33550, "d", 3, (grid.spacing, grid.spacing, 0.0), False),
                (33922, "d", 6, (0, 0, 0, 0.0, 4000.0, 0.0), False),
            ],
        )
        run = lambda *words: subprocess.run(words, check=True, capture_output=True)
        slope_s = median(lambda: run(tool, "slope", str(source), str(out), "-q"), 3)
        copy_s = median(lambda: run(shutil.which("gdal_translate"), "-q", str(source), str(out)), 3)
    yield row(
        "slope 4097",
        median(lambda: measure(h, grid.spacing)),
        "gdaldem slope, net of reading and writing",
        max(slope_s - copy_s, 1e-6),
    )


def drainage():
    """Pits, routing and contributing area on 2049 x 2049 posts of worn land against fastscapelib's
    multiple flow with its own filling of pits.
    """
    import fastscapelib as fs

    from sow.core import noise as ours
    from sow.core.plot import Plot
    from sow.core.survey.drainage import contributing_area

    grid = Plot(width_m=4000, depth_m=4000, posts=2049).grid()
    h = ours.fbm(grid, 900, 9, 0.45) * np.float32(80)
    raster = fs.RasterGrid([2049, 2049], [grid.spacing] * 2, fs.NodeStatus.FIXED_VALUE)
    graph = fs.FlowGraph(raster, [fs.PFloodSinkResolver(), fs.MultiFlowRouter(1.0)])
    deep, out = h.astype(np.float64), np.empty(h.shape)

    def theirs():
        graph.update_routes(deep)
        graph.accumulate(out, 1.0)

    mine, other = pair(lambda: contributing_area(h, grid.spacing), theirs, 3)
    yield row("pits, routing, area 2049", mine, "fastscapelib, multiple flow", other)


def wear():
    """Wear by water to 2049 posts, coarse to fine: against itself at 1025, and against the same
    number of steps taken on the fine grid.
    """
    from sow.core.build import Build
    from sow.core.cache import Cache
    from sow.core.land import wear as wearing
    from sow.core.sample import levels
    from sow.core.scene import read_scene

    scene = read_scene(
        {
            "name": "w",
            "plot": {"width_m": 2000, "depth_m": 2000, "posts": 2049},
            "land": [
                {"id": "n", "name": "n", "kind": "noise"},
                {"id": "w", "name": "w", "kind": "wear"},
            ],
        }
    )

    def seconds(posts):
        def run():
            b = Build(scene, scene.plot.grid(posts), Cache())
            b.land_step(1)
            start = time.perf_counter()
            b.heights
            return time.perf_counter() - start

        run()
        return statistics.median(run() for _ in range(3))

    small, large = seconds(1025), seconds(2049)
    yield row(
        "wear by water 2049",
        large,
        "itself at 1025",
        small,
        "of its time: at least 1 / 4.5 = 0.22 is wanted",
    )
    # one step on the fine grid is timed and counted as often as all levels step
    b = Build(scene, scene.plot.grid(2049), Cache())
    h = b.land_step(1).heights.copy()
    ease = np.ones((2049, 2049), np.float32)
    start = time.perf_counter()
    wearing.run(h, np.zeros_like(h), ease, None, b.grid.spacing, 2, 0.02, scene.land[1], None)
    steps = sum(
        wearing.STEPS[min(i, len(wearing.STEPS) - 1)] for i in range(len(levels((2049, 2049))))
    )
    yield row(
        "wear by water 2049",
        large,
        f"the same {steps} steps taken directly",
        (time.perf_counter() - start) / 2 * steps,
    )


def drag():
    """A dragged setting of a landform to new heights on the draft grid: the core's whole part
    against the noise alone.
    """
    from sow.core import noise as ours
    from sow.core.build import Build
    from sow.core.cache import Cache
    from sow.core.scene import read_scene

    entries = [{"id": f"e{i}", "name": "e", "kind": "form", "form": "dome"} for i in range(4)] + [
        {"id": "n", "name": "n", "kind": "noise", "octaves": 9}
    ]
    document = {"name": "d", "land": entries}
    cache = Cache()
    count = [0]
    scene = read_scene(document)
    grid = scene.plot.draft_grid()
    Build(scene, grid, cache).heights

    def dragged():
        count[0] += 1
        moved = scene.model_copy(
            update={
                "land": [
                    *scene.land[:-1],
                    scene.land[-1].model_copy(update={"height_m": 50 + count[0] * 0.01}),
                ]
            }
        )
        Build(moved, grid, cache).heights

    n = scene.land[-1]
    yield row(
        "dragged noise on the draft grid",
        median(dragged, 41),
        "the noise pass alone",
        median(lambda: ours.fbm(grid, n.feature_m, n.octaves, n.gain), 41),
        "of it: at least 1 / 3 = 0.33 is wanted",
    )


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
    from sow.core.cache import Cache
    from sow.core.formats.folder import open_scene

    scene, rasters = open_scene(Path("samples/brackenhope.json"))
    runs = []
    for _ in range(4):
        b = Build(scene, scene.plot.view_grid(), Cache(), rasters)
        b.beyond()
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


def strokes():
    """From pointer to changed picture, part by part, for one chunk of a stroke in its middle;
    against copying the plot's full grid once.
    """
    from tests.page import Page
    from tests.served import ask, server

    from bench.view import SHOWN, TAKEN, asked
    from sow.core.scene import read_scene
    from sow.store import scenes
    from sow.store import strokes as kept
    from sow.web.strokes import Live

    server()
    scenes.open_store(server().cluster.url)
    for posts in (1025, 2049):
        document = {
            "name": "b",
            "plot": {"width_m": 1600, "depth_m": 1600, "posts": posts},
            "land": [
                {"id": "n", "name": "n", "kind": "noise"},
                {"id": "h", "name": "h", "kind": "hand", "posts": posts},
            ],
            "beyond": {"edge": "end"},
        }
        full = np.zeros((posts, posts), np.float32)
        copy = median(full.copy, 9)
        state = ask("POST", "/api/scenes", {"document": document})[1]
        page = Page(server().address, "quick", f"/?scene={state['id']}")
        page.settled()
        for size in (5, 200):
            brush = {"tool": "raise", "size_m": size, "strength_m": 2}
            live, n = Live(read_scene(document), "h", brush), [0]
            parts, wholes = itertools.count(), itertools.count()

            def add():
                n[0] += 1
                return live.add([[300 + 8.0 * n[0], 700.0, 0.1]])

            def keep():
                with scenes.database.connection_context():
                    kept.keep_chunk(
                        state["id"],
                        f"keep{size}",
                        next(parts),
                        state["revision"],
                        "h",
                        brush,
                        [[300, 700, 0.1]],
                    )

            def whole():
                seq = next(wholes)
                ask(
                    "POST",
                    f"/api/scenes/{state['id']}/strokes/whole{size}",
                    {
                        "seq": seq,
                        "base": state["revision"],
                        "entry": "h",
                        "brush": brush,
                        "points": [[300 + 8.0 * seq, 700, 0.1]],
                    },
                )

            rows = [
                ("heights of the rectangle", median(add, 15)),
                ("kept in the store", median(keep, 15)),
                ("there and back, both included", median(whole, 15)),
            ]
            (r0, r1, c0, c1), _ = add()
            window = f"const [r, c, m, n] = [{r0}, {c0}, {r1 - r0}, {c1 - c0}];"
            patch = statistics.median(asked(page, window + TAKEN))
            frame = statistics.median(asked(page, window + SHOWN))
            rows += [
                ("taken up by the page", patch),
                ("its picture on the face, software renderer", frame),
            ]
            for name, seconds in rows:
                yield {
                    "name": f"stroke {size} m, {posts} posts: {name}",
                    "seconds": round(seconds, 5),
                    "against": "copying the grid once",
                    "ratio": round(seconds / copy, 2),
                    "unit": "times as long",
                }
        page.close()


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


def ground():
    """Weights of 16 materials on 2049 x 2049 posts and a dragged slope band, against one pass of
    memory over the weights; what repeats.
    """
    from sow.core.build import Build
    from sow.core.cabinet import grounds
    from sow.core.cabinet.kind import linear
    from sow.core.cache import Cache
    from sow.core.scene import read_scene
    from sow.core.surface.material import weights
    from sow.core.surface.repeat import repetition
    from sow.core.surface.tiling import laid, shrunk

    families = [g.name for g in grounds.values() if g.family == g.name][:16]
    rules = [
        {"kind": "slope", "low": 22, "high": 90, "soft": 6},
        {"kind": "height", "low": 10, "high": 9999, "soft": 10},
        {"kind": "patches", "size_m": 120, "share": 40},
        {"kind": "hollows", "size_m": 60},
    ]
    document = {
        "name": "g",
        "plot": {"width_m": 2000, "depth_m": 2000, "posts": 2049},
        "land": [{"id": "n", "name": "n", "kind": "noise", "height_m": 90, "feature_m": 600}],
        "ground": [
            {
                "id": f"m{i}",
                "name": name,
                "ground": name,
                "where": [{**rules[i % 4], **({"seed": i} if i % 4 == 2 else {})}] if i else [],
            }
            for i, name in enumerate(families)
        ],
    }
    scene = read_scene(document)
    cache = Cache(4 << 30)
    count = [0]
    full = Build(scene, scene.plot.grid(2049), cache)
    site = full.site("ground")
    result = weights(scene.ground, site)
    flat = result.reshape(-1, 2049)
    other = np.empty_like(flat)

    def made():
        site._kept.clear()  # what is measured of the land is measured anew
        weights(scene.ground, site)

    mine, memory = pair(made, lambda: _copy(flat, other), 3)
    yield row(
        "weights of 16 materials 2049", mine, "one copy of the result, 269 MB", memory, "of a pass"
    )
    draft = scene.plot.draft_grid()
    Build(scene, draft, cache).ground()

    def dragged():
        count[0] += 1
        rule = scene.ground[1].where[0].model_copy(update={"low": 22 + 0.01 * count[0]})
        moved = scene.model_copy(
            update={
                "ground": [
                    scene.ground[0],
                    scene.ground[1].model_copy(update={"where": [rule]}),
                    *scene.ground[2:],
                ]
            }
        )
        np.rint(Build(moved, draft, cache).ground() * 255).astype(np.uint8).tobytes()

    yield row(
        "a slope band dragged: 16 materials as bytes, draft",
        median(dragged, 21),
        "the same copy",
        memory,
        "of a pass",
    )
    for name in ("turf", "cobbles", "scree", "sandstone", "leaf-litter"):
        g = grounds[name]
        small = shrunk(linear(g.maps()[0][..., :3]), 64)
        x, y = np.meshgrid(np.arange(640) / 16, np.arange(640) / 16)
        start = time.perf_counter()
        tiled = laid(small, x, y, 4, 0, g.directed).reshape(640, 640, 3)
        seconds = time.perf_counter() - start
        score = repetition(tiled)
        plain = repetition(np.tile(small, (10, 10, 1)))
        yield {
            "name": f"repetition of {name}: {score:.2f}",
            "seconds": round(seconds, 4),
            "against": f"plain tiling, {plain:.2f}",
            "ratio": round(plain / max(score, 1e-3), 1),
            "unit": "times less",
        }


def drawn():
    """What repeats in the drawn ground, looking straight down from 1 m to 1 km, and how long a
    dragged slope band takes to the picture.
    """
    from tests.page import Page
    from tests.served import ask, server

    from sow.core.surface.repeat import repetition

    light = {"sun_bearing": 200, "sun_height": 60, "clouds": 0, "haze_m": 400000}
    plot = {"width_m": 2000, "depth_m": 2000, "posts": 2049}
    page = None
    for name in ("turf", "cobbles", "scree", "sandstone"):
        document = {
            "name": name,
            "plot": plot,
            "light": light,
            "beyond": {"edge": "end"},
            "ground": [{"id": "g", "name": "g", "ground": name, "size_m": 4}],
        }
        state = ask("POST", "/api/scenes", {"document": document})[1]
        if page is None:
            page = Page(server().address, "soft", f"/?scene={state['id']}")
        else:
            page.go(f"/?quality=soft&scene={state['id']}")
        page.settled()
        for up in (1, 10, 100, 1000):
            start = time.perf_counter()
            picture = page.still(
                {"east": 1000, "north": 1000, "up": up, "bearing": 0, "tilt": -90, "focal": 36},
                512,
                512,
                4,
            )
            seconds = time.perf_counter() - start
            score = repetition(picture)
            # the same ground as a plain repeat at this scale
            px = max(2, round(4 / up * 512))
            plain = (
                f"plain tiling 1.00, a repeat is {px} px"
                if px < 256
                else "no whole repeat fits the picture"
            )
            yield {
                "name": f"{name} from {up} m: repetition {score:.2f}",
                "seconds": round(seconds, 3),
                "against": plain,
                "ratio": round(1 / max(score, 1e-3), 1),
                "unit": "times less",
            }
    rules = [
        {"kind": "slope", "low": 22, "high": 90, "soft": 6},
        {"kind": "height", "low": 10, "high": 9999, "soft": 10},
        {"kind": "patches", "size_m": 120, "share": 40},
        {"kind": "hollows", "size_m": 60},
    ]
    from sow.core.cabinet import grounds

    families = [g.name for g in grounds.values() if g.family == g.name][:16]
    document = {
        "name": "g",
        "plot": plot,
        "land": [{"id": "n", "name": "n", "kind": "noise", "height_m": 90, "feature_m": 600}],
        "ground": [
            {
                "id": f"m{i}",
                "name": n,
                "ground": n,
                "where": [{**rules[i % 4], **({"seed": i} if i % 4 == 2 else {})}] if i else [],
            }
            for i, n in enumerate(families)
        ],
    }
    state = ask("POST", "/api/scenes", {"document": document})[1]
    page.go(f"/?quality=sketch&scene={state['id']}")
    page.settled()
    flat = np.zeros((16 * 2049, 2049), np.float32)
    other = np.empty_like(flat)
    memory = median(lambda: _copy(flat, other))
    script = """const done = arguments[0], t = []; let k = 0;
        const next = () => { const before = sow.get().manifest, a = performance.now();
        sow.drag((d) => { d.ground[1].where[0].low = 20 + 0.1 * ++k; });
          const stop = setInterval(() => { if (sow.get().manifest === before) return;
          const shown = sow.view.shows, b1 = performance.now(); clearInterval(stop);
          const wait = setInterval(() => { if (sow.view.shows === shown) return;
            clearInterval(wait); t.push([b1 - a, performance.now() - b1]);
            if (t.length < 9) setTimeout(next, 300); else done(t); }, 2); }, 2); }; next();"""
    took = np.median(np.array(page.driver.execute_async_script(script)), 0) / 1000
    page.close()
    for name, seconds in (
        ("built and brought to the page", took[0]),
        ("drawn, software renderer", took[1]),
    ):
        yield row(
            f"a slope band dragged, 16 materials: {name}",
            seconds,
            "one copy of the weights at 2049",
            memory,
            "times as fast as one pass",
        )


def density():
    """A dragged density of one sowing among others, from the pointer to the picture, beside placing
    that sowing once; and the forecasts beside what comes.
    """
    import tempfile

    from tests.page import Page
    from tests.served import ask, server

    from sow.core.planting.place import place

    plot = {"width_m": 500, "depth_m": 500, "posts": 1025}
    document = {
        "name": "d",
        "plot": plot,
        "land": [{"id": "n", "name": "n", "kind": "noise", "height_m": 40, "feature_m": 200}],
        "ground": [{"id": "g", "name": "g"}],
        "planting": [
            {"id": "t", "name": "Birches", "mix": [{"kind": "birch"}], "density": 1, "apart_m": 2},
            {
                "id": "s",
                "name": "Heather",
                "mix": [{"kind": "heather"}],
                "density": 40,
                "apart_m": 0.5,
            },
        ],
    }
    state = ask("POST", "/api/scenes", {"document": document})[1]
    page = Page(server().address, "sketch", f"/?scene={state['id']}")
    page.settled()
    script = """const done = arguments[0], t = []; let k = 0;
        const next = () => { const before = sow.get().manifest, a = performance.now();
        sow.drag((d) => { d.planting[1].density = 40 + 0.2 * ++k; });
          const stop = setInterval(() => { if (sow.get().manifest === before) return;
          const shown = sow.view.shows, b1 = performance.now(); clearInterval(stop);
          const wait = setInterval(() => { if (sow.view.shows === shown) return;
            clearInterval(wait); t.push([b1 - a, performance.now() - b1]);
            if (t.length < 9) setTimeout(next, 300); else done(t); }, 2); }, 2); }; next();"""
    place(0.4, 0.5, 3, (500, 500))
    once = median(lambda: place(0.4, 0.5, 3, (500, 500)))
    took = np.median(np.array(page.driver.execute_async_script(script)), 0) / 1000
    page.close()
    for name, seconds in (
        ("built and brought to the page", took[0]),
        ("drawn, software renderer", took[1]),
    ):
        yield {
            "name": f"a density dragged, 100,000 plants: {name}",
            "seconds": round(float(seconds), 4),
            "against": "placing it once",
            "ratio": round(float(seconds) / once, 2),
            "unit": "times as long",
        }
    # forecasts: the second hand-over of a machine, whose pace is then known, of a land like one
    # that was built before
    document["land"][0]["seed"] = 2
    state = ask("POST", "/api/scenes", {"document": document})[1]
    _, manifest = ask("POST", f"/api/scenes/{state['id']}/builds", {"grid": "view"})
    for posts in (513, 1025):
        order = {"posts": posts, "files": {"scene": {"ground_px": 1024}}}
        _, told = ask("POST", f"/api/scenes/{state['id']}/hand-over-forecasts", order)
        _, job = ask("POST", f"/api/scenes/{state['id']}/hand-overs", order)
        while job["state"] == "running":
            time.sleep(0.2)
            _, job = ask("GET", f"/api/hand-overs/{job['id']}")
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "f.zip").write_bytes(
                ask("GET", f"/api/hand-overs/{job['id']}/files.zip")[1]
            )
            import zipfile

            megabytes = (
                sum(i.file_size for i in zipfile.ZipFile(Path(folder) / "f.zip").infolist()) / 1e6
            )
        report = job["report"]
        for what, forecast, came, _unit in (
            ("plants", told["plants"], report["plants_total"], ""),
            ("megabytes", told["megabytes"], megabytes, "MB"),
            ("seconds", told["seconds"], report["seconds_total"], "s"),
        ):
            yield {
                "name": f"hand over at {posts}: {came:,.1f} {what}",
                "seconds": report["seconds_total"],
                "against": f"forecast {forecast:,.1f}",
                "ratio": round(forecast / came, 3),
                "unit": "of what came",
            }


ALL = {
    f.__name__: f
    for f in (
        noise,
        slope,
        gdal_slope,
        drainage,
        placing,
        density,
        wear,
        drag,
        ground,
        drawn,
        strokes,
        history,
        large,
        demo,
        memory,
        view,
        grow,
        first_use,
    )
}


def main() -> int:
    parser = argparse.ArgumentParser(prog="sow bench", description=__doc__)
    parser.add_argument("--json", type=Path, metavar="FILE", help="also write the rows as JSON")
    parser.add_argument("--only", choices=ALL, metavar="NAME", help=f"one of {', '.join(ALL)}")
    args = parser.parse_args()
    rows = []
    for name, work in ALL.items():
        if args.only in (None, name):
            for r in work():
                rows.append(r)
                ratio = (
                    "" if r["ratio"] is None else f"{r['ratio']:8.2f} {r['unit']} ({r['against']})"
                )
                print(f"{r['name']:<44}{r['seconds']:>10.4f} s {ratio}", flush=True)
    if args.json:
        args.json.write_text(
            json.dumps(
                [{k: r[k] for k in ("name", "seconds", "against", "ratio")} for r in rows], indent=1
            )
            + "\n"
        )
    print(
        "peak memory of this run: "
        f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
