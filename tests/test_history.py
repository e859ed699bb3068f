"""History, packages and parts: nothing that was kept is lost, and nothing half-made is kept."""

import base64
import hashlib
import http.client
import io
import json
import os
import random
import signal
import subprocess
import threading
import time
import unittest
import urllib.error
import zipfile

import cv2
import numpy as np
import psycopg2
import tifffile

from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.parts import alone, differences, taken
from sow.core.scene import read_scene
from tests.served import ask, server
from tests.test_store import BASE, edit, new

TIER = "whole"


def worker() -> int:
    """The process that serves; its parent stays and starts another when it dies."""
    master = server().state()["pid"]
    return int(
        subprocess.run(["pgrep", "-P", str(master)], capture_output=True, text=True).stdout.split()[
            0
        ]
    )


class History(unittest.TestCase):
    def test_courses_pictures_notes_and_pruning(self):
        s = first = new()
        at = f"/api/scenes/{s['id']}"
        ids = [s["revision"]]
        for k in range(70):
            _, s = edit(s, f"step {k}", name=f"v{k}")
            ids.append(s["revision"])
        _, page = ask("GET", f"{at}/history")
        _, older = ask("GET", f"{at}/history?before={page[-1]['id']}")
        self.assertEqual(
            [x["id"] for x in page + older], ids[::-1]
        )  # the list goes on to the first step
        ask("POST", f"{at}/go-to", {"revision": ids[40]})
        _, s = edit(ask("GET", at)[1], "another course", name="other")
        _, page = ask("GET", f"{at}/history")
        self.assertEqual([x["current"] for x in page[:4]], [True, False, False, False])
        ask(
            "POST",
            f"{at}/snapshots",
            {"revision": ids[60], "name": "Before the snow", "note": "ask about the tors"},
        )
        _, named = ask("GET", f"{at}/history?snapshots=1")
        self.assertEqual([(x["id"], x["note"]) for x in named], [(ids[60], "ask about the tors")])
        status, picture = ask("GET", f"{at}/revisions/{ids[3]}.png")
        self.assertEqual(
            (status, cv2.imdecode(np.frombuffer(picture, np.uint8), 1).shape[1]), (200, 96)
        )
        self.assertEqual(ask("GET", f"{at}/revisions/{ids[3]}")[1]["name"], "v2")
        self.assertEqual(
            ask("GET", f"/api/scenes/{new()['id']}/revisions/{ids[3]}")[0], 404
        )  # another scene's
        # pruned: the newest, the snapshot and the head stay, and undo leads through what is left
        _, before = ask("GET", f"{at}/usage")
        _, after = ask("POST", f"{at}/prunings", {"keep": 3})
        self.assertEqual((before["revisions"], before["snapshots"], after["snapshots"]), (72, 1, 1))
        left = [x["id"] for x in ask("GET", f"{at}/history")[1]]
        self.assertEqual(left, [s["revision"], ids[70], ids[69], ids[60]])
        self.assertEqual(ask("GET", at)[1]["revision"], s["revision"])
        self.assertIsNone(ask("GET", at)[1]["undo"])  # its own course was pruned down to it
        _, old = ask("POST", f"{at}/go-to", {"revision": ids[70]})
        self.assertEqual(
            [
                old["document"]["name"],
                *(ask("POST", f"{at}/undo")[1]["document"]["name"] for _ in range(3)),
            ],
            ["v69", "v68", "v59", "v59"],
        )
        self.assertNotEqual(first["revision"], ids[60])

    def test_rasters_that_nothing_needs_go_and_those_of_snapshots_stay(self):
        rng = np.random.default_rng(5)
        hashes = [
            ask(
                "POST",
                "/api/rasters",
                cv2.imencode(".png", rng.integers(0, 255, (300, 300)).astype(np.uint8))[
                    1
                ].tobytes(),
                {"X-Name": "m.png"},
            )[1]["raster"]
            for _ in range(3)
        ]
        mark = lambda h: [{"id": "m", "name": "m", "kind": "mask", "raster": h}]
        s = new(marks=mark(hashes[0]))
        ask(
            "POST", f"/api/scenes/{s['id']}/snapshots", {"revision": s["revision"], "name": "first"}
        )
        for h in hashes[1:]:
            _, s = edit(s, "another mask", marks=mark(h))
        with psycopg2.connect(server().cluster.url) as c, c.cursor() as q:
            q.execute("UPDATE raster SET made = made - interval '3 hours'")
            q.execute("SELECT count(*) FROM tile")
            tiles = q.fetchone()[0]
        ask("POST", f"/api/scenes/{s['id']}/prunings", {"keep": 1})
        self.assertEqual(
            [ask("GET", f"/api/rasters/{h}")[0] for h in (hashes[0], hashes[2])], [200, 200]
        )
        with psycopg2.connect(server().cluster.url) as c, c.cursor() as q:
            q.execute("SELECT hash FROM raster WHERE hash = ANY(%s)", (hashes,))
            self.assertEqual({r[0] for r in q.fetchall()}, {hashes[0], hashes[2]})
            q.execute("SELECT count(*) FROM tile")
            self.assertLess(q.fetchone()[0], tiles)

    def test_comparing_tells_the_season_and_the_budget(self):
        a = read_scene({"name": "a"})
        b = read_scene({"name": "a", "season": "autumn", "budget": {"plants": 5000}})
        told = {d["part"]: d["changed"] for d in differences(a, b)}
        self.assertEqual(told, {"season": ["the season"], "budget": ["the budget"]})
        self.assertEqual(differences(a, a), [])

    def test_comparing(self):
        s = first = new(
            planting=[
                {"id": "p", "name": "Birch", "mix": [{"kind": "birch"}], "density": 2, "apart_m": 2}
            ]
        )
        lifted = [
            *s["document"]["land"],
            {
                "id": "d",
                "name": "Dome",
                "kind": "form",
                "form": "dome",
                "height_m": 12,
                "length_m": 100,
                "breadth_m": 100,
                "east_m": 150,
                "north_m": 150,
            },
        ]
        _, s = edit(
            s, "dome", land=lifted, planting=[{**s["document"]["planting"][0], "density": 4}]
        )
        _, c = ask(
            "POST",
            f"/api/scenes/{s['id']}/comparisons",
            {"a": first["revision"], "b": s["revision"]},
        )
        self.assertEqual(
            [(d["part"], d["added"], d["changed"]) for d in c["differences"]],
            [("land", ["Dome"], []), ("planting", [], ["Birch"])],
        )
        self.assertAlmostEqual(c["heights"]["highest"], 12, delta=0.3)
        field = np.frombuffer(ask("GET", f"/api/products/{c['heights']['key']}")[1], "<f4")
        self.assertAlmostEqual(
            c["raised_m3"] / (field.astype(float).sum() * (300 / 256) ** 2), 1, delta=1e-3
        )
        self.assertAlmostEqual(c["plants"][1] / c["plants"][0], 2, delta=0.02)

    def test_a_full_disk_is_told_and_leaves_no_half_revision(self):
        s = new()
        steps = len(ask("GET", f"/api/scenes/{s['id']}/history")[1])
        with (
            psycopg2.connect(server().cluster.url) as c,
            c.cursor() as q,
        ):  # the store answers as it does when its disk is full
            q.execute(
                "CREATE FUNCTION full_disk() RETURNS trigger AS $$ BEGIN RAISE EXCEPTION "
                "'could not extend file: No space left on device' USING ERRCODE = '53100'; "
                "END $$ LANGUAGE plpgsql"
            )
            for table in ("revision", "tile"):
                q.execute(
                    f"CREATE TRIGGER no_room BEFORE INSERT ON {table} FOR EACH ROW EXECUTE "
                    "FUNCTION full_disk()"
                )
        try:
            status, told = edit(s, "too much", name="no room")
            self.assertEqual((status, told["title"]), (507, "No room on the disk"))
            self.assertIn("prune", told["advice"])
            picture = cv2.imencode(
                ".png", np.random.default_rng(9).integers(0, 255, (64, 64)).astype(np.uint8)
            )[1].tobytes()
            self.assertEqual(ask("POST", "/api/rasters", picture, {"X-Name": "x.png"})[0], 507)
        finally:
            with psycopg2.connect(server().cluster.url) as c, c.cursor() as q:
                q.execute("DROP FUNCTION full_disk CASCADE")
        now = ask("GET", f"/api/scenes/{s['id']}")[1]
        self.assertEqual(
            (
                now["revision"],
                now["document"]["name"],
                len(ask("GET", f"/api/scenes/{s['id']}/history")[1]),
            ),
            (s["revision"], "Kept", steps),
        )
        self.assertEqual(ask("POST", "/api/rasters", picture, {"X-Name": "x.png"})[0], 200)


class Packages(unittest.TestCase):
    def packed(self):
        rng = np.random.default_rng(2)
        kept = []
        for name, data in (
            (
                "m.png",
                cv2.imencode(".png", rng.integers(0, 255, (90, 120)).astype(np.uint8))[1].tobytes(),
            ),
            (
                "h.png",
                cv2.imencode(".png", rng.integers(0, 65535, (129, 129)).astype(np.uint16))[
                    1
                ].tobytes(),
            ),
        ):
            kept.append(ask("POST", "/api/rasters", data, {"X-Name": name})[1]["raster"])
        out = io.BytesIO()
        tifffile.imwrite(out, rng.normal(20, 5, (80, 80)).astype(np.float32))
        kept.append(ask("POST", "/api/rasters", out.getvalue(), {"X-Name": "f.tif"})[1]["raster"])
        s = new(
            name="Packed",
            marks=[{"id": "m", "name": "m", "kind": "mask", "raster": kept[0], "blur_m": 3}],
            land=[
                {"id": "h", "name": "h", "kind": "heightmap", "raster": kept[1], "highest_m": 40},
                {"id": "b", "name": "b", "kind": "hand", "raster": kept[2]},
            ],
        )
        return s, ask("GET", f"/api/scenes/{s['id']}/scene.zip")[1]

    def test_written_and_read_back_the_same(self):
        s, data = self.packed()
        with zipfile.ZipFile(io.BytesIO(data)) as z:
            manifest = json.loads(z.read("manifest.json"))
            self.assertEqual(
                {f["path"] for f in manifest["files"]} | {"manifest.json"}, set(z.namelist())
            )
            for f in manifest["files"]:
                self.assertEqual(hashlib.sha256(z.read(f["path"])).hexdigest(), f["sha256"])
            self.assertEqual(
                sorted(n.rsplit(".")[-1] for n in z.namelist() if n.startswith("rasters/")),
                ["png", "png", "tif"],
            )
        status, back = ask("POST", "/api/packages", data)
        self.assertEqual(status, 200)
        self.assertEqual(back["left"], [])
        back = back["scene"]
        self.assertNotEqual(back["id"], s["id"])
        self.assertEqual(back["document"], s["document"])  # the same rasters under the same hashes
        self.assertEqual(
            ask("POST", f"/api/scenes/{s['id']}/duplicates")[1]["document"],
            {**s["document"], "name": "Packed, copy"},
        )

    def test_bad_packages_are_refused_whole(self):
        _, data = self.packed()
        files = {
            n: zipfile.ZipFile(io.BytesIO(data)).read(n)
            for n in zipfile.ZipFile(io.BytesIO(data)).namelist()
        }
        tif = next(n for n in files if n.endswith(".tif"))

        def zipped(change: dict, level=zipfile.ZIP_STORED) -> bytes:
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w", level) as z:
                for name, content in {**files, **change}.items():
                    if content is not None:
                        z.writestr(name, content)
            return out.getvalue()

        newer = files["manifest.json"].replace(b"sow-package-1", b"sow-package-2")
        other = files["scene.json"].replace(b"sow-scene-1", b"sow-scene-7")
        count = len(ask("GET", "/api/scenes")[1])
        for bad, words in (
            (b"no zip at all", "not a zip"),
            (data[: len(data) // 2], "not a zip"),
            (zipped({"../../etc/cron.d/x": b"x"}), "path outside"),
            (zipped({"/tmp/x": b"x"}), "path outside"),
            (zipped({"rasters/big.png": bytes(60 << 20)}, zipfile.ZIP_DEFLATED), "far more"),
            (zipped({tif: None}), "missing"),
            (zipped({tif: files[tif] + b"x"}), "manifest"),
            (zipped({"manifest.json": newer}), "newer Sow"),
            (zipped({"scene.json": other}), "newer Sow"),
            (zipped({"scene.json": None}), "no scene.json"),
            (zipped({"scene.json": b"{"}), "damaged"),
        ):
            status, told = ask("POST", "/api/packages", bad)
            self.assertEqual(status, 422, words)
            self.assertIn(words, told["detail"])
        self.assertEqual(len(ask("GET", "/api/scenes")[1]), count)


class Parts(unittest.TestCase):
    def scene(self, **more):
        return read_scene(
            {
                **BASE,
                "marks": [
                    {
                        "id": "a",
                        "name": "Wood",
                        "kind": "area",
                        "points": [[50, 50], [250, 60], [150, 240]],
                    }
                ],
                "ground": [
                    {"id": "g", "name": "Turf", "ground": "turf"},
                    {
                        "id": "h",
                        "name": "Peat",
                        "ground": "peat",
                        "where": [{"kind": "in-area", "mark": "a"}],
                    },
                ],
                **more,
            }
        )

    def test_a_part_brings_its_marks_and_leaves_the_rest(self):
        source = self.scene()
        target = read_scene(
            {
                **BASE,
                "name": "Other",
                "marks": [{"id": "a", "name": "Road", "kind": "line", "points": [[0, 0], [9, 9]]}],
                "ground": [{"id": "g", "name": "Scree", "ground": "scree"}],
            }
        )
        got = taken(target, source, "ground")
        self.assertEqual([m.name for m in got.ground], ["Turf", "Peat"])
        self.assertEqual(
            [m.name for m in got.marks], ["Road", "Wood"]
        )  # an id used for something else was changed, and the rule follows it
        self.assertEqual(got.ground[1].where[0].mark, got.marks[1].id)
        self.assertEqual((got.name, got.land), (target.name, target.land))
        more = taken(target, source, "ground", add=True)
        self.assertEqual([m.name for m in more.ground], ["Scree", "Turf", "Peat"])
        Build(more, more.plot.grid(65), Cache()).ground()
        self.assertEqual(
            set(alone(source, "ground")["ground"][1]), set(source.model_dump()["ground"][1])
        )
        self.assertEqual(alone(source, "ground")["land"], [])
        # an older version of the same scene: a mark that is still there stays as it is now
        now = self.scene(
            ground=[],
            marks=[
                {
                    "id": "a",
                    "name": "Wood, bent",
                    "kind": "area",
                    "points": [[50, 50], [250, 60], [150, 200]],
                }
            ],
        )
        self.assertEqual(
            [m.name for m in taken(now, source, "ground", same=True).marks], ["Wood, bent"]
        )
        with self.assertRaisesRegex(SceneError, "one light"):
            taken(now, source, "light", add=True)
        self.assertEqual(
            [(d["part"], d["removed"]) for d in differences(source, now)][0],
            ("ground", ["Turf", "Peat"]),
        )

    def test_a_part_travels_with_its_picture_note_source_and_rasters(self):
        mask = np.zeros((9, 9), np.uint8)
        mask[2:5] = 200
        _, png = cv2.imencode(".png", mask)
        s, t = new(), new()
        kept = ask("POST", "/api/rasters", png.tobytes(), {"X-Name": "m.png"})[1]
        rule = {"kind": "mask", "mark": "m"}
        ground = [{"id": "g", "name": "Peat", "ground": "peat", "where": [rule]}]
        marks = [{"id": "m", "name": "Hollow", "kind": "mask", "raster": kept["raster"]}]
        edit(s, "ground", ground=ground, marks=marks, name="Far Fell")
        _, jpeg = cv2.imencode(".jpg", np.full((30, 48, 3), 90, np.uint8))
        picture = base64.b64encode(jpeg.tobytes()).decode()
        order = {"scene": s["id"], "part": "ground", "name": "Wet ground", "note": "from the fen"}
        own = ask("POST", "/api/parts", order | {"picture": picture})[1]["id"]
        file = ask("POST", "/api/parts", order | {"picture": picture, "drawer": "shared"})[1][
            "file"
        ]
        self.addCleanup(ask, "DELETE", f"/api/shared-parts/{file}")
        lines = ask("GET", "/api/parts")[1]
        for line in (
            next(p for p in lines if p["id"] == own),
            next(p for p in lines if p["file"] == file),
        ):
            told = (line["name"], line["note"], line["source"], line["picture"])
            self.assertEqual(told, ("Wet ground", "from the fen", "Far Fell", picture))
        by_file = ask("GET", f"/api/parts/{own}/part.zip")[1]
        again = ask("POST", "/api/part-files", by_file, {"X-Name": "wet.part.zip"})[1]
        for source in ({"drawer": again["id"]}, {"file": file}):
            taken_ = ask("POST", f"/api/scenes/{t['id']}/taken", source)[1]
            self.assertEqual(taken_["ground"][0]["name"], "Peat")
            self.assertEqual(taken_["marks"][0]["raster"], kept["raster"])
        for broken in (by_file[:200], b"PK", b"no zip"):
            status, told = ask("POST", "/api/part-files", broken, {"X-Name": "x.zip"})
            self.assertEqual(status, 422)
            self.assertTrue(told["advice"])
        status, _ = ask("POST", "/api/parts", order | {"picture": "bm90IGEganBlZw=="})
        self.assertEqual(status, 422)

    def test_the_own_drawer(self):
        s, t = new(light={"sun_height": 7}), new()
        status, made = ask(
            "POST", "/api/parts", {"scene": s["id"], "part": "light", "name": "Low sun"}
        )
        self.assertEqual(status, 200)
        self.assertIn("Low sun", [p["name"] for p in ask("GET", "/api/parts")[1]])
        self.assertEqual(
            ask("POST", f"/api/scenes/{t['id']}/taken", {"drawer": made["id"]})[1]["light"][
                "sun_height"
            ],
            7,
        )
        self.assertEqual(
            ask("POST", f"/api/scenes/{t['id']}/taken", {"scene": s["id"], "part": "light"})[1][
                "light"
            ]["sun_height"],
            7,
        )
        self.assertEqual(ask("DELETE", f"/api/parts/{made['id']}")[0], 200)
        self.assertEqual(
            ask("POST", f"/api/scenes/{t['id']}/taken", {"drawer": made["id"]})[0], 404
        )
        self.assertEqual(
            ask("POST", "/api/parts", {"scene": s["id"], "part": "sky", "name": "x"})[0], 422
        )


KILLS = int(os.environ.get("SOW_KILLS", 30))


class Kills(unittest.TestCase):
    def stroked(self, kills: bool, least: int = 12) -> dict:
        """Twelve strokes of six chunks each, sent as the page sends them: a chunk is sent again
        until it is acknowledged.
        """
        status, s = ask(
            "POST",
            "/api/scenes",
            {
                "document": {
                    **BASE,
                    "land": [*BASE["land"], {"id": "h", "name": "h", "kind": "hand", "posts": 257}],
                }
            },
        )
        self.assertEqual(status, 200)
        at = f"/api/scenes/{s['id']}"
        rng = random.Random(8)
        done = threading.Event()
        lost = [0]
        killed = [0]
        brush = {"tool": "raise", "size_m": 20, "strength_m": 3}

        def persist(path, body):
            for _ in range(600):
                began = time.monotonic()
                try:
                    status, answer = ask("POST", path, body, timeout=20)
                    waited = time.monotonic() - began > 1  # for a worker to come up again
                    lost[0] += waited
                    if status != 503:
                        return status, answer
                except (urllib.error.URLError, OSError, http.client.HTTPException):
                    pass
                lost[0] += 1
                time.sleep(0.02)
            self.fail("the server did not come back")

        def killer():
            for k in range(KILLS):
                time.sleep(rng.uniform(0.02, 0.35))
                try:
                    if k % 10 == 9:  # PostgreSQL stopped and started
                        server().cluster.stop()
                        server().cluster.start()
                    else:
                        os.kill(worker(), signal.SIGKILL)
                    killed[0] += 1
                except (OSError, IndexError):
                    pass
            done.set()

        thread = threading.Thread(target=killer)
        if kills:
            thread.start()
        n = 0
        while n < least or (kills and not done.is_set()):
            turn, n = n % 12, n + 1
            for k in range(6):
                body = {
                    "seq": k,
                    "base": s["revision"],
                    "entry": "h",
                    "brush": brush,
                    "points": [
                        [40 + 30 * k, 30 + 20 * turn, 0.2],
                        [50 + 30 * k, 34 + 20 * turn, 0.2],
                    ],
                }
                status, raw = persist(f"{at}/strokes/s{n}", body)
                self.assertEqual(status, 200, raw)
            status, answer = persist(f"{at}/strokes/s{n}/end", {})
            if status == 404:  # it was ended, and only the answer was lost
                answer = ask("GET", at)[1]
            s = answer
        if kills:
            thread.join()
            self.assertGreater(killed[0], 0.6 * KILLS)  # the others met a worker not yet there
            self.assertGreater(lost[0], 0)  # and they were felt
        s["strokes_made"] = n
        return s

    def test_thirty_kills_at_random_moments_while_strokes_run(self):
        s = self.stroked(True)
        now = ask("GET", f"/api/scenes/{s['id']}")[1]
        entry, n = now["document"]["land"][1], s["strokes_made"]
        self.assertEqual(
            (entry["count"], now["steps"]), (n, n + 1)
        )  # each stroke is there once, as one revision, however often its chunks were sent
        self.assertEqual(len(entry["strokes"][-1]["points"]), 12)
        plain = self.stroked(False, n)["document"]["land"][1]
        for stroke in (*entry["strokes"], *plain["strokes"]):
            stroke.pop("seed")  # of the revision that it was made on
        self.assertEqual(entry, plain)  # the same heights under the same hash


if __name__ == "__main__":
    unittest.main()
