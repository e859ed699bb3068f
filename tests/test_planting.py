"""Ground and planting: weights, placement and stance."""
import unittest

import numpy as np
from scipy.spatial import cKDTree

from sow.core.build import Build
from sow.core.cabinet import grounds, kinds
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.formats.gltf import stance_quaternions
from sow.core.planting.place import densest, place
from sow.core.sample import heights_at
from sow.core.scene import read_scene
from sow.core.where import Site, mask

NOISE = {"id": "n", "name": "n", "kind": "noise", "feature_m": 200, "height_m": 60, "seed": 4}


def built(posts=257, **more):
    scene = read_scene({"name": "t", "plot": {"width_m": 500, "depth_m": 400, "posts": 1025}, "land": [NOISE], **more})
    return Build(scene, scene.plot.grid(posts), Cache())


def sowing(**more):
    return {"id": "s", "name": "s", "mix": [{"kind": "heather", "share": 100}], "density": 20, "apart_m": 0.8, **more}


class Placement(unittest.TestCase):
    def test_density_and_least_distance(self):
        for density, apart in ((0.2, 0), (0.2, 1.0), (1.0, 0.5), (1.0, 0.75), (0.01, 5.0)):
            x, y, _ = place(density, apart, 7, (600, 600))
            tolerance = 0.025 + 2.5 / np.sqrt(density * 360000)
            self.assertAlmostEqual(len(x) / (density * 360000), 1, delta=tolerance, msg=(density, apart))
            if apart:
                near = cKDTree(np.c_[x, y]).query(np.c_[x, y], k=2)[0][:, 1]
                self.assertGreaterEqual(near.min(), apart)

    def test_no_more_than_there_is_room_for(self):
        x, _, _ = place(50.0, 1.0, 7, (150, 150))
        self.assertAlmostEqual(len(x) / (densest(1.0) * 22500), 1, delta=0.06)

    def test_mask_thins_in_proportion(self):
        ramp = np.tile(np.linspace(0, 1, 101, dtype=np.float32), (101, 1))
        x, _, _ = place(1.0, 0.7, 3, (800, 800), ramp, 8.0)
        counts = np.histogram(x, 8, (0, 800))[0] / (100 * 800)
        np.testing.assert_allclose(counts, (np.arange(8) + 0.5) / 8, atol=0.04)

    def test_any_tiling_gives_the_same_plants(self):
        hole = np.ones((51, 51), np.float32)
        hole[20:30, 10:40] = 0
        whole = np.array(sorted(zip(*place(0.8, 0.8, 11, (200, 200), hole, 4.0)[:2])))
        for step in (50, 67):
            tiles = [place(0.8, 0.8, 11, (200, 200), hole, 4.0, (w, s, min(w + step, 201), min(s + step, 201)))[:2]
                     for w in range(0, 201, step) for s in range(0, 201, step)]
            np.testing.assert_array_equal(np.array(sorted(zip(*np.concatenate(tiles, axis=1)))), whole)

    def test_no_direction_and_no_lattice_shows(self):
        x, y, _ = place(0.5, 0.6, 2, (400, 400))
        cell = 1 / np.sqrt(0.5)
        for v in (x, y):
            self.assertLess(np.abs(np.histogram(v / cell % 1, 10, (0, 1))[0] / len(v) - 0.1).max(), 0.01)


class Sowings(unittest.TestCase):
    def test_every_base_is_on_the_ground_less_its_sink(self):
        for lean in (0, 100):
            b = built(planting=[sowing(stance={"sink_cm": 5, "lean": lean})])
            p = b.plants(0)
            self.assertGreater(len(p), 5000)
            ground = heights_at(b.heights, b.grid, p.east, p.north)
            np.testing.assert_allclose(ground - p.up, 0.05 * p.size, atol=2e-3)

    def test_stance(self):
        p = built(planting=[sowing(stance={"turn": 360, "smallest": 50, "largest": 200, "lean": 0, "sway": 5})]).plants(0)
        self.assertLess(np.abs(np.histogram(p.turn, 12, (0, 360))[0] / len(p) - 1 / 12).max(), 0.01)
        self.assertTrue((p.size >= 0.5).all() and (p.size <= 2).all() and p.size.std() > 0.3)
        self.assertLess(p.lean.max(), 5.01)
        still = built(planting=[sowing(stance={"turn": 0})]).plants(0)
        self.assertEqual(float(still.turn.max()), 0)

    def test_lean_to_slope_follows_the_normal(self):
        b = built(planting=[sowing(stance={"lean": 100, "sway": 0})])
        p = b.plants(0)
        n = b.normals()
        r, c = np.rint(b.grid.rows_of(p.north)).astype(int), np.rint(b.grid.cols_of(p.east)).astype(int)
        steep = np.degrees(np.arccos(n[r, c, 2]))
        self.assertGreater(np.corrcoef(steep, p.lean)[0, 1], 0.95)

    def test_mix_keeps_its_shares_and_a_copy_stands_elsewhere(self):
        mix = [{"kind": "heather", "share": 70}, {"kind": "bracken", "share": 30}]
        b = built(planting=[sowing(mix=mix), sowing(id="t", mix=mix, seed=2)])
        first, second = b.plants(0), b.plants(1)
        self.assertAlmostEqual(float((first.kind == 0).mean()), 0.7, delta=0.02)
        near = cKDTree(np.c_[first.east, first.north]).query(np.c_[second.east, second.north])[0]
        self.assertLess((near < 0.01).mean(), 0.001)

    def test_dry_plants_keep_out_of_the_water_and_rules_hold_at_every_grid(self):
        rule = [{"kind": "slope", "low": 0, "high": 14, "soft": 2}]
        water = [{"id": "w", "name": "w", "level_m": -4}]
        counts = []
        for posts in (513, 1025):
            b = built(posts, planting=[sowing(where=rule)], water=water)
            p = b.plants(0)
            self.assertGreater(float(p.up.min()), -4.4)
            counts.append(len(p))
        self.assertLess(max(counts) / min(counts), 1.04)

    def test_too_many_are_refused_with_the_number_that_fits(self):
        b = built(planting=[sowing(density=100000, apart_m=0)])
        with self.assertRaises(SceneError) as e:
            b.forecasts()
        self.assertEqual(e.exception.path, "planting.0.density")
        self.assertIn("20,000,000", str(e.exception))
        fits = float(e.exception.advice.split("density of ")[1].split(" ")[0])
        self.assertLessEqual(built(planting=[sowing(density=fits, apart_m=0)]).forecasts()[0], 20_000_001)


class Ground(unittest.TestCase):
    def test_weights_sum_to_one_and_the_last_covers(self):
        ground = [{"id": "a", "name": "a", "ground": "turf"}, {"id": "b", "name": "b", "ground": "scree", "cover": 60},
                  {"id": "c", "name": "c", "ground": "granite", "where": [{"kind": "slope", "low": 20, "high": 90}]}]
        b = built(ground=ground)
        w = b.ground()
        np.testing.assert_allclose(w.sum(0), 1, atol=1e-5)
        self.assertTrue((w >= 0).all())
        steep = b.slope() > 30
        np.testing.assert_allclose(w[2][steep], 1, atol=1e-4)
        np.testing.assert_allclose(w[1][b.slope() < 10], 0.6, atol=1e-5)

    def test_conditions(self):
        b = built()
        site = Site(b.heights, b.grid, b.scene.plot, "planting")
        ask = lambda **rule: mask(read_scene({"name": "t", "ground": [{"id": "a", "name": "a", "where": [rule]}]}).ground[0].where, site)
        patches = ask(kind="patches", size_m=20, share=30, soft=5)
        self.assertAlmostEqual(float(patches.mean()), 0.3, delta=0.06)
        np.testing.assert_allclose(ask(kind="patches", size_m=20, share=30, soft=5, invert=True), 1 - patches, atol=1e-6)
        band = ask(kind="height", low=-5, high=5, soft=0)
        np.testing.assert_array_equal(band > 0.5, (b.heights > -5) & (b.heights < 5))
        hollows = ask(kind="hollows", size_m=60, depth_m=1, soft=0.5)
        self.assertLess(b.heights[hollows > 0.9].mean(), b.heights[hollows < 0.1].mean())

    def test_textures_tile_and_look_different(self):
        seen = []
        for g in grounds.values():
            colour, detail = g.maps()
            self.assertEqual((colour.shape, detail.shape), ((512, 512, 4), (512, 512, 4)))
            c = colour[..., :3].astype(float).mean(-1)
            seam = np.abs(c[:, 0] - c[:, -1]).mean() + np.abs(c[0] - c[-1]).mean()
            inner = np.abs(np.diff(c, axis=1)).mean() + np.abs(np.diff(c, axis=0)).mean()
            self.assertLess(seam, 1.5 * inner + 3, g.name)
            seen.append(tuple(np.round(g.mean(), 3)))
        self.assertEqual(len(set(seen)), len(grounds))


class Cabinet(unittest.TestCase):
    def test_shapes_stand_on_the_ground_and_far_ones_are_lighter(self):
        for k in kinds.values():
            shape = k.shape()
            self.assertEqual(len(shape.levels), len(k.variants), k.name)
            self.assertEqual(len(shape.far_m), len(shape.levels[0]) - 1, k.name)
            for levels in shape.levels:
                sizes = [len(m.faces) for m in levels]
                self.assertEqual(sizes, sorted(sizes, reverse=True), k.name)
                self.assertEqual(sizes[-1], 2)
                near = levels[0]
                self.assertTrue(np.isfinite(near.positions).all())
                self.assertLess(near.faces.max(), len(near.positions))
                self.assertTrue(-1.5 < near.positions[:, 2].min() < 0.1, k.name)
                self.assertAlmostEqual(near.positions[:, 2].max() / k.height_m, 1, delta=0.5, msg=k.name)
            part = shape.sheet[:256, 512:768, 3]
            self.assertGreater((part > 100).mean(), 0.01, k.name)
        self.assertAlmostEqual(float(kinds["person"].shape().levels[0][0].positions[:, 2].max()), 1.75, delta=0.01)

    def test_a_turn_is_clockwise_and_a_lean_goes_to_its_bearing(self):
        def turn(q, v):
            x, y, z, w = q
            u = np.array([x, y, z])
            return 2 * (u @ v) * u + (w * w - u @ u) * v + 2 * w * np.cross(u, v)
        north, up = np.array([0, 0, -1.0]), np.array([0, 1.0, 0])  # in glTF's axes
        np.testing.assert_allclose(turn(stance_quaternions([90], [0], [0])[0], north), [1, 0, 0], atol=1e-6)
        np.testing.assert_allclose(turn(stance_quaternions([37], [30], [90])[0], up), [0.5, np.cos(np.pi / 6), 0], atol=1e-6)


if __name__ == "__main__":
    unittest.main()
