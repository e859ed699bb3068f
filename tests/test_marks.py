"""Lines and areas: how near, how deep inside, and what land and planting do with them."""

import io
import unittest

import numpy as np
from PIL import Image, ImageFilter
from shapely import LineString, Point, Polygon

from sow.core.errors import SceneError
from sow.core.hand.stroke import Stroke
from sow.core.marks.mask import Mask, combined, painted, worked
from sow.core.marks.shapes import Area, Line, depth, inside, near, way
from sow.core.marks.zones import zones
from sow.core.plot import Plot
from sow.core.sample import heights_at, values_at
from sow.core.scene import read_scene
from sow.core.survey.isoline import isoline_at
from sow.core.water.standing import surface_of
from tests.test_hand import at
from tests.test_kinds import Given, built

TIER = "fast"

NOISE = {"id": "n", "name": "n", "kind": "noise", "feature_m": 120, "height_m": 30, "seed": 8}
WAY = {
    "id": "l",
    "name": "Drove",
    "kind": "line",
    "points": [[40, 60], [160, 190], [280, 120], [370, 250]],
}
FIELD = {
    "id": "a",
    "name": "Field",
    "kind": "area",
    "smooth": False,
    "points": [[100, 80], [260, 90], [240, 220], [120, 200]],
}


class Shapes(unittest.TestCase):
    def test_distances_and_insides_agree_with_another_library(self):
        grid = Plot(width_m=400, depth_m=300, posts=101).grid()
        points = way(Line(**WAY))
        away, along, side = near(points, grid, 60)
        other = LineString(points)
        for r, c in ((10, 20), (40, 60), (70, 33), (25, 80), (60, 90)):
            p = Point(grid.xs()[c], grid.ys()[r])
            d = other.distance(p)
            self.assertAlmostEqual(
                float(away[r, c]) if d <= 60 else 1e9, d if d <= 60 else 1e9, delta=0.01
            )
            if d <= 60:
                self.assertAlmostEqual(float(along[r, c]), other.project(p), delta=0.05)
        self.assertTrue({-1.0, 1.0} <= set(np.unique(side[away < 60])))
        shape = way(Area(**FIELD))
        flags = inside(shape, grid)
        for r, c in ((30, 40), (50, 45), (10, 10), (60, 80)):
            self.assertEqual(
                bool(flags[r, c]), Polygon(shape).contains(Point(grid.xs()[c], grid.ys()[r]))
            )
        deep = depth(Area(**FIELD), grid, 500)
        self.assertAlmostEqual(
            float(deep[37, 45]),
            Polygon(shape).exterior.distance(Point(grid.xs()[45], grid.ys()[37])),
            delta=0.01,
        )

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
        self.assertFalse(
            bool(inside(way(Area(**crossing)), grid)[grid.ny - 1 - 27, 37])
        )  # between the two wings


class Used(unittest.TestCase):
    def test_a_path_is_even_and_falls_to_its_side(self):
        b = built(
            [
                NOISE,
                {
                    "id": "p",
                    "name": "p",
                    "kind": "path",
                    "mark": "l",
                    "width_m": 10,
                    "bank_m": 12,
                    "even_m": 60,
                    "fall": 5,
                },
            ],
            513,
            marks=[WAY],
        )
        plain, points = built([NOISE], 513), way(Line(**WAY))
        length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
        t = np.linspace(15, length[-1] - 15, 200)
        e = np.interp(t, length, points[:, 0])
        n = np.interp(t, length, points[:, 1])
        rough = lambda x: float(np.abs(np.diff(values_at(x.heights, x.grid, e, n), 2)).mean())
        self.assertLess(rough(b), 0.5 * rough(plain))
        i = 90
        dx, dy = (e[i + 1] - e[i - 1]), (n[i + 1] - n[i - 1])
        right = np.array([dy, -dx]) / np.hypot(dx, dy)
        self.assertAlmostEqual(
            at(b, e[i] - 3 * right[0], n[i] - 3 * right[1])
            - at(b, e[i] + 3 * right[0], n[i] + 3 * right[1]),
            0.3,
            delta=0.12,
        )
        far = near(points, b.grid, 40)[0] > 25
        np.testing.assert_array_equal(b.heights[far], plain.heights[far])

    def test_a_stream_always_runs_downhill_and_only_cuts(self):
        for line in (WAY, {**WAY, "points": WAY["points"][::-1]}):
            b = built(
                [
                    NOISE,
                    {
                        "id": "s",
                        "name": "s",
                        "kind": "stream",
                        "mark": "l",
                        "width_m": 8,
                        "depth_m": 2,
                        "bank_m": 15,
                    },
                ],
                513,
                marks=[line],
            )
            plain, points = built([NOISE], 513), way(Line(**WAY))
            length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
            t = np.linspace(6, length[-1] - 6, 120)
            z = values_at(
                b.heights,
                b.grid,
                np.interp(t, length, points[:, 0]),
                np.interp(t, length, points[:, 1]),
            )
            z = z if z[0] > z[-1] else z[::-1]
            self.assertLess(float(np.diff(z).max()), 0.12)
            self.assertTrue((b.heights <= plain.heights + 1e-4).all())
            self.assertGreater(float(b.land_step().maps["lowered"].max()), 1)

    def test_a_rib_lifts_along_its_line(self):
        b = built(
            [
                NOISE,
                {"id": "r", "name": "r", "kind": "rib", "mark": "l", "height_m": 25, "reach_m": 40},
            ],
            257,
            marks=[WAY],
        )
        plain = built([NOISE], 257)
        self.assertAlmostEqual(at(b, 160, 190) - at(plain, 160, 190), 25, delta=0.6)
        self.assertAlmostEqual(at(b, 300, 30), at(plain, 300, 30), delta=1e-4)

    def test_conditions_near_a_line_and_in_an_area(self):
        ground = [
            {"id": "a0", "name": "base", "ground": "turf"},
            {
                "id": "g",
                "name": "way",
                "ground": "gravel",
                "where": [{"kind": "near-line", "mark": "l", "within_m": 8, "soft": 2}],
            },
            {
                "id": "f",
                "name": "field",
                "ground": "peat",
                "where": [{"kind": "in-area", "mark": "a", "soft": 2}],
            },
        ]
        b = built([NOISE], 257, marks=[WAY, FIELD], ground=ground)
        shares = b.ground()
        away = near(way(Line(**WAY)), b.grid, 30)[0]
        field = inside(way(Area(**FIELD)), b.grid)
        outside = depth(Area(**FIELD), b.grid, 30) < -2
        self.assertTrue((shares[1][(away < 6) & outside] > 0.99).all())
        self.assertTrue((shares[1][away > 10] < 0.01).all())
        self.assertGreater(float(shares[2][field].mean()), 0.95)
        moved = built(
            [NOISE], 257, marks=[{**WAY, "points": [[10, 10], [20, 10]]}, FIELD], ground=ground
        )
        self.assertNotEqual(b.ground_key, moved.ground_key)

    def test_a_clearing_holds_for_all_sowings_but_the_excepted(self):
        sow = lambda i: {
            "id": i,
            "name": i,
            "mix": [{"kind": "birch", "share": 100}],
            "density": 3,
            "apart_m": 2,
        }
        mark = {**WAY, "clearing": True, "clear_m": 6, "clear_soft_m": 4, "clear_except": ["kept"]}
        b = built([NOISE], 257, marks=[mark], planting=[sow("a"), sow("b"), sow("kept")])
        line = LineString(way(Line(**WAY)))
        nearest = [
            min(line.distance(Point(e, n)) for e, n in zip(p.east, p.north))
            for p in (b.plants(0), b.plants(1), b.plants(2))
        ]
        self.assertGreater(min(nearest[:2]), 5.5)
        self.assertLess(nearest[2], 4)
        free = built([NOISE], 257, marks=[{**mark, "on": False}], planting=[sow("a")])
        self.assertGreater(len(free.plants(0)), len(b.plants(0)))


class Bends(unittest.TestCase):
    def test_a_shore_line_meets_the_level_exactly_and_parts_land_from_water(self):
        shore = {
            "id": "s",
            "name": "s",
            "kind": "shore-line",
            "mark": "l",
            "level_m": 3,
            "reach_m": 60,
            "beach": 4,
            "beach_m": 10,
            "water": "right",
        }
        b = built([NOISE, shore], 513, marks=[WAY])
        plain = built([NOISE], 513, marks=[WAY])
        points = way(Line(**WAY))
        on = points[::9]
        self.assertLess(np.abs(values_at(b.heights, b.grid, on[:, 0], on[:, 1]) - 3).max(), 0.12)
        self.assertGreater(
            np.abs(values_at(plain.heights, plain.grid, on[:, 0], on[:, 1]) - 3).max(), 2
        )
        away, _, side = near(points, b.grid, 60)
        close = away < 25
        self.assertTrue((b.heights[close & (side < 0) & (away > 1)] > 3).all())  # land on its left
        self.assertTrue((b.heights[close & (side > 0) & (away > 1)] < 3).all())
        np.testing.assert_array_equal(b.heights[away > 60], plain.heights[away > 60])
        lake = built([NOISE, {**shore, "mark": "a"}], 257, marks=[FIELD])
        deep = depth(Area(**FIELD), lake.grid, 30)
        self.assertTrue((lake.heights[(deep > 2) & (deep < 20)] < 3).all())
        self.assertTrue((lake.heights[(deep < -2) & (deep > -20)] > 3).all())

    def test_a_stream_carries_water_that_falls_and_keeps_to_its_bed(self):
        bed = {
            "id": "s",
            "name": "s",
            "kind": "stream",
            "mark": "l",
            "width_m": 8,
            "depth_m": 2,
            "bank_m": 8,
        }
        water = {
            "id": "w",
            "name": "w",
            "reach": "stream",
            "mark": "l",
            "width_m": 10,
            "deep_m": 0.5,
        }
        for posts in (257, 513):
            b = built([NOISE, bed], posts, marks=[WAY], water=[water])
            level, (wet,) = b.water()
            away = near(way(Line(**WAY)), b.grid, 30)[0]
            self.assertTrue(
                wet.any() and (away[wet] <= 5.01).all() and (level[wet] > b.heights[wet]).all()
            )
            surface = surface_of(b.scene.water[0], b.marks.line("l"), b.heights, b.grid)
            self.assertTrue((np.diff(surface[:, 2]) <= 0).all())  # one way only
            self.assertTrue(
                (
                    surface[:, 2]
                    >= heights_at(b.heights, b.grid, surface[:, 0], surface[:, 1]) + 0.49
                ).all()
            )
            self.assertGreater(np.ptp(level[wet]), 1)
        with self.assertRaisesRegex(SceneError, "No line is chosen"):
            built([NOISE], 65, water=[{**water, "mark": ""}]).water()

    def test_corners_stay_while_the_rest_is_smooth(self):
        points = [[0, 0], [50, 0], [50, 50, 1], [100, 50], [150, 0]]
        smooth = way(Line(id="a", name="a", points=[p[:2] for p in points]))
        bent = way(Line(id="a", name="a", points=points))
        self.assertTrue((np.abs(bent - (50, 50)).sum(1) < 1e-9).any())
        turn = lambda p: np.degrees(
            np.abs(np.diff(np.unwrap(np.arctan2(*np.diff(p, axis=0).T[::-1])))).max()
        )
        self.assertLess(turn(smooth), 35)
        self.assertGreater(turn(bent), 60)
        closed = way(Area(id="a", name="a", points=[[0, 0, 1], [90, 0, 1], [90, 90], [0, 90]]))
        np.testing.assert_allclose(closed[0], closed[-1])

    def test_the_contour_through_a_place(self):
        b = built([NOISE], 257)
        level, line = isoline_at(b.heights, b.grid, 200, 150)
        self.assertAlmostEqual(level, at(b, 200, 150), places=3)
        self.assertLess(np.hypot(line[:, 0] - 200, line[:, 1] - 150).min(), 8)
        np.testing.assert_allclose(
            values_at(b.heights, b.grid, line[:, 0], line[:, 1]), level, atol=0.15
        )
        for bad in ((-5, 10), (10, 900)):
            with self.assertRaises(SceneError):
                isoline_at(b.heights, b.grid, *bad)


class Masks(unittest.TestCase):
    def test_painting_is_the_same_in_metres_on_every_grid(self):
        plot = Plot(width_m=400, depth_m=300, posts=513)
        stroke = Stroke(
            tool="paint",
            size_m=30,
            firm=60,
            points=[[100, 150, 0.1], [250, 150, 0.4], [600, 150, 0.2]],
        )  # it leaves the plot
        coarse, fine = (
            painted(stroke, np.zeros(plot.grid(n).shape, np.float32), plot.grid(n))
            for n in (129, 513)
        )
        self.assertLess(np.abs(fine[::4, ::4] - coarse).max(), 0.05)
        self.assertGreater(fine.max(), 0.7)
        self.assertEqual(float(fine[:100].max()), 0)
        rubbed = painted(
            Stroke(tool="rub", size_m=60, firm=99, soft=0, points=[[150, 150, 3], [250, 150, 3]]),
            fine,
            plot.grid(513),
        )
        self.assertLess(float(rubbed[192, 192:320].max()), 0.02)
        wide = painted(
            Stroke(tool="paint", size_m=5000, soft=0, firm=99, points=[[200, 150, 3]]),
            fine,
            plot.grid(513),
        )
        self.assertGreater(float(wide.min()), 0.99)

    def test_widened_narrowed_blurred_inverted_combined(self):
        values = np.zeros((101, 101), np.float32)
        values[40:61, 40:61] = 1
        mask = lambda **k: worked(values, Mask(id="m", name="m", **k), 2.0)
        area = lambda v: float(v.sum()) * 4
        self.assertAlmostEqual(area(mask(widen_m=10)), 42**2 + 4 * 42 * 10 + np.pi * 100, delta=60)
        self.assertAlmostEqual(area(mask(widen_m=-10)), 22**2, delta=30)
        self.assertAlmostEqual(area(mask(blur_m=12)), area(values), delta=1)
        self.assertLess(float(mask(blur_m=30).max()), 1)
        np.testing.assert_array_equal(mask(invert=True), 1 - values)
        other = np.roll(values, 10, 1)
        self.assertEqual(
            [area(combined(values, other, how)) / 84 for how in ("union", "common", "without")],
            [31, 11, 10],
        )

    def test_it_is_asked_by_land_ground_and_planting_alike(self):
        spot = np.zeros((65, 65), np.uint8)
        spot[:, 33:] = 255
        rule = [{"kind": "mask", "mark": "m"}]
        b = built(
            [NOISE, {"id": "d", "name": "d", "kind": "noise", "height_m": 30, "where": rule}],
            129,
            rasters=Given(m=spot),
            marks=[{"id": "m", "name": "m", "kind": "mask", "raster": "m", "invert": True}],
            ground=[
                {"id": "g", "name": "g", "ground": "turf"},
                {"id": "h", "name": "h", "ground": "peat", "where": rule},
            ],
        )
        shares = b.ground()[1]
        self.assertGreater(float(shares[:, :60].min()), 0.99)
        self.assertLess(float(shares[:, 70:].max()), 0.01)
        self.assertTrue((b.heights == built([NOISE], 129).heights)[:, 70:].all())
        empty = built(
            [NOISE],
            65,
            marks=[{"id": "m", "name": "m", "kind": "mask"}],
            ground=[
                {"id": "g", "name": "g", "ground": "turf"},
                {"id": "h", "name": "h", "ground": "peat", "where": rule},
            ],
        )
        self.assertEqual(float(empty.ground()[1].max()), 0)  # not painted yet

    def test_zone_maps(self):
        colours = ((196, 30, 40), (40, 120, 60), (30, 60, 190))
        picture = Image.new("RGB", (300, 200), colours[0])
        picture.paste(colours[1], (0, 0, 120, 200))
        picture.paste(colours[2], (200, 100, 300, 200))
        png, jpeg = io.BytesIO(), io.BytesIO()
        picture.save(png, "PNG")
        picture.filter(ImageFilter.GaussianBlur(1)).save(jpeg, "JPEG", quality=80)
        for data, near_by, slack in ((png.getvalue(), 0, 0), (jpeg.getvalue(), 12, 0.03)):
            found = zones(data, tolerance=25)
            self.assertEqual(len(found), 3)
            np.testing.assert_allclose(
                [z.share for z in found], [26 / 60, 24 / 60, 10 / 60], atol=slack
            )
            for z, colour in zip(found, colours):
                self.assertLessEqual(np.abs(np.subtract(z.colour, colour)).max(), near_by)
            np.testing.assert_array_equal(sum(z.mask.astype(int) for z in found), 255)
        with self.assertRaisesRegex(SceneError, "tolerance"):
            out = io.BytesIO()
            Image.fromarray(
                np.random.default_rng(1).integers(0, 255, (90, 90, 3)).astype(np.uint8)
            ).save(out, "PNG")
            zones(out.getvalue(), tolerance=2, least=0)
        with self.assertRaisesRegex(SceneError, "picture"):
            zones(b"no picture")


if __name__ == "__main__":
    unittest.main()
