"""Stores of an earlier Sow are brought up to date with all that they hold; a data folder that was
copied serves at its new place, beside the one that it was copied from.
"""

import json
import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import psycopg2
from psycopg2.extensions import ISOLATION_LEVEL_AUTOCOMMIT

from sow.run import ROOT, Server
from sow.store.migrations import MIGRATIONS
from tests.served import server

TIER = "whole"

# as the first tables stood: no notes, no ages of rasters, no parts, nothing set aside
FIRST = """
CREATE TABLE scene (id SERIAL PRIMARY KEY, name VARCHAR(80) NOT NULL, head BIGINT, tip BIGINT,
    sample VARCHAR(40) UNIQUE, made TIMESTAMP NOT NULL);
CREATE TABLE revision (id SERIAL PRIMARY KEY, scene_id INTEGER NOT NULL REFERENCES scene (id)
    ON DELETE CASCADE, parent BIGINT, label VARCHAR(120) NOT NULL, snapshot VARCHAR(80),
    document JSONB NOT NULL, made TIMESTAMP NOT NULL);
CREATE TABLE raster (hash VARCHAR(64) PRIMARY KEY, name VARCHAR(200) NOT NULL,
    rows INTEGER NOT NULL, columns INTEGER NOT NULL, dtype VARCHAR(10) NOT NULL,
    tiles JSONB NOT NULL);
CREATE TABLE tile (hash VARCHAR(64) PRIMARY KEY, data BYTEA NOT NULL);
CREATE TABLE chunk (id SERIAL PRIMARY KEY, scene_id INTEGER NOT NULL REFERENCES scene (id)
    ON DELETE CASCADE, session VARCHAR(40) NOT NULL, seq INTEGER NOT NULL, base BIGINT NOT NULL,
    entry VARCHAR(64) NOT NULL, brush JSONB NOT NULL, points JSONB NOT NULL,
    made TIMESTAMP NOT NULL);
CREATE TABLE migration (number INTEGER PRIMARY KEY, made TIMESTAMP NOT NULL);
INSERT INTO migration VALUES (1, now()), (2, now());
"""
OLD = {
    "name": "Old",
    "plot": {"width_m": 300, "depth_m": 300, "posts": 129, "runs_on": True},
    "land": [{"id": "n", "name": "n", "kind": "noise"}],
    "marks": [{"id": "m", "name": "m"}],
    "ground": [
        {"id": "g", "name": "g", "where": [{"kind": "bend", "low": -1, "high": 1}]},
        {"id": "h", "name": "h", "where": [{"kind": "gathers", "low": 1, "high": 9}]},
    ],
}
OPEN = """
import json, sys
from sow.store import scenes, strokes, parts
scenes.open_store(sys.argv[1])
with scenes.database.connection_context():
    state = scenes.state(1)
    parts.keep("land", "kept", {"a": 1})
    print(json.dumps({"document": state.document, "steps": state.steps,
        "history": scenes.history(1), "strokes": {k: vars(v) for k, v in
        strokes.under_way(1).items()}, "parts": [p["name"] for p in parts.listed()]}))
"""


class EarlierStores(unittest.TestCase):
    def setUp(self):
        self.base = server().cluster.start()
        self.name = "earlier"
        self.admin(f"DROP DATABASE IF EXISTS {self.name}")
        self.admin(f"CREATE DATABASE {self.name}")
        self.addCleanup(self.admin, f"DROP DATABASE IF EXISTS {self.name} WITH (FORCE)")
        self.url = self.base.rsplit("/", 1)[0] + f"/{self.name}"

    def admin(self, order: str) -> None:
        link = psycopg2.connect(self.base)
        link.set_isolation_level(ISOLATION_LEVEL_AUTOCOMMIT)
        with link.cursor() as run:
            run.execute(order)
        link.close()

    def fill(self) -> None:
        with psycopg2.connect(self.url) as link, link.cursor() as run:
            run.execute(FIRST)
            run.execute("INSERT INTO scene (name, made) VALUES ('Old', now())")
            for k in range(3):
                run.execute(
                    "INSERT INTO revision (scene_id, parent, label, snapshot, document, made) "
                    "VALUES (1, %s, %s, %s, %s, now())",
                    (k or None, f"step {k}", "first" if k == 0 else None, json.dumps(OLD)),
                )
            run.execute("UPDATE scene SET head = 3, tip = 3")
            brush = json.dumps({"tool": "raise", "size_m": 20, "strength_m": 1})
            run.execute(
                "INSERT INTO chunk (scene_id, session, seq, base, entry, brush, points, made) "
                "VALUES (1, 's', 0, 3, 'h', %s, '[[1, 2, 0.5]]', now())",
                (brush,),
            )

    def opened(self) -> subprocess.Popen:
        return subprocess.Popen(
            [sys.executable, "-c", OPEN, self.url],
            env=os.environ | {"PYTHONPATH": str(ROOT / "src")},
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )

    def test_all_that_an_earlier_store_holds_is_there_and_new_things_can_be_kept(self):
        self.fill()
        first, second = self.opened(), self.opened()  # two that start at once
        for started in (first, second):
            out, error = started.communicate(timeout=90)
            self.assertEqual(started.returncode, 0, error)
        found = json.loads(out)
        self.assertEqual(found["document"], OLD)
        self.assertEqual((found["steps"], found["history"][-1]["snapshot"]), (3, "first"))
        self.assertEqual([h["note"] for h in found["history"]], ["", "", ""])
        self.assertEqual(found["strokes"]["s"]["points"], [[1, 2, 0.5]])
        self.assertIsNone(found["strokes"]["s"]["aside"])
        self.assertIn("kept", found["parts"])
        with psycopg2.connect(self.url) as link, link.cursor() as run:
            run.execute("SELECT number FROM migration ORDER BY number")
            self.assertEqual([n for (n,) in run], list(range(1, len(MIGRATIONS) + 1)))

    def test_a_document_of_the_first_weeks_reads_as_it_was_meant(self):
        from sow.core.scene import read_scene

        scene = read_scene(OLD)
        self.assertEqual(scene.beyond.edge, "run on")
        self.assertEqual(scene.marks[0].kind, "mask")
        self.assertEqual(
            [m.where[0].kind for m in scene.ground], ["curvature", "contributing-area"]
        )
        again = read_scene(scene.model_dump(mode="json"))
        self.assertEqual(again, scene)


class Copies(unittest.TestCase):
    def test_a_copied_data_folder_serves_beside_its_original(self):
        home = Path(tempfile.mkdtemp(prefix="sow-copy-"))
        self.addCleanup(shutil.rmtree, home, ignore_errors=True)
        home.chmod(0o711)
        first, second = Server(home / "first"), Server(home / "second")
        for one in (first, second):
            self.addCleanup(one.stop)
        first.start(180)
        made = first.ask("/api/scenes", {"document": {"name": "Copied"}})["id"]
        # as a snapshot of the disk takes it: files of state and a lock that tell of the original
        first.stop()
        first.start(180)
        first.cluster.stop()
        subprocess.run(["cp", "-a", str(first.folder), str(second.folder)], check=True)
        first.start(180)
        second.start(180)
        self.assertNotEqual(first.address, second.address)
        for one in (first, second):
            self.assertEqual([s["id"] for s in one.ask("/api/scenes")], [made])
        second.ask("/api/scenes", {"document": {"name": "Only there"}})
        self.assertEqual(len(first.ask("/api/scenes")), 1)
        self.assertEqual(len(second.ask("/api/scenes")), 2)
