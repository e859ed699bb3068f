"""Whole journeys through the real page in headless Chromium."""

import io
import json
import tempfile
import unittest
import zipfile
from pathlib import Path

import cv2
import numpy as np
import pygltflib
import tifffile
from PIL import Image

from tests.page import Keys, Page
from tests.served import ask, server

TIER = "page"


def heightmap(folder: Path) -> Path:
    """A ridge with a valley, 16 bits, as another program would give it."""
    y, x = np.mgrid[0:129, 0:129] / 128
    h = 0.6 * np.exp(-((x - 0.5) ** 2) / 0.03) + 0.3 * np.sin(5 * x + 3 * y) ** 2 + 0.2 * y
    file = folder / "far_ridge.png"
    cv2.imwrite(str(file), np.uint16(65535 * (h - h.min()) / np.ptp(h)))
    return file


class Journey(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        cls.page = Page(server().address, "sketch")
        cls.addClassCleanup(cls.page.close)

    def tearDown(self):
        self.page.shot_if_failed(self)

    def scene(self) -> dict:
        return self.page.js("return sow.get().state")

    def kept(self, before: int) -> dict:
        """Waits until a revision after `before` is kept, and everything is drawn."""
        self.page.until(lambda: self.scene()["revision"] > before, 60, "nothing was kept")
        self.page.settled()
        return self.scene()

    def test_from_an_empty_scene_to_a_picture_and_files(self):
        page = self.page
        page.until(lambda: page.all("[data-make]") or page.all("[data-section]"), 60)
        if not page.all("[data-make]"):
            page.chord(Keys.CONTROL, Keys.ALT, "n")
        name = page.until(lambda: page.one(".sheetbox input.text"), 60)
        name.send_keys(Keys.CONTROL, "a")
        name.send_keys("Journey")
        self.assertEqual(name.get_attribute("value"), "Journey")
        page.js(
            "document.querySelector('.sheetbox input[type=checkbox]').click()"
        )  # begin with flat ground
        page.click("[data-make]")
        page.until(lambda: self.scene() and self.scene()["name"] == "Journey", 60)
        page.settled()
        self.assertIn("Flat ground", page.text("[data-pad]") + page.text("body"))

        # a heightmap is dropped on the face
        before = self.scene()["revision"]
        page.drop(heightmap(self.folder))
        state = self.kept(before)
        self.assertEqual([e["kind"] for e in state["document"]["land"]], ["heightmap"])
        self.assertEqual(state["document"]["land"][0]["name"], "far ridge")
        relief = page.js("return sow.get().manifest.highest - sow.get().manifest.lowest")
        self.assertAlmostEqual(relief, 112, delta=1)

        # noise is added, and its height dragged with the slider
        page.click("[aria-label='Add landform or process']")
        page.click("[data-add=noise-smooth]")
        state = self.kept(state["revision"])
        thumb = page.one("[data-section=land] [aria-label='Height'][role=slider]")
        frames = page.js("return sow.view.renderer.info.render.frame")
        highest = page.js("return sow.get().manifest.highest")
        old = state["document"]["land"][1]["height_m"]
        thumb.send_keys(Keys.ARROW_RIGHT * 3)
        state = self.kept(state["revision"])
        self.assertGreater(state["document"]["land"][1]["height_m"], old)
        self.assertGreater(page.js("return sow.view.renderer.info.render.frame"), frames)
        self.assertNotEqual(page.js("return sow.get().manifest.highest"), highest)

        # materials: turf, and granite with its slope rule, whose band is moved by keys
        page.unfold("ground")
        for ground in ("turf", "granite"):
            page.click("[data-section=ground] [aria-label='Add material']")
            page.click(f"[data-add={ground}]")
            state = self.kept(state["revision"])
        rule = state["document"]["ground"][1]["where"][0]
        self.assertEqual(rule["kind"], "slope")
        share = page.js("const m = sow.get().manifest; return m.shares[sow.get().doc.ground[1].id]")
        page.one("[aria-label='slope from']").send_keys(Keys.ARROW_LEFT * 4)
        page.until(
            lambda: self.scene()["document"]["ground"][1]["where"][0]["low"] <= rule["low"] - 3.9,
            60,
        )
        page.settled()
        self.assertGreater(
            page.js("const m = sow.get().manifest; return m.shares[sow.get().doc.ground[1].id]"),
            share,
        )

        # a sowing; undo takes it away and redo brings it back
        page.unfold("planting")
        before = self.scene()["revision"]
        page.click("[data-section=planting] [aria-label='Add sowing']")
        page.click("[data-add=birch]")
        state = self.kept(before)
        count = page.js("return sow.get().manifest.sown[0].count")
        self.assertGreater(count, 50)
        self.assertIn(f"{count:,}", page.text("[data-section=planting]"))
        page.js("document.activeElement.blur()")
        page.chord(Keys.CONTROL, "z")
        page.until(lambda: not self.scene()["document"]["planting"], 60)
        page.settled()
        page.chord(Keys.CONTROL, Keys.SHIFT, "z")
        page.until(lambda: len(self.scene()["document"]["planting"]) == 1, 60)
        page.settled()
        self.assertEqual(page.js("return sow.get().manifest.sown[0].count"), count)

        # the drawn weights are those of the core, at 200 places
        drawn = page.js("""const p = sow.get().products, f = p.field, out = [];
            for (let i = 0; i < 200; i++) { const c = (i * 37) % f.nx, r = (i * 91) % f.ny;
            out.push([c, r, p.weights[(r * f.nx + c) * 4 + 1]]); } return out""")
        status, m = ask(
            "POST", f"/api/scenes/{state['id']}/builds", {"grid": "view", "client": "check"}
        )
        _, heights = ask("GET", f"/api/products/{m['heights']}")
        self.assertEqual(len(heights), m["grid"]["nx"] * m["grid"]["ny"] * 4)

        # a person for scale, and the ground read by a click
        page.js("document.querySelector('[data-pad]').focus()")
        page.keys("o")
        page.settled()
        page.keys("p")
        before = self.scene()["revision"]
        page.click("[data-pad]")
        state = self.kept(before)
        person = state["document"]["pieces"][0]
        self.assertEqual(person["kind"], "person")
        page.js("sow.set({chosen: null})")  # its collar would be taken hold of
        page.click("[data-pad]")
        page.until(lambda: "slope" in page.text("[data-place]"), 60)
        self.assertIn(f"E {person['east_m']:.0f}"[:4], page.text("[data-place]"))

        # a still: sky above, ground below
        page.js("document.querySelector('[data-pad]').focus()")
        page.click("[data-action=still]")
        for label, value in (("width", "320"), ("height", "180")):
            field = page.one(f"[aria-label='Still {label} in px']")
            page.js("arguments[0].select()", field)
            field.send_keys(value)
        page.click("[value=look]")
        page.until(lambda: page.one("[data-still]").is_enabled(), 60)  # its forecast is there
        page.click("[data-still]")
        ended = "[data-doing=done], [data-doing=failed]"
        page.until(lambda: page.all(ended), 900, "the still does not end")
        self.assertTrue(page.all("[data-doing=done]"), page.text(ended))
        page.click("[data-still-files]")
        taken = page.downloaded(".zip")
        with zipfile.ZipFile(taken) as z:
            name = next(n for n in z.namelist() if n.endswith(".png"))
            with Image.open(io.BytesIO(z.read(name))) as picture:
                still = np.asarray(picture.convert("RGB")).astype(float)
        taken.unlink()
        self.assertEqual(still.shape, (180, 320, 3))
        top, low = still[:20].mean((0, 1)), still[-60:].mean((0, 1))
        self.assertGreater(top.mean(), low.mean() + 15)  # the sky is light, and smooth
        self.assertLess(still[:20].std(), still[-60:].std())
        self.assertGreater(low[0] + low[1], 1.6 * low[2])  # the ground is not
        self.assertGreater(still[-60:].std(), 6)

        # the files, read by other libraries
        page.unfold("handover")
        page.js("""const i = document.querySelector("[data-section=handover] input"); i.focus()""")
        grid = page.one("[data-section=handover] input")
        grid.send_keys(Keys.CONTROL, "a")
        grid.send_keys("257", Keys.ENTER)
        page.click("[data-grow]")
        page.until(lambda: page.all("[data-files]"), 180)
        page.click("[data-files]")
        with zipfile.ZipFile(page.downloaded(".zip")) as z:
            tif = tifffile.imread(io.BytesIO(z.read("height.tif")))
            png = np.asarray(Image.open(io.BytesIO(z.read("height.png"))))
            report = json.loads(z.read("report.json"))
            (self.folder / "scene.glb").write_bytes(z.read("scene.glb"))
            rows = z.read("plants.csv").decode().count("\n") - 1
            masks = {
                n: np.asarray(Image.open(io.BytesIO(z.read(n)))).astype(float) / 255
                for n in z.namelist()
                if n.startswith("materials/") and n.endswith(".png")
            }
        self.assertEqual((tif.shape, png.shape), ((257, 257), (257, 257)))
        self.assertEqual(rows, report["plants_total"] + 1)
        self.assertAlmostEqual(report["plants_total"] / count, 1, delta=0.06)
        doc = pygltflib.GLTF2().load(str(self.folder / "scene.glb"))
        self.assertTrue(any("EXT_mesh_gpu_instancing" in (n.extensions or {}) for n in doc.nodes))
        # what was drawn at the 200 places agrees with the exported mask there
        nx, ny = m["grid"]["nx"], m["grid"]["ny"]
        rock = masks["materials/granite.png"]
        off = [
            abs(rock[round(r * 256 / (ny - 1)), round(c * 256 / (nx - 1))] - w / 255)
            for c, r, w in drawn
            if c % 2 == 0 and r % 2 == 0
        ]
        self.assertLess(np.median(off), 0.02)
        self.assertEqual(page.errors(), [])

    def test_trouble_is_told_and_nothing_is_lost(self):
        page = self.page
        status, state = ask(
            "POST",
            "/api/scenes",
            {
                "document": {
                    "name": "Trouble",
                    "plot": {"width_m": 200, "depth_m": 200, "posts": 257},
                    "land": [
                        {
                            "id": "n",
                            "name": "Noise",
                            "kind": "noise",
                            "height_m": 20,
                            "feature_m": 80,
                        }
                    ],
                }
            },
        )
        page.go(f"/?quality=quick&scene={state['id']}")
        page.settled()
        bad = self.folder / "words.png"
        bad.write_text("just words")
        page.drop(bad)
        page.until(lambda: "whatever its name says" in page.text("[role=alert]"), 60)
        self.assertEqual(self.scene()["revision"], state["revision"])
        page.click_text("put away", "[role=alert]")

        # a slider dragged: the picture changes while it is dragged, and one revision is made when
        # it is let go
        page.click("[data-entry=n] button")
        moved = page.js("""const t = [...document.querySelectorAll('[role=slider]')]
                .find((e) => e.getAttribute('aria-label') === 'Height');
            const r = t.getBoundingClientRect(); return [r.left + r.width / 2,
            r.top + r.height / 2]""")
        from selenium.webdriver.common.actions.action_builder import ActionBuilder

        hold = ActionBuilder(page.driver, duration=30)
        hold.pointer_action.move_to_location(
            int(moved[0]), int(moved[1])
        ).pointer_down().move_to_location(int(moved[0]) + 60, int(moved[1]))
        hold.perform()
        page.until(
            lambda: page.js("return sow.get().manifest.draft"), 30, "no draft while dragging"
        )
        highest = page.js("return sow.get().manifest.highest")
        self.assertEqual(self.scene()["revision"], state["revision"])
        self.assertGreater(highest, 16)
        release = ActionBuilder(page.driver, duration=30)
        release.pointer_action.pointer_up()
        release.perform()
        after = self.kept(state["revision"])
        self.assertEqual(after["steps"], 2)

        # the server is killed; an edit waits for it and is kept once it is back
        server().kill()
        page.js("document.querySelector('[aria-label=\"Noise on\"]').click()")
        page.until(lambda: "does not answer" in page.text("[role=alert]"), 40)
        server().start(120)
        page.until(lambda: self.scene()["revision"] > after["revision"], 60)
        page.settled()
        self.assertFalse(ask("GET", f"/api/scenes/{state['id']}")[1]["document"]["land"][0]["on"])

    def test_map_and_keys(self):
        page = self.page
        _, state = ask(
            "POST",
            "/api/scenes",
            {
                "document": {
                    "name": "Map",
                    "plot": {"width_m": 300, "depth_m": 200, "posts": 257},
                    "land": [
                        {
                            "id": "n",
                            "name": "Noise",
                            "kind": "noise",
                            "height_m": 20,
                            "feature_m": 80,
                        }
                    ],
                }
            },
        )
        page.go(f"/?quality=quick&scene={state['id']}")
        page.settled()
        page.js("document.querySelector('[data-pad]').focus()")
        page.keys("m")
        big = page.until(
            lambda: next(e for e in page.all("[data-map]") if e.size["width"] > 600), 60
        )
        big.click()
        page.until(lambda: page.js("return sow.get().pinned"), 60)
        place = page.js("return sow.get().place")
        self.assertAlmostEqual(place["east"], 150, delta=1)
        self.assertAlmostEqual(place["north"], 100, delta=1)
        page.keys("m")
        page.settled()
        before = page.js("return sow.view.pose")
        page.js("document.querySelector('[data-pad]').focus()")
        page.keys(Keys.ARROW_UP)
        page.until(lambda: page.js("return sow.view.pose")["north"] > before["north"], 60)
        page.keys("f")
        page.until(lambda: len(self.scene()["document"]["shots"]) == 1, 60)
        page.keys("?")
        page.until(lambda: "Keys and moves" in page.text(".sheetbox"), 60)
        page.keys(Keys.ESCAPE)
        page.chord(Keys.CONTROL, "k")
        page.keys("history", Keys.ENTER)
        page.until(lambda: "Shot 1" in page.text(".sheetbox"), 60)
        page.keys(Keys.ESCAPE)


if __name__ == "__main__":
    unittest.main()
