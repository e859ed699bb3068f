"""Moving water: its spectrum, how it runs, how it comes to a shore, streams, foam, clearness."""

import unittest

import numpy as np

from sow.core.plot import Grid
from sow.core.water.around import collars, foaming, strength
from sow.core.water.clear import READY, passed
from sow.core.water.entry import Water
from sow.core.water.field import Waves, resolved, tiles_of, waves_at
from sow.core.water.moving import FILLS, moving, sea_of, shore_of, typical_depth
from sow.core.water.runin import shore_time, speed
from sow.core.water.spectrum import (
    GRAVITY,
    Sea,
    density,
    omega_of,
    raised_by,
    share_along,
    wave_number,
)
from sow.core.water.surf import surf_at

TIER = "whole"

SEAS = (Sea(1.5, 50, 60), Sea(0.02, 0.6, 200, deep_m=3), Sea(0.5, 12, 300, deep_m=1.5))


def heights_of(sea, seconds, x, y, fine=1e-4):
    return waves_at(sea, seconds).at(x, y, fine)


def waves_of_long(sea, seconds, x, y):
    """Height by the two tiles of the longest waves alone."""
    tiles = tiles_of(sea)[:2]
    return Waves(tiles, tuple(t.at(seconds, 0.6) for t in tiles)).at(x, y, 1e-4)[:, 0]


class Spectrum(unittest.TestCase):
    def test_the_surface_is_as_high_as_told(self):
        rng = np.random.default_rng(0)
        for sea in SEAS:
            x, y = rng.random((2, 200_000)) * sea.long_m * 200
            w = heights_of(sea, 4.0, x, y)
            self.assertAlmostEqual(4 * w[:, 0].std() / sea.high_m, 1, delta=0.05)
            steep = float((w[:, 1] ** 2 + w[:, 2] ** 2).mean())
            self.assertAlmostEqual(steep / sum(t.steep for t in tiles_of(sea)), 1, delta=0.1)

    def test_its_highest_waves_have_the_period_told(self):
        x, y = np.random.default_rng(1).random((2, 8)) * 5000
        for sea in SEAS[::2]:
            step = sea.period_s / 5
            series = [waves_of_long(sea, i * step, x, y) for i in range(300)]
            power = (np.abs(np.fft.rfft(series, axis=0)) ** 2).mean(1)
            turns = 2 * np.pi * np.fft.rfftfreq(300, step)
            # the peak of a spectrum by its weighted middle (Delft's method, the fourth power)
            about = (turns > 0.5 * sea.peak) & (turns < 2 * sea.peak)
            found = np.average(turns[about], weights=power[about] ** 2)
            fine = np.linspace(0.5 * sea.peak, 2 * sea.peak, 4000)
            told = np.average(fine, weights=density(fine, sea) ** 2)
            self.assertAlmostEqual(float(found / told), 1, delta=0.05)

    def test_waves_run_as_deep_and_shallow_water_lets_them(self):
        k = np.array([0.05, 0.3])
        np.testing.assert_allclose(omega_of(k, 5000), np.sqrt(GRAVITY * k), rtol=0.001)
        np.testing.assert_allclose(omega_of(k, 0.05), k * np.sqrt(GRAVITY * 0.05), rtol=0.001)
        for deep in (0.1, 1.0, 20.0, 400.0):
            np.testing.assert_allclose(wave_number(omega_of(k, deep), deep), k, rtol=1e-3)

    def test_a_wave_of_the_surface_moves_at_its_own_speed(self):
        sea = Sea(1.0, 40, 90, spread=0.0, deep_m=2.0)
        x = np.linspace(0, 400, 1600)
        y = np.zeros(len(x))
        first = heights_of(sea, 0.0, x, y, 4.0)[:, 0]
        later = heights_of(sea, 1.0, x, y, 4.0)[:, 0]
        shifts = np.arange(0, 60)
        like = [np.corrcoef(first[: -60 or None], later[s : len(x) - 60 + s])[0, 1] for s in shifts]
        moved = shifts[int(np.argmax(like))] * 0.25
        self.assertAlmostEqual(moved / float(sea.peak * sea.long_m / 2 / np.pi), 1, delta=0.1)

    def test_directions_hold_all_the_energy_about_their_own(self):
        turn = np.linspace(-np.pi, np.pi, 2001)
        for spread in (0.0, 0.4, 1.0):
            sea = Sea(1, 40, 0, spread)
            for about in (0.7, 1.0, 3.0):
                share = share_along(turn, np.full(2001, about * sea.peak), sea)
                self.assertAlmostEqual(float(np.trapezoid(share, turn)), 1, delta=0.01)
                self.assertEqual(int(share.argmax()), 1000)

    def test_it_never_comes_back_in_rows(self):
        sea = Sea(1.0, 10, 45)
        side = np.arange(0, 512, 1.0)
        x, y = np.meshgrid(side, side)
        field = heights_of(sea, 0.0, x.ravel(), y.ravel(), 1.0)[:, 0].reshape(x.shape)
        power = np.abs(np.fft.fft2(field)) ** 2
        like = np.fft.ifft2(power).real
        like /= like[0, 0]
        rows, columns = np.meshgrid(*[np.fft.fftfreq(512, 1 / 512)] * 2, indexing="ij")
        far = np.hypot(rows, columns) > 2.5 * sea.long_m
        self.assertLess(float(like[far].max()), 0.6)

    def test_the_same_again_and_back_after_its_loop(self):
        x, y = np.random.default_rng(3).random((2, 500)) * 300
        sea = Sea(0.6, 15, 10, loop_s=8.0)
        np.testing.assert_array_equal(heights_of(sea, 2.5, x, y), heights_of(sea, 2.5, x, y))
        np.testing.assert_allclose(
            heights_of(sea, 10.5, x, y), heights_of(sea, 2.5, x, y), atol=1e-4
        )
        other = heights_of(sea, 6.0, x, y)
        self.assertGreater(float(np.abs(other - heights_of(sea, 2.5, x, y))[:, 0].mean()), 0.05)

    def test_wind_raises_more_over_more_water_up_to_a_full_sea(self):
        grown = [raised_by(10, f) for f in (100, 1e4, 1e5, 1e7, 1e8)]
        highs, longs = zip(*grown)
        self.assertEqual(sorted(highs), list(highs))
        self.assertEqual(sorted(longs), list(longs))
        self.assertEqual(grown[-1], grown[-2])
        self.assertAlmostEqual(highs[-1], 0.21 * 100 / GRAVITY, places=6)

    def test_what_is_too_small_to_show_goes_into_roughness(self):
        x, y = np.random.default_rng(4).random((2, 50_000)) * 900
        for fine in (0.001, 0.1, 3.0):
            w = heights_of(SEAS[0], 0.0, x, y, fine)
            shown = float((w[:, 1] ** 2 + w[:, 2] ** 2).mean())
            whole = shown + float(w[:, 6].mean())
            self.assertAlmostEqual(whole / sum(t.steep for t in tiles_of(SEAS[0])), 1, delta=0.25)
        self.assertEqual(float(resolved((1.0, 40.0), np.array([1e-3]))[0]), 1)
        self.assertEqual(float(resolved((1.0, 40.0), np.array([50.0]))[0]), 0)


def bay(slope=0.05):
    """A round bay, 1 m a post: heights and the grid; water stands at 0."""
    grid = Grid(301, 301, 1.0)
    x, y = np.meshgrid(grid.xs(), grid.ys())
    away = np.hypot(x - 150, y - 150)
    return ((away - 120) * slope).astype(np.float32), grid, x, y, away


class Shore(unittest.TestCase):
    def test_time_to_the_shore_is_by_the_shallow_law(self):
        heights, grid, _x, _y, away = bay()
        sea = Sea(0.3, 200, 0, deep_m=6)
        time = shore_time(-heights, sea, grid.spacing)
        deep = -heights
        here = (away < 112) & (away > 40)
        down, across = np.gradient(time.astype(np.float64))
        runs = 1 / np.hypot(down, across)[here]
        law = np.sqrt(GRAVITY * deep[here])
        self.assertLess(float(np.median(np.abs(runs / law - 1))), 0.05)
        np.testing.assert_allclose(speed(np.array([0.2]), sea), np.sqrt(GRAVITY * 0.2), rtol=0.02)

    def test_crests_lie_along_a_curved_shore(self):
        heights, grid, x, y, away = bay()
        time = shore_time(-heights, Sea(0.5, 20, 0, deep_m=6), grid.spacing)
        down, across = np.gradient(time.astype(np.float64))
        near = (away < 117) & (away > 85)
        run = np.stack([across, -down], -1)[near]
        run /= np.linalg.norm(run, axis=1, keepdims=True)
        inward = np.stack([150 - x, 150 - y], -1)[near]
        inward /= np.linalg.norm(inward, axis=1, keepdims=True)
        off = np.rad2deg(np.arccos(np.clip((run * inward).sum(1), -1, 1)))
        self.assertLess(float(np.percentile(off, 95)), 10)

    def test_on_land_the_time_goes_on_from_the_line_and_not_from_posts(self):
        heights, grid, _x, _y, away = bay()
        sea = Sea(0.8, 20, 0, deep_m=6)
        inland = (away > 120.01) & (away < 140)
        runs = -shore_time(-heights, sea, grid.spacing)[inland] * np.sqrt(GRAVITY * 0.08)
        off = np.abs(runs - (away - 120)[inland])
        self.assertLess(float(off.max()), 0.3)
        self.assertLess(float(off.mean()), 0.06)

    def test_the_time_is_the_same_on_a_finer_grid(self):
        sea = Sea(0.5, 20, 0, deep_m=6)
        heights, _grid, _x, _y, _away = bay()
        coarse = shore_time(-heights[::2, ::2], sea, 2.0)
        fine = shore_time(-heights, sea, 1.0)[::2, ::2]
        wet = heights[::2, ::2] < -1
        self.assertLess(float(np.median(np.abs(coarse - fine)[wet] / fine[wet])), 0.03)

    def test_waves_run_in_break_and_leave_foam_only_where_it_is_shallow(self):
        heights, grid, x, y, away = bay()
        wet = heights < 0
        water = Water(id="w", name="w", waves_cm=60, wave_m=18)
        sea = sea_of(water, typical_depth(water, -heights, wet))
        shore = shore_of(sea, 0, heights, wet, grid.spacing)
        px, py = x[wet], y[wet]
        foams = []
        for t in np.arange(0, sea.period_s, sea.period_s / 5):
            m = moving(water, sea, shore, grid, float(t))
            foams.append(m.at(px, py, np.full(len(px), 0.5)).foam)
        foam = np.max(foams, axis=0)
        deep = -heights[wet]
        self.assertGreater(float(foam[deep < 0.6 * sea.high_m].mean()), 0.2)
        self.assertEqual(float(foam[deep > 3 * sea.high_m].max()), 0)
        # towards the shore: a crest is nearer to it later
        line = np.linspace(0.5, 8, 400)
        flat = np.ones(400)
        at = lambda s: surf_at(line, flat, flat, flat * 0, flat * 0, sea, s).high_m
        first, later = line[int(at(0.0).argmax())], line[int(at(0.3).argmax())]
        self.assertAlmostEqual(float(first - later) % sea.period_s, 0.3, delta=0.15)

    def test_the_whole_surface_comes_back_after_its_loop(self):
        heights, grid, x, y, _away = bay()
        wet = heights < 0
        water = Water(id="w", name="w", waves_cm=60, loop_s=8)
        sea = sea_of(water, 4)
        shore = shore_of(sea, 0, heights, wet, grid.spacing)
        at = lambda s: moving(water, sea, shore, grid, s).at(
            x[wet], y[wet], np.full(wet.sum(), 1.0)
        )
        one, two = at(1.0), at(9.0)
        for name in ("high", "east", "foam"):
            np.testing.assert_allclose(getattr(one, name), getattr(two, name), atol=2e-3)

    def test_waves_are_no_higher_than_the_water_lets_them(self):
        huge = Water(id="w", name="w", waves_cm=1500, wave_m=600)
        self.assertLessEqual(sea_of(huge, 0.5).high_m, FILLS * 0.5)
        steep = Water(id="w", name="w", waves_cm=300, wave_m=2)
        self.assertLess(sea_of(steep, 100).high_m, 0.2)
        self.assertEqual(sea_of(Water(id="w", name="w", waves_cm=0), 5).high_m, 0)


class Around(unittest.TestCase):
    def test_foam_lies_around_what_stands_in_it_and_nowhere_else(self):
        sea = Sea(0.4, 10, 0)
        stands = np.array([[10.0, 10.0, 1.0, 0.0], [30.0, 12.0, 0.4, 0.0]])
        x, y = np.random.default_rng(5).random((2, 20_000)) * 40
        foam = collars(x, y, foaming(stands, sea, 1.0), sea, 1.0)
        off = np.min([np.hypot(x - e, y - n) - r for e, n, r, _ in stands], axis=0)
        self.assertGreater(float(foam[np.abs(off) < 0.05].min()), 0.2)
        self.assertLess(float(foam[off > 1.6].max()), 0.05)
        self.assertEqual(strength(Sea(0.005, 0.5)), 0)
        self.assertEqual(float(collars(x, y, foaming(stands[:0], sea, 1), sea, 0).max()), 0)


class Clearness(unittest.TestCase):
    def test_the_bed_is_lost_by_depth_each_colour_by_its_own_law(self):
        through = np.array([0.1, 0.3, 0.5])
        for deep in (0.0, 1.0, 2.0):
            seen = passed(through, 2.0, np.array([deep]))[0]
            np.testing.assert_allclose(seen, through ** (deep / 2.0), rtol=1e-6)
        slant = passed(through, 2.0, np.array([1.0]), np.array([0.3]))[0]
        self.assertTrue((slant < passed(through, 2.0, np.array([1.0]))[0]).all())

    def test_ready_waters_are_waters(self):
        for ready in READY.values():
            Water(id="w", name="w", **ready.values())
        self.assertGreater(READY["lagoon"].clear_m, READY["silt"].clear_m)


if __name__ == "__main__":
    unittest.main()
