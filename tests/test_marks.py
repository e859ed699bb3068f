"""Lines and areas: how near, how deep inside, and what land and planting do with them."""
import unittest

import numpy as np
from shapely import LineString, Point, Polygon

from sow.core.errors import SceneError
from sow.core.marks.shapes import Area, Line, depth, inside, near, way
from sow.core.plot import Plot
from sow.core.sample import values_at
from sow.core.scene import read_scene
from tests.test_hand import at
from tests.test_kinds import built

NOISE = {"id": "n", "name": "n", "kind": "noise", "feature_m": 120, "height_m": 30, "seed": 8}
WAY = {"id": "l", "name": "Drove", "kind": "line", "points": [[40, 60], [160, 190], [280, 120], [370, 250]]}
FIELD = {"id": "a", "name": "Field", "kind": "area", "smooth": False, "points": [[100, 80], [260, 90], [240, 220], [120, 200]]}


class Shapes(unittest.TestCase):
    def test_distances_and_insides_agree_with_another_library(self):
        grid = Plot(width_m=400, depth_m=300, posts=101).grid()
        points = way(Line(**WAY))
        away, along, side = near(points, grid, 60)
        other = LineString(points)
        for r, c in ((10, 20), (40, 60), (70, 33), (25, 80), (60, 90)):
            p = Point(grid.xs()[c], grid.ys()[r])
            d = other.distance(p)
            self.assertAlmostEqual(float(away[r, c]) if d <= 60 else 1e9, d if d <= 60 else 1e9, delta=0.01)
            if d <= 60:
                self.assertAlmostEqual(float(along[r, c]), other.project(p), delta=0.05)
        self.assertTrue({-1.0, 1.0} <= set(np.unique(side[away < 60])))
        shape = way(Area(**FIELD))
        flags = inside(shape, grid)
        for r, c in ((30, 40), (50, 45), (10, 10), (60, 80)):
            self.assertEqual(bool(flags[r, c]), Polygon(shape).contains(Point(grid.xs()[c], grid.ys()[r])))
        deep = depth(Area(**FIELD), grid, 500)
        self.assertAlmostEqual(float(deep[37, 45]), Polygon(shape).exterior.distance(Point(grid.xs()[45], grid.ys()[37])), delta=0.01)

    def test_smooth_lines_run_through_their_points_and_corners_stay(self):
        points = way(Line(**WAY))
        for p in WAY["points"]:
            self.assertLess(np.hypot(*(points - p).T).min(), 1e-6)
        self.assertEqual(len(way(Line(**{**WAY, "smooth": False}))), 4)
        loop = way(Area(**{**FIELD, "smooth": True}))
        np.testing.assert_allclose(loop[0], loop[-1])

    def test_bad_lines(self):
        for points in ([[1, 1]], [[1, 1], [1, 1]]):
            with self.assertRaises(SceneError) as e:
                read_scene({"name": "t", "marks": [{**WAY, "points": points}]})
            self.assertIn("two points", e.exception.message)
        with self.assertRaises(SceneError) as e:
            built([NOISE, {"id": "p", "name": "p", "kind": "path", "mark": "gone"}]).heights
        self.assertIn("no line 'gone'", e.exception.message)
        crossing = {**FIELD, "points": [[100, 100], [200, 200], [200, 100], [100, 200]]}
        grid = Plot(width_m=400, depth_m=300, posts=101).grid()
        self.assertFalse(bool(inside(way(Area(**crossing)), grid)[grid.ny - 1 - 27, 37]))  # between the two wings


class Used(unittest.TestCase):
    def test_a_path_is_even_and_falls_to_its_side(self):
        b = built([NOISE, {"id": "p", "name": "p", "kind": "path", "mark": "l", "width_m": 10, "bank_m": 12, "even_m": 60, "fall": 5}], 513, marks=[WAY])
        plain, points = built([NOISE], 513), way(Line(**WAY))
        length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
        t = np.linspace(15, length[-1] - 15, 200)
        e, n = np.interp(t, length, points[:, 0]), np.interp(t, length, points[:, 1])
        rough = lambda x: float(np.abs(np.diff(values_at(x.heights, x.grid, e, n), 2)).mean())
        self.assertLess(rough(b), 0.5 * rough(plain))
        i = 90
        dx, dy = (e[i + 1] - e[i - 1]), (n[i + 1] - n[i - 1])
        right = np.array([dy, -dx]) / np.hypot(dx, dy)
        self.assertAlmostEqual(at(b, e[i] - 3 * right[0], n[i] - 3 * right[1]) - at(b, e[i] + 3 * right[0], n[i] + 3 * right[1]), 0.3, delta=0.12)
        far = near(points, b.grid, 40)[0] > 25
        np.testing.assert_array_equal(b.heights[far], plain.heights[far])

    def test_a_stream_always_runs_downhill_and_only_cuts(self):
        for line in (WAY, {**WAY, "points": WAY["points"][::-1]}):
            b = built([NOISE, {"id": "s", "name": "s", "kind": "stream", "mark": "l", "width_m": 8, "depth_m": 2, "bank_m": 15}], 513, marks=[line])
            plain, points = built([NOISE], 513), way(Line(**WAY))
            length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
            t = np.linspace(6, length[-1] - 6, 120)
            z = values_at(b.heights, b.grid, np.interp(t, length, points[:, 0]), np.interp(t, length, points[:, 1]))
            z = z if z[0] > z[-1] else z[::-1]
            self.assertLess(float(np.diff(z).max()), 0.12)
            self.assertTrue((b.heights <= plain.heights + 1e-4).all())
            self.assertGreater(float(b.land_step().maps["lowered"].max()), 1)

    def test_a_rib_lifts_along_its_line(self):
        b = built([NOISE, {"id": "r", "name": "r", "kind": "rib", "mark": "l", "height_m": 25, "reach_m": 40}], 257, marks=[WAY])
        plain = built([NOISE], 257)
        self.assertAlmostEqual(at(b, 160, 190) - at(plain, 160, 190), 25, delta=0.6)
        self.assertAlmostEqual(at(b, 300, 30), at(plain, 300, 30), delta=1e-4)

    def test_conditions_near_a_line_and_in_an_area(self):
        ground = [{"id": "a0", "name": "base", "ground": "turf"}, {"id": "g", "name": "way", "ground": "gravel", "where": [{"kind": "near-line", "mark": "l", "within_m": 8, "soft": 2}]},
                  {"id": "f", "name": "field", "ground": "peat", "where": [{"kind": "in-area", "mark": "a", "soft": 2}]}]
        b = built([NOISE], 257, marks=[WAY, FIELD], ground=ground)
        shares = b.ground()
        away, field = near(way(Line(**WAY)), b.grid, 30)[0], inside(way(Area(**FIELD)), b.grid)
        outside = depth(Area(**FIELD), b.grid, 30) < -2
        self.assertTrue((shares[1][(away < 6) & outside] > 0.99).all())
        self.assertTrue((shares[1][away > 10] < 0.01).all())
        self.assertGreater(float(shares[2][field].mean()), 0.95)
        moved = built([NOISE], 257, marks=[{**WAY, "points": [[10, 10], [20, 10]]}, FIELD], ground=ground)
        self.assertNotEqual(b.ground_key, moved.ground_key)

    def test_a_clearing_holds_for_all_sowings_but_the_excepted(self):
        sow = lambda i: {"id": i, "name": i, "mix": [{"kind": "birch", "share": 100}], "density": 3, "apart_m": 2}
        mark = {**WAY, "clearing": True, "clear_m": 6, "clear_soft_m": 4, "clear_except": ["kept"]}
        b = built([NOISE], 257, marks=[mark], planting=[sow("a"), sow("b"), sow("kept")])
        line = LineString(way(Line(**WAY)))
        nearest = [min(line.distance(Point(e, n)) for e, n in zip(p.east, p.north)) for p in (b.plants(0), b.plants(1), b.plants(2))]
        self.assertGreater(min(nearest[:2]), 5.5)
        self.assertLess(nearest[2], 4)
        free = built([NOISE], 257, marks=[{**mark, "on": False}], planting=[sow("a")])
        self.assertGreater(len(free.plants(0)), len(b.plants(0)))


if __name__ == "__main__":
    unittest.main()
