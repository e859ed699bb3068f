"""Processes and the survey: what water, ice and gravity do, what is measured, and how like real
land it is.
"""

import itertools
import json
import unittest

import fastscapelib as fs
import numpy as np
from matplotlib import cbook
from scipy.ndimage import minimum_filter
from skimage.morphology import reconstruction

from sow.core.build import Build
from sow.core.cabinet import lands
from sow.core.cache import Cache
from sow.core.formats.section import section_csv, section_svg
from sow.core.judge.reality import reality
from sow.core.judge.transect import transect
from sow.core.land import wear as wearing
from sow.core.land.ice import troughs
from sow.core.land.slump import collapse
from sow.core.sample import heights_at
from sow.core.scene import read_scene
from sow.core.survey import shape
from sow.core.survey.drainage import contributing_area, flood, gather, spread
from sow.core.survey.sheets import sheets
from sow.core.survey.sky import openness, sun_at, sunlit
from sow.core.survey.slope import slope
from tests.test_forms import grain
from tests.test_land import built

TIER = "whole"

NOISE = {
    "id": "n",
    "name": "n",
    "kind": "noise",
    "feature_m": 420,
    "height_m": 120,
    "octaves": 8,
    "seed": 4,
}
WEAR = {"id": "w", "name": "w", "kind": "wear", "strength": 1.2}


def real() -> tuple[np.ndarray, float]:
    """Real elevation data (m) with its spacing, for calibration only."""
    data = cbook.get_sample_data("jacksboro_fault_dem.npz")
    return data["elevation"].astype(np.float32), float(data["dy"]) * 111200


class Drainage(unittest.TestCase):
    def test_pits_fill_as_another_library_fills_them(self):
        h = built([NOISE], 129).heights
        seed = h.copy()
        seed[1:-1, 1:-1] = h.max()
        other = reconstruction(seed, h, method="erosion")
        filled, order = flood(h)
        np.testing.assert_allclose(filled, other, atol=0.05)
        self.assertTrue((filled >= h - 1e-4).all())

    def test_every_post_has_a_lower_one_before_it_in_the_order(self):
        for seed in (1, 2):
            h = np.random.default_rng(seed).normal(size=(65, 65)).astype(np.float32)
            h[20:40, 20:40] = -3  # a flat pit
            filled, order = flood(h)
            place = np.empty(h.size, int)
            place[order] = np.arange(h.size)
            place = place.reshape(h.shape)
            lowest = minimum_filter(filled, 3)
            first = minimum_filter(place, 3)
            self.assertTrue((lowest[1:-1, 1:-1] < filled[1:-1, 1:-1]).all())
            self.assertTrue((first[1:-1, 1:-1] < place[1:-1, 1:-1]).all())
            self.assertTrue((np.diff(filled.ravel()[order]) >= 0).all())

    def test_contributing_area_agrees_with_another_library(self):
        h = np.ascontiguousarray(flood(built([NOISE, WEAR], 129).heights)[0], np.float64)
        grid = fs.RasterGrid([129, 129], [10.0, 10.0], fs.NodeStatus.FIXED_VALUE)
        graph = fs.FlowGraph(grid, [fs.SingleFlowRouter()])
        graph.update_routes(h)
        theirs = np.asarray(graph.accumulate(np.ones_like(h)))
        filled, order = flood(h.astype(np.float32))
        ours = gather(filled, order, np.full(h.shape, 100.0))
        inner = np.s_[2:-2, 2:-2]
        self.assertGreater(
            np.corrcoef(np.log(ours[inner].ravel()), np.log(theirs[inner].ravel()))[0, 1], 0.98
        )

    def test_no_way_over_a_filled_flat_keeps_to_the_grid(self):
        y, x = np.mgrid[0:129, 0:129]
        bowl = (0.02 * np.hypot(x - 64, y - 64)).astype(np.float32)
        filled, order = flood(bowl)
        way = gather(filled, order, np.ones_like(bowl))
        line = np.argwhere(way[20:109, 20:109] > 60)
        straight = max(np.bincount(line[:, 0]).max(), np.bincount(line[:, 1]).max())
        self.assertLess(straight, 40)

    def test_water_on_a_plane_goes_down_it_whatever_its_facing(self):
        y, x = np.mgrid[0:65, 0:65]
        for degrees in (0, 17, 45, 80):
            a = np.deg2rad(degrees)
            plane = (100 - (x * np.cos(a) + y * np.sin(a))).astype(np.float32)
            filled, order = flood(plane)
            rain = np.zeros(plane.shape)
            rain[20, 20] = 1
            flow = spread(filled, order, 1.0, rain)
            rows, cols = np.nonzero(flow > 1e-9)
            reach = (cols - 20) * np.cos(a) + (rows - 20) * np.sin(a)
            far = (reach > 25) & (reach < 27)
            weigh = flow[rows, cols][far]
            mean = (
                np.array([(cols[far] * weigh).sum(), (rows[far] * weigh).sum()]) / weigh.sum() - 20
            )
            self.assertAlmostEqual(np.degrees(np.arctan2(mean[1], mean[0])), degrees, delta=3)


class Wear(unittest.TestCase):
    def test_it_cuts_valleys_that_drain_and_leaves_its_maps(self):
        before = built([NOISE], 257).heights
        b = built([NOISE, WEAR], 257)
        after, maps = b.heights, b.land_step().maps
        pits = lambda h: float((flood(h)[0] - h > 0.3).mean())
        self.assertLess(pits(after), 0.25 * pits(before))
        self.assertGreater(float(maps["lowered"].mean()), 1)
        self.assertGreater(float(maps["laid"].mean()), 0.05)
        off = (before - maps["lowered"] + maps["laid"] - after)[1:-1, 1:-1]
        self.assertLess(float(np.abs(off).max()), 0.02 * float(np.ptp(before)))
        # ground is laid in what were hollows
        hollow = flood(before)[0] - before > 1
        self.assertGreater(
            float(maps["laid"][hollow].mean()), 3 * float(maps["laid"][~hollow].mean())
        )

    def test_main_courses_agree_on_finer_grids(self):
        areas = []
        for posts in (513, 1025, 2049):
            h = built([NOISE, {**WEAR, "rise": 60}], posts).heights
            k = (posts - 1) // 256
            # the most that drains through within 6 m of each post of a common grid
            area = contributing_area(h, 1000 / (posts - 1))[::1, ::1]
            part = area[: 256 * k, : 256 * k].reshape(256, k, 256, k).max((1, 3))
            areas.append(part > 15_000)
        from scipy.ndimage import binary_dilation

        for a, b in itertools.combinations(areas, 2):
            near = binary_dilation(b, iterations=4)
            self.assertGreater((a & near).sum() / a.sum(), 0.8)

    def test_no_grain_beyond_real_land(self):
        ridge = {
            "id": "d",
            "name": "d",
            "kind": "form",
            "form": "dome",
            "height_m": 200,
            "length_m": 1200,
            "breadth_m": 1100,
            "east_m": 500,
            "north_m": 500,
        }
        limit = max(grain(real()[0]), 0) + 0.12
        for land in (
            [NOISE, WEAR],
            [NOISE, {**WEAR, "strength": 2.5, "rise": 100}],
            [ridge, {**NOISE, "height_m": 20}, {**WEAR, "strength": 2, "rise": 80}],
            [NOISE, {"id": "s", "name": "s", "kind": "slump", "rest": 24}],
            [NOISE, WEAR, {"id": "i", "name": "i", "kind": "ice", "valley_m": 160, "depth_m": 40}],
        ):
            self.assertLess(grain(built(land, 257).heights), limit, [e["kind"] for e in land])

    def test_steady_state_meets_the_slope_area_law(self):
        # with even rise U and no creep, K sqrt(A) S = U in the channels: slope falls as area to the
        # power -0.5
        rng = np.random.default_rng(3)
        h = (rng.random((97, 97)) * 0.5 + 1).astype(np.float32)
        rising = np.full(h.shape, 0.5, np.float32)
        push = 1.0
        steps = 260
        rising[0], rising[-1], rising[:, 0], rising[:, -1] = 0, 0, 0, 0
        base = h.copy()
        spacing, ease = 10.0, np.ones_like(h)
        for _ in range(steps):
            h += rising
            filled, order = flood(h)
            area = spread(filled, order, spacing)
            wearing.cut(h, filled, order, area, ease, push * 0.02, spacing, 0.0, 1.0)
            for edge in wearing.RIM:
                h[edge] = base[edge]
        filled, order = flood(h)
        area = spread(filled, order, spacing)
        low = np.min(
            [
                np.roll(np.roll(filled, -r, 0), -c, 1)
                for r in (-1, 0, 1)
                for c in (-1, 0, 1)
                if r or c
            ],
            axis=0,
        )
        steep = (filled - low) / spacing
        inner = np.zeros(h.shape, bool)
        inner[6:-6, 6:-6] = True
        edges = np.logspace(np.log10(600), np.log10(60000), 8)
        pick = np.digitize(area, edges)
        points = [
            (np.log(area[(pick == k) & inner]).mean(), np.log(steep[(pick == k) & inner].mean()))
            for k in range(1, 8)
            if ((pick == k) & inner).sum() > 15
        ]
        x, y = np.array(points).T
        self.assertAlmostEqual(float(np.polyfit(x, y, 1)[0]), -0.5, delta=0.08)
        # and it is steady: another step changes nothing that counts
        again = h + rising
        filled, order = flood(again)
        wearing.cut(
            again,
            filled,
            order,
            spread(filled, order, spacing),
            ease,
            push * 0.02,
            spacing,
            0.0,
            1.0,
        )
        self.assertLess(float(np.abs(again - h)[inner].mean()), 0.1)

    def test_settings_do_what_they_say(self):
        worn = lambda **more: built([NOISE, {**WEAR, **more}], 257)
        plain = worn().heights
        self.assertGreater(float(worn(rise=100).heights.mean()), float(plain.mean()) + 5)
        self.assertLess(float(worn(time=2).heights.mean()), float(plain.mean()))
        self.assertLess(float(worn(fill=0).land_step().maps["laid"].mean()), 1e-6)
        rough = lambda h: float(shape.roughness(h, 1000 / 256, 10).mean())
        self.assertGreater(rough(worn(creep_m=1).heights), 1.15 * rough(worn(creep_m=30).heights))
        top = plain > np.percentile(plain, 80)
        self.assertGreater(
            float(worn(hard_up=100).heights[top].mean()),
            float(worn(hard_up=-100).heights[top].mean()),
        )
        self.assertLess(
            float(worn(rain_up=100).heights[top].mean()),
            float(worn(rain_up=-100).heights[top].mean()),
        )


class Others(unittest.TestCase):
    def test_collapse_rests_at_its_angle_loses_nothing_and_leaves_scree(self):
        h = built([{**NOISE, "form": "ridged", "height_m": 200}], 257).heights
        done = collapse(h, 1000 / 256, np.tan(np.deg2rad(30)), 900)
        self.assertAlmostEqual(float(done.mean()), float(h.mean()), delta=1e-3 * float(np.ptp(h)))
        self.assertGreater(np.percentile(slope(h, 1000 / 256), 98), 45)
        self.assertLess(np.percentile(slope(done, 1000 / 256), 90), 36)
        self.assertLess(
            np.percentile(slope(done, 1000 / 256), 98), 40
        )  # the tallest cliffs take longest
        b = built(
            [
                {**NOISE, "form": "ridged", "height_m": 200},
                {"id": "s", "name": "s", "kind": "slump", "rest": 30, "stands": 100},
            ],
            257,
        )
        scree = b.land_step().maps["scree"]
        np.testing.assert_allclose(b.heights, h + scree, atol=1e-3)
        self.assertGreater(float(scree.max()), 2)

    def test_ice_makes_troughs_of_parabolas(self):
        floor = np.full((41, 61), 1e9)
        floor[20, 30], floor[5, 10] = 3.0, -2.0
        got = troughs(floor, 0.1)
        y, x = np.mgrid[0:41, 0:61]
        want = np.minimum(
            3 + 0.1 * ((x - 30) ** 2 + (y - 20) ** 2), -2 + 0.1 * ((x - 10) ** 2 + (y - 5) ** 2)
        )
        np.testing.assert_allclose(got, want, atol=1e-9)
        b = built(
            [
                {**NOISE, "height_m": 400},
                {**WEAR, "strength": 2, "rise": 80},
                {
                    "id": "i",
                    "name": "i",
                    "kind": "ice",
                    "valley_m": 170,
                    "depth_m": 60,
                    "ice_from": 30,
                },
            ],
            257,
        )
        before = b.land_step(2).heights
        self.assertLess(float((b.heights - before).min()), -15)
        cut = before - b.heights > 10
        # troughs are hollow all over where valleys were so only along their floors, and crests
        # between them are keener
        bend = lambda h: shape.curvature(h, 1000 / 256, 20)
        self.assertLess(
            float(np.median(bend(b.heights)[cut])), float(np.median(bend(before)[cut])) - 10
        )
        self.assertGreater(
            float(np.percentile(bend(b.heights), 99.5)),
            1.1 * float(np.percentile(bend(before), 99.5)),
        )

    def test_loose_material_fills_hollows_and_leaves_steep_ground(self):
        b = built(
            [
                NOISE,
                {
                    "id": "l",
                    "name": "l",
                    "kind": "laying",
                    "of": "sand",
                    "depth_m": 3,
                    "reach_m": 120,
                },
            ],
            257,
        )
        laid = b.land_step().maps["laid"]
        before = b.land_step(1).heights
        steep = slope(before, b.grid.spacing, b.scene.plot.support_m)
        hollow = shape.calm(before, b.grid.spacing, 120) - before
        self.assertLess(float(laid[steep > 40].mean()), 0.6 * float(laid[steep < 15].mean()))
        gentle = steep < 18
        self.assertGreater(np.corrcoef(laid[gentle], hollow[gentle])[0, 1], 0.6)
        np.testing.assert_allclose(b.heights, before + laid, atol=1e-4)

    def test_terraces_curve_clip_fade_and_move(self):
        step = built(
            [
                NOISE,
                {
                    "id": "t",
                    "name": "t",
                    "kind": "terraces",
                    "spacing_m": 10,
                    "sharp": 100,
                    "uneven": 0,
                },
            ],
            257,
        ).heights
        off = np.abs((step / 10 + 0.5) % 1 - 0.5)
        self.assertGreater(float((off < 0.1).mean()), 0.5)
        n = built([NOISE], 257).heights
        same = built(
            [NOISE, {"id": "c", "name": "c", "kind": "curve", "points": [[0, 0], [1, 1]]}], 257
        ).heights
        np.testing.assert_allclose(same, n, atol=0.02)
        clipped = built(
            [
                NOISE,
                {"id": "c", "name": "c", "kind": "clip", "low_m": -10, "high_m": 20, "soft_m": 0},
            ],
            257,
        ).heights
        np.testing.assert_allclose(clipped, np.clip(n, -10, 20), atol=1e-4)
        faded = built(
            [NOISE, {"id": "f", "name": "f", "kind": "fade", "level_m": 3, "reach_m": 200}], 257
        ).heights
        self.assertTrue(
            (np.abs(faded[0] - 3) < 1e-4).all() and (np.abs(faded[:, -1] - 3) < 1e-4).all()
        )
        np.testing.assert_allclose(faded[100:150, 100:150], n[100:150, 100:150], atol=1e-3)
        moved = built(
            [
                NOISE,
                {"id": "m", "name": "m", "kind": "move", "east_m": 1000 / 256 * 20, "lift_m": 7},
            ],
            257,
        ).heights
        np.testing.assert_allclose(moved[:, 20:], n[:, :-20] + 7, atol=0.02)
        turned = built([NOISE, {"id": "m", "name": "m", "kind": "move", "turn": 90}], 257).heights
        np.testing.assert_allclose(turned, np.rot90(n, -1), atol=0.05)

    def test_processes_are_the_same_shape_on_finer_grids(self):
        for kind, more in (
            ("slump", {"rest": 25}),
            ("ice", {"valley_m": 160, "depth_m": 40}),
            ("laying", {"depth_m": 3}),
            ("terraces", {"spacing_m": 15, "sharp": 40}),
            ("curve", {}),
            ("fade", {}),
            ("roughen", {"size_m": 60, "height_m": 6}),
        ):
            coarse, fine = (
                built(
                    [{**NOISE, "octaves": 4}, {"id": "p", "name": "p", "kind": kind, **more}], n
                ).heights
                for n in (257, 513)
            )
            off = np.abs(coarse - fine[::2, ::2])
            self.assertLess(float(off.mean()), 0.012 * float(np.ptp(fine)), kind)


class Survey(unittest.TestCase):
    def test_known_surfaces_have_their_known_measures(self):
        y, x = np.mgrid[0:129, 0:129]
        bowl = (0.001 * ((x - 64.0) ** 2 + (y - 64.0) ** 2)).astype(np.float32)
        inner = np.s_[20:-20, 20:-20]
        np.testing.assert_allclose(shape.curvature(bowl, 1.0, 0)[inner], -4, atol=0.1)
        away = np.hypot(x - 64, y - 64)[inner] > 12
        np.testing.assert_allclose(
            shape.curvature(bowl, 1.0, 0, "profile")[inner][away], -2, atol=0.15
        )
        np.testing.assert_allclose(
            shape.curvature(bowl, 1.0, 0, "plan")[inner][away], -2, atol=0.15
        )
        for bearing in (0, 60, 135, 250):
            a = np.deg2rad(bearing)
            plane = (-(x * np.sin(a) - y * np.cos(a)) * 0.2).astype(np.float32)
            off = (shape.facing(plane, 1.0, 0) - bearing + 180) % 360 - 180
            self.assertLess(float(np.abs(off).max()), 0.1)
        flat = np.zeros((65, 65), np.float32)
        np.testing.assert_allclose(openness(flat, 5.0), 100, atol=1e-3)
        wall = flat.copy()
        wall[:, 40:] = 1e4
        self.assertAlmostEqual(float(openness(wall, 5.0)[32, 39]), 50, delta=8)

    def test_the_sun_keeps_its_hours(self):
        np.testing.assert_allclose(
            np.degrees(np.arcsin(sun_at(50, 172, 12)[2])), 90 - 50 + 23.45, atol=0.3
        )
        self.assertGreater(sun_at(50, 80, 7)[0], 0.5)  # in the morning it stands in the east
        flat = np.zeros((33, 33), np.float32)
        self.assertAlmostEqual(float(sunlit(flat, 10.0, 0, 80).mean()), 12, delta=0.6)
        self.assertAlmostEqual(float(sunlit(flat, 10.0, 50, 172).mean()), 16.3, delta=0.7)
        y, x = np.mgrid[0:65, 0:65]
        ridge = (np.maximum(0, 60 - 4 * np.abs(y - 32.0))).astype(np.float32)
        hours = sunlit(ridge, 5.0, 55, 355)
        self.assertGreater(
            float(hours[36:44].mean()), float(hours[20:28].mean()) + 2
        )  # the south side, in midwinter

    def test_every_sheet_is_finite_and_told(self):
        b = built([NOISE, WEAR, {"id": "s", "name": "s", "kind": "slump"}], 129)
        site = b.site()
        for kind, sheet in sheets.items():
            field = site.sheet(kind)
            self.assertEqual((field.shape, field.dtype), (b.grid.shape, np.float32), kind)
            self.assertTrue(np.isfinite(field).all() and sheet.help and sheet.label, kind)
        wet, area = site.sheet("wetness"), site.sheet("contributing-area")
        self.assertGreater(float(wet[area > np.percentile(area, 97)].mean()), float(wet.mean()) + 1)
        lines = site.sheet("lines")
        self.assertGreater(
            float(b.heights[lines > 0.3].mean()), float(b.heights[lines < -0.3].mean())
        )

    def test_transect(self):
        scene = read_scene(
            {
                "name": "t",
                "plot": {"width_m": 300, "depth_m": 300, "posts": 257},
                "land": [{**NOISE, "feature_m": 90, "height_m": 20}],
                "water": [{"id": "w", "name": "w", "level_m": -3}],
                "ground": [{"id": "g", "name": "Turf", "ground": "turf"}],
                "planting": [
                    {
                        "id": "p",
                        "name": "p",
                        "mix": [{"kind": "birch", "share": 100}],
                        "density": 2,
                        "apart_m": 3,
                    }
                ],
            }
        )
        b = Build(scene, scene.plot.grid(257), Cache())
        t = transect(b, (20, 30), (280, 200))
        self.assertAlmostEqual(float(t.along[-1]), np.hypot(260, 170), delta=1e-6)
        np.testing.assert_allclose(
            t.height, heights_at(b.heights, b.grid, t.east, t.north), atol=1e-4
        )
        wet = ~np.isnan(t.water)
        np.testing.assert_array_equal(wet, t.height < -3)
        self.assertGreater(len(t.plants), 3)
        for along, foot, _tall, _kind, off in t.plants:
            e = 20 + along * 260 / t.along[-1] + off * 170 / t.along[-1]
            n = 30 + along * 170 / t.along[-1] - off * 260 / t.along[-1]
            self.assertAlmostEqual(
                foot, float(heights_at(b.heights, b.grid, [e], [n])[0]), delta=0.4
            )
        rows = section_csv(t).splitlines()
        self.assertEqual(len(rows), 401)
        self.assertEqual(rows[0].split(",")[-1], "Turf")
        import xml.etree.ElementTree as xml

        drawing = xml.fromstring(section_svg(t, [(0.1, 0.12, 0.04)], 2.0, "A & B"))
        self.assertGreater(len(drawing), 20)


class RealLand(unittest.TestCase):
    def test_the_check_passes_real_land_and_tells_noise_from_worn_land(self):
        found = {m.name: m for m in reality(*real())}
        self.assertEqual([m.name for m in found.values() if not m.fits], [])
        noise = {m.name: m for m in reality(built([NOISE], 513).heights, 1000 / 512)}
        self.assertFalse(noise["pits"].fits or noise["concavity"].fits)
        worn = {
            m.name: m
            for m in reality(
                built(
                    [
                        {**NOISE, "height_m": 60},
                        {**WEAR, "strength": 2, "rise": 40, "creep_m": 1.5},
                    ],
                    513,
                ).heights,
                1000 / 512,
            )
        }
        self.assertEqual(
            [
                n
                for n in ("pits", "concavity", "hack", "spectrum", "hypsometry")
                if not worn[n].fits
            ],
            [],
        )
        for m in found.values():
            self.assertTrue(m.source and m.advice)

    def test_ready_made_lands_are_not_one_recipe(self):
        self.assertGreaterEqual(len(lands.listed()), 10)
        table = {}
        for line in lands.listed():
            scene = read_scene(lands.text(line.name))
            b = Build(scene, scene.plot.grid(257), Cache())
            h = b.heights
            self.assertAlmostEqual(float(np.ptp(h)), line.relief_m, delta=0.12 * line.relief_m)
            measures = [m.value for m in reality(h, b.grid.spacing)]
            gy, gx = np.gradient(h)
            ways = np.linalg.eigvalsh(np.cov(np.stack([gx.ravel(), gy.ravel()])))
            steep = np.percentile(slope(h, b.grid.spacing), [25, 50, 75])
            table[line.name] = np.array(
                [
                    *np.nan_to_num(measures[:7]),
                    ways[1] / ways[0],
                    *steep,
                    float(np.ptp(h)) / scene.plot.longer_m * 100,
                ]
            )
            json.dumps(scene.model_dump(mode="json"))
        values = np.array(list(table.values()))
        scaled = (values - values.mean(0)) / values.std(0)
        for (a, x), (b_, y) in itertools.combinations(zip(table, scaled), 2):
            self.assertGreater(float(np.abs(x - y).max()), 0.6, (a, b_))


if __name__ == "__main__":
    unittest.main()
