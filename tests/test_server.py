"""What the server does beneath its routes: requests are whole before a thread has them, work that
nobody waits for is stopped, files of dead processes go, what recipes made is kept as plain values.
"""

import asyncio
import os
import shutil
import tempfile
import threading
import time
import unittest
import unittest.mock
from pathlib import Path

import numpy as np
from flask import Flask, request

from sow.core.build import Build
from sow.core.cabinet import keep, kinds
from sow.core.cabinet.kind import KindShape
from sow.core.cache import Cache
from sow.core.errors import Cancelled
from sow.core.scene import read_scene
from sow.web import asgi
from sow.web.guard import Guard
from sow.web.waiting import GONE, still_wanted

TIER = "fast"


def site(app: Flask) -> asgi.Gateway:
    return asgi.Gateway(app, Guard(""))


def scope(path="/x", method="POST", **headers) -> dict:
    given = {"host": "127.0.0.1:1"} | headers
    return {
        "type": "http",
        "method": method,
        "path": path,
        "query_string": b"",
        "http_version": "1.1",
        "headers": [(k.encode(), v.encode()) for k, v in given.items()],
    }


def sent(where: asgi.Gateway, what: dict, *messages: dict, then: float | None = None) -> list[dict]:
    """What a site answers to messages; the connection then stays open, or ends `then` s on."""
    out: list[dict] = []

    async def run():
        waiting = list(messages)

        async def receive():
            if waiting:
                return waiting.pop(0)
            await asyncio.sleep(3600 if then is None else then)
            return {"type": "http.disconnect"}

        async def send(message):
            out.append(message)

        await where(what, receive, send)

    asyncio.run(run())
    return out


def part(data: bytes, more: bool = False) -> dict:
    return {"type": "http.request", "body": data, "more_body": more}


class Requests(unittest.TestCase):
    def test_a_thread_has_a_request_once_all_of_it_is_here(self):
        app = Flask("t")
        begun = []

        @app.post("/x")
        def echo():
            begun.append(request.content_length)
            return request.get_data()[::-1]

        whole = sent(site(app), scope(), part(b"abc", True), part(b"def", True), part(b"g"))
        self.assertEqual(whole[0]["status"], 200)
        self.assertEqual(b"".join(m.get("body", b"") for m in whole[1:]), b"gfedcba")
        self.assertEqual(begun, [7])
        self.assertEqual(sent(site(app), scope(), part(b"abc", True), then=0), [])
        self.assertEqual(begun, [7])  # half a request begins nothing

    def test_what_is_too_large_is_refused_before_and_while_it_comes(self):
        app = Flask("t")
        size = str(asgi.MOST_UPLOAD + 1)
        answer = sent(site(app), scope(**{"content-length": size}), part(b"", True))
        self.assertEqual(answer[0]["status"], 413)
        with unittest.mock.patch.object(asgi, "MOST_UPLOAD", 5):
            answer = sent(site(app), scope(), part(b"abc", True), part(b"def", True))
            self.assertEqual(answer[0]["status"], 413)
        with unittest.mock.patch.object(asgi, "SLOWEST_BODY_S", 0.05):
            self.assertEqual(sent(site(app), scope(), part(b"abc", True)), [])

    def test_strangers_are_refused_before_their_body_is_read(self):
        where = asgi.Gateway(Flask("t"), Guard("k" * 30))
        answer = sent(where, scope("/api/scenes"), part(b"abc", True))
        self.assertEqual(answer[0]["status"], 401)

    def test_work_is_stopped_when_the_one_who_asked_is_gone(self):
        app = Flask("t")
        ended = threading.Event()

        @app.post("/x")
        def work():
            check = still_wanted()
            for _ in range(2000):
                try:
                    check()
                except Cancelled:
                    ended.set()
                    return ""
                time.sleep(0.005)
            return ""

        began = time.monotonic()
        sent(site(app), scope(), part(b""), then=0.1)
        self.assertTrue(ended.is_set())
        self.assertLess(time.monotonic() - began, 5)

    def test_a_build_asks_whether_it_is_still_wanted(self):
        scene = read_scene(
            {
                "name": "n",
                "plot": {"width_m": 300, "depth_m": 300, "posts": 129},
                "land": [{"id": "n", "name": "n", "kind": "noise"}],
            }
        )
        gone = threading.Event()
        app = Flask("t")
        with app.test_request_context(environ_overrides={"asgi.scope": {GONE: gone}}):
            check = still_wanted()
        build = Build(scene, scene.plot.draft_grid(), Cache(1 << 24), check=check)
        gone.set()
        with self.assertRaises(Cancelled):
            _ = build.heights
        gone.clear()
        self.assertEqual(build.heights.shape, build.grid.shape)
        still_wanted()()  # outside a request everything is wanted


class Kept(unittest.TestCase):
    """What recipes made comes back as it was, and a file that is no such thing is made again."""

    def setUp(self):
        self.home = Path(tempfile.mkdtemp(prefix="sow-kept-"))
        self.addCleanup(shutil.rmtree, self.home, ignore_errors=True)
        cache = unittest.mock.patch.dict(os.environ, {"SOW_CACHE": str(self.home)})
        cache.start()
        self.addCleanup(cache.stop)

    def again(self, name, make, *forms):
        """As another process would have it."""
        keep._made.pop(name, None)
        self.addCleanup(keep._made.pop, name, None)
        return keep.kept(name, make, *forms)

    def test_a_shape_comes_back_bit_for_bit(self):
        shape = kinds["birch"].make("summer")
        forms = (KindShape.plain, KindShape.of)
        self.again("t-shape", lambda: shape, *forms)
        back = self.again("t-shape", lambda: self.fail("it was kept"), *forms)
        self.assertEqual(back.far_m, shape.far_m)
        np.testing.assert_array_equal(back.sheet, shape.sheet)
        for mine, other in zip(shape.levels, back.levels, strict=True):
            for a, b in zip(mine, other, strict=True):
                for field, value in vars(a).items():
                    if value is None:
                        self.assertIsNone(getattr(b, field))
                    else:
                        np.testing.assert_array_equal(getattr(b, field), value)
                        self.assertEqual(getattr(b, field).dtype, value.dtype)

    def test_a_torn_or_foreign_file_is_made_again(self):
        for data in (b"", b"torn", b"\x80\x04\x95pickled", b"SOW1" + b"\xff" * 60):
            self.again("t-field", lambda: np.arange(4))
            file = next(self.home.glob("t-field-*"))
            file.write_bytes(data)
            np.testing.assert_array_equal(self.again("t-field", lambda: np.arange(9)), np.arange(9))
            file.unlink()
