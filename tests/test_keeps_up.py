"""The page follows the hand while the view refines, and outlives what befalls a view."""

import json
import unittest
from pathlib import Path

import numpy as np

from tests.page import Keys, Page
from tests.served import ask, server

TIER = "page"

FINDER = """
window.opened = null;
document.addEventListener("keydown", (e) => {
  if (e.key !== arguments[0] || window.opened !== null) return;
  const began = performance.now();
  const look = () => {
    if (document.querySelector("[data-finder]")) window.opened = performance.now() - began;
    else setTimeout(look, 5);
  };
  look();
}, {capture: true});
"""


def demo(**more) -> dict:
    """The demo on a coarse grid, as a scene of its own."""
    document = json.loads(Path("samples/brackenhope.json").read_text())
    document["plot"]["posts"] = 257
    document["beyond"] = {"edge": "end"}
    return ask("POST", "/api/scenes", {"document": {**document, **more}})[1]


class WhileItRefines(unittest.TestCase):
    def test_a_key_opens_the_finder_and_no_letter_is_lost(self):
        scene = demo()
        page = Page(server().address, "soft", f"/?scene={scene['id']}")
        self.addCleanup(page.close)
        page.until(lambda: page.js("return !!window.sow && sow.view.pictured"), 180)
        self.assertFalse(page.js("return sow.view.settled"))
        page.until(lambda: page.all("[data-refining]"), 30)
        page.js(FINDER, "k")
        page.js("document.querySelector('[data-pad]').focus()")
        page.chord(Keys.CONTROL, "k")
        page.until(lambda: page.js("return opened !== null"), 20)
        self.assertLess(page.js("return opened"), 500)
        text = "heather and birches by the pool"
        page.keys(text)
        page.until(lambda: page.one("[data-finder]").get_attribute("value") == text, 20)
        self.assertFalse(page.js("return sow.view.settled"))  # it was still drawing
        page.keys(Keys.ESCAPE)
        page.settled(300)
        self.assertEqual(page.all("[data-refining]"), [])
        # opened again, the face shows the picture that was kept until the new one is there
        page.driver.refresh()
        page.until(lambda: page.all("[data-kept-picture]"), 30)
        page.until(lambda: not page.all("[data-kept-picture]"), 180)
        self.assertTrue(page.js("return sow.view.pictured"))


class WhatBefallsAView(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scene = demo(planting=[], pieces=[])
        cls.page = Page(server().address, "sketch", f"/?scene={cls.scene['id']}")
        cls.addClassCleanup(cls.page.close)
        cls.page.settled()

    def face(self) -> np.ndarray:
        """The face, small, as grey values."""
        return np.array(
            self.page.driver.execute_async_script(
                """const done = arguments[0], i = new Image();
                i.onload = () => { const c = document.createElement("canvas");
                  c.width = 48; c.height = 32; const g = c.getContext("2d");
                  g.drawImage(i, 0, 0, 48, 32);
                  const d = g.getImageData(0, 0, 48, 32).data, out = [];
                  for (let k = 0; k < d.length; k += 4) out.push((d[k] + d[k + 1] + d[k + 2]) / 3);
                  done(out); };
                i.src = sow.view.photograph();"""
            )
        )

    def test_a_lost_card_comes_back_with_the_same_picture(self):
        before = self.face()
        self.assertGreater(before.std(), 10)
        self.page.js(
            "window.lose = sow.view.renderer.getContext().getExtension('WEBGL_lose_context');"
            "lose.loseContext()"
        )
        self.page.until(
            lambda: self.page.js("return sow.view.renderer.getContext().isContextLost()"), 20
        )
        self.page.js("lose.restoreContext()")
        self.page.until(
            lambda: not self.page.js("return sow.view.renderer.getContext().isContextLost()"), 20
        )
        self.page.settled(begun=1)
        self.assertLess(np.abs(self.face() - before).mean(), 3)
        state = ask("GET", f"/api/scenes/{self.scene['id']}")[1]
        self.assertEqual(state["revision"], self.scene["revision"])

    def test_a_window_of_320_and_of_3840_pixels(self):
        page = self.page
        for width, height in ((320, 480), (3840, 1200), (1280, 943)):
            page.driver.set_window_size(width, height)
            page.js("sow.view.layAnew()")
            page.settled()
            self.assertGreater(self.face().std(), 5)
        self.assertEqual(page.errors(), [])

    def test_a_tab_that_nobody_sees_draws_nothing(self):
        page = self.page
        frames = "sow.view.renderer.info.render.frame"
        page.js(
            f"setTimeout(() => {{ window.was = {frames}; sow.view.changed(true); }}, 700);"
            f"setTimeout(() => {{ window.then = [document.hidden, {frames}]; }}, 1900);"
        )
        own = page.driver.current_window_handle
        page.driver.switch_to.new_window("tab")
        page.until(lambda: page.driver.execute_script("return true"), 5)
        other = page.driver.current_window_handle
        page.driver.execute_async_script("setTimeout(arguments[0], 2500)")
        page.driver.switch_to.window(own)
        page.until(lambda: page.js("return window.then"), 30)
        hidden, then = page.js("return then")
        self.assertTrue(hidden)
        self.assertEqual(then, page.js("return was"))
        page.settled()
        self.assertGreater(page.js(f"return {frames}"), then)
        page.driver.switch_to.window(other)
        page.driver.close()
        page.driver.switch_to.window(own)

    def test_land_that_is_dragged_keeps_its_light_until_it_is_let_go(self):
        page = self.page
        page.js(
            "window.lights = 0; const own = window.fetch; window.fetch = (...a) => {"
            "if (String(a[0].url ?? a[0]).includes('/api/lights')) lights++; return own(...a); };"
        )
        drag = (
            "window.was = sow.get().manifest; sow.drag((d) => { d.land[0].height_m += arguments[0];"
            " d.land[0].on = true; })"
        )
        drawn = "return sow.get().manifest !== was && sow.view.settled"
        for metres in (0.5, 0.5, -1):
            page.js(drag.replace("arguments[0]", str(metres)))
            page.until(lambda: page.js(drawn), 60)
        self.assertEqual(page.js("return lights"), 0)
        page.js(drag.replace("arguments[0]", "120"))  # so much that its haze lies elsewhere
        page.until(lambda: page.js(drawn), 60)
        self.assertGreater(page.js("return lights"), 0)
        page.js(drag.replace("arguments[0]", "-120"))

    def test_what_lies_on_dragged_land_follows_it(self):
        page = self.page
        page.until(lambda: page.js("return sow.view.settled"), 60)
        page.js(
            "const set = sow.view.setScene.bind(sow.view); window.came = [];"
            "sow.view.setScene = (doc, p, hidden) => { came.push({ahead: !!p.ahead,"
            " heights: p.manifest.heights, tone: p.manifest.tone, top: Math.max(...p.field.values)"
            "}); return set(doc, p, hidden); };"
            "window.was = sow.get().products;"
            "sow.drag((d) => { d.land[0].height_m += 40; d.land[0].on = true; })"
        )
        page.until(lambda: page.js("return came.length > 1 && sow.view.settled"), 60)
        first, *_, last = page.js("return came")
        self.assertTrue(first["ahead"])
        self.assertFalse(last["ahead"])
        self.assertEqual(first["heights"], last["heights"])
        self.assertAlmostEqual(first["top"], last["top"], delta=0.01)
        self.assertEqual(first["tone"], page.js("return was.manifest.tone"))
        self.assertNotEqual(last["tone"], first["tone"])
        page.js("delete sow.view.setScene; sow.drag((d) => { d.land[0].height_m -= 40; })")
        page.until(lambda: page.js("return sow.view.settled && !sow.get().products.ahead"), 60)

    def test_without_webgl_a_sentence_says_so_and_the_map_works(self):
        path = f"/?scene={self.scene['id']}"
        page = Page(server().address, "sketch", path, flags=("--disable-3d-apis",))
        self.addCleanup(page.close)
        page.until(lambda: "no WebGL" in page.text("[data-view-lacking]"), 60)
        page.until(lambda: page.js("return !!sow.get().products"), 60)
        self.assertTrue(page.all("[data-map]"))
        page.unfold("land")
        page.click("[data-entry] button")
        self.assertTrue(page.all("[data-section=land] input"))


if __name__ == "__main__":
    unittest.main()
