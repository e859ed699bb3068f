"""Shots through the real page: stepped into and out of, worked through, focused, graded, taken."""

import base64
import time
import unittest

import cv2
import numpy as np
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.support.ui import Select

from sow.core.picture.wrap import CONVENTIONS
from tests.page import Page
from tests.served import ask, server

TIER = "page"

PLOT = {"width_m": 160, "depth_m": 160, "posts": 65}
LAND = [{"kind": "noise", "id": "n", "name": "Hills", "height_m": 6, "feature_m": 70}]
SHOTS = [
    {"id": "one", "name": "One", "east_m": 80, "north_m": 20, "eye_m": 6, "tilt": -8},
    {
        "id": "two",
        "name": "Two",
        "east_m": 20,
        "north_m": 80,
        "eye_m": 9,
        "bearing": 90,
        "tilt": -20,
        "width_px": 900,
        "height_px": 1200,
    },
]
STONE = [{"id": "p", "name": "Stone", "kind": "boulder", "east_m": 80, "north_m": 50, "size": 300}]


class ShotsPage(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.page = Page(server().address, "sketch")
        cls.addClassCleanup(cls.page.close)

    def open(self, **document) -> dict:
        values = {"name": "Shots", "plot": PLOT, "land": LAND, "shots": SHOTS, "pieces": STONE}
        values |= {"beyond": {"edge": "end"}, **document}
        status, state = ask("POST", "/api/scenes", {"document": values})
        self.assertEqual(status, 200, state)
        self.page.go(f"/?quality=sketch&scene={state['id']}")
        self.page.settled()
        self.page.unfold("shots")
        return state

    def document(self, state: dict) -> dict:
        return ask("GET", f"/api/scenes/{state['id']}")[1]["document"]

    def pose(self) -> list[float]:
        return self.page.js(
            "const p = sow.view.pose; return [p.east, p.north, p.up, p.bearing, p.tilt, p.focal]"
        )

    def at(self, x: float, y: float):
        """The pointer over a part (0..1) of the face."""
        pad = self.page.one("[data-pad]")
        wide, high = pad.size["width"], pad.size["height"]
        chain = ActionChains(self.page.driver)
        return chain.move_to_element_with_offset(pad, int((x - 0.5) * wide), int((y - 0.5) * high))

    def test_stepping_in_and_back_to_exactly_where_one_was(self):
        self.open()
        self.page.js(
            "sow.view.pose = {...sow.view.pose, east: 61, bearing: 33}; sow.view.changed()"
        )
        before = self.pose()
        self.page.js("document.querySelector('[data-pad]').focus()")
        self.page.keys("e")
        self.page.until(lambda: self.page.all("[data-in-shot=one]"), 30)
        inside = self.pose()
        self.assertAlmostEqual(inside[0], 80, places=3)
        # held still: a drag turns nothing
        self.at(0.5, 0.3).click_and_hold().move_by_offset(80, 10).release().perform()
        self.assertEqual(self.pose(), inside)
        self.page.click_text("let the eye move")
        self.at(0.5, 0.3).click_and_hold().move_by_offset(80, 10).release().perform()
        self.assertNotEqual(self.pose(), inside)
        self.page.click("[data-step-out]")
        np.testing.assert_allclose(self.pose(), before)
        self.assertFalse(self.page.all("[data-in-shot]"))

    def test_working_through_the_inset_moves_neither_eye_nor_shot(self):
        state = self.open()
        self.page.js("sow.set({insetShot: 'two', insetWide: 300, tool: 'figure'})")
        self.page.settled()
        grip = self.page.one("[data-inset-grip]")
        ActionChains(self.page.driver).drag_and_drop_by_offset(grip, 40, 0).perform()
        self.page.settled()
        wide, high = self.page.js("return [sow.view.inset.width, sow.view.inset.height]")
        self.assertAlmostEqual(high / wide, 1200 / 900, delta=0.02)
        before = self.pose()
        x, y = self.page.js(
            "const i = sow.view.inset, c = sow.view.canvas; "
            "return [(i.x + i.width / 2) / c.clientWidth, (i.y + i.height * 0.75) / c.clientHeight]"
        )
        self.at(x, y).click().perform()
        self.page.until(lambda: len(self.document(state)["pieces"]) == 2, 60, "nobody stands there")
        stands = self.document(state)["pieces"][1]
        # seen by the second shot, which looks east from the western edge
        self.assertGreater(stands["east_m"], 21)
        self.assertLess(abs(stands["north_m"] - 80), 4)
        self.assertEqual(self.pose(), before)
        self.at(x, y).click_and_hold().move_by_offset(60, 30).release().perform()
        self.assertEqual(self.pose(), before)

    def test_focus_by_a_click_stays_on_its_place(self):
        state = self.open()
        self.page.js("sow.set({chosen: 'one'})")
        self.page.js("document.querySelector('[data-pad]').focus()")
        self.page.keys("e")
        self.page.until(lambda: self.page.all("[data-in-shot=one]"), 30)
        self.page.click("[data-focus-tool]")
        shot = self.page.js("return sow.view.project(80, 50, sow.view.pick(0.5, 0.6)?.z ?? 0)")
        self.at(0.5, min(0.95, max(0.05, shot["y"]))).click().perform()
        kept = lambda: self.document(state)["shots"][0]
        self.page.until(lambda: kept()["focus_by"] == "place", 60, "no focus is kept")
        self.assertAlmostEqual(kept()["focus_east_m"], 80, delta=4)
        self.assertEqual(kept()["aperture"], 2.8)
        asked = {"shot": kept()}
        lens = ask("POST", f"/api/scenes/{state['id']}/lenses", asked)[1]
        self.assertLess(lens["sharp_from_m"], lens["focus_m"])
        asked["shot"]["north_m"] -= 10
        farther = ask("POST", f"/api/scenes/{state['id']}/lenses", asked)[1]
        self.assertAlmostEqual(farther["focus_m"] - lens["focus_m"], 10, delta=1.5)

    def test_grades_are_compared_and_one_is_taken(self):
        state = self.open()
        Select(self.page.one("[aria-label='The face is seen as']")).select_by_value("one")
        self.page.settled()
        plain = self.page.js("return sow.view.thumbnail(64)")
        self.page.click("[data-grades]")
        self.page.click("[data-mode=films]")
        self.page.until(lambda: self.page.all("[data-tries='4']"), 150, "no four pictures")
        pictures = self.page.js(
            "return [...document.querySelectorAll('[data-tries] img')].map((i) => i.naturalWidth)"
        )
        self.assertEqual(pictures, [330] * 4)
        self.page.click("[data-mode=ready]")
        self.page.until(lambda: self.page.all("[aria-label='Take Ink']"), 150)
        self.page.click("[aria-label='Take Ink']")
        self.page.until(lambda: len(self.document(state)["grade"]) == 3, 60)
        self.page.settled()
        self.page.until(lambda: self.page.js("return sow.view.thumbnail(64)") != plain, 60)

    def test_dark_corners_grain_and_bloom_are_seen_as_in_stills(self):
        dark = {"id": "v", "name": "Corners", "kind": "vignette", "stops": 3, "begins": 0}
        grain = {"id": "g", "name": "Grain", "kind": "grain", "amount": 40}
        pictures = []
        bloom = {"id": "b", "name": "Bloom", "kind": "bloom", "amount": 60, "size": 8, "above": -1}
        for grade in ([], [dark], [grain], [bloom]):
            self.open(grade=grade)
            pose = self.page.js("return sow.view.poseOf(sow.get().doc.shots[0])")
            pictures.append(self.page.still(pose, 240, 180).astype(float))
        plain, cornered, grained, bloomed = pictures
        middle = cornered[85:95, 115:125].mean() / plain[85:95, 115:125].mean()
        corner = cornered[:12, :12].mean() / plain[:12, :12].mean()
        self.assertAlmostEqual(middle, 1, delta=0.04)
        self.assertLess(corner, 0.65)
        off = grained - plain
        self.assertGreater(float(off.std()), 4)
        self.assertLess(abs(float(off.mean())), 2)
        spread = (bloomed - plain).mean(2)
        light = plain.mean(2)
        self.assertGreater(float(spread[light < np.percentile(light, 40)].mean()), 0.4)
        self.assertLess(float(spread[light > np.percentile(light, 90)].mean()), -0.4)

    def test_the_face_is_sharp_where_the_shot_is_focused(self):
        tree = {"id": "t", "name": "Birch", "kind": "birch", "east_m": 82, "north_m": 60}
        state = self.open(pieces=[*STONE, tree])
        self.page.go(f"/?quality=quick&scene={state['id']}")
        self.page.settled()
        self.page.js(
            "const s = sow.get(); sow.set({seenAs: 'one'}); "
            "sow.view.pose = sow.view.poseOf(s.doc.shots[0]); sow.view.changed(true)"
        )
        focus = """const d = structuredClone(sow.get().doc);
            Object.assign(d.shots[0], {aperture: arguments[0], focus_m: arguments[1]});
            const shows = sow.view.shows; sow.set({doc: d}); return shows"""
        detail = {}
        for name, aperture, metres in (("none", 0, 30), ("there", 0.4, 40), ("near", 0.4, 1.5)):
            shows = self.page.js(focus, aperture, metres)
            if aperture:
                self.page.until(lambda: self.page.js("return sow.view.shows") > shows, 60)
            self.page.settled()
            url = self.page.js("return sow.view.photograph()")
            data = np.frombuffer(base64.b64decode(url.split(",")[1]), np.uint8)
            grey = cv2.imdecode(data, cv2.IMREAD_GRAYSCALE).astype(float)
            rows, columns = grey.shape
            middle = grey[rows // 4 : rows // 2, columns // 3 : 2 * columns // 3]
            detail[name] = float(np.abs(cv2.Laplacian(middle, cv2.CV_64F)).mean())
        self.assertLess(detail["near"], 0.6 * detail["none"], detail)
        self.assertGreater(detail["there"], 1.3 * detail["near"], detail)

    def test_a_still_goes_on_while_the_page_is_closed(self):
        state = self.open()
        self.page.js("sow.set({dialog: 'still'})")
        Select(self.page.one("[aria-label=From]")).select_by_value("one")
        for label, value in (("width", "160"), ("height", "90")):
            field = self.page.one(f"[aria-label='Still {label} in px']")
            self.page.js("arguments[0].select()", field)
            field.send_keys(value)
        self.page.click("[value=look]")
        self.page.until(lambda: "8 passes" in self.page.text("[data-forecast]"), 30)
        self.page.until(lambda: self.page.one("[data-still]").is_enabled(), 60)
        self.page.click("[data-still]")
        self.page.until(lambda: self.page.all("[data-stills='1']"), 30)
        self.page.go("/?quality=sketch")
        lines = lambda: ask("GET", f"/api/scenes/{state['id']}/stills")[1]
        end = time.monotonic() + 200
        while lines()[0]["doing"] not in ("done", "failed") and time.monotonic() < end:
            time.sleep(0.3)
        self.assertEqual(lines()[0]["doing"], "done", lines()[0])
        self.page.go(f"/?quality=sketch&scene={state['id']}")
        self.page.settled()
        self.page.unfold("shots")
        self.page.until(lambda: self.page.all("[data-doing=done]"), 30)
        self.page.click("[aria-label='Look at One']")
        seen = lambda: self.page.js(
            "return document.querySelector('[data-still-picture]')?.naturalWidth ?? 0"
        )
        self.page.until(lambda: seen() == 160, 30, "the finished picture is not shown")

    def test_cube_of_six_by_the_api(self):
        state = self.open()
        order = {"width_px": 32, "height_px": 32, "quality": "look", "projection": "cube"}
        order |= {"names": "body"}
        shot = self.document(state)["shots"][0]
        status, line = ask(
            "POST", f"/api/scenes/{state['id']}/stills", {"shot": shot, "order": order}
        )
        self.assertEqual(status, 200, line)
        end = time.monotonic() + 200
        while line["doing"] not in ("done", "failed") and time.monotonic() < end:
            time.sleep(0.3)
            line = ask("GET", f"/api/stills/{line['id']}")[1]
        self.assertEqual(line["doing"], "done", line)
        for name in CONVENTIONS["body"].values():
            self.assertIn(f"one-{name}.png", [f.lower() for f in line["files"]])
        self.assertEqual(ask("DELETE", f"/api/stills/{line['id']}")[0], 200)
        self.assertEqual(ask("GET", f"/api/stills/{line['id']}")[0], 404)

    def test_what_cannot_be_taken_is_told(self):
        state = self.open()
        shot = self.document(state)["shots"][0]
        too_large = {"width_px": 16000, "height_px": 16000}
        status, problem = ask(
            "POST", f"/api/scenes/{state['id']}/stills", {"shot": shot, "order": too_large}
        )
        self.assertEqual(status, 422)
        self.assertIn("too large", problem["detail"])
        status, problem = ask("POST", "/api/films", {"grade": [{"kind": "no such"}]})
        self.assertEqual(status, 422)
        self.assertIn("grade.0", problem["path"])


if __name__ == "__main__":
    unittest.main()
