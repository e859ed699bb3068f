"""Strokes by hand, from the core to the picture on the face."""

import itertools
import statistics

import numpy as np

from bench.told import median


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
