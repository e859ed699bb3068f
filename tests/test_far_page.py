"""Journeys beyond the plot and round a house, through the real page: far land placed on the map and
clothed; a wall that bends round a court, and a paved way.
"""

import unittest

from tests.journeys import Journeys

TIER = "page"

PLOT = {"width_m": 200, "depth_m": 200, "posts": 129, "seed": 4}
WAY = {
    "id": "way",
    "name": "Way",
    "kind": "line",
    "points": [[40, 60], [100, 80], [160, 60]],
}


class FarPage(Journeys):
    FIRST = {"name": "Far", "plot": PLOT}

    def test_far_land_is_placed_on_the_map_and_clothed(self):
        page = self.page
        self.open()
        page.unfold("land")
        page.click_text("Beyond the plot", "[data-section=land]")
        peak = self.added("land", "far land", "form-dome")["beyond"]["land"][-1]
        self.typed(peak["id"], "Height", 900)
        page.click_text("On the map", "[data-section=land]")
        big = page.on_map()
        scale = page.js("return sow.get().mapAt.scale")
        self.assertLess(scale * 200, 320)  # the plot is small on it
        start = (peak["east_m"], peak["north_m"])
        move = lambda: page.mouse(page.at(big, *start), page.at(big, start[0], start[1] + 150))
        moved = self.changed(move)["beyond"]["land"][-1]
        step = 2 / scale  # a pixel or two of the map, in m
        self.assertAlmostEqual(moved["north_m"], start[1] + 150, delta=step)
        self.assertAlmostEqual(moved["east_m"], start[0], delta=step)
        before = page.js("return [...sow.get().products.rings[0].colour]")
        self.added("land", "far material", "turf")
        snow = self.added("land", "far material", "snow")["beyond"]["ground"][-1]
        page.settled()
        after = page.js("return [...sow.get().products.rings[0].colour]")
        changed = sum(a != b for a, b in zip(before, after)) / len(before)
        self.assertGreater(changed, 0.1)
        # a rule of its own, which sees the far land
        own = f"[data-entry={snow['id']}]"
        rule = "[data-add=near-landform]"
        self.changed(lambda: (page.click(f"{own} [aria-label='Add rule']"), page.click(rule)))
        kept = page.state()["document"]["beyond"]["ground"][-1]["where"][-1]
        self.assertEqual(kept["landform"], peak["id"])
        # the eye takes the mountain from the view and leaves it in the scene
        high = lambda: max(page.js("return [...sow.get().products.rings[0].field.values]"))
        stands = high()
        page.click(f"[aria-label='Hide {peak['name']} in the view']")
        page.until(lambda: high() < 0.7 * stands, 60, "the mountain is still there")
        self.assertTrue(page.state()["document"]["beyond"]["land"][-1]["on"])

    def test_a_wall_is_bent_round_a_court_and_a_way_is_paved(self):
        page = self.page
        self.open(marks=[WAY])
        page.unfold("marks")
        page.click("[data-entry=way] button")
        walls = self.changed(lambda: page.click("[data-build=wall]"))["pieces"]
        self.assertTrue(walls)
        page.unfold("marks")
        page.click("[data-entry=way] button")
        paved = self.changed(lambda: page.click("[data-build=slabs]"))["pieces"]
        self.assertGreater(len(paved), len(walls) + 5)
        wall = walls[0]["id"]
        page.js("sow.set({chosen: arguments[0], open: 'planting'})", wall)
        bent = self.typed(wall, "Bend", 75, "Three sizes")["pieces"][0]
        self.assertEqual(bent["bend"], 75)
        line = next(p for p in page.js("return sow.get().manifest.pieces") if p["id"] == wall)
        self.assertIn("@75x", line["kind"])
        page.until(lambda: page.js("return !!sow.view.plants") and not page.errors(), 60)
        # all of the wall is hidden together
        page.click_text("▸ Placed by hand", "[data-section=planting]")
        group = walls[0]["group"]
        self.assertTrue(group)
        page.click(f"[aria-label='Hide group {group} in the view']")
        hidden = set(page.js("return [...sow.get().hidden]"))
        self.assertLessEqual({p["id"] for p in walls}, hidden)


if __name__ == "__main__":
    unittest.main()
