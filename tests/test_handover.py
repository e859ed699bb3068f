"""Hand over through the API: the page's files are the command line's files, jobs can be stopped,
troubles are told.
"""

import contextlib
import io
import json
import shutil
import struct
import tempfile
import time
import unittest
import urllib.request
import zipfile
from pathlib import Path

import cv2
import numpy as np

from sow.commands import main
from tests.served import ask, server

TIER = "whole"

BASE = {
    "name": "Handed over",
    "plot": {"width_m": 250, "depth_m": 250, "posts": 257, "seed": 5},
    "land": [{"id": "n", "name": "n", "kind": "noise", "height_m": 25, "feature_m": 90}],
    "water": [{"id": "w", "name": "Pool", "level_m": -3}],
    "ground": [
        {"id": "g", "name": "g", "ground": "turf"},
        {
            "id": "m",
            "name": "In the mask",
            "ground": "peat",
            "where": [{"kind": "mask", "mark": "k"}],
        },
    ],
    "planting": [
        {
            "id": "p",
            "name": "p",
            "mix": [{"kind": "birch"}, {"kind": "boulder"}],
            "density": 3,
            "apart_m": 2,
        }
    ],
}


def finished(job: dict, seconds: float = 120) -> dict:
    end = time.monotonic() + seconds
    while job["state"] in ("waiting", "running") and time.monotonic() < end:
        time.sleep(0.1)
        _, job = ask("GET", f"/api/hand-overs/{job['id']}")
    return job


class HandOver(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = Path(tempfile.mkdtemp())
        cls.addClassCleanup(shutil.rmtree, cls.folder)
        y, x = np.mgrid[0:90, 0:90]
        cls.mask = np.where((x < 45) & (y < 45), 255, 0).astype(
            np.uint8
        )  # white in the north-west quarter
        _, raster = ask(
            "POST",
            "/api/rasters",
            cv2.imencode(".png", cls.mask)[1].tobytes(),
            {"X-Name": "quarter.png"},
        )
        _, cls.state = ask(
            "POST",
            "/api/scenes",
            {
                "document": {
                    **BASE,
                    "marks": [
                        {"id": "k", "name": "Quarter", "kind": "mask", "raster": raster["raster"]}
                    ],
                }
            },
        )
        cls.at = f"/api/scenes/{cls.state['id']}"

    def files(self, posts=129) -> zipfile.ZipFile:
        _, job = ask(
            "POST",
            f"{self.at}/hand-overs",
            {"posts": posts, "files": {"scene": {"ground_px": 128}}},
        )
        job = finished(job)
        self.assertEqual(job["state"], "done", job)
        return zipfile.ZipFile(io.BytesIO(ask("GET", f"/api/hand-overs/{job['id']}/files.zip")[1]))

    def test_the_pages_files_are_the_command_lines_files(self):
        (self.folder / "scene.zip").write_bytes(ask("GET", f"{self.at}/scene.zip")[1])
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
            self.assertEqual(
                main(
                    [
                        "grow",
                        str(self.folder / "scene.zip"),
                        str(self.folder / "out"),
                        "--size",
                        "129",
                        "--ground-px",
                        "128",
                    ]
                ),
                0,
            )
        with self.files() as z:
            names = {n for n in z.namelist() if n != "report.json"}
            self.assertEqual(
                names,
                {
                    str(p.relative_to(self.folder / "out"))
                    for p in (self.folder / "out").rglob("*.*")
                }
                - {"report.json"},
            )
            for name in names:
                self.assertEqual(z.read(name), (self.folder / "out" / name).read_bytes(), name)

    def test_a_mask_lies_the_right_way_up(self):
        with self.files() as z:
            peat = cv2.imdecode(
                np.frombuffer(z.read("materials/in-the-mask.png"), np.uint8), cv2.IMREAD_UNCHANGED
            )
        self.assertGreater(peat[4:58, 4:58].min(), 250)
        self.assertEqual(int(peat[70:].max()), 0)
        self.assertEqual(int(peat[:, 70:].max()), 0)

    def test_the_gltf_is_sound(self):
        with self.files() as z:
            data = z.read("scene.glb")
        magic, version, length = struct.unpack_from("<4sII", data)
        self.assertEqual((magic, version, length), (b"glTF", 2, len(data)))
        size, kind = struct.unpack_from("<I4s", data, 12)
        doc = json.loads(data[20 : 20 + size])
        blob = data[28 + size :]
        self.assertEqual((kind, doc["buffers"][0]["byteLength"]), (b"JSON", len(blob)))
        width = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}
        arrays = []
        for a in doc["accessors"]:
            view = doc["bufferViews"][a["bufferView"]]
            self.assertEqual(view["byteOffset"] % 4, 0)
            self.assertEqual(view["byteLength"], a["count"] * width[a["type"]] * 4)
            self.assertLessEqual(view["byteOffset"] + view["byteLength"], len(blob))
            values = np.frombuffer(
                blob,
                "<u4" if a["componentType"] == 5125 else "<f4",
                a["count"] * width[a["type"]],
                view["byteOffset"],
            )
            self.assertTrue(np.isfinite(values).all())
            values = values.reshape(a["count"], -1)
            if "min" in a:
                np.testing.assert_allclose(values.min(0), a["min"], rtol=1e-6)
                np.testing.assert_allclose(values.max(0), a["max"], rtol=1e-6)
            arrays.append(values)
        for mesh in doc["meshes"]:
            for p in mesh["primitives"]:
                counts = {len(arrays[k]) for k in p["attributes"].values()}
                self.assertEqual(len(counts), 1)
                self.assertLess(arrays[p["indices"]].max(), counts.pop())
                np.testing.assert_allclose(
                    np.linalg.norm(arrays[p["attributes"]["NORMAL"]], axis=1), 1, atol=2e-2
                )
                self.assertLess(p["material"], len(doc["materials"]))
        for image in doc["images"]:
            view = doc["bufferViews"][image["bufferView"]]
            self.assertIsNotNone(
                cv2.imdecode(
                    np.frombuffer(blob, np.uint8, view["byteLength"], view["byteOffset"]),
                    cv2.IMREAD_UNCHANGED,
                )
            )
        names = {n["name"].split(":")[0] for n in doc["nodes"]}
        self.assertEqual(names, {"ground", "Pool", "p", "Sun"})

    def test_a_job_can_be_stopped_and_its_troubles_are_told(self):
        _, job = ask("POST", f"{self.at}/hand-overs", {"posts": 2049})
        ask("DELETE", f"/api/hand-overs/{job['id']}")
        self.assertEqual(finished(job)["state"], "stopped")
        self.assertEqual(ask("GET", f"/api/hand-overs/{job['id']}/files.zip")[0], 404)
        bad = {
            **self.state["document"],
            "land": [{"id": "h", "name": "h", "kind": "heightmap", "raster": "0" * 64}],
        }
        _, other = ask("POST", "/api/scenes", {"document": bad})
        _, job = ask("POST", f"/api/scenes/{other['id']}/hand-overs", {"posts": 129})
        job = finished(job)
        self.assertEqual((job["state"], job["problem"]["path"]), ("failed", "land.0.raster"))
        for posts in (5, 99999):
            self.assertEqual(ask("POST", f"{self.at}/hand-overs", {"posts": posts})[0], 422)
        self.assertEqual(ask("GET", "/api/hand-overs/none")[0], 404)

    def test_the_live_channel_tells_of_progress_and_revisions(self):
        heard = []
        own = {"Authorization": f"Bearer {server().key}"}
        channel = urllib.request.Request(f"{server().address}/api/events", headers=own)
        with urllib.request.urlopen(channel, timeout=30) as stream:
            self.assertEqual(stream.readline(), b"event: hello\n")
            slow = {
                **self.state["document"],
                "land": [
                    *self.state["document"]["land"],
                    {"id": "x", "name": "Slow wear", "kind": "wear", "seed": 5},
                ],
            }
            ask("POST", f"{self.at}/builds", {"document": slow, "grid": "view", "client": "live"})
            _, now = ask("GET", self.at)
            ask(
                "POST",
                f"{self.at}/edits",
                {"base": now["revision"], "label": "again", "document": now["document"]},
            )
            while len(heard) < 40 and not (heard and heard[-1] == "revision"):
                line = stream.readline().decode()
                if line.startswith("event: "):
                    heard.append(line[7:].strip())
        self.assertIn("progress", heard)
        self.assertEqual(heard[-1], "revision")

    def test_cabinet_pictures_and_shapes(self):
        _, cabinet = ask("GET", "/api/cabinet")
        self.assertGreaterEqual(
            {k["family"] for k in cabinet["kinds"]},
            {"tree", "shrub", "grass", "flower", "stone", "figure"},
        )
        self.assertGreaterEqual(
            {g["name"] for g in cabinet["grounds"]}, {"turf", "peat", "granite", "scree", "gravel"}
        )
        shapes = {}
        for kind in cabinet["kinds"][::3]:
            status, data = ask("GET", f"/api/cabinet/kinds/{kind['name']}.png")
            drawn = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
            self.assertGreater((drawn[..., 3] > 128).mean(), 0.02, kind["name"])
            _, raw = ask("GET", f"/api/cabinet/kinds/{kind['name']}/shape")
            size = struct.unpack_from("<I", raw)[0]
            head = json.loads(raw[4 : 4 + size])
            self.assertEqual(len(head["levels"]), kind["variants"])
            last = (head["levels"][-1] + head["casts"])[-1]
            self.assertEqual(
                4 + size + last["at"] + last["vertices"] * 48 + last["indices"] * 4, len(raw)
            )
            shapes[hash(raw[4 + size :])] = kind["name"]
        self.assertEqual(len(shapes), len(cabinet["kinds"][::3]))  # no two are alike
        self.assertEqual(ask("GET", "/api/cabinet/kinds/triffid/shape")[0], 404)
        _, maps = ask("GET", "/api/cabinet/grounds/turf/maps")
        self.assertEqual(len(maps), 2 * 512 * 512 * 4)


if __name__ == "__main__":
    unittest.main()
