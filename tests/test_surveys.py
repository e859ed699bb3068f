"""What the survey answers over the server is what the land says: sheets, transects, comparisons,
masks; asked as the page asks, worked out anew here.
"""

import csv
import io
import unittest
import xml.etree.ElementTree as ET

import numpy as np

from sow.core.survey.sheets import sheets
from tests.served import ask

TIER = "fast"

DOCUMENT = {
    "name": "Surveyed <&>",
    "plot": {"width_m": 400, "depth_m": 300, "posts": 257},
    "land": [
        {"id": "s", "name": "Tilt", "kind": "form", "form": "slope", "height_m": 40, "turn": 90},
        {"id": "n", "name": "Swell", "kind": "noise", "height_m": 12, "feature_m": 120, "seed": 5},
    ],
    "water": [{"id": "w", "name": "Mere", "reach": "everywhere", "level_m": 8}],
    "ground": [
        {"id": "g", "name": "turf", "ground": "turf"},
        {"id": "r", "name": "=rock", "ground": "granite", "where": [{"kind": "slope", "low": 12}]},
    ],
    "planting": [{"id": "p", "name": "p", "mix": [{"kind": "birch"}], "density": 2}],
    "marks": [
        {
            "id": "m",
            "name": "m",
            "kind": "mask",
            "where": [{"kind": "height", "low": 20, "soft": 1}],
        }
    ],
}


def field_of(answer: dict) -> np.ndarray:
    """The field of a sheet as the page reads it."""
    status, data = ask("GET", f"/api/products/{answer['key']}")
    assert status == 200
    return np.frombuffer(data, "<f4").reshape(answer["grid"]["ny"], answer["grid"]["nx"])


class Survey(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        status, cls.state = ask("POST", "/api/scenes", {"document": DOCUMENT})
        assert status == 200, cls.state
        cls.at = f"/api/scenes/{cls.state['id']}"
        cls.heights = field_of(cls.sheet("height"))

    @classmethod
    def sheet(cls, kind: str, **more) -> dict:
        status, answer = ask("POST", f"{cls.at}/surveys", {"kind": kind, **more})
        assert status == 200, answer
        return answer

    def test_every_sheet_tells_its_scale_and_its_spread(self):
        for kind in sheets:
            with self.subTest(kind):
                answer = self.sheet(kind)
                field = field_of(answer)
                self.assertTrue(np.isfinite(field).all())
                self.assertAlmostEqual(answer["lowest"], float(field.min()), places=3)
                self.assertAlmostEqual(answer["highest"], float(field.max()), places=3)
                self.assertLessEqual(answer["low"], answer["high"])
                self.assertAlmostEqual(sum(answer["bins"]), 1, delta=0.02)
                self.assertTrue(answer["label"] and answer["help"])
                mean = float(field.mean(dtype=np.float64))
                self.assertAlmostEqual(answer["mean"], mean, delta=1e-3 * abs(mean) + 1e-4)

    def test_a_draft_is_the_same_land_on_fewer_posts(self):
        draft = self.sheet("height", grid="draft")
        self.assertLess(draft["grid"]["nx"], self.heights.shape[1])
        self.assertAlmostEqual(draft["mean"], float(self.heights.mean()), delta=0.2)

    def test_slope_and_facing_are_those_of_the_heights(self):
        spacing = self.sheet("height")["grid"]["spacing"]
        rise = np.gradient(self.heights.astype(float), spacing)
        plain = np.degrees(np.arctan(np.hypot(*rise)))
        slope = field_of(self.sheet("slope"))
        inner = np.s_[8:-8, 8:-8]
        self.assertGreater(
            float(np.corrcoef(plain[inner].ravel(), slope[inner].ravel())[0, 1]), 0.9
        )
        facing = field_of(self.sheet("facing"))
        downhill = np.degrees(np.arctan2(-rise[1], rise[0])) % 360  # row 0 is north
        apart = np.abs((facing - downhill + 180) % 360 - 180)[inner]
        steep = plain[inner] > 3
        self.assertLess(float(np.median(apart[steep])), 8)

    def test_hours_of_sun_follow_latitude_and_day(self):
        summer, winter = (self.sheet("sunlit", latitude=55, day=d)["mean"] for d in (172, 355))
        self.assertTrue(14 < summer < 17.6, summer)
        self.assertTrue(4 < winter < 7.5, winter)
        self.assertAlmostEqual(self.sheet("sunlit", latitude=0, day=80)["mean"], 12, delta=1)

    def test_where_a_land_shows(self):
        answer = self.sheet("shows", entry="n")
        field = field_of(answer)
        self.assertTrue(((field >= 0) & (field <= 1)).all())
        self.assertIn("Swell", answer["label"])

    def test_what_is_no_sheet_is_refused_with_those_there_are(self):
        status, answer = ask("POST", f"{self.at}/surveys", {"kind": "temperature"})
        self.assertEqual(status, 422)
        self.assertIn("slope", answer["advice"])
        self.assertEqual(ask("POST", f"{self.at}/surveys", {"kind": "slope", "day": 400})[0], 422)


class Transects(unittest.TestCase):
    LINE = (40, 60, 360, 240)

    @classmethod
    def setUpClass(cls):
        Survey.setUpClass()
        cls.at = Survey.at
        order = {"line": cls.LINE, "samples": 200, "reach_m": 20}
        status, cls.cut = ask("POST", f"{cls.at}/transects", order)
        assert status == 200, cls.cut
        cls.order = order

    def test_samples_lie_evenly_on_the_line_at_the_lands_height(self):
        east, north = np.array(self.cut["east"]), np.array(self.cut["north"])
        self.assertAlmostEqual(self.cut["length"], float(np.hypot(320, 180)), places=3)
        np.testing.assert_allclose(np.diff(east), 320 / 199, atol=2e-3)
        np.testing.assert_allclose(np.diff(north), 180 / 199, atol=2e-3)
        grid = Survey.sheet("height")["grid"]
        rows = np.rint((300 - north) / grid["spacing"]).astype(int)
        cols = np.rint(east / grid["spacing"]).astype(int)
        near = Survey.heights[rows, cols]
        self.assertLess(float(np.abs(near - np.array(self.cut["height"])).max()), 1.2)

    def test_water_stands_level_and_over_the_ground(self):
        water = [(w, h) for w, h in zip(self.cut["water"], self.cut["height"]) if w is not None]
        self.assertGreater(len(water), 5)
        for level, height in water:
            self.assertAlmostEqual(level, 8, places=2)
            self.assertLess(height, 8.6)

    def test_plants_told_stand_within_reach_on_the_ground(self):
        self.assertGreater(len(self.cut["plants"]), 0)
        along = np.linspace(0, self.cut["length"], 200)
        for plant in self.cut["plants"]:
            self.assertLessEqual(abs(plant["off"]), 20.001)
            ground = float(np.interp(plant["along"], along, self.cut["height"]))
            self.assertAlmostEqual(plant["foot"], ground, delta=2.5)
            self.assertGreater(plant["height"], 1)

    def test_the_table_says_the_same_and_holds_no_formula(self):
        status, data = ask("POST", f"{self.at}/transects.csv", self.order)
        self.assertEqual(status, 200)
        head, *rows = csv.reader(io.StringIO(data.decode()))
        self.assertEqual(len(rows), 200)
        self.assertIn("'=rock", head)
        for k in (0, 77, 199):
            self.assertAlmostEqual(float(rows[k][3]), self.cut["height"][k], places=2)
        shares = np.array([[float(v) for v in r[6:]] for r in rows])
        np.testing.assert_allclose(shares.sum(1), 1, atol=2e-3)
        self.assertEqual(shares.argmax(1).tolist(), self.cut["most"])

    def test_the_drawing_is_to_scale_and_names_are_text(self):
        heights = []
        for times in (1, 3):
            status, data = ask("POST", f"{self.at}/transects.svg", {**self.order, "times": times})
            self.assertEqual(status, 200)
            root = ET.fromstring(data)
            heights.append(float(root.get("height", "0").rstrip("px")))
            self.assertIn("Surveyed <&>", "".join(root.itertext()))
        self.assertGreater(heights[1], heights[0])

    def test_lines_that_are_none_are_told(self):
        for line in ([5, 5, 5, 5], [-90, -90, -50, -50], [1, 2, 3]):
            self.assertEqual(ask("POST", f"{self.at}/transects", {"line": line})[0], 422, line)


class Masks(unittest.TestCase):
    def test_a_mask_filled_by_a_rule_is_that_rule(self):
        state = Survey.state if hasattr(Survey, "state") else None
        if state is None:
            Survey.setUpClass()
            state = Survey.state
        at = f"/api/scenes/{state['id']}"
        status, kept = ask("POST", f"{at}/masks", {"mark": "m", "how": "where"})
        self.assertEqual(status, 200, kept)
        document = state["document"]
        document["marks"][0]["raster"] = kept["raster"]
        status, picture = ask(
            "POST", f"{at}/mask-pictures/m", {"document": document, "client": "t"}
        )
        self.assertEqual(status, 200, picture)
        share = float((Survey.heights > 20).mean())
        self.assertAlmostEqual(picture["share"], share, delta=0.03)
        full = ask("POST", f"{at}/masks", {"mark": "m", "how": "full"})[1]
        empty = ask("POST", f"{at}/masks", {"mark": "m", "how": "empty"})[1]
        self.assertNotEqual(full["raster"], empty["raster"])
        for how, told in (("union", "other"), ("where", "mark")):
            order = {"mark": "nobody", "how": how}
            self.assertEqual(ask("POST", f"{at}/masks", order)[0], 422, told)
