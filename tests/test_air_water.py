"""Water, light, shots and what the plants look like from afar."""

import unittest

import numpy as np
from scipy.ndimage import binary_dilation

from sow.core.air.light import Light, sun_direction
from sow.core.air.light_of import daylight
from sow.core.build import Build
from sow.core.build.far_land import far_colour
from sow.core.cache import Cache
from sow.core.plot import Plot
from sow.core.scene import read_scene
from sow.core.shots.shot import Shot, field_of_view
from sow.core.shots.sketch import from_shot
from sow.core.surface.bake import baked, ground_picture
from sow.core.surface.relief import contribution, shaded, washed
from sow.core.water.shore import shore_level
from sow.core.water.standing import Water, levels

TIER = "fast"

BOWLS = [
    {
        "id": "a",
        "name": "a",
        "kind": "form",
        "form": "basin",
        "height_m": 20,
        "length_m": 200,
        "breadth_m": 200,
        "east_m": 150,
        "north_m": 200,
    },
    {
        "id": "b",
        "name": "b",
        "kind": "form",
        "form": "basin",
        "height_m": 12,
        "length_m": 160,
        "breadth_m": 160,
        "east_m": 400,
        "north_m": 250,
    },
]


def built(posts=201, **more):
    scene = read_scene(
        {"name": "t", "plot": {"width_m": 600, "depth_m": 400, "posts": 601}, "land": BOWLS, **more}
    )
    return Build(scene, scene.plot.grid(posts), Cache())


def water(**more):
    return {"id": "w", "name": "w", "level_m": -5, **more}


class Shore(unittest.TestCase):
    def test_every_water_keeps_a_wet_shore_streams_and_the_sixth_too(self):
        pools = [
            water(id=f"p{k}", reach="pool", level_m=-5, east_m=150 if k % 2 else 400, north_m=225)
            for k in range(5)
        ]
        brook = {"id": "l", "name": "l", "kind": "line", "points": [[20, 30], [580, 60]]}
        stream = water(id="s", reach="stream", mark="l", width_m=4)
        b = built(water=[*pools, stream], marks=[brook])
        level, masks = b.water()
        shore = shore_level(level, b.grid.spacing)
        for wet in (masks[0], masks[4], masks[5]):
            self.assertTrue(wet.any())
            band = binary_dilation(wet, iterations=2) & ~np.isfinite(level)
            self.assertGreater(float(shore[band].min()), float(np.nanmin(level)) - 0.5)
        self.assertEqual(float(shore[0, 0]), -1e4)  # far from any water


class Standing(unittest.TestCase):
    def test_everywhere_fills_all_low_ground_and_only_that(self):
        b = built(water=[water()])
        level, masks = b.water()
        np.testing.assert_array_equal(masks[0], b.heights < -5)
        np.testing.assert_array_equal(np.isfinite(level), masks[0])
        self.assertEqual(float(np.nanmax(level)), -5)

    def test_a_pool_fills_its_own_hollow_up_to_the_level(self):
        b = built(water=[water(reach="pool", east_m=400, north_m=250)])
        wet = b.water()[1][0]
        xs = b.grid.xs()
        self.assertTrue(wet.any())
        self.assertGreater(xs[np.nonzero(wet)[1]].min(), 300)
        self.assertFalse(
            built(water=[water(reach="pool", east_m=550, north_m=50)]).water()[1][0].any()
        )
        self.assertFalse(
            built(water=[water(reach="pool", east_m=-900, north_m=50)]).water()[1][0].any()
        )

    def test_a_rising_level_never_uncovers_and_the_higher_water_wins(self):
        b = built()
        areas = [
            levels([Water(id="w", name="w", level_m=l)], b.heights, b.grid)[1][0].sum()
            for l in (-19, -15, -10, -5, -1)
        ]
        self.assertEqual(areas, sorted(areas))
        for order in ((-5, -9), (-9, -5)):
            both = [Water(id=f"w{k}", name="w", level_m=l) for k, l in enumerate(order)]
            self.assertEqual(float(np.nanmin(levels(both, b.heights, b.grid)[0])), -5)
        off = [Water(id="w", name="w", level_m=-5, on=False)]
        self.assertFalse(np.isfinite(levels(off, b.heights, b.grid)[0]).any())

    def test_the_shore_rule_follows_the_water(self):
        ground = [
            {"id": "g", "name": "g", "ground": "turf"},
            {
                "id": "s",
                "name": "s",
                "ground": "gravel",
                "where": [{"kind": "shore", "low": 0, "high": 1, "soft": 0.1, "within_m": 60}],
            },
        ]
        for level in (-12, -5):
            b = built(water=[water(level_m=level)], ground=ground)
            there = b.ground()[1] > 0.5
            self.assertTrue(there.any())
            above = b.heights[there] - level
            self.assertTrue((above > -0.2).all() and (above < 1.2).all())
        self.assertEqual(float(built(ground=ground).ground()[1].max()), 0)  # no water, no shore


class Air(unittest.TestCase):
    def test_the_sun_stands_where_it_is_said_to(self):
        np.testing.assert_allclose(
            sun_direction(Light(sun_bearing=90, sun_height=0)), [1, 0, 0], atol=1e-9
        )
        np.testing.assert_allclose(
            sun_direction(Light(sun_bearing=180, sun_height=30)),
            [0, -np.cos(np.pi / 6), 0.5],
            atol=1e-9,
        )
        np.testing.assert_allclose(
            sun_direction(Light(sun_bearing=17, sun_height=90)), [0, 0, 1], atol=1e-9
        )

    def test_pictures_of_the_core_hold_the_law_that_the_view_holds(self):
        level = np.zeros((65, 65), np.float32)
        grid = Plot(width_m=6400, depth_m=6400, posts=65).grid()
        black = np.zeros((*level.shape, 3), np.float32)
        pose = {"east": 3200, "north": 100, "up": 40, "bearing": 0, "tilt": 0, "focal": 28}
        size, column, row = (80, 100), 50, 44
        away = 40 / ((row + 0.5 - size[0] / 2) / size[1] * 36 / 28)
        for seen_to, top in ((2000.0, 20000), (900.0, 50)):
            light = Light(haze_m=seen_to, haze_top_m=top, clouds=0, sun_bearing=180)
            lit = daylight(light, np.full(3, 0.2), 0, 6400, Cache(), 128)
            picture = from_shot(level, grid, black, pose, lit, size)
            far = np.hypot(away, 40)
            passes = lit.haze.passes(40.0, np.zeros(1), np.array([far]))[0]
            tone = lit.tone[16, 0]
            np.testing.assert_allclose(picture[row, column], tone * (1 - passes), rtol=0.08)

    def test_lenses(self):
        across, up = field_of_view(
            Shot(id="s", name="s", focal_mm=18, width_px=1000, height_px=1000)
        )
        self.assertAlmostEqual(across, 90, places=6)
        self.assertAlmostEqual(up, 90, places=6)
        self.assertAlmostEqual(
            field_of_view(Shot(id="s", name="s", focal_mm=50))[0], 39.6, delta=0.05
        )


class FromAfar(unittest.TestCase):
    HEATHER = {"id": "p", "name": "p", "mix": [{"kind": "heather"}], "density": 200, "apart_m": 0.3}

    def test_cover_grows_with_density_and_takes_the_plants_colour(self):
        shares = []
        for density in (1, 30, 200):
            cover = built(planting=[{**self.HEATHER, "density": density}]).plant_cover()
            shares.append(float(cover[..., 3].mean()))
        self.assertEqual(shares, sorted(shares))
        self.assertGreater(shares[-1], 0.5)
        from sow.core.cabinet import kind_of

        np.testing.assert_allclose(cover[5, 5, :3], kind_of("heather").colour, atol=0.01)
        self.assertEqual(
            float(built(planting=[{**self.HEATHER, "on": False}]).plant_cover().max()), 0
        )

    def test_the_far_land_wears_the_same_clothes(self):
        ground = [{"id": "g", "name": "g", "ground": "snow"}]
        pale, dark = (
            far_colour(built(ground=ground if k else [{**ground[0], "ground": "peat"}]))
            for k in (1, 0)
        )
        self.assertGreater(pale[..., :3].mean(), 3 * dark[..., :3].mean())

    def test_the_baked_ground_has_its_materials_colours_and_unit_normals(self):
        from sow.core.cabinet import grounds

        ground = [
            {"id": "g", "name": "g", "ground": "turf", "size_m": 4},
            {
                "id": "h",
                "name": "h",
                "ground": "sand",
                "size_m": 4,
                "where": [{"kind": "height", "low": -100, "high": -6, "soft": 0.1}],
            },
        ]
        b = built(ground=ground)
        picture = ground_picture(b, 300)
        self.assertEqual(picture.shape, (200, 300, 3))
        np.testing.assert_allclose(
            picture[:20, -20:].mean((0, 1)), grounds["turf"].mean(), rtol=0.15
        )
        np.testing.assert_allclose(
            picture[98:103, 73:78].mean((0, 1)), grounds["sand"].mean(), rtol=0.2
        )
        _, normal = baked(b, 300, b.heights[::4, ::4])
        length = np.linalg.norm(normal / 255 * 2 - 1, axis=-1)
        np.testing.assert_allclose(length, 1, atol=0.02)
        self.assertGreater(
            (normal[..., 2] > 200).mean(), 0.95
        )  # what differs from the coarse mesh is slight

    def test_tint_and_brightness(self):
        plain = ground_picture(built(ground=[{"id": "g", "name": "g", "ground": "sand"}]), 200)
        red = ground_picture(
            built(
                ground=[{"id": "g", "name": "g", "ground": "sand", "tint": "#ff0000", "bright": 50}]
            ),
            200,
        )
        np.testing.assert_allclose(red[..., 0], plain[..., 0] / 2, rtol=1e-4)
        self.assertEqual(float(red[..., 1:].max()), 0)

    def test_small_pictures(self):
        b = built()
        flat, first, both = b.land_steps()
        shown = contribution(flat, first, b.grid.spacing)
        self.assertEqual((shown.dtype, shown.ndim), (np.uint8, 3))
        self.assertGreater(shown.std(), 8)
        self.assertLess(contribution(first, first, b.grid.spacing).std(), 12)
        east = shaded(
            np.tile(np.arange(60, dtype=np.float32), (40, 1)), 1.0
        )  # rises to the east, so it faces the light in the west
        west = shaded(np.tile(-np.arange(60, dtype=np.float32), (40, 1)), 1.0)
        self.assertGreater(east.mean(), west.mean() + 60)
        half = washed(np.tile(np.linspace(0, 1, 80, dtype=np.float32), (60, 1)), (0.1, 0.1, 0.1))
        self.assertGreater(half[:, 0].mean(), half[:, -1].mean() + 50)


if __name__ == "__main__":
    unittest.main()
