"""Lamps that leave some sowings and pieces dark, in stills and in the view."""

import unittest

import numpy as np

from sow.core.air.light_of import DRAFT_ROWS
from sow.core.picture.prepared import setting_of, view_of
from sow.core.picture.spared import spared_copies, without_spared
from sow.core.picture.stage import Stage
from tests.journeys import Journeys
from tests.page import By
from tests.small import build_of

TIER = "page"

NIGHT = {"sun_height": -12, "sun_bearing": 200, "clouds": 0}
WIDE, HIGH = 96, 64
PLACES = {"left": 88.0, "right": 92.0}
LAMP = {
    "id": "l",
    "name": "Lamp",
    "kind": "lamp",
    "east_m": 90,
    "north_m": 33,
    "over_m": 3,
    "aim_east_m": 90,
    "aim_north_m": 40,
    "lumens": 100_000,
    "shadow": False,
}
BLOCKS = [
    {"id": f"b-{n}", "name": n, "kind": "block", "east_m": e, "north_m": 40, "size": 160}
    for n, e in PLACES.items()
]


def stage_of(**lamp):
    build = build_of(land=[], light=NIGHT, air=[{**LAMP, **lamp}], pieces=BLOCKS)
    view = view_of(build, build.shots()[0], WIDE, HIGH)
    lit = build.daylight(DRAFT_ROWS)
    return Stage(setting_of(build, view), lit, view.eye), view


class LeavesDark(unittest.TestCase):
    def test_what_is_spared_is_as_without_the_lamp_and_all_else_as_with_it(self):
        lit, view = stage_of()
        spared, _ = stage_of(spares_pieces=["b-left"])
        dark, _ = stage_of(lumens=1)
        rays = view.rays().reshape(-1, 3).astype(np.float64)
        which = lit.met(view.eye, rays).which.reshape(HIGH, WIDE)
        own = {n: np.isin(which, spared_copies(lit.told, [f"piece {n}"])) for n in PLACES}
        for name, here in own.items():
            self.assertGreater(int(here.sum()), 60, name)
        bright, less, none = (s.passed(view, 0)[0] for s in (lit, spared, dark))
        # away from its edges, where a pixel is neither wholly spared nor wholly lit
        inner = own["left"].copy()
        for axis in (0, 1):
            inner &= np.roll(own["left"], 1, axis) & np.roll(own["left"], -1, axis)
        self.assertGreater(float(bright[inner].mean()), 20 * float(none[inner].mean()))
        self.assertLess(float(less[inner].mean()), 0.05 * float(bright[inner].mean()))
        np.testing.assert_allclose(less[own["right"]], bright[own["right"]])
        ground = ~own["left"] & ~np.roll(own["left"], 1, 0) & ~np.roll(own["left"], 1, 1)
        ground &= ~np.roll(own["left"], -1, 0) & ~np.roll(own["left"], -1, 1)
        np.testing.assert_allclose(less[ground], bright[ground], rtol=1e-5, atol=1e-7)

    def test_two_lamps_are_taken_away_each_by_itself(self):
        light = np.full((2, 2, 3), 7.0, np.float32)
        shares = {0: np.array([[1, 0], [0.5, 0]], np.float32), 1: np.eye(2, dtype=np.float32)}
        without = {0: light - 4, 1: light - 2}
        found = without_spared(light, shares, without.__getitem__)[..., 0]
        np.testing.assert_allclose(found, [[1, 7], [5, 5]])

    def test_names_that_are_gone_spare_nothing(self):
        told = [("ground", ""), ("sowing Wood", "Oak"), ("piece Wall", "Block")]
        self.assertEqual(spared_copies(told, ["sowing Wood"]).tolist(), [1])
        self.assertEqual(spared_copies(told, ["piece Gone"]).tolist(), [])


class InTheView(Journeys):
    FIRST = {
        "name": "Lamps",
        "plot": {"width_m": 200, "depth_m": 200, "posts": 129},
        "beyond": {"edge": "end"},
        "light": NIGHT,
        "pieces": BLOCKS,
    }

    def test_a_piece_that_is_ticked_is_left_dark(self):
        page = self.page
        self.open(air=[LAMP])
        pose = {"east": 90, "north": 30, "up": 2.5, "bearing": 0, "tilt": -4, "focal": 40}
        page.js("sow.view.pose = arguments[0]; sow.view.changed(true)", pose)
        face = lambda picture, column: picture[38:50, column : column + 14].mean()
        faces = lambda picture: (face(picture, 18), face(picture, 62))
        left, right = faces(page.still(pose, 96, 64))
        self.assertAlmostEqual(left / right, 1, delta=0.2)
        page.unfold("light")
        page.js("sow.set({chosen: 'l'})")
        page.click_text("Leaves dark", "[data-entry=l]")
        tick = "//label[normalize-space()='left']/input"
        kept = self.changed(lambda: page.driver.find_element(By.XPATH, tick).click())
        self.assertEqual(kept["air"][0]["spares_pieces"], ["b-left"])
        left, right = faces(page.still(pose, 96, 64))
        self.assertLess(left, 0.6 * right)


if __name__ == "__main__":
    unittest.main()
