"""Land: the same shape at every grid, tiles equal to the whole, and processes that do what they
say.
"""

import unittest

import numpy as np

from sow.core import noise
from sow.core.build import Build
from sow.core.build.far_land import far_land
from sow.core.cache import Cache
from sow.core.plot import Plot
from sow.core.sample import heights_at, resample
from sow.core.scene import read_scene
from sow.core.survey.drainage import flood, spread
from sow.core.survey.slope import normals, slope

TIER = "fast"


def built(land, posts=257, **plot):
    scene = read_scene(
        {
            "name": "t",
            "plot": {"width_m": 1000, "depth_m": 1000, "posts": 1025} | plot,
            "land": land,
        }
    )
    return Build(scene, scene.plot.grid(posts), Cache())


NOISE = {"id": "n", "name": "n", "kind": "noise", "feature_m": 300, "height_m": 80, "seed": 4}


class Noise(unittest.TestCase):
    def test_tile_equals_whole(self):
        grid = Plot(posts=513).grid()
        for make in (noise.fbm, noise.ridged, noise.billow, noise.damped, noise.cells):
            for more in ({}, {"warp_m": 40}, {"lay": noise.Lay(31, -77, 40, 2.5)}):
                whole = make(grid, 170, 7, seed=9, **more)
                tile = make(grid.window(40, 101, 77, 150), 170, 7, seed=9, **more)
                np.testing.assert_array_equal(whole[40:117, 101:251], tile)

    def test_same_shape_on_finer_grids(self):
        plot = Plot(posts=1025)
        for make in (noise.fbm, noise.ridged, noise.billow, noise.damped, noise.cells):
            coarse, fine = (make(plot.grid(n), 300, 8, seed=2) for n in (129, 513))
            self.assertGreater(np.corrcoef(coarse.ravel(), fine[::4, ::4].ravel())[0, 1], 0.99)

    def test_a_turn_too_small_to_see_changes_nothing(self):
        # a turned pattern is computed place by place, an unturned one by rows of its lattice
        grid = Plot(posts=65).grid()
        for make in (noise.fbm, noise.ridged, noise.billow):
            by_rows = make(grid, 211.0, 3, seed=3)
            by_places = make(grid, 211.0, 3, seed=3, lay=noise.Lay(turn=1e-9))
            np.testing.assert_allclose(by_rows, by_places, atol=5e-5)

    def test_spread_is_as_stated_and_far_from_the_origin_smooth(self):
        grid = Plot(width_m=40000, depth_m=40000, posts=1025).grid()
        self.assertAlmostEqual(float(noise.fbm(grid, 400, 1, seed=1).std()), 1, delta=0.06)
        far = Plot(width_m=64000, depth_m=64000, posts=4097).grid().window(0, 4000, 60, 90)
        field = noise.fbm(far, 5000, 1, seed=1)
        self.assertLess(np.abs(np.diff(field, 2, axis=1)).max(), 0.01)  # no steps from rounding


class Survey(unittest.TestCase):
    def test_slope_of_a_plane_is_exact_also_at_the_edges(self):
        grid = Plot(width_m=300, depth_m=200, posts=121).grid()
        x, y = np.meshgrid(grid.xs(), grid.ys())
        plane = (x * 0.3 - y * 0.4).astype(np.float32)
        for support in (0, 12):
            np.testing.assert_allclose(
                slope(plane, grid.spacing, support), np.degrees(np.arctan(0.5)), atol=0.02
            )
        np.testing.assert_allclose(
            normals(plane, grid.spacing)[5, 7], np.array([-0.3, 0.4, 1]) / np.sqrt(1.25), atol=1e-3
        )

    def test_slope_does_not_grow_with_the_grid(self):
        views = [built([NOISE], n) for n in (513, 1025)]
        means = [float(b.slope().mean()) for b in views]
        self.assertAlmostEqual(means[0], means[1], delta=0.03 * means[0])

    def test_every_post_drains_and_no_water_is_lost(self):
        heights = built([NOISE], 129).heights
        filled, order = flood(heights)
        inner = filled[1:-1, 1:-1]
        lowest = np.min(
            [
                filled[1 + r : 128 + r, 1 + c : 128 + c]
                for r in (-1, 0, 1)
                for c in (-1, 0, 1)
                if r or c
            ],
            axis=0,
        )
        self.assertTrue((lowest < inner).all())
        self.assertEqual(len(set(order.tolist())), heights.size)
        area = spread(filled, order, 2.0)
        rim = np.ones_like(area, bool)
        rim[1:-1, 1:-1] = False
        self.assertAlmostEqual(area[rim].sum() / (4.0 * area.size), 1, places=9)


class Entries(unittest.TestCase):
    def test_combine_share_and_off(self):
        dome = {
            "id": "d",
            "name": "d",
            "kind": "form",
            "form": "dome",
            "height_m": 50,
            "east_m": 500,
            "north_m": 500,
        }
        n = built([NOISE]).heights
        d = built([dome]).heights
        self.assertAlmostEqual(float(d.max()), 50, delta=0.1)
        np.testing.assert_allclose(built([NOISE, dome]).heights, n + d, atol=1e-4)
        inside = d > 5
        np.testing.assert_allclose(
            built([NOISE, {**dome, "combine": "highest"}]).heights[inside],
            np.maximum(n, d)[inside],
            atol=1e-4,
        )
        np.testing.assert_allclose(
            built([NOISE, {**dome, "combine": "mix", "share": 25}]).heights[inside],
            (n * 0.75 + d * 0.25)[inside],
            atol=1e-4,
        )
        np.testing.assert_array_equal(built([NOISE, {**dome, "on": False}]).heights, n)

    def test_where_keeps_the_rest_as_it_was(self):
        rule = [{"kind": "height", "low": 10, "high": 500, "soft": 0}]
        n = built([NOISE]).heights
        w = built(
            [NOISE, {"id": "e", "name": "e", "kind": "exaggerate", "times": 2, "where": rule}]
        ).heights
        np.testing.assert_array_equal(w[n < 9.9], n[n < 9.9])
        np.testing.assert_allclose(w[n > 10.1], 2 * n[n > 10.1], rtol=1e-5)

    def test_smooth_is_in_metres(self):
        smooth = {"id": "s", "name": "s", "kind": "smooth", "reach_m": 60}
        coarse, fine = (built([NOISE, smooth], n).heights for n in (129, 513))
        self.assertLess(np.abs(coarse - fine[::4, ::4]).max(), 1.0)

    def test_unchanged_entries_are_not_computed_again(self):
        cache = Cache()
        land = [
            NOISE,
            {"id": "s", "name": "s", "kind": "smooth"},
            {"id": "i", "name": "i", "kind": "invert"},
        ]
        make = lambda entries, **more: (
            Build(
                read_scene({"name": "t", "land": entries, **more}), Plot().grid(129), cache
            ).heights
        )
        make(land)
        self.assertEqual(cache.made, 3)
        make(land, light={"sun_height": 5})
        self.assertEqual(cache.made, 3)
        make([land[0], {**land[1], "reach_m": 7}, land[2]])
        self.assertEqual(cache.made, 5)

    def test_cache_keeps_its_bound(self):
        cache = Cache(1000)
        for k in range(50):
            cache.put(str(k), np.zeros(100, np.uint8))
        self.assertLessEqual(cache.held, 1000)
        self.assertIsNotNone(cache.get("49"))

    def test_land_runs_on_without_a_step(self):
        b = built([NOISE], 257)
        far, grid = far_land(b)
        x, y = np.meshgrid(grid.xs(), grid.ys())
        near = (x > -1.5 * grid.spacing) & (x < 0) & (y > 100) & (y < 900)
        edge = heights_at(b.heights, b.grid, np.zeros(near.sum()), y[near])
        self.assertLess(np.abs(far[near] - edge).max(), 12)
        self.assertEqual(far.shape, grid.shape)

    def test_resample_keeps_posts(self):
        field = built([NOISE], 129).heights
        np.testing.assert_allclose(resample(field, (257, 257))[::2, ::2], field, atol=1e-4)


if __name__ == "__main__":
    unittest.main()
