"""Files and requests made to do harm: each is refused in words, in bounded time and memory, and
nobody else waits for it.
"""

import concurrent.futures
import io
import os
import re
import tempfile
import threading
import time
import unittest
from pathlib import Path
from unittest import mock
from urllib.parse import quote

import cv2
import numpy as np

from sow.core import message
from sow.core.errors import SceneError
from sow.sandbox import Busy, Sandbox
from tests.hostile import corpus, package, triangle
from tests.hostile import glb as glb_of
from tests.served import ask

TIER = "whole"

SLIPS = re.compile(r"\b(Key|Type|Attribute|Index|Assertion|ZeroDivision|Unbound\w*)Error\b")
PATHS = {
    "elevation": "/api/rasters",
    "model": "/api/models",
    "zone_map": "/api/zones",
    "texture": "/api/textures",
    "ground_picture": "/api/ground-pictures",
    "scene_file": "/api/packages",
}


class EveryHostileFile(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.sandbox = Sandbox()
        cls.addClassCleanup(cls.sandbox.close)

    def test_is_refused_with_its_own_sentence(self):
        files = corpus()
        self.assertGreaterEqual(len(files), 200)
        self.assertEqual(len({f.case for f in files}), len(files))
        for f in files:
            with self.subTest(f.case):
                began = time.monotonic()
                with self.assertRaises(SceneError) as told:
                    self.sandbox.read(f.reader, f.files, **f.settings)
                said = str(told.exception)
                self.assertRegex(said, f.says)
                self.assertNotRegex(said, SLIPS)  # a decoder may complain, our own code not stumble
                self.assertTrue(told.exception.advice, said)
                self.assertLess(time.monotonic() - began, 19, "near the time that it is given")

    def test_honest_files_of_each_sort_are_read(self):
        ramp = np.arange(1200, dtype=np.uint16).reshape(30, 40)
        png = cv2.imencode(".png", ramp)[1].tobytes()
        found = self.sandbox.read("elevation", {"a.png": png}, raw=None)
        np.testing.assert_array_equal(found["values"], ramp)
        body = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], "<f4").tobytes()
        made = self.sandbox.read("model", {"a.glb": glb_of(triangle(), body)}, name="a.glb")
        self.assertEqual(made["facts"]["triangles"], 1)
        self.assertEqual(bytes(made["glb"][:4]), b"glTF")
        scene = {"name": "s", "plot": {"width_m": 300, "depth_m": 300, "posts": 129}}
        kept = self.sandbox.read("scene_file", {"a.zip": package(scene)}, measured=False)
        self.assertEqual((kept["document"]["name"], kept["rasters"]), ("s", {}))


class Bounds(unittest.TestCase):
    def test_a_file_is_read_where_no_kernel_was_compiled_before(self):
        with tempfile.TemporaryDirectory() as kernels:
            with mock.patch.dict(os.environ, {"NUMBA_CACHE_DIR": kernels}):
                sandbox = Sandbox(side_by_side=1)
                self.addCleanup(sandbox.close)
                body = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], "<f4").tobytes()
                files = {"a.glb": glb_of(triangle(), body)}
                found = sandbox.read("kind", files, settings={"label": "Sail"})
            self.assertEqual(bytes(found["glb"][:4]), b"glTF")

    def test_what_takes_too_long_is_ended_and_the_next_is_read(self):
        sandbox = Sandbox(side_by_side=1)
        self.addCleanup(sandbox.close)
        grid = b"ncols 2000\nnrows 2000\ncellsize 1\n" + b"1.25 " * 4_000_000
        with self.assertRaisesRegex(SceneError, "took longer than"):
            sandbox.read("elevation", {"slow.asc": grid}, seconds=0.3, raw=None)
        small = b"ncols 2\nnrows 2\ncellsize 1\n1 2 3 4"
        found = sandbox.read("elevation", {"a.asc": small}, raw=None)
        np.testing.assert_array_equal(found["values"], [[1, 2], [3, 4]])

    def test_what_takes_too_much_memory_is_told(self):
        sandbox = Sandbox(side_by_side=1)
        self.addCleanup(sandbox.close)
        wide = cv2.imencode(".png", np.zeros((9900, 9900, 4), np.uint8))[1].tobytes()
        self.assertLess(len(wide), 4 << 20)
        with self.assertRaisesRegex(SceneError, "more than the 1536 MB|more memory"):
            sandbox.read("elevation", {"wide.png": wide}, raw=None)
        with self.assertRaisesRegex(SceneError, "is no picture"):
            sandbox.read("elevation", {"a.png": b"words"}, raw=None)

    def test_when_many_wait_more_are_turned_away_at_once(self):
        sandbox = Sandbox(side_by_side=1, waiting=1)
        self.addCleanup(sandbox.close)
        grid = b"ncols 1000\nnrows 1000\ncellsize 1\n" + b"1.25 " * 1_000_000
        begun = threading.Barrier(3)

        def read(_):
            begun.wait()
            try:
                return sandbox.read("elevation", {"a.asc": grid}, raw=None)["values"].shape
            except Busy:
                return None

        with concurrent.futures.ThreadPoolExecutor(3) as pool:
            found = list(pool.map(read, range(3)))
        self.assertEqual(sorted(map(str, found)), ["(1000, 1000)", "(1000, 1000)", "None"])


class Messages(unittest.TestCase):
    def test_plain_values_come_back_as_they_went(self):
        rng = np.random.default_rng(4)
        value = {
            "$": {"array": [1, 2.5, None, True, "é\u202e\0"]},
            "numbers": [rng.normal(size=(3, 4)).astype(np.float32), rng.integers(0, 9, 5)],
            "none": np.zeros((0, 3), np.uint8),
            "bytes": b"\0\1\xff",
        }
        out = io.BytesIO()
        message.write(out, value)
        back = message.read(io.BytesIO(out.getvalue()), 1 << 20)
        self.assertEqual(back["$"], value["$"])
        self.assertEqual(bytes(back["bytes"]), value["bytes"])
        for a, b in zip([*value["numbers"], value["none"]], [*back["numbers"], back["none"]]):
            self.assertEqual((a.dtype, a.shape), (b.dtype, b.shape))
            np.testing.assert_array_equal(a, b)

    def test_what_is_no_message_is_refused(self):
        out = io.BytesIO()
        message.write(out, {"a": np.zeros(1000)})
        whole = out.getvalue()
        with self.assertRaises(message.Broken):
            message.read(io.BytesIO(whole), 100)
        with self.assertRaises(message.Broken):
            message.read(io.BytesIO(b"XXXX" + whole[4:]), 1 << 20)
        with self.assertRaises(EOFError):
            message.read(io.BytesIO(whole[:-1]), 1 << 20)
        objects = whole.replace(b'"<f8"', b'"|O8"')
        with self.assertRaises(message.Broken):
            message.read(io.BytesIO(objects), 1 << 20)


class OverTheServer(unittest.TestCase):
    def test_hostile_files_are_refused_with_422_while_others_are_served(self):
        scene = ask("POST", "/api/scenes", {"document": PLAIN})[1]["id"]
        paths = PATHS | {
            "lines": f"/api/scenes/{scene}/contours",
            "positions": f"/api/scenes/{scene}/places",
        }
        chosen = [f for f in corpus() if f.reader in paths and "raw" not in f.case][::3]
        slowest, over = [0.0], threading.Event()

        def watch():
            while not over.is_set():
                began = time.monotonic()
                ask("GET", "/api/health")
                slowest[0] = max(slowest[0], time.monotonic() - began)
                time.sleep(0.02)

        watcher = threading.Thread(target=watch)
        watcher.start()
        try:
            with concurrent.futures.ThreadPoolExecutor(3) as pool:
                for f, status, answer in pool.map(lambda f: (f, *_sent(paths, f)), chosen):
                    with self.subTest(f.case):
                        self.assertEqual(status, 422, answer)
                        self.assertTrue(answer["detail"])
        finally:
            over.set()
            watcher.join()
        self.assertLess(slowest[0], 8)  # it does not wait for a reader; how fast it is, is benched

    def test_texts_that_the_store_cannot_keep_are_refused(self):
        for name in ("a\0b", "\ud800", "\0"):
            status, answer = ask("POST", "/api/scenes", {"document": {**PLAIN, "name": name}})
            self.assertEqual(status, 422, answer)
        status, answer = ask("POST", "/api/scenes", b'{"document": ' + b'{"a":' * 10_000)
        self.assertEqual(status, 422, answer)
        status, answer = ask("POST", "/api/scenes", b"\xff\xfe{}")
        self.assertEqual(status, 422, answer)
        for number in (b"1e999", b"NaN", b"-Infinity", b'"\xc2\xb2"', b"[]", b"null"):
            body = b'{"document": {"name": "n", "plot": {"width_m": %s}}}' % number
            status, answer = ask("POST", "/api/scenes", body)
            self.assertEqual(status, 422, (number, answer))

    def test_names_of_files_are_made_plain(self):
        png = cv2.imencode(".png", np.full((7, 5), 77, np.uint8))[1].tobytes()
        name = "%0d%0aSet-Cookie:%20a=b%00%e2%80%ae.png"
        status, kept = ask("POST", "/api/rasters", png, {"X-Name": name})
        self.assertEqual((status, kept["name"]), (200, "Set-Cookie: a=b.png"))

    def test_a_raster_of_another_sort_is_told_where_it_is_used(self):
        png = cv2.imencode(".png", np.zeros((9, 9), np.uint8))[1].tobytes()
        raster = ask("POST", "/api/rasters", png)[1]["raster"]
        ground = [{"id": "g", "name": "g", "ground": "turf", "texture": raster}]
        scene = ask("POST", "/api/scenes", {"document": {**PLAIN, "ground": ground}})[1]["id"]
        status, answer = ask("POST", f"/api/scenes/{scene}/builds", {"client": "t"})
        self.assertEqual(status, 422, answer)
        self.assertIn("raster of another sort", answer["detail"])
        status, answer = ask("POST", f"/api/models/{raster}/kinds", {"settings": {"label": "a"}})
        self.assertEqual(status, 422, answer)
        places = [{"id": "p", "name": "p", "mix": [{"kind": "birch"}], "layout": "given"}]
        places[0]["places"] = raster
        document = {**PLAIN, "planting": places}
        scene = ask("POST", "/api/scenes", {"document": document})[1]["id"]
        status, answer = ask("POST", f"/api/scenes/{scene}/builds", {"client": "t"})
        self.assertEqual(status, 422, answer)

    def test_a_mix_that_is_not_there_is_missing(self):
        for path in ("own/abc", "own/²", "own/-1", "own/999999999999", "other/1", "shared/..%2fx"):
            status, answer = ask("DELETE", f"/api/kept-mixes/{quote(path, safe='/%')}")
            self.assertIn(status, (404, 405), (path, answer))


PLAIN = {"name": "n", "plot": {"width_m": 400, "depth_m": 300, "posts": 129}}


def _sent(paths: dict, f) -> tuple[int, dict]:
    """Gives a hostile file to the server as the page would, again when it is busy."""
    for _ in range(40):
        if f.reader in ("model", "texture", "ground_picture"):
            body, kind = _form(f.files)
            answer = ask("POST", paths[f.reader], body, {"Content-Type": kind})
        else:
            name, data = next(iter(f.files.items()))
            answer = ask("POST", paths[f.reader], data, {"X-Name": name})
        if answer[0] != 503:
            return answer
        time.sleep(0.3)
    return answer


def _form(files: dict[str, bytes]) -> tuple[bytes, str]:
    mark = b"--------sow-boundary"
    parts = [
        b'--%s\r\nContent-Disposition: form-data; name="%s"; filename="%s"\r\n\r\n%s\r\n'
        % (mark, Path(name).stem.encode(), name.encode(), data)
        for name, data in files.items()
    ]
    whole = b"".join(parts) + b"--%s--\r\n" % mark
    return whole, f"multipart/form-data; boundary={mark.decode()}"
