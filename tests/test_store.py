"""The store and the API: nothing acknowledged is ever lost, and bad requests change nothing."""

import concurrent.futures
import io
import json
import re
import threading
import time
import unittest
import urllib.error
import zipfile

import cv2
import numpy as np
import psycopg2

from sow.web import routes  # noqa: F401  (registers them)
from sow.web.api import ROUTES
from tests.served import ask, server

TIER = "whole"

BASE = {
    "name": "Kept",
    "plot": {"width_m": 300, "depth_m": 300, "posts": 257},
    "land": [{"id": "n", "name": "n", "kind": "noise", "height_m": 20, "feature_m": 90}],
    "ground": [{"id": "g", "name": "g", "ground": "turf"}],
}


def new(**more) -> dict:
    status, state = ask("POST", "/api/scenes", {"document": {**BASE, **more}})
    assert status == 200, state
    return state


def edit(state: dict, label: str, **changes):
    return ask(
        "POST",
        f"/api/scenes/{state['id']}/edits",
        {"base": state["revision"], "label": label, "document": {**state["document"], **changes}},
    )


class History(unittest.TestCase):
    def test_undo_redo_branch_and_snapshots(self):
        s = first = new()
        for k in range(4):
            _, s = edit(s, f"step {k}", name=f"v{k}")
        at = f"/api/scenes/{s['id']}"
        for want in ("v2", "v1"):
            self.assertEqual(ask("POST", f"{at}/undo")[1]["document"]["name"], want)
        self.assertEqual(ask("POST", f"{at}/redo")[1]["document"]["name"], "v2")
        _, s = edit(ask("GET", at)[1], "another course", name="other")
        self.assertIsNone(s["redo"])
        _, steps = ask("GET", f"{at}/history")
        self.assertEqual(len(steps), 6)  # the course left is kept too
        left = next(x for x in steps if x["label"] == "step 3")
        _, back = ask("POST", f"{at}/go-to", {"revision": left["id"]})
        self.assertEqual(back["document"]["name"], "v3")
        ask("POST", f"{at}/snapshots", {"revision": left["id"], "name": "before the snow"})
        self.assertIn("before the snow", [x["snapshot"] for x in ask("GET", f"{at}/history")[1]])
        for _ in range(9):
            _, s = ask("POST", f"{at}/undo")
        self.assertEqual((s["revision"], s["undo"]), (first["revision"], None))

    def test_two_tabs_never_overwrite(self):
        s = new()
        with concurrent.futures.ThreadPoolExecutor(6) as pool:
            answers = list(pool.map(lambda k: edit(s, f"tab {k}", name=f"tab {k}")[0], range(6)))
        self.assertEqual(sorted(answers), [200] + [409] * 5)

    def test_documents_of_an_older_sow_get_what_has_come_since(self):
        s = new(planting=[{"id": "p", "name": "p", "mix": [{"kind": "heather"}]}])
        with psycopg2.connect(server().cluster.start()) as link, link.cursor() as run:
            run.execute(
                "UPDATE revision SET document = document - 'budget' - 'season' #- "
                "'{planting,0,mix,0,bright}' WHERE id = %s",
                (s["revision"],),
            )
        back = ask("GET", f"/api/scenes/{s['id']}")[1]["document"]
        self.assertEqual(back, s["document"])

    def test_rasters_come_back_bit_for_bit_and_are_kept_once(self):
        rng = np.random.default_rng(1)
        for values in (
            rng.integers(0, 256, (70, 300)).astype(np.uint8),
            rng.integers(0, 65536, (513, 257)).astype(np.uint16),
        ):
            data = cv2.imencode(".png", values)[1].tobytes()
            first, second = (
                ask("POST", "/api/rasters", data, {"X-Name": "a%20b.png"})[1] for _ in range(2)
            )
            self.assertEqual(first, second)
            self.assertEqual(
                (first["name"], first["rows"], first["columns"]), ("a b.png", *values.shape)
            )
            mark = [{"id": "m", "name": "m", "kind": "mask", "raster": first["raster"]}]
            s = new(marks=mark)
            status, packed = ask("GET", f"/api/scenes/{s['id']}/scene.zip")
            with zipfile.ZipFile(io.BytesIO(packed)) as z:
                inner = json.loads(z.read("scene.json"))["marks"][0]["raster"]
                np.testing.assert_array_equal(
                    cv2.imdecode(np.frombuffer(z.read(inner), np.uint8), cv2.IMREAD_UNCHANGED),
                    values,
                )


class Durability(unittest.TestCase):
    def test_what_was_acknowledged_outlives_kills_of_server_and_database(self):
        s = new()
        for part in ("server", "database", "both"):
            kept, stop = [], threading.Event()

            def write():
                state = s_now
                while not stop.is_set():
                    try:
                        status, answer = edit(state, "while killed", name=f"n{len(kept)} {part}")
                    except (urllib.error.URLError, OSError):
                        return
                    if status != 200:
                        return
                    state = answer
                    kept.append((answer["revision"], answer["document"]["name"]))

            s_now = ask("GET", f"/api/scenes/{s['id']}")[1]
            writer = threading.Thread(target=write)
            writer.start()
            for _ in range(
                600
                # a few edits are kept, however slow the machine is, and the kill falls among the
                # next
            ):
                if len(kept) > 3 or not writer.is_alive():
                    break
                time.sleep(0.1)
            if part in ("database", "both"):
                server().cluster.kill()
            if part in ("server", "both"):
                server().kill()
            stop.set()
            writer.join()
            self.assertGreater(len(kept), 3, part)
            server().start(120)
            for _ in range(5):  # connections that the kill cut are given up
                status, now = ask("GET", f"/api/scenes/{s['id']}")
                if status == 200:
                    break
                time.sleep(0.3)
            self.assertGreaterEqual(now["revision"], kept[-1][0])
            known = {x["id"] for x in ask("GET", f"/api/scenes/{s['id']}/history")[1]}
            self.assertTrue({r for r, _ in kept[-40:]} <= known, part)


class Api(unittest.TestCase):
    def test_products_are_raw_arrays_under_their_content(self):
        s = new()
        order = {"grid": "view", "client": "t"}
        _, m = ask("POST", f"/api/scenes/{s['id']}/builds", order)
        status, raw = ask("GET", f"/api/products/{m['heights']}")
        heights = np.frombuffer(raw, "<f4").reshape(m["grid"]["ny"], m["grid"]["nx"])
        self.assertAlmostEqual(float(heights.max()), m["highest"], places=4)
        self.assertEqual(
            ask(
                "GET",
                f"/api/products/{m['heights']}",
                headers={"If-None-Match": f'"{m["heights"]}"'},
            )[0],
            304,
        )
        lit = {**s["document"], "light": {"sun_height": 3}}
        _, same = ask("POST", f"/api/scenes/{s['id']}/builds", {**order, "document": lit})
        self.assertEqual((same["heights"], same["weights"]), (m["heights"], m["weights"]))
        self.assertEqual(same["seconds"], {})  # the sun moves and nothing is computed
        other = {**s["document"], "land": [{**s["document"]["land"][0], "seed": 9}]}
        self.assertNotEqual(
            ask("POST", f"/api/scenes/{s['id']}/builds", {**order, "document": other})[1][
                "heights"
            ],
            m["heights"],
        )
        self.assertEqual(ask("GET", "/api/products/0000")[0], 410)

    def test_many_builds_at_once_agree(self):
        s = new()
        docs = [
            {
                **s["document"],
                "land": [
                    {"id": "n", "name": "n", "kind": "noise", "seed": k % 3},
                    {"id": "w", "name": "w", "kind": "wear"},
                ],
            }
            for k in range(9)
        ]
        with concurrent.futures.ThreadPoolExecutor(9) as pool:
            made = list(
                pool.map(
                    lambda kd: ask(
                        "POST",
                        f"/api/scenes/{s['id']}/builds",
                        {"document": kd[1], "grid": "draft", "client": str(kd[0])},
                    ),
                    enumerate(docs),
                )
            )
        self.assertEqual({status for status, _ in made}, {200})
        self.assertEqual(len({m["heights"] for _, m in made}), 3)

    def test_a_newer_build_stops_the_older(self):
        s = new()
        slow = {
            **s["document"],
            "plot": {"width_m": 300, "depth_m": 300, "posts": 1025},
            "land": [
                {"id": "n", "name": "n", "kind": "noise", "seed": 77},
                *({"id": f"w{k}", "name": "w", "kind": "wear", "seed": k} for k in range(6)),
            ],
        }
        with concurrent.futures.ThreadPoolExecutor(2) as pool:
            old = pool.submit(
                ask,
                "POST",
                f"/api/scenes/{s['id']}/builds",
                {"document": slow, "grid": "view", "client": "x"},
            )
            time.sleep(0.4)
            new_ = pool.submit(
                ask, "POST", f"/api/scenes/{s['id']}/builds", {"grid": "view", "client": "x"}
            )
            self.assertEqual(new_.result()[0], 200)
            self.assertEqual(old.result()[0], 409)

    def test_bad_requests_change_nothing(self):
        s = new()
        many = [
            {
                "id": "p",
                "name": "Too much",
                "mix": [{"kind": "turf-grass"}],
                "density": 60000,
                "apart_m": 0,
            }
        ]
        band = [
            {"id": "g", "name": "g", "ground": "turf"},
            {
                "id": "h",
                "name": "h",
                "ground": "peat",
                "where": [{"kind": "slope", "low": 30, "high": 4}],
            },
        ]
        for changes, path, words in (
            ({"planting": many}, "planting.0.density", "20,000,000"),
            ({"plot": {"width_m": -1}}, "plot.width_m", "at least"),
            ({"land": [{"id": "x", "name": "x", "kind": "lava"}]}, "land.0.kind", "lava"),
            ({"ground": band}, "ground.1.where.0.high", "backwards"),
        ):
            status, answer = edit(s, "bad", **changes)
            self.assertEqual((status, answer["path"]), (422, path))
            self.assertIn(words, answer["detail"] + answer["advice"])
        status, answer = edit(s, "many", planting=[{**many[0], "density": 8000}])
        self.assertEqual((status, answer["title"]), (409, "Many plants"))
        for data, words in ((b"words", "whatever its name"), (b"", "whatever its name")):
            status, answer = ask("POST", "/api/rasters", data, {"X-Name": "h.png"})
            self.assertEqual(status, 422)
            self.assertIn(words, answer["detail"])
        status, answer = ask(
            "POST", f"/api/scenes/{s['id']}/undo", headers={"Origin": "http://elsewhere.example"}
        )
        self.assertEqual((status, answer["title"]), (403, "Another origin"))
        self.assertEqual(ask("GET", "/api/scenes", headers={"Host": "elsewhere.example"})[0], 403)
        self.assertEqual(ask("GET", "/api/scenes/999999")[0], 404)
        self.assertEqual(ask("POST", f"/api/scenes/{s['id']}/edits", b"{")[0], 422)
        self.assertEqual(ask("GET", f"/api/scenes/{s['id']}")[1]["revision"], s["revision"])

    def test_the_description_covers_every_route(self):
        _, description = ask("GET", "/api/openapi.json")
        self.assertIn("Problem", description["components"]["schemas"])
        for path, methods in description["paths"].items():
            for _method, entry in methods.items():
                self.assertTrue(entry["summary"], path)
        told = {
            (method.upper(), path)
            for path, methods in description["paths"].items()
            for method in methods
        }
        served = {(r.method, re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", r.path)) for r in ROUTES}
        self.assertEqual(told, served)


if __name__ == "__main__":
    unittest.main()
