"""The strip of time, the reference and the aim of a shot, through the real page."""

import tempfile
import unittest
from pathlib import Path

import cv2
import numpy as np

from tests.journeys import Journeys
from tests.page import Keys
from tests.served import ask
from tests.test_shots_page import LAND, PLOT, SHOTS, STONE

TIER = "page"

WAY = {"id": "way", "name": "Way", "kind": "line", "points": [[40, 30], [80, 60], [120, 120]]}


class TimePage(Journeys):
    FIRST = {
        "name": "Time",
        "plot": PLOT,
        "land": LAND,
        "shots": SHOTS,
        "pieces": STONE,
        "beyond": {"edge": "end"},
        "marks": [WAY],
    }

    def open(self, **document) -> dict:
        state = super().open(**document)
        self.page.unfold("shots")
        return state

    def document(self, state: dict) -> dict:
        return ask("GET", f"/api/scenes/{state['id']}")[1]["document"]

    def sun(self) -> float:
        return self.page.js("return sow.get().sun.bearing")

    def test_moves_are_set_on_the_strip_played_and_written(self):
        page, state = self.page, self.open()
        pose = page.js("return sow.view.pose")
        page.js("document.querySelector('[data-pad]').focus()")
        page.chord(Keys.SHIFT, "t")
        page.until(lambda: page.one("[data-time]"))
        add = "[data-time] [aria-label='Add move']"
        for kind in ("sun", "glide"):
            self.changed(lambda k=kind: (page.click(add), page.click(f"[data-add={k}]")))
        moves = self.document(state)["moves"]
        self.assertEqual([m["kind"] for m in moves], ["sun", "glide"])
        self.assertEqual(moves[1]["line"], "way")
        # the sun's bar is drawn out by its end
        bar = page.one(f"[data-move='{moves[0]['id']}'] rect[aria-label]")
        r = page.js("const r = arguments[0].getBoundingClientRect(); return [r.x, r.y]", bar)
        end = self.changed(lambda: page.mouse((r[0] + 3, r[1] + 5), (r[0] - 200, r[1] + 5)))
        self.assertLess(end["moves"][0]["lasts_s"], moves[0]["lasts_s"] - 1)
        page.until(lambda: int(page.one("[data-time]").get_attribute("data-moments")) > 5)
        before = self.sun()
        slider = page.one("[aria-label='Time in seconds']")
        x, y, wide = page.js(
            "const r = arguments[0].getBoundingClientRect(); return [r.x, r.y, r.width]", slider
        )
        page.mouse((x + wide * 0.5, y + 20))
        page.until(lambda: abs(self.sun() - before) > 5, 30, "the light stays")
        there = page.js("return sow.view.pose")
        self.assertGreater(np.hypot(there["east"] - 80, there["north"] - 20), 5)  # it glides
        page.click("[data-play-time]")
        at = page.one("[data-time]").get_attribute("data-time")
        page.until(lambda: page.one("[data-time]").get_attribute("data-time") != at)
        page.click("[data-play-time]")
        page.click("[data-write-clip]")
        self.order_small(page)
        line = page.until(
            lambda: next(
                (s for s in page.js("return sow.get().stills") if s["doing"] in ("done", "failed")),
                None,
            ),
            240,
        )
        self.assertEqual((line["doing"], line["files"]), ("done", ["One.mp4"]), line["trouble"])
        page.click("[aria-label='Look at One']")
        page.until(lambda: page.js("return document.querySelector('video').videoWidth") == 64)
        page.keys(Keys.ESCAPE)
        page.click_text("fold", "[data-time]")
        back = page.js("return sow.view.pose")
        self.assertEqual({k: back[k] for k in pose}, pose)  # where one was
        shot = self.document(state)["shots"][0]
        self.assertEqual((shot["east_m"], shot["north_m"]), (80, 20))  # only a moment was shown

    def order_small(self, page):
        values = {"Still width in px": 64, "Still height in px": 36, "To second": 0.4}
        for label, value in {**values, "Pictures a second": 5}.items():
            field = page.one(f"[aria-label='{label}']")
            page.js("arguments[0].select()", field)
            field.send_keys(str(value))
        page.until(lambda: "2 frames" in page.text("[data-forecast]"), 20)
        page.until(lambda: page.one("[data-still]").is_enabled(), 60)  # its forecast is there
        page.click("[data-still]")

    def test_a_shot_is_matched_to_a_reference(self):
        page, state = self.page, self.open()
        page.click_text("step in", "[data-section=shots]")
        page.js("sow.set({chosen: 'one'})")
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "reference.png"
            cv2.imwrite(str(file), np.full((90, 160, 3), 120, np.uint8))
            picture = page.until(lambda: page.one("input[data-picture=Reference]"))
            self.changed(lambda: picture.send_keys(str(file)))
        page.until(
            lambda: page.js("return document.querySelector('[data-reference]').naturalWidth")
        )
        page.click_text("wipe")
        page.until(lambda: page.one("[data-reference=wipe]"))
        page.click("[data-match]")
        box = page.js(
            "const r = document.querySelector('[data-marks]').getBoundingClientRect();"
            "return [r.left, r.top, r.width, r.height]"
        )
        at = lambda x, y: (box[0] + x * box[2], box[1] + y * box[3])
        self.assertFalse(page.one("[data-match-now]").is_enabled())
        page.mouse(at(0.3, 0.25))
        page.mouse(at(0.8, 0.25))
        shot = self.changed(lambda: page.click("[data-match-now]"))["shots"][0]
        up = 0.25 * shot["height_px"] / shot["width_px"] * 36 / shot["focal_mm"]
        self.assertAlmostEqual(shot["tilt"], -np.degrees(np.arctan(up)), delta=0.3)
        self.assertAlmostEqual(page.js("return sow.view.pose.tilt"), shot["tilt"], delta=0.01)
        page.click("[data-mark=places]")
        page.mouse(at(0.5, 0.6))
        page.until(lambda: page.js("return sow.get().tool") == "match")
        page.mouse(at(0.5, 0.7))
        marks = page.js("return sow.get().marking.places")
        self.assertIsNotNone(marks[0]["ground"])
        page.click_text("leave")
        self.assertEqual(self.document(state)["shots"][0]["reference"], shot["reference"])

    def test_a_shot_aimed_on_a_place_keeps_looking_there(self):
        page, _ = self.page, self.open()
        page.js("sow.set({chosen: 'one'})")
        page.click("[data-aim-tool]")
        pad = page.one("[data-pad]").rect
        middle = pad["x"] + pad["width"] * 0.6, pad["y"] + pad["height"] * 0.7
        shot = self.changed(lambda: page.mouse(middle))["shots"][0]
        self.assertEqual(shot["aim_by"], "place")
        goal = shot["aim_east_m"], shot["aim_north_m"]
        big = page.on_map()
        eye = page.at(big, shot["east_m"], shot["north_m"])
        moved = page.at(big, 30, 60)
        shot = self.changed(lambda: page.mouse(eye, (eye[0] + 9, eye[1]), moved))["shots"][0]
        self.assertAlmostEqual(shot["east_m"], 30, delta=2)
        self.assertEqual((shot["aim_east_m"], shot["aim_north_m"]), goal)
        page.keys("m")
        page.click_text("step in", "[data-section=shots]")
        page.until(lambda: page.js("return !!sow.get().stepped"))
        pose = page.js("return sow.view.pose")
        bearing = np.degrees(np.arctan2(goal[0] - shot["east_m"], goal[1] - shot["north_m"])) % 360
        self.assertAlmostEqual(pose["bearing"], bearing, delta=0.1)

    def test_speed_level_and_eye_height(self):
        page, _ = self.page, self.open()
        page.js("document.querySelector('[data-pad]').focus()")
        page.chord(Keys.SHIFT, "h")
        self.assertEqual(page.js("return sow.view.pose.tilt"), 0)
        page.chord(Keys.SHIFT, "g")
        over = page.js(
            "const p = sow.view.pose, f = sow.get().products.field;"
            "const c = Math.round(p.east / f.spacing);"
            "const r = f.ny - 1 - Math.round(p.north / f.spacing);"
            "return p.up - f.values[r * f.nx + c]"
        )
        self.assertAlmostEqual(over, 1.7, delta=0.6)  # the nearest post's height
        page.js(
            "document.querySelector('[data-pad]').dispatchEvent(new WheelEvent('wheel', "
            "{deltaY: -300, altKey: true, bubbles: true, cancelable: true, clientX: 600, "
            "clientY: 400}))"
        )
        page.until(lambda: "m/s" in page.text("[data-speed]"), 10)


if __name__ == "__main__":
    unittest.main()
