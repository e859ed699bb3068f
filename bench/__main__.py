"""Benchmarks as medians and ratios measured in one run, so that the machine's mood cancels out."""
import argparse
import json
import resource
import statistics
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
from numba import njit, prange

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
    return {"name": name, "seconds": round(seconds, 6), "against": against, "ratio": None if other is None else round(other / seconds, 3), "unit": unit}


def noise():
    """8 octaves on 2049 x 2049 posts against a C++ library's Perlin fBm on the same grid, all its SIMD and one thread as it comes."""
    from pyfastnoiselite.pyfastnoiselite import FastNoiseLite, FractalType, NoiseType
    from sow.core import noise as ours
    from sow.core.plot import Plot
    grid = Plot(width_m=2000, depth_m=2000, posts=2049).grid()
    theirs = FastNoiseLite(seed=3)
    theirs.noise_type, theirs.fractal_type = NoiseType.NoiseType_Perlin, FractalType.FractalType_FBm
    theirs.fractal_octaves, theirs.frequency = 8, 1 / 400
    xs, ys = np.meshgrid(grid.xs().astype(np.float32), grid.ys().astype(np.float32))
    coords = np.ascontiguousarray(np.stack([xs.ravel(), ys.ravel()]))
    for name, more, against in (("noise 8 octaves 2049", {}, "pyfastnoiselite Perlin fBm"), ("warped noise 8 octaves 2049", {"warp_m": 60}, "pyfastnoiselite Perlin fBm, not warped")):
        mine, other = pair(lambda: ours.fbm(grid, 400, 8, seed=3, **more), lambda: theirs.gen_from_coords(coords))
        yield row(name, mine, against, other)


@njit(parallel=True, cache=True)
def _copy(a, b):
    for r in prange(a.shape[0]):
        for c in range(a.shape[1]):
            b[r, c] = a[r, c]


def slope():
    """Slope on 4097 x 4097 posts against a parallel copy of the grid: how near to the memory's own speed."""
    from sow.core import noise as ours
    from sow.core.plot import Plot
    from sow.core.survey.slope import slope as measure
    grid = Plot(width_m=4000, depth_m=4000, posts=4097).grid()
    h = ours.fbm(grid, 500, 6) * np.float32(80)
    out = np.empty_like(h)
    yield row("slope 4097", median(lambda: measure(h, grid.spacing)), "parallel copy of the grid", median(lambda: _copy(h, out)), "of a copy's speed")


@njit(cache=True)
def _darts(width, radius, wanted, most, seed):
    """Dart throwing with a background grid (Mitchell 1987; grid as in Bridson 2007): one thread, as it must be."""
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
    """A million plants, least distance 0.7 m at one per m², against dart throwing to the same number and distance."""
    from sow.core.planting.place import place
    count = [0]

    def ours():
        count[0] = len(place(1.0, 0.7, 5, (1000.0, 1000.0))[0])
    seconds = median(ours, 3)
    yield row(f"placing {count[0]:,} plants", seconds, "dart throwing with a background grid (numba)",
              median(lambda: _darts(1000.0, 0.7, count[0], 60_000_000, 1), 3))


def gdal_slope():
    """Slope on 4097 x 4097 posts against `gdaldem slope` (by rasterio's GDAL where the tool is missing: told), net of its reading and writing."""
    import shutil
    import tempfile

    import tifffile
    from sow.core import noise as ours
    from sow.core.plot import Plot
    from sow.core.survey.slope import slope as measure
    tool = shutil.which("gdaldem")
    if tool is None:
        print("gdaldem is not installed (apt-get install gdal-bin); its row is left out", file=sys.stderr)
        return
    grid = Plot(width_m=4000, depth_m=4000, posts=4097).grid()
    h = ours.fbm(grid, 500, 6) * np.float32(80)
    with tempfile.TemporaryDirectory() as folder:
        source, out = Path(folder) / "h.tif", Path(folder) / "s.tif"
        tifffile.imwrite(source, h, metadata=None, extratags=[(33550, "d", 3, (grid.spacing, grid.spacing, 0.0), False), (33922, "d", 6, (0, 0, 0, 0.0, 4000.0, 0.0), False)])
        run = lambda *words: subprocess.run(words, check=True, capture_output=True)
        slope_s = median(lambda: run(tool, "slope", str(source), str(out), "-q"), 3)
        copy_s = median(lambda: run(shutil.which("gdal_translate"), "-q", str(source), str(out)), 3)
    yield row("slope 4097", median(lambda: measure(h, grid.spacing)), "gdaldem slope, net of reading and writing", max(slope_s - copy_s, 1e-6))


def drainage():
    """Pits, routing and contributing area on 2049 x 2049 posts of worn land against fastscapelib's multiple flow with its own filling of pits."""
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
    """Wear by water to 2049 posts, coarse to fine: against itself at 1025, and against the same number of steps taken on the fine grid."""
    from sow.core.build import Build
    from sow.core.cache import Cache
    from sow.core.land import wear as wearing
    from sow.core.sample import levels
    from sow.core.scene import read_scene
    scene = read_scene({"name": "w", "plot": {"width_m": 2000, "depth_m": 2000, "posts": 2049}, "land": [{"id": "n", "name": "n", "kind": "noise"}, {"id": "w", "name": "w", "kind": "wear"}]})

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
    yield row("wear by water 2049", large, "itself at 1025", small, "of its time: at least 1 / 4.5 = 0.22 is wanted")
    # one step on the fine grid is timed and counted as often as all levels step
    b = Build(scene, scene.plot.grid(2049), Cache())
    h, ease = b.land_step(1).heights.copy(), np.ones((2049, 2049), np.float32)
    start = time.perf_counter()
    wearing.run(h, np.zeros_like(h), ease, None, b.grid.spacing, 2, 0.02, scene.land[1], None)
    steps = sum(wearing.STEPS[min(i, len(wearing.STEPS) - 1)] for i in range(len(levels((2049, 2049)))))
    yield row("wear by water 2049", large, f"the same {steps} steps taken directly", (time.perf_counter() - start) / 2 * steps)


def drag():
    """A dragged setting of a landform to new heights on the draft grid: the core's whole part against the noise alone."""
    from sow.core import noise as ours
    from sow.core.build import Build
    from sow.core.cache import Cache
    from sow.core.scene import read_scene
    entries = [{"id": f"e{i}", "name": "e", "kind": "form", "form": "dome"} for i in range(4)] + [{"id": "n", "name": "n", "kind": "noise", "octaves": 9}]
    document, cache, count = {"name": "d", "land": entries}, Cache(), [0]
    scene = read_scene(document)
    grid = scene.plot.draft_grid()
    Build(scene, grid, cache).heights

    def dragged():
        count[0] += 1
        moved = scene.model_copy(update={"land": [*scene.land[:-1], scene.land[-1].model_copy(update={"height_m": 50 + count[0] * 0.01})]})
        Build(moved, grid, cache).heights
    n = scene.land[-1]
    yield row("dragged noise on the draft grid", median(dragged, 41), "the noise pass alone", median(lambda: ours.fbm(grid, n.feature_m, n.octaves, n.gain), 41), "of it: at least 1 / 3 = 0.33 is wanted")


def large():
    """Land of nine entries on 4097 x 4097 posts: seconds, and memory at its peak against the bytes of one grid."""
    code = ("import resource, time; from sow.core.build import Build; from sow.core.cache import Cache; from sow.core.cabinet import lands\n"
            "s = lands.document('alpine-ridge'); t = time.perf_counter(); b = Build(s, s.plot.grid(4097), Cache(1 << 30)); b.heights\n"
            "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss, time.perf_counter() - t)")
    peak, seconds = map(float, subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split())
    yield {"name": f"alpine ridge on 4097, peak {peak / 2**20:.2f} GB", "seconds": round(seconds, 2), "against": "one grid of floats, 67 MB", "ratio": round(peak * 1024 / (4097**2 * 4), 1), "unit": "times as much"}


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
        yield {"name": f"demo build: {step}", "seconds": round(seconds, 4), "against": "the whole build", "ratio": round(seconds / total, 3), "unit": "of the whole"}
    yield {"name": f"demo build: all, {count:,} plants", "seconds": round(total, 4), "against": None, "ratio": None, "unit": ""}


def memory():
    """Peak memory of a process that builds the demo on its full grid, against the bytes of its plants and heights."""
    code = ("import resource; from pathlib import Path; from sow.core.build import Build; from sow.core.cache import Cache\n"
            "from sow.core.formats.folder import open_scene; s, r = open_scene(Path('samples/brackenhope.json'))\n"
            "b = Build(s, s.plot.grid(), Cache(), r); b.ground(); n = sum(len(b.plants(i)) for i in range(len(s.planting)))\n"
            "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss, n * 54 + b.heights.nbytes)")
    start = time.perf_counter()
    peak, least = map(int, subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split())
    yield {"name": f"memory at peak, full demo: {peak / 1024:.0f} MB", "seconds": round(time.perf_counter() - start, 3),
           "against": f"its heights and plants alone, {least / 2**20:.0f} MB", "ratio": round(peak * 1024 / least, 2), "unit": "times as much"}


ALL = {f.__name__: f for f in (noise, slope, gdal_slope, drainage, placing, wear, drag, large, demo, memory)}


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
                ratio = "" if r["ratio"] is None else f"{r['ratio']:8.2f} {r['unit']} ({r['against']})"
                print(f"{r['name']:<44}{r['seconds']:>10.4f} s {ratio}", flush=True)
    if args.json:
        args.json.write_text(json.dumps([{k: r[k] for k in ("name", "seconds", "against", "ratio")} for r in rows], indent=1) + "\n")
    print(f"peak memory of this run: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
    return 0


if __name__ == "__main__":
    sys.exit(main())
