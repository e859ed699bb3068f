"""Stills: how soon the stage is ready, what a pass takes, what is left of noise, a dozen lights."""

import json
import resource
import tempfile
import time
from pathlib import Path

import numpy as np

from bench.told import row, wanted

SIZE = 480, 270
LONG = 192  # passes of the reference
# left, top, right, bottom of what is compared, as parts of the picture
CROPS = {
    "sky": (0.3, 0.02, 0.6, 0.2),
    "far land": (0.25, 0.25, 0.5, 0.45),
    "foliage": (0.05, 0.5, 0.3, 0.62),
    "ground": (0.35, 0.75, 0.7, 0.95),
    "water": (0.2, 0.6, 0.5, 0.68),
    "shade": (0.0, 0.36, 0.1, 0.48),
}


def _likeness(a: np.ndarray, b: np.ndarray) -> float:
    """Peak signal to noise in dB of what a screen shows."""
    return float(10 * np.log10(1 / max(float(np.mean((a - b) ** 2)), 1e-12)))


def _seconds_left(build):
    """How far what a still tells of its seconds left is from what came, from its first pass on."""
    from sow.core.formats.stillfiles import write_still
    from sow.core.picture.order import Order
    from sow.core.picture.still import Still

    heard = []
    order = Order(width_px=SIZE[0], height_px=SIZE[1], quality="good")
    with tempfile.TemporaryDirectory() as folder:
        tell = lambda told: heard.append((time.perf_counter(), told.left))
        still = Still(build, build.shots()[0], order, Path(folder), tell)
        still.run()
        write_still(still, Path(folder) / "out", "still")
    end = time.perf_counter()
    told = [(end - at, left) for at, left in heard if left is not None]
    off = [abs(left - comes) / max(comes, 1.0) for comes, left in told]
    comes, left = told[int(np.argmax(off))]
    yield {
        "name": f"seconds left, {len(off)} tellings: off by {np.median(off):.0%} (median); at "
        f"worst {left:.1f} s were told of {comes:.1f}",
        "seconds": round(end - heard[0][0], 1),
        "against": "25 % allowed, the worst",
        "ratio": round(float(max(off)), 3),
        "unit": "of what came",
    }


def stills():
    """A still of the demo at 480 x 270, its parts and its noise; twelve lights on one stage."""
    from sow.core.air.light_of import REST_ROWS
    from sow.core.air.ready import in_full, lights
    from sow.core.build import Build, Rasters
    from sow.core.cache import Cache
    from sow.core.picture.airlight import Air
    from sow.core.picture.clean import cleaned
    from sow.core.picture.film import graded
    from sow.core.picture.order import PASSES
    from sow.core.picture.prepared import setting_of, view_of
    from sow.core.picture.proof import Proofs
    from sow.core.picture.stage import Stage
    from sow.core.scene import read_scene

    root = Path(__file__).resolve().parents[1]
    document = json.loads((root / "samples" / "brackenhope.json").read_text())
    scene = read_scene(document)
    build = Build(scene, scene.plot.grid(), Cache(4 << 30), Rasters())
    for i in range(len(scene.planting)):
        build.plants(i)
    lit = build.daylight(REST_ROWS)
    views = [view_of(build, shot, *SIZE) for shot in scene.shots[:2]]
    setting_of(build, views[1])  # kinds and kernels are at hand
    view = views[0]
    start = time.perf_counter()
    stage = Stage(setting_of(build, view), lit, np.array([*np.round(view.eye[:2]), 0.0]))
    yield wanted("stage ready for a new place", time.perf_counter() - start, 20)
    start = time.perf_counter()
    stage.relit(lit)
    yield wanted("stage ready for another light", time.perf_counter() - start, 5)
    air, rays = Air(lit, [], view.eye), view.rays()
    total = np.zeros((*reversed(SIZE), 3), np.float32)
    kept, seconds = {}, {}
    start = time.perf_counter()
    for k in range(LONG):
        light, depth = stage.passed(view, k)
        total += air.over(light, depth, rays)
        if k + 1 in PASSES.values():
            seconds[k + 1] = time.perf_counter() - start
            kept[k + 1] = cleaned(total / (k + 1))
    shown = lambda light: graded(light * lit.exposure)
    long = shown(total / LONG)
    for name, passes in PASSES.items():
        own = shown(kept[passes])
        told = []
        for crop, (left, top, right, bottom) in CROPS.items():
            here = np.s_[
                int(top * SIZE[1]) : int(bottom * SIZE[1]),
                int(left * SIZE[0]) : int(right * SIZE[0]),
            ]
            told.append(f"{crop} {_likeness(own[here], long[here]):.1f}")
        yield row(f"still of 480 x 270, {name}: dB {', '.join(told)}", seconds[passes])
    del stage
    yield from _seconds_left(build)
    proofs, cache = Proofs(), Cache(2 << 30)
    taken = []
    for light in [*lights.values()] * 2:  # the second time their airs are at hand
        proofs.lights.clear()
        own = json.loads(json.dumps(document))
        own["light"].update(in_full(light))
        tried = read_scene(own)
        start = time.perf_counter()
        small = Build(tried, tried.plot.grid(385), cache, Rasters())
        proofs.picture(small, tried.shots[0], (186, 330))
        taken.append(time.perf_counter() - start)
    yield wanted("a dozen lights on a stage that is set up", sum(taken[12:]), 20)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    yield {
        "name": f"memory at its peak, a million plants: {peak:.1f} GB",
        "seconds": 0.0,
        "against": "6 GB allowed",
        "ratio": round(6 / peak, 2),
        "unit": "times less",
    }
