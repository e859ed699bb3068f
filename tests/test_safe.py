"""What was kept opens again, whatever became of it: strokes, drawers, the cluster, a backup."""

import contextlib
import hashlib
import io
import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.error
import urllib.request
import zipfile
from pathlib import Path

import psycopg2

from sow.run import ROOT, Server
from sow.store.cluster import Cluster, ClusterError, living, write_whole
from tests.served import ask, server

TIER = "whole"

PLOT = {"width_m": 300, "depth_m": 300, "posts": 129}
HAND = {"id": "h", "name": "By hand", "kind": "hand", "posts": 129}
BRUSH = {"tool": "raise", "size_m": 30, "strength_m": 2}


def new(**more) -> dict:
    status, state = ask("POST", "/api/scenes", {"document": {"name": "s", "plot": PLOT, **more}})
    assert status == 200, state
    return state


def sql(order: str, *values):
    with psycopg2.connect(server().cluster.url) as link, link.cursor() as run:
        run.execute(order, values)
        return run.fetchall() if run.description else None


class Strokes(unittest.TestCase):
    def setUp(self):
        self.state = new(land=[HAND])
        self.at = f"/api/scenes/{self.state['id']}"

    def send(self, session: str, seq: int, points=((100, 100, 0.2),), brush=BRUSH, **more):
        order = {
            "seq": seq,
            "base": self.state["revision"],
            "entry": "h",
            "brush": brush,
            "points": [list(p) for p in points],
        }
        return ask("POST", f"{self.at}/strokes/{session}", order | more)

    def kept(self, session: str) -> int:
        where = "scene_id = %s AND session = %s"
        return sql(f"SELECT count(*) FROM chunk WHERE {where}", self.state["id"], session)[0][0]

    def test_a_chunk_is_checked_before_it_is_kept(self):
        for points in (
            [[1, 2]],
            [[1, 2, 3, 4]],
            [["a", 2, 3]],
            [[None, 2, 3]],
            [[1e300, 2, 3]],
            [],
        ):
            self.assertEqual(self.send("bad", 0, points)[0], 422, points)
        for brush in ({**BRUSH, "tool": "spoon"}, {**BRUSH, "size_m": -1}, {**BRUSH, "sise": 3}):
            self.assertEqual(self.send("bad", 0, brush=brush)[0], 422, brush)
        self.assertEqual(self.send("bad", 0, entry="nobody")[0], 422)
        self.assertEqual(self.kept("bad"), 0)

    def test_parts_out_of_order_are_refused_and_the_same_twice_is_kept_once(self):
        self.assertEqual(self.send("o", 1)[0], 409)
        self.assertEqual(self.send("o", 0)[0], 200)
        self.assertEqual(self.send("o", 2)[0], 409)
        self.assertEqual(self.send("o", 0)[0], 200)  # it came already
        self.assertEqual(self.send("o", 0, [(5, 5, 1)])[0], 409)  # another part of that number
        self.assertEqual(self.send("o", 1, brush={**BRUSH, "size_m": 99})[0], 409)
        self.assertEqual(self.send("o", 1, [(110, 100, 0.2)])[0], 200)
        self.assertEqual(self.kept("o"), 2)
        status, now = ask("POST", f"{self.at}/strokes/o/end", {})
        points = now["document"]["land"][0]["strokes"][0]["points"]
        self.assertEqual((status, points), (200, [[100, 100, 0.2], [110, 100, 0.2]]))

    def test_too_many_points_are_refused_and_what_was_kept_stays(self):
        many = [(100 + k % 50, 100, 0.01) for k in range(4000)]
        for seq in range(5):
            self.assertEqual(self.send("long", seq, many)[0], 200)
        self.assertEqual(self.send("long", 5, many[:1])[0], 422)
        self.assertEqual(self.kept("long"), 5)

    def test_a_stroke_that_cannot_be_applied_never_closes_its_scene(self):
        self.assertEqual(self.send("a", 0)[0], 200)
        broken = json.dumps([["x", None]])
        sql("UPDATE chunk SET points = %s WHERE session = 'a'", broken)
        server().kill()
        server().start(120)
        for _ in range(2):  # two tabs: both get it
            status, opened = ask("GET", self.at)
            self.assertEqual((status, len(opened["aside"])), (200, 1), opened)
            self.assertIn("points", opened["aside"][0]["why"])
        self.assertEqual(opened["revision"], self.state["revision"])
        self.assertEqual(self.kept("a"), 1)
        self.assertEqual(ask("DELETE", f"{self.at}/strokes/a")[0], 200)
        self.assertEqual(ask("DELETE", f"{self.at}/strokes/a")[0], 404)
        self.assertEqual(ask("GET", self.at)[1]["aside"], [])

    def test_a_stroke_whose_landform_is_gone_waits_until_it_is_back(self):
        self.assertEqual(self.send("g", 0)[0], 200)
        other = {**self.state["document"], "land": [{"id": "h", "name": "d", "kind": "noise"}]}
        edit = {"base": self.state["revision"], "label": "another", "document": other}
        self.assertEqual(ask("POST", f"{self.at}/edits", edit)[0], 200)
        server().kill()
        server().start(120)
        opened = ask("GET", self.at)[1]
        self.assertIn("no landform by hand", opened["aside"][0]["why"])
        self.assertEqual(ask("POST", f"{self.at}/undo")[0], 200)
        opened = ask("GET", self.at)[1]
        self.assertEqual(opened["aside"], [])
        self.assertEqual(len(opened["document"]["land"][0]["strokes"]), 1)


class Drawers(unittest.TestCase):
    def test_a_part_is_never_overwritten_by_one_of_another_sort(self):
        state = new(land=[HAND])
        order = {"scene": state["id"], "part": "land", "name": "My land"}
        part = ask("POST", "/api/parts", order)[1]["id"]
        drawer = {"name": "Mine", "kinds": ["birch"], "part": part}
        self.assertEqual(ask("POST", "/api/drawers", drawer)[0], 404)
        names = [p["name"] for p in ask("GET", "/api/parts")[1] if p["id"] == part]
        self.assertEqual(names, ["My land"])
        self.assertEqual(ask("DELETE", f"/api/kept-mixes/own/{part}")[0], 404)

    def test_the_cabinet_answers_whatever_stands_in_the_store(self):
        before = len(ask("GET", "/api/cabinet")[1]["kinds"])
        for sort, document in (
            ("kind", {}),
            ("kind", {"kind": "own-zz"}),
            ("kind", {"kind": 7}),
            ("kind", []),
            ("drawer", {"kinds": 3}),
            ("drawer", {}),
        ):
            made = "INSERT INTO part (part, name, document, made) VALUES (%s, 'odd', %s, now())"
            sql(made, sort, json.dumps(document))
        try:
            status, cabinet = ask("GET", "/api/cabinet")
            self.assertEqual(status, 200)
            self.assertGreaterEqual(len(cabinet["left_out"]), 5)
            self.assertGreaterEqual(len(cabinet["kinds"]), before)
        finally:
            sql("DELETE FROM part WHERE name = 'odd'")


class States(unittest.TestCase):
    def test_a_file_of_state_is_written_whole_or_not_at_all(self):
        folder = Path(tempfile.mkdtemp(prefix="sow-state-"))
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        file = folder / "state.json"
        write_whole(file, "one")
        self.assertEqual((file.read_text(), file.stat().st_mode & 0o777), ("one", 0o600))
        with self.assertRaises(UnicodeEncodeError):
            write_whole(file, "\ud800")
        self.assertEqual(file.read_text(), "one")
        self.assertEqual([p.name for p in folder.iterdir()], ["state.json"])

    def test_a_process_that_is_only_listed_is_dead(self):
        child = subprocess.Popen(["true"])
        end = time.monotonic() + 10
        while living(child.pid) and time.monotonic() < end:
            time.sleep(0.01)
        self.assertTrue(Path(f"/proc/{child.pid}").exists())  # a zombie: nobody has asked for it
        self.assertFalse(living(child.pid))
        child.wait()
        self.assertTrue(living(os.getpid()))


class ACluster(unittest.TestCase):
    """Whatever is lost beside it, the cluster that is there is found, or start says what to do."""

    @classmethod
    def setUpClass(cls):
        cls.folder = Path(tempfile.mkdtemp(prefix="sow-safe-"))
        cls.server = Server(cls.folder)
        cls.addClassCleanup(shutil.rmtree, cls.folder, ignore_errors=True)
        cls.addClassCleanup(lambda: cls.server.stop())
        cls.server.start(180)
        cls.made = cls.server.ask("/api/scenes", {"document": {"name": "Stays"}})["id"]

    def stays(self) -> None:
        self.server.start(180)
        self.assertIn(self.made, [s["id"] for s in self.server.ask("/api/scenes")])
        self.assertEqual(list(self.folder.glob("pg.*")), [])

    def test_files_of_state_that_are_lost_or_empty(self):
        for lost in (
            {"cluster.json": None, "server.json": "{", "samples.json": "null"},
            {"cluster.json": "", "server.json": None, "key": ""},
            {"cluster.json": "[1]"},
        ):
            with self.subTest(lost):
                for name, text in lost.items():
                    (self.folder / name).unlink(missing_ok=True)
                    if text is not None:
                        (self.folder / name).write_text(text)
                self.stays()
                self.assertEqual(len(self.server._running()), 1)  # none is left behind
        self.server.stop()
        (self.folder / "cluster.json").unlink()
        self.stays()

    def test_nothing_outlives_a_server_that_is_killed(self):
        def below(pid):
            """Every process that descends from one."""
            own = []
            for place in Path("/proc").glob("[0-9]*/stat"):
                with contextlib.suppress(OSError):
                    fields = place.read_text().rsplit(")", 1)[1].split()
                    if int(fields[1]) == pid:
                        own += [int(place.parent.name), *below(int(place.parent.name))]
            return own

        self.server.start(180)
        master = self.server.state()["pid"]
        end = time.monotonic() + 60
        while len(below(master)) < 2:  # what serves, and what reads files for it
            self.assertLess(time.monotonic(), end)
            time.sleep(0.1)
        family = below(master)
        os.kill(master, signal.SIGKILL)
        end = time.monotonic() + 10
        while left := [pid for pid in family if living(pid)]:
            self.assertLess(time.monotonic(), end, left)
            time.sleep(0.05)
        self.assertEqual(self.server._running(), [])
        self.stays()

    def test_start_right_after_the_database_was_killed(self):
        for _ in range(3):
            pid = int((self.folder / "pg" / "postmaster.pid").read_text().split()[0])
            os.kill(pid, signal.SIGKILL)
            self.stays()

    def test_a_data_folder_that_is_not_whole_is_left_as_it_is(self):
        other = Path(tempfile.mkdtemp(prefix="sow-broken-"))
        self.addCleanup(shutil.rmtree, other, ignore_errors=True)
        (other / "pg").mkdir()
        (other / "pg" / "precious").write_text("work")
        with self.assertRaisesRegex(ClusterError, "Nothing was changed.*restore"):
            Cluster(other).start()
        self.assertEqual((other / "pg" / "precious").read_text(), "work")

    def test_another_version_or_owner_is_told_with_what_to_do(self):
        other = Path(tempfile.mkdtemp(prefix="sow-version-"))
        self.addCleanup(shutil.rmtree, other, ignore_errors=True)
        cluster = Cluster(other)
        (other / "pg").mkdir(mode=0o700)
        (other / "pg" / "PG_VERSION").write_text("9\n")
        cluster._own(other / "pg")
        with self.assertRaisesRegex(ClusterError, "PostgreSQL 9.*backup"):
            cluster.start()
        if cluster.as_root:
            os.chown(other / "pg", 12345, 12345)
            with self.assertRaisesRegex(ClusterError, "chown -R postgres"):
                cluster.start()

    def test_no_room_and_no_right_are_told_in_words(self):
        for folder, words in (("/proc/sow", "proc/sow"), ("/dev/full/sow", "/dev/full")):
            done = subprocess.run(
                [sys.executable, "-m", "sow", "start"],
                env=os.environ | {"SOW_DATA": folder, "PYTHONPATH": str(ROOT / "src")},
                capture_output=True,
                text=True,
                timeout=60,
            )
            self.assertEqual(done.returncode, 1)
            self.assertIn(words, done.stderr)
            self.assertNotIn("Traceback", done.stderr)

    def test_beyond_this_machine_a_password_is_asked(self):
        done = subprocess.run(
            [sys.executable, "-m", "sow", "start", "--host", "0.0.0.0"],
            env=os.environ | {"SOW_DATA": str(self.folder), "PYTHONPATH": str(ROOT / "src")},
            stdin=subprocess.DEVNULL,
            capture_output=True,
            text=True,
            timeout=120,
        )
        self.assertEqual(done.returncode, 1)
        self.assertIn("password of at least 8", done.stderr)


class BeyondThisMachine(unittest.TestCase):
    """Opened from other machines: by a password, which is kept as a hash and never sent back."""

    def test_a_password_lets_in_and_a_wrong_one_does_not(self):
        folder = Path(tempfile.mkdtemp(prefix="sow-beyond-"))
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        other = Server(folder)
        self.addCleanup(other.stop)
        done = subprocess.run(
            [sys.executable, "-m", "sow", "start", "--host", "0.0.0.0"],
            env=os.environ
            | {
                "SOW_DATA": str(folder),
                "PYTHONPATH": str(ROOT / "src"),
                "SOW_PASSWORD": "open sesame",
                "SOW_PORT": "0",
            },
            stdin=subprocess.DEVNULL,
            capture_output=True,
            text=True,
            timeout=240,
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("proxy with TLS", done.stdout)
        kept = (folder / "password").read_text()
        self.assertNotIn("sesame", kept)
        self.assertEqual((folder / "password").stat().st_mode & 0o077, 0)

        def sent(path, password=None, **headers):
            body = None if password is None else f"password={password}".encode()
            request = urllib.request.Request(other.address + path, body, headers)
            try:
                with urllib.request.urlopen(request, timeout=30) as answer:
                    return answer.status, answer.headers.get("Set-Cookie") or "", answer.read()
            except urllib.error.HTTPError as e:
                return e.code, e.headers.get("Set-Cookie") or "", e.read()

        status, _, page = sent("/", Host="studio.example")
        self.assertEqual((status, b"password" in page), (401, True))
        self.assertEqual(sent("/api/scenes", Host="studio.example")[0], 401)
        for wrong in ("", "sesame", "open+sesame+"):
            status, cookie, _ = sent("/open", wrong)
            self.assertEqual((status, cookie), (401, ""), wrong)
        self.assertEqual(sent("/open", "open+sesame")[0], 429)  # slowed after three wrong ones
        time.sleep(1.1)
        status, cookie, page = sent("/open", "open+sesame", Origin="http://evil.example")
        self.assertEqual((status, cookie), (403, ""))
        status, cookie, page = sent("/open", "open+sesame")
        self.assertEqual(status, 200)
        self.assertNotIn(b"sesame", page)
        own = cookie.partition(";")[0]
        self.assertEqual(sent("/api/scenes", Cookie=own)[0], 200)


class Backups(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.home = Path(tempfile.mkdtemp(prefix="sow-backup-"))
        cls.addClassCleanup(shutil.rmtree, cls.home, ignore_errors=True)
        cls.home.chmod(0o711)
        cls.file = cls.home / "all.sow"

    def run_sow(self, command: str, file: Path, data: Path) -> subprocess.CompletedProcess:
        return subprocess.run(
            [sys.executable, "-m", "sow", command, str(file)],
            env=os.environ | {"SOW_DATA": str(data), "PYTHONPATH": str(ROOT / "src")},
            capture_output=True,
            text=True,
            timeout=240,
        )

    def test_everything_comes_back_on_another_cluster(self):
        state = new(land=[HAND])
        at = f"/api/scenes/{state['id']}"
        for k in range(3):
            document = {**state["document"], "name": f"v{k}"}
            edit = {"base": state["revision"], "label": f"step {k}", "document": document}
            state = ask("POST", f"{at}/edits", edit)[1]
        ask("POST", f"{at}/snapshots", {"revision": state["revision"], "name": "before the snow"})
        order = {"seq": 0, "base": state["revision"], "entry": "h", "brush": BRUSH}
        ask("POST", f"{at}/strokes/open", order | {"points": [[100, 100, 0.2]]})
        raster = ask("POST", "/api/rasters", b"ncols 2\nnrows 2\ncellsize 1\n1 2 3 4")[1]["raster"]
        ask("POST", "/api/parts", {"scene": state["id"], "part": "land", "name": "Kept land"})
        done = self.run_sow("backup", self.file, server().folder)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("read back whole", done.stdout)
        self.assertEqual(self.file.stat().st_mode & 0o077, 0)
        package = ask("GET", f"{at}/scene.zip")[1]

        other = Server(self.home / "data")
        self.addCleanup(other.stop)
        done = self.run_sow("restore", self.file, other.folder)
        self.assertEqual(done.returncode, 0, done.stderr)
        other.start(180)
        there = other.ask(at)
        self.assertEqual(there["document"]["land"][0]["strokes"][0]["points"], [[100, 100, 0.2]])
        steps = other.ask(f"{at}/history")
        self.assertIn("before the snow", [s["snapshot"] for s in steps])
        self.assertEqual([s["label"] for s in steps][1:4], ["step 2", "step 1", "step 0"])
        self.assertEqual(other.ask(f"/api/rasters/{raster}")["highest"], 4)
        self.assertIn("Kept land", [p["name"] for p in other.ask("/api/parts")])
        added = other.ask("/api/scenes", {"document": {"name": "new"}})
        self.assertGreater(added["id"], state["id"])  # numbers go on after those brought in
        kept = json.loads(zipfile.ZipFile(io.BytesIO(package)).read("scene.json"))
        del kept["land"][0]["strokes"], there["document"]["land"][0]["strokes"]
        kept["land"][0]["count"] = there["document"]["land"][0]["count"]
        self.assertEqual(kept, there["document"])

        again = self.run_sow("restore", self.file, other.folder)
        self.assertEqual(again.returncode, 1)
        self.assertIn("holds", again.stderr)
        self.assertEqual(len(other.ask(f"{at}/history")), len(steps))

    def test_what_is_no_whole_backup_changes_nothing(self):
        whole = self.home / "whole.sow"
        done = self.run_sow("backup", whole, server().folder)
        self.assertEqual(done.returncode, 0, done.stderr)
        data = whole.read_bytes()
        other = Server(self.home / "empty")
        self.addCleanup(other.stop)
        cases = {
            "empty": b"",
            "noise": hashlib.sha256(b"x").digest() * 40,
            "cut": data[: len(data) // 2],
            "another": _zip({"manifest.json": b'{"format": "sow-backup-9"}'}),
            "no manifest": _zip({"scene.jsonl": b""}),
            "a wrong sum": _changed(data, "scene.jsonl", b'{"id": 1, "name": "forged"}\n'),
            "tiles cut": _changed(data, "tile.bin", b"\0" * 50),
        }
        for name, content in cases.items():
            with self.subTest(name):
                file = self.home / "bad.sow"
                file.write_bytes(content)
                done = self.run_sow("restore", file, other.folder)
                self.assertEqual(done.returncode, 1)
                self.assertRegex(done.stderr, "no backup|damaged|format")
                self.assertNotIn("Traceback", done.stderr)
        other.start(180)
        self.assertEqual(other.ask("/api/scenes"), [])


def _zip(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def _changed(data: bytes, name: str, content: bytes) -> bytes:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        files = {n: archive.read(n) for n in archive.namelist()}
    return _zip(files | {name: content})
