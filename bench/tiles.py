"""Land larger than a machine: 16 km at 2 m on one and two workers, memory from 4 to 64 km."""

import multiprocessing
import resource
import statistics
import tempfile
import time
from pathlib import Path

from bench.told import row

POSTS = 1025
SPACING_M = 2.0
SIDE_KM = 16
SIDES_KM = 4, 16, 64
ROUNDS = 3


def scene_of(side_km: float):
    """Made-up mountains that water has worn, clothed and thinly wooded."""
    from sow.core.scene import read_scene

    wide = side_km * 1000
    steep = {"kind": "slope", "low": 28, "high": 90, "soft": 8}
    return read_scene(
        {
            "format": "sow-scene-1",
            "name": "Mountains",
            "plot": {"width_m": wide, "depth_m": wide, "posts": 1025, "seed": 8},
            "land": [
                {
                    "id": "a",
                    "name": "Mountains",
                    "kind": "noise",
                    "form": "ridged",
                    "feature_m": 4200,
                    "height_m": 900,
                    "octaves": 11,
                },
                {"id": "b", "name": "Wear", "kind": "wear", "strength": 1},
                {"id": "c", "name": "Roughness", "kind": "roughen", "size_m": 90, "height_m": 6},
            ],
            "ground": [
                {"id": "g0", "name": "Turf", "ground": "turf"},
                {"id": "g1", "name": "Rock", "ground": "granite", "where": [steep]},
                {
                    "id": "g2",
                    "name": "Snow",
                    "ground": "snow",
                    "where": [{"kind": "height", "take": "highest", "share": 15, "soft": 60}],
                },
            ],
            "planting": [
                {
                    "id": "p",
                    "name": "Spruce",
                    "mix": [{"kind": "spruce", "share": 100}],
                    "density": 0.02,
                    "where": [{"kind": "slope", "low": 0, "high": 26, "soft": 6}],
                }
            ],
        }
    )


def _by(workers: int, folder: Path) -> tuple[float, int]:
    from sow.core.build import Rasters
    from sow.core.tiles.files import TileOrder
    from sow.tiles.grow import grow_tiles
    from sow.workers.pool import Pool

    order = TileOrder(posts=POSTS, spacing_m=SPACING_M)
    with Pool(workers=workers, threads=1) as pool:
        report = grow_tiles(scene_of(SIDE_KM), Rasters(), folder, order, pool)
    return report["seconds"] - report["whole_seconds"], report["tiles"]


def _seconds(found, cut, place) -> float:
    from sow.core.build import Rasters
    from sow.core.tiles.tile import tile_of

    begun = time.perf_counter()
    tile_of(found, Rasters(), cut, *place)
    return time.perf_counter() - begun


def _sampled(side_km: float, told) -> None:
    """A process of its own grows some tiles from the middle of a plot, and tells what it took."""
    from sow.core.build import Rasters
    from sow.core.tiles.cut import Cut
    from sow.core.tiles.tile import tile_of
    from sow.core.tiles.whole import whole_of

    scene = scene_of(side_km)
    cut = Cut.of(scene.plot, POSTS, SPACING_M)
    found = whole_of(scene, Rasters(), cut.grid.spacing)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    places = [(cut.down * k // 3, cut.across * k // 3) for k in range(3)]
    tile_of(found, Rasters(), cut, *places[0])
    seconds = statistics.median(_seconds(found, cut, place) for place in places * ROUNDS)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    area = ((POSTS - 1) * cut.grid.spacing / 1000) ** 2
    told.put((cut.across * cut.down, before, peak, seconds / area))


def tiles():
    """Two workers beside one; memory and cost for each square kilometre as the plot grows."""
    with tempfile.TemporaryDirectory() as folder:
        one, count = _by(1, Path(folder) / "one")
        two, _ = _by(2, Path(folder) / "two")
    yield row(f"{SIDE_KM} km at {SPACING_M:g} m, {count} tiles, one worker", one)
    yield row("the same, two workers", two, "one", one)
    context = multiprocessing.get_context("spawn")
    first = None
    for side in SIDES_KM:
        told = context.SimpleQueue()
        process = context.Process(target=_sampled, args=(side, told))
        process.start()
        number, before, peak, cost = told.get()
        process.join()
        first = first or (peak, cost)
        yield {
            "name": f"{side} km, {number} tiles: peak of a worker {peak:.0f} MB ({before:.0f} of "
            "them by the coarse grid)",
            "seconds": round(cost, 3),
            "against": f"a km² of {SIDES_KM[0]} km",
            "ratio": round(cost / first[1], 2),
            "unit": f"times as long, {peak / first[0]:.2f} times the memory",
        }
