"""Planting: placing, sowing, a dragged density, what a hand-over holds."""

import time
from pathlib import Path

import numpy as np
from numba import njit

from bench.told import median, pair, row


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
