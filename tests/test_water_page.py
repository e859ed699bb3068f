"""Journeys at the water through the real page: a pond dug and filled, a shore bent to a line with
its waves and stones, a boat with its wake.
"""

import unittest

import numpy as np
from selenium.webdriver.support.ui import Select

from tests.journeys import Journeys
from tests.page import Keys

TIER = "page"

PLOT = {"width_m": 200, "depth_m": 200, "posts": 129, "seed": 4}
LAND = [{"id": "rolls", "name": "Rolls", "kind": "noise", "feature_m": 90, "height_m": 6}]
SLOPE = [
    {
        "id": "fall",
        "name": "Fall to the sea",
        "kind": "form",
        "form": "ridge",
        "height_m": 20,
        "length_m": 900,
        "breadth_m": 420,
        "east_m": 100,
        "north_m": 230,
        "turn": 90,
    }
]


class WaterPage(Journeys):
    FIRST = {"name": "Water", "plot": PLOT, "beyond": {"edge": "end"}}

    def line(self, water: str) -> dict:
        found = self.page.js("return sow.get().manifest.water")
        return next(w for w in found if w["id"] == water)

    def picture(self) -> np.ndarray:
        self.page.settled()
        pose = self.page.js("return sow.view.pose")
        return self.page.still(pose, 160, 120).astype(float)

    def test_a_pond_is_dug_and_filled_to_its_rim_with_slow_small_waves(self):
        page = self.page
        self.open(land=LAND)
        self.added("land", "landform or process", "hand")
        page.click("[data-brush=basin]")
        page.js("sow.set({brush: {...sow.get().brush, size_m: 50, strength_m: 4, rim: 20}})")
        big = page.on_map()
        self.changed(lambda: page.mouse(page.at(big, 100, 100)))
        page.keys(Keys.ESCAPE)
        self.added("water", "water", "pool")
        page.click_text("Place the pool by a click", "[data-section=water]")
        pond = self.changed(lambda: page.mouse(page.at(big, 100, 100)))["water"][-1]
        page.settled()
        full = self.line(pond["id"])
        self.assertTrue(60 < full["wet_m2"] < 4000, full["wet_m2"])
        self.assertGreater(full["wet_m3"], 0)
        self.assertIn("ha under water", page.text("[data-flooded]"))
        # a few centimetres less, and the flood that is told follows
        lower = "[aria-label='Lower by 50 cm']"
        level = self.changed(lambda: page.click(lower))["water"][-1]["level_m"]
        self.assertAlmostEqual(level, pond["level_m"] - 0.5, places=2)
        page.settled()
        self.assertLess(self.line(pond["id"])["wet_m2"], full["wet_m2"])
        self.changed(lambda: page.click("[aria-label='Raise by 50 cm']"))
        # slow and small
        high = self.line(pond["id"])["sea"]["high_m"]
        self.typed(pond["id"], "Wave height", 1, "Waves")
        kept = self.typed(pond["id"], "Speed", 40, "Waves")["water"][-1]
        self.assertEqual((kept["waves_cm"], kept["speed"]), (1, 40))
        page.settled()
        sea = self.line(pond["id"])["sea"]
        self.assertAlmostEqual(sea["high_m"], 0.01)
        self.assertNotEqual(high, sea["high_m"])
        natural = 2 * np.pi / sea["peak"]
        self.assertAlmostEqual(sea["period_s"], natural / 0.4, delta=0.01)
        # a ready water changes what it looks like
        choose = lambda: Select(page.one("[aria-label='Ready water']")).select_by_value("glacier")
        self.assertEqual(self.changed(choose)["water"][-1]["clear_m"], 0.35)
        self.assertEqual(page.errors(), [])
        self.is_laid_where_it_is()

    def is_laid_where_it_is(self):
        """A pond asks for a part of the fan about the eye, and for none that looks away."""
        squares = {}
        for bearing in (0, 180):
            pose = {"east": 100, "north": 60, "up": 25, "bearing": bearing, "tilt": -20}
            self.page.js(f"sow.view.pose = {{...{pose}, focal: 28}}; sow.view.changed(true)")
            self.page.settled()
            squares[bearing] = self.page.js(
                "const [{mesh}] = sow.view.water.slots;"
                "return mesh.visible ? mesh.geometry.drawRange.count / 6 : 0"
            )
        self.assertTrue(0 < squares[0] < 9000, squares)  # of 18,000
        self.assertEqual(squares[180], 0)

    def test_a_shore_is_bent_to_a_line_with_waves_and_stones_along_it(self):
        page = self.page
        points = [[0, 80], [60, 96], [120, 92], [200, 70]]
        mark = {"id": "line", "name": "Shore", "kind": "line", "points": points}
        self.open(land=SLOPE, marks=[mark])
        land = self.added("land", "landform or process", "shore-line")["land"][-1]
        self.assertEqual(land["mark"], "line")
        self.typed(land["id"], "Water level", 6)
        own = f"[data-entry={land['id']}]"
        self.changed(lambda: page.click_text("right of the line", own))
        sea = self.added("water", "water", "sea")["water"][-1]
        self.typed(sea["id"], "Level", 6)
        shore = lambda: Select(page.one("[aria-label='Ready shore']")).select_by_value("stones")
        document = self.changed(shore)
        page.settled()
        grounds = [m["name"] for m in document["ground"]]
        self.assertIn("Cobbles at the line", grounds)
        # the water's edge follows the line
        halves = page.js(
            "const w = sow.get().products.waters[0], f = sow.get().products.field;"
            "return {nx: f.nx, ny: f.ny, s: f.spacing, field: Array.from(w.field)}"
        )
        field = np.array(halves["field"], np.uint16).view(np.float16).astype(float)
        field = field.reshape(halves["ny"], halves["nx"], 4)
        at = lambda e, n: field[round(halves["ny"] - 1 - n / halves["s"]), round(e / halves["s"])]
        for east, north in points[1:3]:
            self.assertGreater(at(east, north - 6)[3], 0)
            self.assertLess(at(east, north + 6)[3], 0)
            # and waves take longer from farther out
            self.assertGreater(at(east, north - 40)[0], at(east, north - 10)[0])
        # stones lie along it
        tables = page.js(
            "return sow.get().products.sown.map((s) => Array.from(s.table).filter((_, i) => "
            "i % 9 < 2))"
        )
        stones = np.concatenate([np.reshape(t, (-1, 2)) for t in tables])
        line = np.interp(stones[:, 0], *np.array(points, float).T)
        self.assertGreater(len(stones), 200)
        self.assertLess(float(np.percentile(np.abs(stones[:, 1] - line), 80)), 20)
        # it is played: another moment is another picture
        page.js(
            "sow.view.pose = {...sow.view.pose, east: 100, north: 110, up: 9, bearing: 180, "
            "tilt: -12}; sow.view.changed(true)"
        )
        first = self.picture()
        np.testing.assert_array_equal(self.picture(), first)
        page.js("sow.view.play(true)")
        page.until(lambda: page.js("return sow.view.playing"))
        page.js("return new Promise((go) => setTimeout(go, 1500))")
        moving = page.js("return sow.view.shows")
        page.until(lambda: page.js("return sow.view.shows") > moving + 2, 60)
        page.js("sow.view.play(false)")
        self.assertEqual(page.errors(), [])

    def test_a_boat_at_the_waterline_leaves_a_wake(self):
        page = self.page
        water = [{"id": "lake", "name": "Lake", "level_m": 40, "waves_cm": 1}]
        boat = {"id": "boat", "name": "Boat", "kind": "boat", "east_m": 100, "north_m": 100}
        self.open(land=LAND, water=water, pieces=[boat])
        page.js(
            "sow.view.pose = {...sow.view.pose, east: 100, north: 84, up: 47, bearing: 0, "
            "tilt: -26}; sow.view.changed(true); sow.set({chosen: 'boat'})"
        )
        page.unfold("planting")
        document = self.changed(lambda: page.click_text("the water", "[data-entry=boat]"))
        self.assertEqual(document["pieces"][0]["stands"], "water")
        page.settled()
        self.assertAlmostEqual(page.js("return sow.get().manifest.pieces[0].up_m"), 40, places=3)
        still = self.picture()
        self.assertEqual(self.line("lake")["wakes"], [])
        self.typed("boat", "Speed through water", 3)
        page.settled()
        (wake,) = self.line("lake")["wakes"]
        self.assertAlmostEqual(wake["north"], 100 + wake["long_m"] / 2, delta=0.4)
        self.assertEqual(wake["speed_ms"], 3)
        self.assertGreater(float(np.abs(self.picture() - still).mean()), 0.5)
        self.assertEqual(page.errors(), [])


if __name__ == "__main__":
    unittest.main()
