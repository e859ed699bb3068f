"""Land: noise, slope, drainage, wear, a dragged landform; beside other libraries."""

import statistics
import subprocess
import sys
import time
from pathlib import Path

import numpy as np

from bench.told import copied, median, pair, row


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
        median(lambda: copied(h, out)),
        "of a copy's speed",
    )


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
