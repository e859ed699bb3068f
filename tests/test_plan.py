"""The planting plan and the schedule of kinds say what stands there."""

import csv
import io
import re
import unittest
import xml.etree.ElementTree as xml

import numpy as np

from sow.core.build import Build
from sow.core.cabinet import kind_of
from sow.core.cache import Cache
from sow.core.formats.plan import MOST, STEPS, PlanSheet, plan, plan_pdf, plan_svg
from sow.core.formats.plan_symbols import INK, plant_symbol, tone_of
from sow.core.formats.schedule import counts, schedule_csv
from sow.core.scene import read_scene

TIER = "fast"

DOCUMENT = {
    "name": "Plan",
    "season": "autumn",
    "plot": {"width_m": 300, "depth_m": 200, "posts": 97},
    "land": [
        {"id": "n", "name": "n", "kind": "noise", "height_m": 30, "feature_m": 120, "seed": 2}
    ],
    "water": [{"id": "w", "name": "Lake", "level_m": 3}],
    "marks": [
        {"id": "l", "name": "Way", "kind": "line", "points": [[10, 10], [150, 90], [290, 180]]},
        {"id": "a", "name": "Glade", "kind": "area", "points": [[60, 60], [90, 60], [80, 95]]},
        {"id": "o", "name": "Off", "kind": "line", "on": False, "points": [[5, 5], [9, 9]]},
    ],
    "planting": [
        {
            "id": "t",
            "name": "Birches",
            "mix": [{"kind": "birch", "share": 70}, {"kind": "rowan", "share": 30}],
            "density": 0.4,
            "apart_m": 4,
        },
        {
            "id": "h",
            "name": "Heather",
            "mix": [{"kind": "heather"}],
            "density": 40,
            "apart_m": 0.3,
        },
        {"id": "x", "name": "Off", "on": False, "mix": [{"kind": "gorse"}], "density": 3},
    ],
    "pieces": [
        {"id": "b", "name": "B", "kind": "boulder", "east_m": 100, "north_m": 100, "size": 150},
        {"id": "c", "name": "C", "kind": "boulder", "east_m": 120, "north_m": 100, "size": 50},
    ],
}
SVG = "{http://www.w3.org/2000/svg}"


def grown(**more) -> Build:
    scene = read_scene({**DOCUMENT, **more})
    return Build(scene, scene.plot.grid(), Cache())


class Schedule(unittest.TestCase):
    def test_every_plant_is_counted_once(self):
        build = grown()
        lines = counts(build)
        self.assertEqual({c["sowing"] for c in lines}, {"Birches", "Heather", "by hand"})
        for i, name in ((0, "Birches"), (1, "Heather")):
            mine = [c for c in lines if c["sowing"] == name]
            self.assertEqual(sum(c["number"] for c in mine), len(build.plants(i)))
        stones = next(c for c in lines if c["sowing"] == "by hand")
        tall = kind_of("boulder").height_m
        self.assertEqual(stones["number"], 2)
        self.assertAlmostEqual(stones["least_m"], 0.5 * tall)
        self.assertAlmostEqual(stones["greatest_m"], 1.5 * tall)
        for c in lines:
            self.assertLessEqual(c["least_m"], c["greatest_m"])
            self.assertAlmostEqual(c["per_ha"], c["number"] / 6)  # 300 x 200 m

    def test_the_csv_adds_up(self):
        build = grown()
        rows = list(csv.DictReader(io.StringIO(schedule_csv(build))))
        totals = [r for r in rows if r["sowing"] == "all"]
        others = [r for r in rows if r["sowing"] != "all"]
        self.assertEqual(
            sum(int(r["number"]) for r in totals), sum(int(r["number"]) for r in others)
        )
        for total in totals:
            own = [r for r in others if r["kind"] == total["kind"]]
            self.assertEqual(int(total["number"]), sum(int(r["number"]) for r in own))
        self.assertEqual({r["look"] for r in others if r["sowing"] == "Birches"}, {"autumn"})

    def test_a_bare_scene_has_an_empty_schedule(self):
        build = grown(planting=[], pieces=[])
        self.assertEqual(counts(build), [])
        self.assertEqual(len(schedule_csv(build).splitlines()), 1)
        self.assertIn("In all 0 plants", plan_svg(build))


class Plan(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.build = grown()
        cls.sheet = PlanSheet(cls.build)
        cls.svg = plan_svg(cls.build)
        cls.root = xml.fromstring(cls.svg)

    def texts(self) -> str:
        return " ".join("".join(t.itertext()) for t in self.root.iter(f"{SVG}text"))

    def test_it_is_to_scale(self):
        sheet = self.sheet
        self.assertAlmostEqual(sheet.wide / sheet.high, 300 / 200)
        self.assertAlmostEqual(sheet.x(300) - sheet.x(0), sheet.wide)
        self.assertAlmostEqual(sheet.y(200) - sheet.y(0), sheet.high)
        self.assertLess(sheet.y(0), sheet.y(200))  # north is up
        self.assertAlmostEqual(sheet.y(200), sheet.top)

    def test_trees_are_drawn_where_they_stand_and_as_wide_as_they_are(self):
        plants = self.build.plants(0)
        reach = np.array([kind_of(k).reach_m for k in ("birch", "rowan")])[plants.kind]
        wanted = sorted(
            (
                round(self.sheet.x(e), 1),
                round(self.sheet.y(n), 1),
                round(max(r * s * self.sheet.scale, 0.7), 1),
            )
            for e, n, r, s in zip(plants.east, plants.north, reach, plants.size)
        )
        drawn = set()
        for path in self.root.iter(f"{SVG}path"):
            for outline in path.get("d").split("M")[1:]:
                x, y = np.array(re.findall(r"-?[\d.]+", outline), float).reshape(-1, 2).T
                middle = (x.min() + x.max()) / 2, (y.min() + y.max()) / 2
                drawn.add(tuple(round(v, 1) for v in (*middle, float(np.ptp(x)) / 2)))
        missing = [w for w in wanted if w not in drawn]
        self.assertLess(len(missing), 0.05 * len(wanted), missing[:5])  # rounding at the half

    def test_of_many_a_share_is_drawn_and_the_key_says_so(self):
        number = len(self.build.plants(1))
        self.assertGreater(number, MOST)
        told = re.search(r"Heather, ([\d,]+) \(1 of (\d+) drawn\)", self.texts())
        self.assertIsNotNone(told)
        self.assertEqual(int(told[1].replace(",", "")), number)
        self.assertEqual(int(told[2]), round(number / MOST))

    def test_the_key_tells_scale_season_and_contours(self):
        text = self.texts()
        self.assertIn("300 x 200 m", text)
        self.assertIn("season: autumn", text)
        self.assertIn(self.sheet.step, STEPS)
        span = float(np.ptp(self.build.heights))
        self.assertLessEqual(span / self.sheet.step, 24)
        self.assertIn(f"contours every {self.sheet.step:g} m", text)
        for name in ("Way", "Glade", "Birches"):
            self.assertIn(name, text)
        self.assertNotIn("Off", text)  # what is switched off is not drawn

    def test_the_same_scene_gives_the_same_bytes(self):
        again = grown()
        self.assertEqual(plan_svg(again), self.svg)
        pdf = plan_pdf(self.build)
        self.assertEqual(plan_pdf(again), pdf)
        self.assertTrue(pdf.startswith(b"%PDF-"))
        drawing = plan(self.build)
        box = re.search(rb"/MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]", pdf)
        self.assertAlmostEqual(float(box[1]), drawing.width, delta=1)
        self.assertAlmostEqual(float(box[2]), drawing.height, delta=1)


class Symbols(unittest.TestCase):
    def test_each_lies_about_its_place(self):
        for symbol in ("canopy", "ring", "outline", "box", "dot", "tick"):
            shapes = plant_symbol(symbol, 50.0, 40.0, 6.0, INK, 3)
            self.assertTrue(shapes)
            for shape in shapes:
                west, south, east, north = shape.getBounds()
                self.assertTrue(50 - 7 <= west <= east <= 50 + 7, symbol)
                self.assertTrue(40 - 7 <= south <= north <= 40 + 7, symbol)

    def test_tones_follow_the_look(self):
        green = tone_of("birch")
        autumn = tone_of("birch~autumn")
        self.assertGreater(green.green, green.red)
        self.assertGreater(autumn.red, autumn.green)


if __name__ == "__main__":
    unittest.main()
