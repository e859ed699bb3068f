"""The ground: weights of materials, what repeats, what a dragged band costs until it is drawn."""

import time

import numpy as np

from bench.told import copied, median, pair, row


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

    mine, memory = pair(made, lambda: copied(flat, other), 3)
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
    memory = median(lambda: copied(flat, other))
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
