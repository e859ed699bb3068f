"""What the server makes for the view: contours, the sun's line, the ground's tones, a first eye."""

import unittest

import numpy as np

from sow.core.air.light import sun_direction
from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.sample import heights_at, values_at
from sow.core.scene import read_scene
from sow.core.shots.opening import EYE_M, opening
from sow.core.surface.material import tuned
from sow.core.survey.isoline import isolines
from sow.core.survey.sky import sun_line
from tests.served import ask, server

TIER = "fast"

DOCUMENT = {
    "name": "Products",
    "plot": {"width_m": 400, "depth_m": 300, "posts": 129},
    "land": [
        {"id": "n", "name": "n", "kind": "noise", "height_m": 60, "feature_m": 150, "seed": 4}
    ],
    "beyond": {"edge": "end"},
    "light": {"sun_bearing": 250, "sun_height": 14},
    "ground": [
        {"id": "a", "name": "a", "ground": "turf", "tint": "#c08050", "hue": 40, "saturation": 60},
        {
            "id": "b",
            "name": "b",
            "ground": "sand",
            "bright": 70,
            "where": [{"kind": "slope", "low": 15, "high": 90}],
        },
    ],
}


def grown() -> Build:
    scene = read_scene(DOCUMENT)
    return Build(scene, scene.plot.view_grid(), Cache())


class FromTheCore(unittest.TestCase):
    def setUp(self):
        self.build = grown()
        self.heights = self.build.heights
        self.grid = self.build.grid

    def test_every_point_of_a_contour_has_its_height(self):
        levels = np.arange(np.ceil(self.heights.min()), self.heights.max(), 5).tolist()
        lines = isolines(self.heights, levels)
        self.assertEqual({level for level, _ in lines}, set(levels))
        for level, line in lines:
            # a line crosses the edges of squares, on which heights run evenly
            east = line[:, 0] * self.grid.spacing
            north = self.grid.depth_m - line[:, 1] * self.grid.spacing
            on_edge = np.abs(line - np.rint(line)).min(axis=1) < 1e-3
            there = heights_at(self.heights, self.grid, east[on_edge], north[on_edge])
            np.testing.assert_allclose(there, level, atol=0.02)

    def test_what_lies_above_the_suns_line_sees_the_sun(self):
        sun = sun_direction(self.build.scene.light)
        line = sun_line(self.heights, self.grid.spacing, sun)
        dark = self.heights < line - 0.5
        clear = self.heights > line + 0.5
        self.assertGreater(dark.mean(), 0.02)
        self.assertGreater(clear.mean(), 0.3)
        rng = np.random.default_rng(3)
        steps = np.arange(1, 600) * self.grid.spacing * 0.25
        flat = np.hypot(sun[0], sun[1])
        for wanted, chosen in ((False, dark), (True, clear)):
            rows, columns = np.nonzero(chosen)
            right = 0
            for k in rng.integers(0, len(rows), 60):
                east = columns[k] * self.grid.spacing + steps * sun[0] / flat
                north = self.grid.depth_m - rows[k] * self.grid.spacing + steps * sun[1] / flat
                inside = (
                    (east >= 0)
                    & (north >= 0)
                    & (east <= self.grid.width_m)
                    & (north <= self.grid.depth_m)
                )
                ray = self.heights[rows[k], columns[k]] + steps * sun[2] / flat
                land = heights_at(self.heights, self.grid, east[inside], north[inside])
                right += bool((land <= ray[inside] + 0.3).all()) == wanted
            self.assertGreater(right, 54, wanted)

    def test_the_first_eye_stands_on_the_land_and_looks_into_it(self):
        eye = opening(self.heights, self.grid)
        ground = float(heights_at(self.heights, self.grid, eye.east, eye.north)[0])
        self.assertAlmostEqual(eye.up - ground, EYE_M, places=3)
        ahead = np.deg2rad(eye.bearing)
        east = eye.east + 100 * np.sin(ahead)
        north = eye.north + 100 * np.cos(ahead)
        middle = self.grid.width_m / 2, self.grid.depth_m / 2
        before = np.hypot(eye.east - middle[0], eye.north - middle[1])
        self.assertLess(np.hypot(east - middle[0], north - middle[1]), before)


class ThroughTheServer(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        server()
        state = ask("POST", "/api/scenes", {"document": DOCUMENT})[1]
        cls.manifest = ask("POST", f"/api/scenes/{state['id']}/builds", {"client": "t"})[1]
        cls.build = grown()
        shape = cls.build.grid.shape
        cls.field = {"key": cls.manifest["heights"], "nx": shape[1], "ny": shape[0]}

    def test_contours_are_those_of_the_core(self):
        status, data = ask("POST", "/api/isolines", {**self.field, "levels": [10.0, 20.0]})
        self.assertEqual(status, 200)
        numbers = np.frombuffer(data, "<f4")
        at = 0
        for level, line in isolines(self.build.heights.astype(np.float32), [10.0, 20.0]):
            self.assertEqual((numbers[at], numbers[at + 1]), (level, len(line)))
            told = numbers[at + 2 : at + 2 + line.size].reshape(-1, 2)
            np.testing.assert_allclose(told, line, atol=1e-3)
            at += 2 + line.size
        self.assertEqual(at, len(numbers))

    def test_the_suns_line_is_that_of_the_core(self):
        sun = sun_direction(self.build.scene.light).tolist()
        spacing = self.build.grid.spacing
        order = {**self.field, "spacing": spacing, "sun": sun}
        status, data = ask("POST", "/api/sun-lines", order)
        self.assertEqual(status, 200)
        told = np.frombuffer(data, "<f4").reshape(self.build.grid.shape)
        wanted = sun_line(self.build.heights, spacing, np.array(sun))
        np.testing.assert_allclose(told, wanted, atol=1e-2)

    def test_a_field_that_is_gone_is_told(self):
        status, told = ask("POST", "/api/isolines", {**self.field, "key": "0" * 32, "levels": [1]})
        self.assertEqual(status, 422)
        self.assertIn("not at hand", told["detail"])
        status, told = ask("POST", "/api/isolines", {**self.field, "nx": 40, "levels": [1]})
        self.assertEqual(status, 422)

    def test_materials_are_tuned_as_in_the_core(self):
        colour = np.array((0.2, 0.31, 0.12), np.float32)
        for line, material in zip(self.manifest["ground"], self.build.scene.ground):
            matrix = np.array(line["tune"]).reshape(3, 3).T
            told = np.maximum(matrix @ colour, 0)
            np.testing.assert_allclose(told, tuned(material, colour), atol=1e-6)
            own = self.build.ground_of(material)
            np.testing.assert_allclose(line["means"][:3], own.mean(), atol=1e-5)

    def test_the_grounds_tone_is_the_mean_of_what_lies_there(self):
        status, data = ask("GET", f"/api/products/{self.manifest['tone']}")
        self.assertEqual(status, 200)
        tone = np.frombuffer(data, np.uint8).reshape(*self.build.grid.shape, 4)
        linear = (tone[..., :3] / 255.0) ** 2
        means = np.array(self.build.means())
        places = np.array([[60.0, 60.0], [200.0, 150.0], [333.0, 71.0]])
        for i in range(3):
            got = values_at(linear[..., i].astype(np.float32), self.build.grid, *places.T)
            shares = [values_at(w, self.build.grid, *places.T) for w in self.build.ground()]
            wanted = sum(share * means[k, i] for k, share in enumerate(shares))
            np.testing.assert_allclose(got, wanted, atol=0.01)

    def test_a_draft_brings_what_is_being_changed_and_what_is_small(self):
        sowing = lambda name, density: {
            "id": name,
            "name": name,
            "mix": [{"kind": "heather"}],
            "density": density,
            "apart_m": 0.3,
        }
        plot = {**DOCUMENT["plot"], "posts": 257}  # a view grid finer than the draft's
        planting = [sowing("many", 12), sowing("few", 1)]
        document = {**DOCUMENT, "plot": plot, "planting": planting}
        state = ask("POST", "/api/scenes", {"document": document})[1]
        path = f"/api/scenes/{state['id']}/builds"

        def brought(grid, changed):
            order = {"client": "d", "grid": grid, "document": changed}
            lines = ask("POST", path, order)[1]["sown"]
            return {line["id"]: bool(line["key"]) for line in lines}, lines

        self.assertEqual(brought("view", document)[0], {"many": True, "few": True})
        land = [{**document["land"][0], "height_m": 61}]
        told, lines = brought("draft", {**document, "land": land})
        self.assertEqual(told, {"many": False, "few": False})
        self.assertAlmostEqual(lines[0]["count"], 12 * 1200, delta=2000)  # it is told all the same
        planting = [sowing("many", 13), sowing("few", 1)]
        told, _ = brought("draft", {**document, "planting": planting})
        self.assertEqual(told, {"many": True, "few": True})  # the few keep off their feet
        planting = [sowing("many", 12), sowing("few", 1.1)]
        told, _ = brought("draft", {**document, "planting": planting})
        self.assertEqual(told, {"many": False, "few": True})  # the many are as they were


if __name__ == "__main__":
    unittest.main()
