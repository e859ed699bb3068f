"""Journeys through what a land is judged and placed by: map, transect, proof sheet, survey, reality
check, ready-made lands.
"""

import csv
import tempfile
import time
import unittest
import xml.etree.ElementTree as xml
from pathlib import Path

import numpy as np
from selenium.webdriver.common.actions.action_builder import ActionBuilder
from selenium.webdriver.support.ui import Select

from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.sample import heights_at
from sow.core.scene import read_scene
from tests.page import Keys, Page
from tests.served import ask, server

TIER = "page"

LAND = [
    {"id": "n", "name": "Noise", "kind": "noise", "height_m": 20, "feature_m": 90},
    {
        "id": "d",
        "name": "Dome",
        "kind": "form",
        "form": "dome",
        "height_m": 25,
        "length_m": 120,
        "breadth_m": 90,
        "east_m": 150,
        "north_m": 100,
    },
]


class Judge(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        cls.page = Page(server().address, "sketch")
        cls.addClassCleanup(cls.page.close)

    def open(self, **more):
        document = {
            "name": "Judge",
            "plot": {"width_m": 300, "depth_m": 200, "posts": 257},
            "land": LAND,
            "beyond": {"edge": "end"},
            **more,
        }
        _, state = ask("POST", "/api/scenes", {"document": document})
        self.page.go(f"/?quality=sketch&scene={state['id']}")
        self.page.settled()
        scene = read_scene(document)
        return Build(scene, scene.plot.view_grid(), Cache())

    def test_the_map_is_panned_zoomed_and_carries_the_handles(self):
        page = self.page
        self.open()
        page.click("[data-entry=d] button")
        big = self.page.on_map()
        before = self.page.state()["revision"]
        # the dome is taken by its middle to another place
        self.page.mouse(
            self.page.at(big, 150, 100), self.page.at(big, 180, 90), self.page.at(big, 200, 80)
        )
        dome = self.page.kept(before)["document"]["land"][1]
        self.assertAlmostEqual(dome["east_m"], 200, delta=1)
        self.assertAlmostEqual(dome["north_m"], 80, delta=1)
        # and widened by the grip at its side
        before = self.page.state()["revision"]
        self.page.mouse(
            self.page.at(big, 245, 80), self.page.at(big, 260, 80), self.page.at(big, 270, 80)
        )
        self.assertAlmostEqual(
            self.page.kept(before)["document"]["land"][1]["breadth_m"], 140, delta=3
        )
        # the wheel zooms about the pointer, a drag pans, Home fits again
        x, y = self.page.at(big, 60, 150)
        wheel = ActionBuilder(page.driver, duration=30)
        wheel.wheel_action.scroll(int(x), int(y), 0, -600)
        wheel.perform()
        page.until(lambda: page.js("return sow.get().mapAt"), 60)
        self.assertAlmostEqual(self.page.at(big, 60, 150)[0], x, delta=2)
        east = page.js("return sow.get().mapAt.east")
        self.page.mouse((x, y), (x + 60, y), (x + 120, y))
        scale = page.js("return sow.get().mapAt.scale")
        self.assertAlmostEqual(page.js("return sow.get().mapAt.east"), east - 120 / scale, delta=1)
        page.keys(Keys.HOME)
        page.until(lambda: page.js("return sow.get().mapAt === null"), 60)
        page.keys("m")
        page.settled()

    def test_contours_are_drawn_on_the_map(self):
        page = self.page
        self.open(land=[])
        page.click("[aria-label='Add landform or process']")
        page.click("[data-add=contours]")
        page.until(lambda: self.page.state()["document"]["land"], 60)
        page.until(lambda: "no contours yet" in page.text("[role=alert]"), 60)
        page.click_text("put away", "[role=alert]")
        page.click("[data-draw-contour]")
        big = page.until(
            lambda: next(e for e in page.all("[data-map]") if e.size["width"] > 600), 60
        )
        for _k, north in enumerate((40, 150)):
            before = self.page.state()["revision"]
            for east in (30, 150, 270):
                self.page.mouse(self.page.at(big, east, north))
            page.keys(Keys.ENTER)
            self.page.until(lambda: self.page.state()["revision"] > before, 60)
        page.settled()
        lines = self.page.state()["document"]["land"][0]["lines"]
        self.assertEqual([len(l["points"]) for l in lines], [3, 3])
        rise = lines[1]["height_m"] - lines[0]["height_m"]
        self.assertGreater(rise, 0)
        slope = page.js(
            "const f = sow.get().products.field; return (f.values[10 * f.nx + 40] - "
            "f.values[(f.ny - 10) * f.nx + 40])"
        )
        self.assertGreater(slope, rise)  # south to north it goes on rising beyond both lines
        page.keys(Keys.ESCAPE)
        page.keys("m")

    def test_a_line_is_drawn_bent_and_used_as_a_path_and_a_clearing(self):
        page = self.page
        self.open(
            planting=[
                {
                    "id": "p",
                    "name": "Birch",
                    "mix": [{"kind": "birch", "share": 100}],
                    "density": 4,
                    "apart_m": 2,
                }
            ],
            ground=[{"id": "g", "name": "Turf", "ground": "turf"}],
        )
        count = page.js("return sow.get().manifest.sown[0].count")
        page.unfold("marks")
        page.click("[data-draw=line]")
        big = page.until(
            lambda: next(e for e in page.all("[data-map]") if e.size["width"] > 600), 60
        )
        for east, north in ((40, 60), (150, 140), (260, 70)):
            self.page.mouse(self.page.at(big, east, north))
        before = self.page.state()["revision"]
        page.keys(Keys.ENTER)
        mark = self.page.kept(before)["document"]["marks"][0]
        self.assertEqual((mark["kind"], len(mark["points"])), ("line", 3))
        # a point is dragged, and one added on the way
        before = self.page.state()["revision"]
        self.page.mouse(
            self.page.at(big, 150, 140), self.page.at(big, 150, 120), self.page.at(big, 150, 110)
        )
        self.assertAlmostEqual(
            self.page.kept(before)["document"]["marks"][0]["points"][1][1], 110, delta=2
        )
        before = self.page.state()["revision"]
        self.page.mouse(
            self.page.at(big, 95, 85), self.page.at(big, 95, 70), self.page.at(big, 95, 60)
        )
        self.assertEqual(len(self.page.kept(before)["document"]["marks"][0]["points"]), 4)
        # a wall is built along it with a gap; birches stand beside it from then on
        before = self.page.state()["revision"]
        page.one("[aria-label='Openings, m along the line']").send_keys("20")
        page.click("[data-line-tools] [data-build=wall]")
        document = self.page.kept(before)["document"]
        self.assertGreater(len(document["pieces"]), 40)
        self.assertEqual({p["group"] for p in document["pieces"]}, {mark["name"]})
        points = np.array(self.page.state()["document"]["marks"][0]["points"])[:, :2]
        steps = np.diff(points, axis=0)
        at = points[0] + steps[0] / np.hypot(*steps[0]) * 20
        away = [np.hypot(p["east_m"] - at[0], p["north_m"] - at[1]) for p in document["pieces"]]
        self.assertGreater(min(away), 0.6)
        stand = page.js("return sow.get().manifest.pieces.map((p) => p.up_m)")
        self.assertEqual(len(stand), len(document["pieces"]))
        count = page.js("return sow.get().manifest.sown[0].count")
        page.unfold("marks")
        page.js("sow.set({chosen: arguments[0]})", mark["id"])
        # as a clearing it holds for the sowing; as a path it is laid on the land
        before = self.page.state()["revision"]
        page.js(
            "[...document.querySelectorAll('[data-section=marks] label')].find((l) => "
            "l.textContent.includes('clearing')).querySelector('input').click()"
        )
        self.page.kept(before)
        self.assertLess(page.js("return sow.get().manifest.sown[0].count"), count - 20)
        page.unfold("land")
        heights = page.js("return sow.get().manifest.heights")
        before = self.page.state()["revision"]
        page.click("[aria-label='Add landform or process']")
        page.click("[data-add=path]")
        entry = self.page.kept(before)["document"]["land"][-1]
        self.assertEqual((entry["kind"], entry["mark"]), ("path", mark["id"]))
        self.assertNotEqual(page.js("return sow.get().manifest.heights"), heights)
        page.keys("m")

    def test_the_transect_is_cut_dragged_and_taken_away(self):
        page = self.page
        b = self.open(
            water=[{"id": "w", "name": "w", "level_m": -4}],
            ground=[{"id": "g", "name": "Turf", "ground": "turf"}],
        )
        page.js("document.querySelector('[data-pad]').focus()")
        page.keys("t")
        page.until(
            lambda: int(page.one("[data-transect]").get_attribute("data-transect")) > 100, 40
        )
        cut = page.js("return sow.get().transect")
        a = cut["answer"]
        np.testing.assert_allclose(
            a["height"], heights_at(b.heights, b.grid, a["east"], a["north"]), atol=0.01
        )
        self.assertEqual([w is not None for w in a["water"]], [h < -4 for h in a["height"]])
        # pointing at it lights up the place in the view
        strip = page.one("[data-transect] svg")
        point = ActionBuilder(page.driver, duration=30)
        r = strip.rect
        point.pointer_action.move_to_location(int(r["x"] + r["width"] / 2), int(r["y"] + 60))
        point.perform()
        page.until(lambda: page.js("return sow.get().pinned"), 60)
        self.assertAlmostEqual(page.js("return sow.get().place.east"), 150, delta=6)
        # dragged across the land on the map
        big = self.page.on_map()
        page.until(lambda: page.js("return sow.get().transect"), 60)
        line = cut["line"]
        middle = ((line[0] + line[2]) / 2, (line[1] + line[3]) / 2)
        self.page.mouse(
            self.page.at(big, *middle),
            self.page.at(big, middle[0], middle[1] - 20),
            self.page.at(big, middle[0], middle[1] - 40),
        )
        page.until(lambda: page.js("return sow.get().transect.line[1]") < line[1] - 30, 60)
        page.until(
            lambda: (
                abs(
                    page.js("return sow.get().transect.answer.north[0]")
                    - page.js("return sow.get().transect.line[1]")
                )
                < 0.1
            ),
            60,
        )
        page.click("[data-csv]")
        rows = list(csv.reader(page.downloaded(".csv").open()))
        self.assertEqual(rows[0][:4], ["along_m", "east_m", "north_m", "height_m"])
        self.assertGreater(len(rows), 500)
        page.click("[data-svg]")
        self.assertGreater(len(xml.parse(page.downloaded(".svg")).getroot()), 8)
        page.keys("m")
        page.click_text("fold", "[data-transect]")

    def test_a_proof_sheet_fills_is_varied_around_and_taken(self):
        page = self.page
        self.open(
            shots=[
                {"id": "s", "name": "South", "east_m": 150, "north_m": 5, "eye_m": 20, "tilt": -5}
            ]
        )
        page.click("[data-entry=n] button")
        page.click("[data-action=proof]")
        filled = lambda: int(page.one("[data-proofs]").get_attribute("data-proofs"))
        Select(page.one("[aria-label='Setting to vary']")).select_by_visible_text("Seed")
        page.until(lambda: page.text("[data-proofs]").count("vary around") == 0, 20)
        page.until(lambda: filled() == 12, 90)
        images = page.js(
            "return [...document.querySelectorAll('[data-proofs] img')].map((i) => { const "
            "c = document.createElement('canvas'); c.width = c.height = 24; "
            "c.getContext('2d').drawImage(i, 0, 0, 24, 24); return c.toDataURL(); })"
        )
        self.assertEqual(len(set(images)), 12)  # twelve seeds, twelve lands
        Select(page.one("[aria-label='Setting to vary']")).select_by_visible_text("Feature size")
        Select(page.one("[aria-label='Seen from']")).select_by_visible_text("South")
        page.until(lambda: filled() == 12, 90)
        page.js("""[...document.querySelectorAll('[data-proofs] button')]
                .filter((b) => b.textContent === 'vary around')[7].click();
            setTimeout(() => document.querySelector('[data-stop-proof]').click(), 60)""")
        page.until(lambda: filled() < 12 and not page.all("[data-stop-proof]"), 60)
        time.sleep(0.5)
        self.assertLess(filled(), 12)  # it stays stopped
        page.click("[aria-label='Setting to vary']")
        Select(page.one("[aria-label='Setting to vary']")).select_by_visible_text("Height")
        page.until(lambda: filled() == 12, 90)
        first = "return document.querySelector('[data-proofs] img').src"
        sketch = page.js(first)
        page.click("[data-follows]")  # each again as a still would have it
        followed = lambda: int(page.one("[data-proofs]").get_attribute("data-followed"))
        page.until(lambda: followed() >= 1, 240)
        page.click("[data-stop-proof]")
        self.assertNotEqual(page.js(first), sketch)
        before = self.page.state()
        page.js("document.querySelector('[data-proofs] button[aria-label^=Take]').click()")
        after = self.page.kept(before["revision"])
        self.assertNotEqual(
            after["document"]["land"][0]["height_m"], before["document"]["land"][0]["height_m"]
        )
        self.assertEqual(after["steps"], before["steps"] + 1)

    def test_survey_sheets_reality_check_and_holding_without(self):
        page = self.page
        b = self.open()
        Select(page.one("[aria-label='Survey sheet']")).select_by_value("slope")
        page.until(lambda: page.js("return !!sow.get().sheet.values"), 60)
        page.settled()
        values = np.array(page.js("return Array.from(sow.get().sheet.values.slice(5000, 5400))"))
        np.testing.assert_allclose(values, b.slope().ravel()[5000:5400], atol=1e-3)
        self.assertIn("Slope", page.text("[data-survey-key]"))
        Select(page.one("[aria-label='Survey sheet']")).select_by_value("")
        page.click("[data-action=reality]")
        page.until(lambda: len(page.all("[data-reality] > div")) == 8, 60)
        self.assertIn(
            "Wear by water", page.text("[data-reality]")
        )  # plain noise is told what to change
        page.keys(Keys.ESCAPE)
        page.click("[data-entry=d] button")
        whole = page.js("return sow.get().manifest.heights")
        held = page.one("[data-without]")
        press = ActionBuilder(page.driver, duration=30)
        press.pointer_action.move_to(held).pointer_down()
        press.perform()
        page.until(lambda: page.js("return sow.get().manifest.heights") != whole, 60)
        release = ActionBuilder(page.driver, duration=30)
        release.pointer_action.pointer_up()
        release.perform()
        page.until(lambda: page.js("return sow.get().manifest.heights") == whole, 60)
        self.assertEqual(self.page.state()["steps"], 1)

    def test_ready_made_lands_raw_posts_and_order(self):
        page = self.page
        self.open()
        # a dragged entry changes places
        before = self.page.state()["revision"]
        page.js("""const rows = ['d',
            'n'].map((i) => document.querySelector(`[data-entry=${i}]`)), data = new DataTransfer();
            const fire = (e, k) => e.dispatchEvent(new DragEvent(k, {dataTransfer: data,
            bubbles: true, cancelable: true}));
            fire(rows[0].firstElementChild, 'dragstart'); fire(rows[1], 'dragover'); fire(rows[1],
            'drop');""")
        self.assertEqual([e["id"] for e in self.page.kept(before)["document"]["land"]], ["d", "n"])
        # raw posts are asked for their layout
        h = np.add.outer(np.arange(40), np.arange(50)).astype("<u2") * 300
        file = self.folder / "posts.raw"
        file.write_bytes(h.tobytes())
        page.drop(file)
        page.until(lambda: "fits no square" in page.text(".sheetbox"), 60)
        for name, value in (("columns", 50), ("rows", 40)):
            field = page.one(f".sheetbox [aria-label={name}]")
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(str(value))
        before = self.page.state()["revision"]
        page.click_text("Bring it in", ".sheetbox")
        land = self.page.kept(before)["document"]["land"]
        self.assertEqual((land[-1]["kind"], land[-1]["name"]), ("heightmap", "posts"))
        # a ready-made land begins a scene
        page.click("[data-action=lands]")
        page.until(lambda: len(page.all("[data-land]")) >= 10, 60)
        widths = "return [...document.querySelectorAll('.sheetbox img')].map(i => i.naturalWidth)"
        page.until(lambda: set(page.js(widths)) == {360}, 60)
        page.click("[data-land=sand-sea]")
        page.until(lambda: self.page.state()["name"] == "Sand sea", 60)
        page.settled()
        self.assertGreater(
            page.js("return sow.get().manifest.highest - sow.get().manifest.lowest"), 60
        )
        self.assertEqual(
            [e for e in page.errors() if "Failed to load resource" not in e], []
        )  # refusals that other tests asked for are no faults of the page


if __name__ == "__main__":
    unittest.main()
