"""Starting and stopping: whatever was killed, the next start comes up with all that was kept."""

import json
import os
import shutil
import signal
import subprocess
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from sow import warm
from sow.commands import names, parser_of, usage
from sow.core.settings import Settings
from sow.run import SAMPLES, Server
from sow.store.cluster import Cluster, ClusterError, free_port

TIER = "whole"


class Ahead(unittest.TestCase):
    def test_kernels_are_read_where_they_are_compiled_and_waited_for_nowhere(self):
        with (
            tempfile.TemporaryDirectory() as folder,
            mock.patch.dict(os.environ, {"NUMBA_CACHE_DIR": folder}),
            mock.patch.object(warm, "compile_land") as land,
        ):
            warm.read_kernels()
            self.assertFalse(land.called)  # it would compile while a person waits
            warm.mark().touch()
            warm.read_kernels()
            land.assert_called_once_with()


class Starts(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = Path(tempfile.mkdtemp(prefix="sow-run-"))
        cls.folder.chmod(0o755)
        os.environ["SOW_PORT"] = "0"
        cls.server = Server(cls.folder)
        cls.addClassCleanup(shutil.rmtree, cls.folder, ignore_errors=True)
        cls.addClassCleanup(cls.server.stop)
        cls.server.start(180)

    def tearDown(self):
        self.server.start(180)

    def pid(self) -> int:
        return json.loads(self.server.file.read_text())["pid"]

    def test_a_second_start_changes_nothing(self):
        before, address = self.pid(), self.server.address
        self.assertEqual(self.server.start(), address)
        self.assertEqual(self.pid(), before)

    def test_samples_are_loaded_once_and_stay_deleted(self):
        self.server.load_samples()
        names = [s["name"] for s in self.server.ask("/api/scenes")]
        self.assertEqual(names.count("Brackenhope"), 1)
        self.assertEqual(names[0], "Brackenhope")  # the newest is what the page opens
        self.server.load_samples()
        scenes = self.server.ask("/api/scenes")
        self.assertEqual(len(scenes), len(names))
        import urllib.request

        for s in scenes:
            urllib.request.urlopen(
                urllib.request.Request(
                    f"{self.server.address}/api/scenes/{s['id']}",
                    method="DELETE",
                    headers={"Authorization": f"Bearer {self.server.key}"},
                )
            )
        self.server.load_samples()
        self.assertEqual(self.server.ask("/api/scenes"), [])
        self.assertTrue(any(SAMPLES.glob("*.json")))

    def test_a_dead_server_a_torn_state_file_and_a_foreign_number(self):
        made = self.server.ask("/api/scenes", {"document": {"name": "Stays"}})["id"]
        os.killpg(self.pid(), signal.SIGKILL)
        self.server.start(120)
        self.assertIn(made, [s["id"] for s in self.server.ask("/api/scenes")])
        self.server.stop()
        self.server.file.write_text('{"port": 1')
        self.server.start(120)
        self.assertTrue(self.server.alive())
        self.server.stop()
        other = subprocess.Popen(["sleep", "60"], start_new_session=True)
        try:
            self.server.file.write_text(json.dumps({"port": free_port(), "pid": other.pid}))
            self.server.start(
                120
            )  # the number belongs to somebody else's process now: it is left alone
            self.assertIsNone(other.poll())
        finally:
            other.kill()
            other.wait()
        self.assertIn(made, [s["id"] for s in self.server.ask("/api/scenes")])

    def test_the_database_killed_and_started_again_on_a_taken_port(self):
        made = self.server.ask("/api/scenes", {"document": {"name": "Stays too"}})["id"]
        self.server.stop()
        port = json.loads(self.server.cluster.state.read_text())["port"]
        import socket

        with socket.socket() as squatter:
            squatter.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            squatter.bind(("127.0.0.1", port))
            squatter.listen()
            self.server.start(120)
            self.assertNotEqual(json.loads(self.server.cluster.state.read_text())["port"], port)
        self.assertIn(made, [s["id"] for s in self.server.ask("/api/scenes")])


class Clusters(unittest.TestCase):
    def test_a_cluster_left_half_made_is_made_again(self):
        folder = Path(tempfile.mkdtemp(prefix="sow-half-"))
        folder.chmod(0o755)
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        (folder / "pg.part" / "data").mkdir(parents=True)
        (folder / "pg.part" / "data" / "PG_VERSION").write_text("1")
        cluster = Cluster(folder)
        self.addCleanup(cluster.stop)
        start = time.monotonic()
        url = cluster.start()
        self.assertTrue(url.startswith("postgresql://sow:"))
        self.assertTrue(cluster.running())
        self.assertFalse((folder / "pg.part").exists())
        self.assertLess(time.monotonic() - start, 90)
        self.assertEqual(oct((folder / "cluster.json").stat().st_mode & 0o777), "0o600")

    def test_a_missing_postgresql_is_told_with_what_to_run(self):
        from sow.store import cluster

        found = cluster.glob.glob
        cluster.glob.glob = lambda pattern: []
        try:
            with self.assertRaises(ClusterError) as e:
                cluster.programs()
            self.assertIn("apt-get install postgresql", str(e.exception))
        finally:
            cluster.glob.glob = found


class Command(unittest.TestCase):
    def test_help_follows_from_the_parsers_and_unknown_words_are_told(self):
        told = usage()
        for name in names():
            self.assertIn(f"  {name}", told)
            for action in parser_of(name)._actions[1:]:
                self.assertIn((action.option_strings or [action.dest])[0], told)
        run = lambda *a: subprocess.run(["./sow", *a], capture_output=True, text=True)
        self.assertIn("test [fast", run("help").stdout)
        wrong = run("sing")
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("no command 'sing'", wrong.stdout)

    def test_settings_are_told_and_a_wrong_one_is_named(self):
        run = lambda **more: subprocess.run(
            ["./sow", "settings"], capture_output=True, text=True, env=os.environ | more
        )
        told = run(SOW_PORT="8500", SOW_KEY="very secret").stdout
        self.assertIn("SOW_PORT = 8500", told)
        self.assertNotIn("very secret", told)
        for name in Settings.model_fields:
            self.assertIn(f"SOW_{name.upper()}", told)
        wrong = run(SOW_PORT="eighty")
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("SOW_PORT is 'eighty'", wrong.stderr)

    def test_the_schema_names_units(self):
        run = lambda *a: subprocess.run(["./sow", *a], capture_output=True, text=True)
        schema = json.loads(run("schema").stdout)
        self.assertIn("Wear", schema["$defs"])
        for name, model in schema["$defs"].items():
            for field, p in model.get("properties", {}).items():
                if p.get("type") in ("number", "integer") and "sow" in p:
                    self.assertTrue(
                        p["title"] and len(p["sow"]["slider"]) == 2,
                        f"{name}.{field} has no label or range",
                    )
        gone = run("grow", "nowhere.json", "/tmp/none")
        self.assertEqual(gone.returncode, 2)
        self.assertIn("no file", gone.stderr)


if __name__ == "__main__":
    unittest.main()
