"""What must hold for every kind that is registered, so that a new file is tested as soon as it is
there; and the grids beneath.
"""

import unittest

import numpy as np
from scipy.ndimage import map_coordinates

from sow.core.build import Build, Rasters
from sow.core.build.far_land import far_land
from sow.core.cache import Cache, key_of
from sow.core.errors import Cancelled, SceneError
from sow.core.hashing import hash3, name_seed, unit
from sow.core.land.base import landforms, processes
from sow.core.plot import Grid, Plot
from sow.core.sample import bicubic, heights_at, values_at
from sow.core.scene import read_scene
from sow.core.where import Site, conditions, holding, stage_of

TIER = "whole"

NOISE = {"id": "n", "name": "n", "kind": "noise", "feature_m": 120, "height_m": 30, "seed": 8}


class Given(Rasters):
    """Rasters held in memory."""

    def __init__(self, **named):
        self.named = named

    def load(self, name):
        return self.named[name]


RASTERS = Given(
    ramp=np.tile(np.arange(0, 65535, 819, dtype=np.uint16), (50, 1)),
    spot=np.pad(np.full((10, 10), 255, np.uint8), 15),
)


MARKS = [{"id": "way", "name": "w", "kind": "line", "points": [[30, 40], [200, 170], [350, 120]]}]


def built(land, posts=129, rasters=RASTERS, **more):
    document = {
        "name": "t",
        "plot": {"width_m": 400, "depth_m": 300, "posts": 513, **more.pop("plot", {})},
        "land": land,
        "marks": MARKS,
        **more,
    }
    scene = read_scene(document)
    return Build(scene, scene.plot.grid(posts), Cache(), rasters)


def entry(kind, **more):
    least = {
        "heightmap": {"raster": "ramp"},
        "borrowed": {"raster": "ramp", "times": 0.01},
        "move": {"turn": 30},
        "clip": {"low_m": 2, "high_m": 6},
        "hand": {"strokes": [{"size_m": 40, "points": [[100, 100, 1], [180, 150, 1]]}]},
        **{k: {"mark": "way"} for k in ("path", "stream", "rib", "shore-line")},
        "contours": {
            "lines": [
                {"height_m": 0, "points": [[10, 10], [200, 60]]},
                {"height_m": 9, "points": [[30, 200], [300, 250]]},
            ]
        },
    }
    return {"id": kind, "name": kind, "kind": kind, **least.get(kind, {}), **more}


class EveryLandKind(unittest.TestCase):
    def test_gives_finite_heights_on_any_grid_and_any_plot(self):
        for kind in [*landforms.models, *processes.models]:
            for plot in ({}, {"width_m": 2, "depth_m": 3}, {"width_m": 60000, "depth_m": 900}):
                for posts in (33, 130):
                    if kind == "contours" and plot:
                        continue  # its lines lie on the first plot
                    b = built([NOISE, entry(kind)], posts, plot=plot)
                    self.assertEqual(b.heights.shape, b.grid.shape)
                    self.assertEqual(b.heights.dtype, np.float32)
                    self.assertTrue(np.isfinite(b.heights).all(), (kind, plot, posts))

    def test_is_the_same_twice_and_changes_nothing_when_nowhere(self):
        nowhere = [{"kind": "height", "low": 9000, "high": 9001}]
        base = built([NOISE]).heights
        for kind in [*landforms.models, *processes.models]:
            first, second = (built([NOISE, entry(kind)], 257).heights[::2, ::2] for _ in range(2))
            np.testing.assert_array_equal(first, second, kind)
            self.assertGreater(np.abs(first - base).max(), 0.01, kind)
            np.testing.assert_array_equal(
                built([NOISE, entry(kind, where=nowhere)]).heights, base, kind
            )

    def test_leaves_what_lies_below_untouched(self):
        for kind in processes.models:
            b = built([NOISE, entry(kind)])
            before = b.land_steps()[1].copy()
            b.heights
            np.testing.assert_array_equal(b.land_steps()[1], before, kind)

    def test_stops_when_it_is_told_to(self):
        def stop():
            raise Cancelled

        for kind in ("wear", "noise"):
            b = built([NOISE, entry(kind)])
            b.check = stop
            with self.assertRaises(Cancelled):
                b.heights


class LandForms(unittest.TestCase):
    def test_broad_forms_have_their_height_and_place(self):
        for form, low, high in (
            ("dome", 0, 40),
            ("basin", -40, 0),
            ("valley", -40, 0),
            ("slope", 0, 40),
        ):
            h = built(
                [
                    entry(
                        "form",
                        form=form,
                        height_m=40,
                        length_m=150,
                        breadth_m=150,
                        east_m=200,
                        north_m=150,
                    )
                ]
            ).heights
            self.assertAlmostEqual(float(h.min()), low, delta=0.5, msg=form)
            self.assertAlmostEqual(float(h.max()), high, delta=0.5, msg=form)
        b = built(
            [
                entry(
                    "form",
                    form="dome",
                    height_m=40,
                    length_m=90,
                    breadth_m=90,
                    east_m=300,
                    north_m=60,
                )
            ]
        )
        r, c = np.unravel_index(b.heights.argmax(), b.heights.shape)
        self.assertAlmostEqual(b.grid.xs()[c], 300, delta=b.grid.spacing)
        self.assertAlmostEqual(b.grid.ys()[r], 60, delta=b.grid.spacing)

    def test_a_slope_rises_towards_its_turn(self):
        for turn, r, c in ((0, 0, 64), (90, 48, 128), (180, 96, 64), (270, 48, 0)):
            h = built(
                [
                    entry(
                        "form",
                        form="slope",
                        height_m=40,
                        length_m=300,
                        east_m=200,
                        north_m=150,
                        turn=turn,
                    )
                ]
            ).heights
            self.assertAlmostEqual(float(h[r, c]), float(h.max()), delta=0.5, msg=turn)

    def test_a_heightmap_spans_the_plot_and_is_mirrored_beyond(self):
        b = built([entry("heightmap", lowest_m=10, highest_m=90)])
        self.assertAlmostEqual(float(b.heights[:, 0].mean()), 10, delta=0.1)
        self.assertAlmostEqual(float(b.heights[:, -1].mean()), 90, delta=0.1)
        far, grid = far_land(b)
        west = values_at(far, grid, [-150.0], [150.0])[0]
        inside = values_at(b.heights, b.grid, [150.0], [150.0])[0]
        self.assertAlmostEqual(west, inside, delta=4)
        with self.assertRaises(SceneError) as e:
            built([entry("heightmap", lowest_m=10, highest_m=-90)]).heights
        self.assertEqual(e.exception.path, "land.0.highest_m")

    def test_a_flat_heightmap_lies_at_its_lowest(self):
        flat = Given(ramp=np.full((9, 9), 7, np.uint8))
        self.assertTrue(
            (
                built([entry("heightmap", lowest_m=10, highest_m=90)], rasters=flat).heights == 10
            ).all()
        )

    def test_invert_twice_is_nothing_and_exaggerate_keeps_its_height(self):
        n = built([NOISE]).heights
        np.testing.assert_allclose(
            built([NOISE, entry("invert"), {**entry("invert"), "id": "again"}]).heights,
            n,
            atol=1e-4,
        )
        twice = built([NOISE, entry("exaggerate", times=3, about_m=5)]).heights
        np.testing.assert_allclose(twice - 5, 3 * (n - 5), rtol=1e-4, atol=1e-3)

    def test_ridged_noise_has_crests_and_smooth_noise_does_not(self):
        sharp = {
            form: np.abs(
                np.diff(built([{**NOISE, "form": form, "octaves": 1}], 513).heights, 2, axis=1)
            )
            for form in ("smooth", "ridged")
        }
        spread = {form: float(np.percentile(v, 99.9) / np.median(v)) for form, v in sharp.items()}
        self.assertGreater(spread["ridged"], 2 * spread["smooth"])


class EveryCondition(unittest.TestCase):
    def site(self, posts=129, stage="planting"):
        b = built(
            [NOISE],
            posts,
            water=[{"id": "w", "name": "w", "level_m": -6}],
            marks=[
                *MARKS,
                {"id": "k", "name": "k", "kind": "mask", "raster": "spot"},
                {
                    "id": "field",
                    "name": "f",
                    "kind": "area",
                    "points": [[50, 50], [300, 60], [200, 250]],
                },
            ],
            ground=[
                {"id": "a", "name": "a"},
                {"id": "b", "name": "b", "ground": "sand", "where": [{"kind": "patches"}]},
            ],
            planting=[
                {"id": "s", "name": "s", "mix": [{"kind": "boulder"}], "density": 0.1, "apart_m": 5}
            ],
            pieces=[{"id": "p", "name": "p", "kind": "boulder", "east_m": 90, "north_m": 80}],
            shots=[{"id": "v", "name": "v", "east_m": 200, "north_m": 20}],
        )
        site = b.site(stage)
        return b, site

    def ask(self, site, kind, **more):
        rule = {
            "kind": kind,
            **(
                {"mark": "k"}
                if kind == "mask"
                else {"landform": "n"}
                if kind in ("shows", "near-landform")
                else {"mark": "way"}
                if kind == "near-line"
                else {"mark": "field"}
                if kind == "in-area"
                else {"material": "b"}
                if kind in ("covered", "near-material")
                else {"sowing": "s"}
                if kind == "near-sowing"
                else {}
            ),
            **more,
        }
        return holding(
            read_scene({"name": "t", "ground": [{"id": "g", "name": "g", "where": [rule]}]})
            .ground[0]
            .where,
            site,
            "here",
        )

    def test_answers_between_0_and_1_and_inverts(self):
        _, site = self.site()
        for kind in conditions.models:
            answer = self.ask(site, kind)
            self.assertEqual((answer.dtype, answer.shape), (np.float32, site.heights.shape), kind)
            self.assertTrue((answer >= 0).all() and (answer <= 1).all(), kind)
            np.testing.assert_allclose(
                self.ask(site, kind, invert=True), 1 - answer, atol=1e-6, err_msg=kind
            )
            self.assertIsNone(self.ask(site, kind, on=False), kind)

    def test_agrees_between_the_view_and_the_full_grid(self):
        _, view = self.site(513)
        scene = read_scene(
            {"name": "t", "plot": {"width_m": 400, "depth_m": 300, "posts": 1025}, "land": [NOISE]}
        )
        full = Build(scene, scene.plot.grid(1025), Cache())
        fine = Site(full.heights, full.grid, scene.plot, "land")
        for kind in (
            "slope",
            "height",
            "patches",
            "hollows",
            "facing",
            "curvature",
            "roughness",
            "openness",
        ):
            rule = {
                "slope": {"low": 0, "high": 15},
                "height": {"low": 0, "high": 8},
                "openness": {"low": 0, "high": 96},
                "curvature": {"low": 0, "soft": 6},
            }.get(kind, {})
            a = self.ask(view, kind, **rule)
            b = self.ask(fine, kind, **rule)[::2, ::2]
            self.assertLess(float(np.abs(a - b).mean()), 0.035, kind)

    def test_several_hold_together_and_stages_are_kept(self):
        _, site = self.site()
        a = self.ask(site, "slope", low=0, high=20)
        b = self.ask(site, "patches")
        rules = [{"kind": "slope", "low": 0, "high": 20}, {"kind": "patches"}]
        both = holding(
            read_scene({"name": "t", "ground": [{"id": "g", "name": "g", "where": rules}]})
            .ground[0]
            .where,
            site,
        )
        np.testing.assert_allclose(both, a * b, atol=1e-6)
        _, early = self.site(stage="land")
        for kind, stage in stage_of.items():
            if stage != "land":
                with self.assertRaises(SceneError):
                    self.ask(early, kind)

    def test_softness_widens_the_edge_about_the_same_middle(self):
        _, site = self.site()
        hard = self.ask(site, "height", low=0, high=900, soft=0)
        soft = self.ask(site, "height", low=0, high=900, soft=8)
        np.testing.assert_array_equal(soft[site.heights > 4.01], 1)
        np.testing.assert_array_equal(soft[site.heights < -4.01], 0)
        self.assertAlmostEqual(float(hard.mean()), float(soft.mean()), delta=0.03)


class Grids(unittest.TestCase):
    def test_posts_span_the_plot_edge_to_edge(self):
        for width, depth, posts in ((1000, 1000, 513), (1600, 400, 257), (37.5, 75, 129)):
            grid = Plot(width_m=width, depth_m=depth, posts=posts).grid()
            self.assertEqual(max(grid.nx, grid.ny), posts)
            self.assertAlmostEqual(grid.width_m, width, delta=grid.spacing / 2)
            self.assertAlmostEqual(grid.depth_m, depth, delta=grid.spacing / 2)
            self.assertGreater(grid.ys()[0], grid.ys()[-1])
            np.testing.assert_allclose(grid.rows_of(grid.ys()), np.arange(grid.ny), atol=1e-6)
            np.testing.assert_allclose(grid.cols_of(grid.xs()), np.arange(grid.nx), atol=1e-6)

    def test_a_window_of_a_window_keeps_its_coordinates(self):
        grid = Grid(400, 300, 0.7, 13.1, -9.2)
        inner = grid.window(20, 30, 100, 200).window(5, 7, 50, 60)
        np.testing.assert_array_equal(inner.xs(), grid.xs()[37:97])
        np.testing.assert_array_equal(inner.ys(), grid.ys()[25:75])

    def test_reading_between_posts(self):
        grid = Grid(40, 30, 2.0)
        x, y = np.meshgrid(grid.xs(), grid.ys())
        plane = (0.4 * x - 0.7 * y + 3).astype(np.float32)
        rng = np.random.default_rng(2)
        e, n = rng.uniform(0, 78, 200), rng.uniform(0, 58, 200)
        for read in (heights_at, values_at):
            np.testing.assert_allclose(read(plane, grid, e, n), 0.4 * e - 0.7 * n + 3, atol=1e-4)
        np.testing.assert_allclose(
            heights_at(plane, grid, x.ravel(), y.ravel()), plane.ravel(), atol=1e-5
        )
        bumpy = rng.normal(size=(30, 40)).astype(np.float32)
        np.testing.assert_allclose(
            values_at(bumpy, grid, e, n),
            map_coordinates(bumpy, [grid.rows_of(n), grid.cols_of(e)], order=1),
            atol=1e-5,
        )
        curve = (0.01 * (x - 30) ** 2).astype(np.float32)
        rows, cols = np.array([7.3, 20.9]), np.array([5.5, 18.25])
        np.testing.assert_allclose(
            bicubic(curve, rows, cols)[0], 0.01 * (cols * 2 - 30) ** 2, atol=2e-3
        )

    def test_hashes_are_even_and_keys_are_of_content(self):
        values = np.array([unit(hash3(a, b, 7)) for a in range(-60, 60) for b in range(60)])
        self.assertLess(
            np.abs(np.histogram(values, 12, (0, 1))[0] / len(values) - 1 / 12).max(), 0.012
        )
        self.assertLess(abs(np.corrcoef(values[:-1], values[1:])[0, 1]), 0.03)
        self.assertEqual(key_of({"a": 1, "b": 2}), key_of({"b": 2, "a": 1}))
        self.assertNotEqual(key_of(1, 2), key_of(12))
        self.assertNotEqual(name_seed(1, 23), name_seed(12, 3))


if __name__ == "__main__":
    unittest.main()
