"""Far land on a grid of its own choice, and woods that run on beyond the plot."""

import unittest

import numpy as np
from scipy.spatial import cKDTree

from sow.core.build import Build
from sow.core.build.far_land import far_land
from sow.core.build.far_wood import MOST, far_plants, runs_on
from sow.core.cache import Cache
from sow.core.sample import heights_at
from sow.web.products import instances_of
from tests.small import scene_of

TIER = "fast"

WOOD = {
    "id": "w",
    "name": "Wood",
    "mix": [{"kind": "birch", "share": 70}, {"kind": "spruce", "share": 30}],
    "density": 2,
    "where": [{"kind": "height", "low": -100, "high": 4, "soft": 2}],
}
GRASS = {"id": "g", "name": "Grass", "mix": [{"kind": "moor-grass"}], "density": 20}


def build_of(**more) -> Build:
    scene = scene_of(**{"planting": [WOOD, GRASS], **more})
    return Build(scene, scene.plot.grid(), Cache(1 << 30))


class FarGrid(unittest.TestCase):
    def test_it_is_the_same_land_on_a_finer_grid(self):
        (coarse, a), (fine, b) = (
            far_land(build_of(beyond={"posts": posts}), 0) for posts in (193, 385)
        )
        self.assertEqual((a.nx, b.nx), (193, 385))
        self.assertAlmostEqual(a.width_m, b.width_m)
        off = np.abs(fine[::2, ::2] - coarse)
        self.assertLess(float(np.median(off)), 0.02 * float(np.ptp(coarse)))


class SizesInPatches(unittest.TestCase):
    def test_neighbours_are_alike_and_none_is_more_than_twice_or_half(self):
        stance = {"patchy": 100, "patch_m": 40, "smallest": 100, "largest": 100}
        wood = {"id": "w", "name": "Wood", "mix": [{"kind": "birch"}], "density": 3}
        plants = build_of(planting=[{**wood, "stance": stance}]).plants(0)
        self.assertGreaterEqual(float(plants.size.min()), 0.5 - 1e-6)
        self.assertLessEqual(float(plants.size.max()), 2 + 1e-6)
        self.assertGreater(float(plants.size.std()), 0.3)
        _, near = cKDTree(np.column_stack([plants.east, plants.north])).query(
            np.column_stack([plants.east, plants.north]), 2
        )
        size = np.log2(plants.size)
        alike = np.corrcoef(size, size[near[:, 1]])[0, 1]
        self.assertGreater(alike, 0.9)
        even = build_of(planting=[{**wood, "stance": {**stance, "patchy": 0}}]).plants(0)
        np.testing.assert_array_equal(even.east, plants.east)
        self.assertTrue((even.size == 1).all())


class FarWood(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.build = build_of()
        cls.far = far_plants(cls.build, 0)

    def test_it_stands_outside_on_the_far_land_where_its_rules_hold(self):
        plot, far = self.build.scene.plot, self.far
        self.assertGreater(len(far), 1000)
        inside = (far.east > 0) & (far.east < plot.width_m)
        inside &= (far.north > 0) & (far.north < plot.depth_m)
        self.assertEqual(int(inside.sum()), 0)
        heights, grid = far_land(self.build, 0)
        ground = heights_at(heights, grid, far.east, far.north)
        self.assertLess(float((ground - far.up).max()), 3)  # no deeper than a foot on a slope
        self.assertGreaterEqual(float((ground - far.up).min()), -1e-3)
        self.assertLess(float(np.quantile(ground, 0.99)), 6)

    def test_it_is_as_dense_as_on_the_plot(self):
        heights, grid = far_land(self.build, 0)
        x, y = np.meshgrid(grid.xs(), grid.ys())
        plot = self.build.scene.plot
        out = (x < 0) | (x > plot.width_m) | (y < 0) | (y > plot.depth_m)
        held = np.clip((5 - heights) / 2, 0, 1) * out
        want = held.sum() * grid.spacing**2 * 0.02
        self.assertAlmostEqual(len(self.far) / want, 1, delta=0.1)

    def test_it_is_the_same_each_time_and_of_the_same_kinds(self):
        again = far_plants(build_of(), 0)
        np.testing.assert_array_equal(again.east, self.far.east)
        share = float((self.far.kind == 0).mean())
        self.assertAlmostEqual(share, 0.7, delta=0.05)

    def test_what_is_low_or_switched_off_or_ends_does_not_run_on(self):
        self.assertFalse(runs_on(self.build, 1))
        self.assertEqual(len(far_plants(build_of(beyond={"planted": False}), 0)), 0)
        self.assertEqual(len(far_plants(build_of(beyond={"edge": "end"}), 0)), 0)

    def test_of_too_many_those_nearest_stand(self):
        dense = {**WOOD, "density": 300, "mix": [{"kind": "birch"}], "where": [], "apart_m": 0.1}
        far = far_plants(build_of(planting=[dense]), 0)
        self.assertLess(len(far), 1.3 * MOST)
        side = self.build.scene.plot.width_m
        away = np.maximum(
            np.maximum(-far.east, far.east - side), np.maximum(-far.north, far.north - side)
        )
        farthest = 0.8 * side
        self.assertLess(float(away.max()), farthest)

    def test_the_page_is_told_of_tiles_below_nought(self):
        data, tiles = instances_of(self.far, 32.0)
        table = np.frombuffer(data, "<f4").reshape(-1, 9)
        self.assertLess(min(t[0] for t in tiles), 0)
        self.assertEqual(sum(t[3] - t[2] for t in tiles), len(self.far))
        for column, row, a, b in tiles[:: max(1, len(tiles) // 40)]:
            east, north = table[a:b, 0], table[a:b, 1]
            self.assertTrue((np.floor(east / 32) == column).all())
            self.assertTrue((np.floor(north / 32) == row).all())


if __name__ == "__main__":
    unittest.main()
