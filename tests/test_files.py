"""Files: what grow writes is read by other libraries and is the same each time; bad files are
refused in plain words.
"""

import contextlib
import csv
import io
import json
import shutil
import struct
import subprocess
import tempfile
import unittest
import zipfile
import zlib
from pathlib import Path

import cv2
import numpy as np
import pygltflib
import rasterio
import tifffile
import trimesh
from PIL import Image

from sow.commands import main
from sow.core.build import Build
from sow.core.cabinet import kinds
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.formats.folder import open_scene
from sow.core.formats.kind_glb import kind_glb
from sow.core.formats.raster import read_raster
from sow.core.scene import read_scene

TIER = "whole"

SCENE = {
    "name": "Small heath",
    "plot": {"width_m": 200, "depth_m": 150, "posts": 201, "seed": 3},
    "land": [
        {
            "id": "h",
            "name": "h",
            "kind": "heightmap",
            "raster": "maps/h.png",
            "lowest_m": 5,
            "highest_m": 45,
        }
    ],
    "water": [{"id": "w", "name": "Lake", "level_m": 9}],
    "ground": [
        {"id": "a", "name": "Turf", "ground": "turf"},
        {
            "id": "b",
            "name": "Rock, steep",
            "ground": "granite",
            "where": [{"kind": "slope", "low": 20, "high": 90}],
        },
    ],
    "planting": [
        {
            "id": "p",
            "name": 'Mixed "heath", low',
            "mix": [{"kind": "heather", "share": 60}, {"kind": "boulder", "share": 40}],
            "density": 8,
            "apart_m": 0.6,
            "stance": {"lean": 60, "sway": 8},
        }
    ],
    "pieces": [
        {"id": "m", "name": "Person", "kind": "person", "east_m": 100, "north_m": 75, "turn": 90}
    ],
}


def hill() -> np.ndarray:
    y, x = np.mgrid[0:61, 0:81]
    return (65535 * np.exp(-((x - 30) ** 2 + (y - 20) ** 2) / 500)).astype(np.uint16)


def put_scene(folder: Path) -> Path:
    (folder / "maps").mkdir(parents=True)
    cv2.imwrite(str(folder / "maps/h.png"), hill())
    (folder / "scene.json").write_text(json.dumps(SCENE))
    return folder / "scene.json"


class Grow(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = Path(tempfile.mkdtemp())
        cls.addClassCleanup(shutil.rmtree, cls.folder)
        cls.scene = put_scene(cls.folder / "in")
        cls.out = cls.folder / "out"
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
            assert main(["grow", str(cls.scene), str(cls.out), "--ground-px", "256"]) == 0
        cls.report = json.loads((cls.out / "report.json").read_text())

    def test_heights_agree_in_every_format_and_north_is_row_0(self):
        tif = tifffile.imread(self.out / "height.tif")
        told = json.loads((self.out / "height.json").read_text())
        png = np.asarray(Image.open(self.out / "height.png")).astype(float)
        self.assertEqual(tif.shape, (151, 201))
        self.assertEqual(
            (told["columns"], told["rows"], told["spacing_m"], told["width_m"], told["depth_m"]),
            (201, 151, 1, 200, 150),
        )
        metres = told["lowest_m"] + png / 65535 * (told["highest_m"] - told["lowest_m"])
        np.testing.assert_allclose(metres, tif, atol=40 / 65535)
        self.assertAlmostEqual(float(tif.max()), 45, delta=0.05)
        r, c = np.unravel_index(tif.argmax(), tif.shape)
        self.assertLess(r, 60)  # the hill lies in the picture's upper part: north
        with rasterio.open(self.out / "height.tif") as f:
            self.assertEqual((f.dtypes[0], f.res), ("float32", (1.0, 1.0)))
            np.testing.assert_array_equal(f.read(1), tif)

    def test_masks_sum_to_white(self):
        masks = {
            p.name: np.asarray(Image.open(p)).astype(int)
            for p in (self.out / "materials").glob("*.png")
        }
        self.assertEqual(set(masks), {"turf.png", "rock-steep.png"})
        self.assertLessEqual(np.abs(sum(masks.values()) - 255).max(), 1)
        self.assertAlmostEqual(
            masks["turf.png"].mean() / 255, self.report["materials"]["Turf"], delta=0.003
        )

    def test_plants_stand_where_the_csv_and_the_gltf_say(self):
        with open(self.out / "plants.csv") as f:
            rows = list(csv.DictReader(f))
        self.assertEqual(len(rows), self.report["plants_total"] + 1)
        self.assertEqual(rows[-1]["kind"], "person")
        self.assertEqual({r["sowing"] for r in rows[:-1]}, {SCENE["planting"][0]["name"]})
        doc = pygltflib.GLTF2().load(str(self.out / "scene.glb"))
        blob = doc.binary_blob()
        places = []
        turns = 0
        for node in doc.nodes:
            spread = (node.extensions or {}).get("EXT_mesh_gpu_instancing")
            if spread:
                a = doc.accessors[spread["attributes"]["TRANSLATION"]]
                view = doc.bufferViews[a.bufferView]
                places.append(
                    np.frombuffer(blob, "<f4", a.count * 3, view.byteOffset).reshape(-1, 3)
                )
                q = doc.accessors[spread["attributes"]["ROTATION"]]
                quaternions = np.frombuffer(
                    blob, "<f4", q.count * 4, doc.bufferViews[q.bufferView].byteOffset
                ).reshape(-1, 4)
                np.testing.assert_allclose(np.linalg.norm(quaternions, axis=1), 1, atol=1e-5)
                turns += len(np.unique(quaternions.round(4), axis=0))
        places = np.concatenate(places)
        self.assertGreater(turns, 0.9 * len(places))
        told = np.array([[float(r["east"]), float(r["up"]), -float(r["north"])] for r in rows[:-1]])
        order = lambda p: p[np.lexsort(p.round(1).T)]
        self.assertEqual(len(told), len(places))
        self.assertLess(np.abs(np.sort(told[:, 0]) - np.sort(places[:, 0])).max(), 1e-3)
        self.assertLess(np.abs(order(told).mean(0) - order(places).mean(0)).max(), 1e-3)

    def test_another_library_reads_the_ground_at_true_scale(self):
        scene = trimesh.load(self.out / "scene.glb", force="scene")
        ground = next(g for name, g in scene.geometry.items() if name.startswith("ground"))
        low, high = ground.bounds
        np.testing.assert_allclose([low[0], high[0], low[2], high[2]], [0, 200, -150, 0], atol=1e-3)
        self.assertAlmostEqual(high[1], 45, delta=0.05)
        self.assertGreater(ground.face_normals[:, 1].min(), 0)
        person = next(g for name, g in scene.geometry.items() if name.startswith("person"))
        self.assertAlmostEqual(np.ptp(person.bounds[:, 1]), 1.75, delta=0.1)

    def test_the_validator_passes_the_scene_and_every_kind(self):
        files = [self.out / "scene.glb"]
        with tempfile.TemporaryDirectory() as folder:
            for name, kind in kinds.items():
                file = Path(folder) / f"{name}.glb"
                file.write_bytes(kind_glb(kind, "summer"))
                files.append(file)
            told = subprocess.run(
                ["node", "tests/gltf_check.mjs", *map(str, files)],
                capture_output=True,
                text=True,
                check=True,
            )
        found = {
            Path(path).name: report["first"]
            for path, report in json.loads(told.stdout).items()
            if report["errors"] or report["warnings"]
        }
        self.assertEqual(found, {})
        self.assertEqual(len(json.loads(told.stdout)), len(kinds) + 1)

    def test_the_same_bytes_twice_and_from_folder_or_zip(self):
        pack = self.folder / "pack.zip"
        with zipfile.ZipFile(pack, "w") as z:
            for p in (self.folder / "in").rglob("*.*"):
                z.write(p, Path("inner") / p.relative_to(self.folder / "in"))
        for source in (self.folder / "in", pack):
            again = self.folder / "again"
            with (
                contextlib.redirect_stdout(io.StringIO()),
                contextlib.redirect_stderr(io.StringIO()),
            ):
                self.assertEqual(main(["grow", str(source), str(again), "--ground-px", "256"]), 0)
            for name in (
                "height.png",
                "height.json",
                "height.tif",
                "plants.csv",
                "scene.glb",
                "materials/turf.png",
            ):
                self.assertEqual((self.out / name).read_bytes(), (again / name).read_bytes(), name)
            self.assertEqual(
                json.loads((again / "report.json").read_text())["content_key"],
                self.report["content_key"],
            )

    def test_own_heightmap_comes_back_the_same(self):
        told = json.loads((self.out / "height.json").read_text())
        shutil.copy(self.out / "height.png", self.folder / "in/maps/back.png")
        shutil.copy(self.out / "height.tif", self.folder / "in/maps/back.tif")
        tif = tifffile.imread(self.out / "height.tif")
        for name in ("back.png", "back.tif"):
            document = {
                **SCENE,
                "land": [
                    {
                        "id": "h",
                        "name": "h",
                        "kind": "heightmap",
                        "raster": f"maps/{name}",
                        "lowest_m": told["lowest_m"],
                        "highest_m": told["highest_m"],
                    }
                ],
            }
            (self.folder / "in/back.json").write_text(json.dumps(document))
            scene, rasters = open_scene(self.folder / "in/back.json")
            heights = Build(scene, scene.plot.grid(), Cache(), rasters).heights
            np.testing.assert_allclose(heights, tif, atol=2e-3)


class Rasters(unittest.TestCase):
    def test_reads_what_others_write(self):
        values = hill()
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder)
        Image.fromarray((values >> 8).astype(np.uint8)).save(folder / "a.png")
        Image.fromarray(values).save(folder / "b.png")
        tifffile.imwrite(folder / "c.tif", values)
        tifffile.imwrite(folder / "d.tif", values.astype(np.float32) / 7, compression="zlib")
        with rasterio.open(
            folder / "e.tif",
            "w",
            driver="GTiff",
            width=81,
            height=61,
            count=1,
            dtype="float32",
            compress="deflate",
        ) as f:
            f.write(values.astype(np.float32), 1)
        for name, want in (
            ("a.png", values >> 8),
            ("b.png", values),
            ("c.tif", values),
            ("d.tif", values.astype(np.float32) / 7),
            ("e.tif", values),
        ):
            np.testing.assert_allclose(
                read_raster((folder / name).read_bytes(), name), want, rtol=1e-6, err_msg=name
            )

    def test_bad_files_are_refused_in_plain_words(self):
        def tif(values, **more):
            out = io.BytesIO()
            tifffile.imwrite(out, values, **more)
            return out.getvalue()

        chunk = lambda kind, data: (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )
        huge = (
            b"\x89PNG\r\n\x1a\n"
            + chunk(b"IHDR", struct.pack(">IIBBBBB", 30000, 30000, 16, 0, 0, 0, 0))
            + chunk(b"IDAT", zlib.compress(b""))
            + chunk(b"IEND", b"")
        )
        gaps = np.ones((9, 9), np.float32)
        gaps[2, 3] = np.nan
        cut = cv2.imencode(".png", hill())[1].tobytes()[:900]
        for data, words in (
            (b"just words", "whatever its name says"),
            (huge, "30,000 × 30,000"),
            (tif(np.ones((9, 1), np.float32)), "rows and columns"),
            (tif(gaps), "without data"),
            (
                tif(
                    np.full((5, 5), -9999, np.float32), extratags=[(42113, "s", 6, "-9999", False)]
                ),
                "without data",
            ),
            (cut, "damaged"),
            (b"II*\0zzzzzzzz", "can't be read"),
        ):
            with self.assertRaises(SceneError) as e:
                read_raster(data, "file.png")
            self.assertIn(words, e.exception.message)
            self.assertTrue(e.exception.advice)


class Documents(unittest.TestCase):
    def test_bad_documents_name_the_field(self):
        base = {"name": "t", "planting": [{"id": "p", "name": "p", "mix": [{"kind": "heather"}]}]}
        for change, path, words in (
            (
                {"land": [{"id": "a", "name": "a", "kind": "volcano"}]},
                "land.0.kind",
                "no kind 'volcano'",
            ),
            ({"plot": {"width_m": -5}}, "plot.width_m", "at least 2"),
            ({"plot": {"width_m": float("nan")}}, "plot.width_m", "finite"),
            (
                {"land": [{"id": "a", "name": "a", "kind": "noise", "octave": 3}]},
                "land.0.octave",
                "not known",
            ),
            (
                {"planting": [{"id": "p", "name": "p", "mix": [{"kind": "baobab"}]}]},
                "planting.0.mix.0.kind",
                "no kind called 'baobab'",
            ),
            ({"water": [{"id": "p", "name": "w"}]}, "", "used twice"),
        ):
            with self.assertRaises(SceneError) as e:
                read_scene({**base, **change})
            self.assertEqual(e.exception.path, path)
            self.assertIn(words, e.exception.message)

    def test_a_band_turned_round_and_a_rule_before_its_stage(self):
        with self.assertRaises(SceneError) as e:
            read_scene(
                {
                    "name": "t",
                    "land": [
                        {
                            "id": "n",
                            "name": "n",
                            "kind": "noise",
                            "where": [{"kind": "slope", "low": 40, "high": 10}],
                        }
                    ],
                }
            )
        self.assertEqual(
            (e.exception.path, "backwards" in e.exception.message), ("land.0.where.0.high", True)
        )
        for land, path, words in (
            (
                [{"id": "n", "name": "n", "kind": "noise", "where": [{"kind": "shore"}]}],
                "land.0.where.0",
                "made later",
            ),
            (
                [{"id": "n", "name": "n", "kind": "heightmap", "raster": "gone.png"}],
                "land.0.raster",
                "missing",
            ),
            (
                [{"id": "n", "name": "n", "kind": "heightmap", "raster": "../secret.png"}],
                "land.0.raster",
                "missing",
            ),
        ):
            scene = read_scene({"name": "t", "land": land})
            with self.assertRaises(SceneError) as e:
                Build(scene, scene.plot.grid(33), Cache()).heights
            self.assertEqual(e.exception.path, path)
            self.assertIn(words, e.exception.message)

    def test_the_command_line_says_what_is_wrong_and_writes_nothing(self):
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder)
        (folder / "bad.json").write_text('{"name": "t", "plot": {"width_m": -1}}')
        said = io.StringIO()
        with contextlib.redirect_stderr(said):
            self.assertEqual(main(["grow", str(folder / "bad.json"), str(folder / "out")]), 2)
        self.assertIn("plot.width_m", said.getvalue())
        self.assertFalse((folder / "out").exists())

    def test_sample_scenes_read_and_the_demo_is_large_enough(self):
        for file in Path("samples").glob("*.json"):
            scene, rasters = open_scene(file)
            self.assertLessEqual(scene.plot.longer_m, 2000)
            sown = sum(Build(scene, scene.plot.grid(129), Cache(), rasters).forecasts())
            self.assertGreater(sown, 950_000 if file.stem == "brackenhope" else 5_000)

    def test_the_core_knows_nothing_of_the_others(self):
        allowed = {
            "core": set(),
            "supplier": set(),
            "store": {"core"},
            "web": {"core", "store", "supplier"},
        }
        for room, may in allowed.items():
            for file in Path("src/sow", room).rglob("*.py"):
                text = file.read_text()
                for other in set(allowed) - may - {room}:
                    self.assertNotIn(f"..{other}", text, file)
                    self.assertNotIn(f"sow.{other}", text, file)
                if room == "core":
                    for name in ("flask", "peewee", "psycopg2"):
                        self.assertNotIn(f"import {name}", text, file)


if __name__ == "__main__":
    unittest.main()
