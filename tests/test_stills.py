"""Stills: what the renderer is told is what the core knows; passes, kills and files."""

import json
import os
import signal
import tempfile
import time
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import cv2
import numpy as np
import OpenEXR

from sow.commands import main
from sow.core.air.harmonics import directions
from sow.core.air.light_of import sky_along
from sow.core.air.things.lamp import LampLight
from sow.core.build import Rasters
from sow.core.errors import Cancelled, SceneError
from sow.core.formats.package import write_package
from sow.core.formats.stillfiles import write_still
from sow.core.picture import made as renderer
from sow.core.picture.airlight import Air
from sow.core.picture.bodies import Body, Setting, Surface
from sow.core.picture.choose import stood
from sow.core.picture.clean import cleaned
from sow.core.picture.heaven import sky_behind
from sow.core.picture.order import Order, checked, size_of
from sow.core.picture.parts import cropped
from sow.core.picture.passes import Sums, tiles
from sow.core.picture.prepared import setting_of, view_of
from sow.core.picture.stage import Stage
from sow.core.picture.still import Still
from sow.core.picture.views import FACES, View, axes, face
from sow.core.picture.wrap import curved_rays, face_at, panorama_rays
from sow.core.sample import heights_at
from sow.core.shots.shot import Shot, opening_m, sharp_between
from sow.jobs import Queue, Shelf
from sow.stills.order import WORKS, ordered, so_far
from tests.small import SIDE_M, build_of, scene_of

TIER = "whole"


def card(east, north, up, wide, high, colour, towards=(0.0, -1.0, 0.0), through=0.0) -> Body:
    """An upright card at a place, turned towards a direction."""
    ahead = np.asarray(towards, float)
    right = np.cross(ahead, [0, 0, 1.0])
    right /= np.linalg.norm(right)
    rise = np.cross(right, ahead)
    middle = np.array([east, north, up])
    corners = [
        middle + x * wide / 2 * right + y * high / 2 * rise
        for x, y in ((-1, -1), (1, -1), (1, 1), (-1, 1))
    ]
    faces = np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
    colours = np.tile(np.asarray(colour, np.float32), (2, 1))
    surface = Surface(through=through)
    return Body(np.array(corners, np.float32), faces, surface, colour=colours)


def ball(colour: float, through: float = 0.0) -> Body:
    """A ball of one metre about the origin."""
    t = np.linspace(0, np.pi, 33)
    p = np.linspace(0, 2 * np.pi, 65)
    t, p = np.meshgrid(t, p, indexing="ij")
    places = np.stack([np.sin(t) * np.cos(p), np.sin(t) * np.sin(p), np.cos(t)], -1)
    i = (np.arange(32)[:, None] * 65 + np.arange(64)).ravel()
    faces = np.concatenate([np.stack([i, i + 65, i + 66], 1), np.stack([i, i + 66, i + 1], 1)])
    flat = places.reshape(-1, 3).astype(np.float32)
    colours = np.full((len(faces), 3), colour, np.float32)
    return Body(flat, faces.astype(np.uint32), Surface(through=through), colour=colours)


def level_view(eye, bearing=0.0, tilt=0.0, focal=28.0, width=96, height=64, **lens) -> View:
    return View(np.array(eye, float), *axes(bearing, tilt), focal, width, height, **lens)


def followed(stage: Stage, view: View, passes: int) -> np.ndarray:
    return np.mean([stage.passed(view, k)[0] for k in range(passes)], axis=0)


class OfTheLight(unittest.TestCase):
    """The renderer keeps energy and agrees with the tables of light."""

    @classmethod
    def setUpClass(cls):
        cls.build = build_of()
        cls.lit = cls.build.daylight(64)

    def uniform(self):
        """A light that is the same from everywhere, without a sun."""
        sky = np.ones_like(self.lit.sky)
        return replace(self.lit, sky=sky, sunlight=np.zeros(3), shade=np.ones((4, 4), np.float32))

    def test_white_furnace(self):
        for through in (0.0, 0.5):
            stage = Stage(Setting([ball(1.0, through)]), self.uniform(), np.zeros(3))
            view = level_view((0, -6, 0), focal=60, width=48, height=48)
            seen = followed(stage, view, 24)
            middle = seen[16:32, 16:32]
            self.assertAlmostEqual(float(middle.mean()), 1.0, delta=0.01)

    def test_grey_card_under_sun_and_sky(self):
        grey = 0.18
        lit = replace(self.lit, shade=np.ones((4, 4), np.float32))
        corners = np.array([[-9, -9, 0], [9, -9, 0], [9, 9, 0], [-9, 9, 0]], np.float32)
        faces = np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
        colour = np.full((2, 3), grey, np.float32)
        ground = Body(corners, faces, Surface(), colour=colour)
        stage = Stage(Setting([ground]), lit, np.zeros(3))
        view = level_view((0, 0, 3), tilt=-89.9, focal=40, width=32, height=32)
        seen = followed(stage, view, 64).mean((0, 1))
        vectors, solid = directions(*lit.sky.shape[:2])
        falls = np.maximum(vectors[..., 2], 0)
        sky = np.einsum("rck,rc,r->k", lit.sky.astype(float), falls, solid)
        wanted = grey / np.pi * (sky + lit.sunlight * lit.sun[2])
        np.testing.assert_allclose(seen, wanted, rtol=0.02)

    def test_shade_of_clouds_falls_where_the_tables_have_it(self):
        shade = np.ones((64, 64), np.float32)
        shade[:, 32:] = 0.25  # the eastern half
        lit = replace(self.lit, shade=shade, shade_m=400.0, sky=0 * self.lit.sky)
        corners = np.array([[-90, -90, 0], [90, -90, 0], [90, 90, 0], [-90, 90, 0]], np.float32)
        faces = np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
        ground = Body(corners, faces, Surface(), colour=np.full((2, 3), 0.5, np.float32))
        stage = Stage(Setting([ground], reach_m=450.0), lit, np.zeros(3))
        view = level_view((0, 0, 100), tilt=-89.9, focal=36, width=40, height=40)
        seen = followed(stage, view, 8)[..., 1]
        whole = 0.5 / np.pi * lit.sunlight[1] * lit.sun[2]
        self.assertAlmostEqual(float(seen[:, 2:14].mean() / whole), 1.0, delta=0.02)
        self.assertAlmostEqual(float(seen[:, 26:38].mean() / whole), 0.25, delta=0.02)

    def test_another_light_on_the_same_stage(self):
        dusk = build_of(light={"sun_bearing": 250, "sun_height": 8}).daylight(64)
        setting = Setting([ball(0.5)])
        view = level_view((0, -6, 0), width=32, height=32)
        once = Stage(setting, self.lit, np.zeros(3))
        once.relit(dusk)
        fresh = Stage(setting, dusk, np.zeros(3))
        np.testing.assert_allclose(followed(once, view, 2), followed(fresh, view, 2), rtol=1e-3)

    def test_lamps_shine_as_their_candela_say(self):
        """A lamp all around and one with a cone, over a grey floor in the dark."""
        dark = replace(self.lit, sky=0 * self.lit.sky, sunlight=np.zeros(3))
        corners = np.array([[-9, -9, 0], [9, -9, 0], [9, 9, 0], [-9, 9, 0]], np.float32)
        faces = np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
        floor = Body(corners, faces, Surface(), colour=np.full((2, 3), 0.5, np.float32))
        view = level_view((0, 0.4, 3), tilt=-89.9, focal=60, width=24, height=24)
        for outer, inner in ((-2.0, -1.0), (np.cos(0.5), np.cos(0.4))):
            kcd = (0.8, 0.6, 0.4)
            lamp = LampLight("l", (0, 0, 2), (0, 0, -1), kcd, inner, outer, 0.05, True)
            stage = Stage(Setting([floor], lamps=[lamp]), dark, np.zeros(3))
            seen = followed(stage, view, 64)
            # straight below: candela over the square of the way
            under = seen[18:22, 11:13].mean((0, 1))
            wanted = 0.5 / np.pi * np.array(kcd) / 4 / dark.unit_kcd
            np.testing.assert_allclose(under, wanted, rtol=0.05)

    def test_haze_over_a_black_card(self):
        air = Air(self.lit, [], np.array([0.0, 0, 20]))
        far = np.array([[50.0, 900.0, 8000.0]], np.float32)
        ray = np.tile(np.array([0.0, 1, 0], np.float32), (1, 3, 1))
        seen = air.over(np.zeros((1, 3, 3), np.float32), far, ray)[0]
        passes = self.lit.haze.passes(20.0, np.full(3, 20.0), far[0])
        rows, columns = self.lit.tone.shape[:2]
        tone = self.lit.tone[rows // 2 - 1 : rows // 2 + 1][:, [0, columns - 1]].mean((0, 1))
        np.testing.assert_allclose(seen, tone * (1 - passes), rtol=0.02)

    def test_haze_is_dark_where_a_wall_keeps_the_sun_from_it(self):
        lit = replace(self.lit, shade=np.ones((4, 4), np.float32), sun=np.array([0.8, 0, 0.6]))
        lit = replace(lit, light=lit.light.model_copy(update={"shafts": 100}))
        # a wall to the east of the way north, over the southern half of it
        corners = np.array([[9, 0, -60], [9, 60, -60], [9, 60, 90], [9, 0, 90]], np.float32)
        faces = np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
        wall = Body(corners, faces, Surface(), colour=np.full((2, 3), 0.2, np.float32))
        stage = Stage(Setting([wall]), lit, np.zeros(3))
        air = Air(lit, [], np.zeros(3))
        rays = np.tile(np.array([0.0, 1, 0], np.float32), (24, 96, 1))
        for far, open_ in ((55.0, 0.0), (480.0, 0.75)):  # nearer looks are denser: t**1.5
            depth = np.full((24, 96), far, np.float32)
            places, shape = air.ways(depth, rays, 0)
            self.assertEqual(len(places), np.prod(shape))
            opens = air.opened(stage.sees_sun(places), places, shape, depth.shape)
            self.assertAlmostEqual(float(opens.mean()), open_, delta=0.02)
        black = np.zeros((24, 96, 3), np.float32)
        sunny = air.over(black, depth, rays)[0, 0]
        dark = air.over(black, depth, rays, np.zeros_like(depth))[0, 0]
        passes = lit.haze.passes(0.0, np.zeros(1), np.array([480.0]))[0]
        np.testing.assert_allclose(dark, np.minimum(lit.shaded * (1 - passes), sunny), rtol=0.01)
        self.assertLess(float(dark.sum()), 0.95 * float(sunny.sum()))

    def test_focus(self):
        """A small bright card far behind the focus is a disc of the lens formula's size."""
        focus, away, radius = 4.0, 12.0, 0.15
        lit = replace(self.lit, sky=0 * self.lit.sky, sun=np.array([0, -0.6, 0.8]))
        speck = card(0, away, 0, 0.02, 0.02, (0.9, 0.9, 0.9))
        view = level_view((0, 0, 0), focal=50, width=241, height=241)
        view = replace(view, blur_m=radius, focus_m=focus)
        stage = Stage(Setting([speck]), lit, np.zeros(3))
        seen = followed(stage, view, 160)[..., 1]
        y, x = np.mgrid[:241, :241] - 120.0
        spread = np.sqrt((seen * (x**2 + y**2)).sum() / seen.sum() * 2)  # radius of an even disc
        wanted = radius * abs(away - focus) / away / focus * view.focal_px
        self.assertAlmostEqual(spread / wanted, 1.0, delta=0.05)
        shot = Shot(id="s", name="S", focal_mm=50, aperture=50 / 300, focus_m=focus, width_px=241)
        self.assertAlmostEqual(opening_m(shot), radius, places=6)
        near, far = sharp_between(shot)
        for d in (near, far):
            blur = radius * abs(d - focus) / d / focus * 50 * 241 / 36
            self.assertAlmostEqual(2 * blur, 1.0, delta=0.03)


class OfTheLand(unittest.TestCase):
    """What a view is given stands where the core has it."""

    def test_ground_lies_where_the_core_has_it(self):
        build = build_of()
        view = view_of(build, build.scene.shots[0], 120, 80)
        stage = Stage(setting_of(build, view), build.daylight(64), np.zeros(3))
        _, depth = stage.passed(view, 1)
        hit = (depth > 0) & (depth < 110)
        self.assertGreater(hit.mean(), 0.3)
        # rays go through pixels anywhere within them: the place is told by the steepest of them
        place = view.eye + view.rays() * depth[..., None]
        inside = hit & (place[..., 0] > 1) & (place[..., 0] < SIDE_M - 1)
        inside &= (place[..., 1] > 1) & (place[..., 1] < SIDE_M - 1)
        z = heights_at(build.heights, build.grid, place[inside][:, 0], place[inside][:, 1])
        off = np.abs(place[inside][:, 2] - z)
        slack = 0.01 + depth[inside] * 0.75 / view.focal_px  # half a pixel's width, and a slope
        self.assertGreater(float((off < slack).mean()), 0.99)

    def test_no_hole_between_fan_and_sheet(self):
        build = build_of()
        for tilt in (-60.0, -25.0, 0.0):
            shot = build.scene.shots[0].model_copy(update={"tilt": tilt})
            view = view_of(build, shot, 90, 60)
            stage = Stage(setting_of(build, view), build.daylight(64), np.zeros(3))
            _, depth = stage.passed(view, 0)
            self.assertTrue((depth[45:] > 0).all(), tilt)

    def test_things_stand_as_their_stance_says(self):
        one = np.ones(1)
        at = stood(one * 3, one * 4, one * 5, one * 90, one * 0, one * 0, one * 2)[0]
        # what looked north looks east after a quarter turn clockwise
        np.testing.assert_allclose(at @ [0, 1, 0, 1], [5, 4, 5, 1], atol=1e-9)
        leant = stood(one * 0, one * 0, one * 0, one * 30, one * 20, one * 90, one)[0]
        top = leant[:3, :3] @ [0, 0, 1.0]
        np.testing.assert_allclose(
            top, [np.sin(np.deg2rad(20)), 0, np.cos(np.deg2rad(20))], atol=1e-9
        )


class OfTheFrame(unittest.TestCase):
    def test_shift_moves_the_picture_and_keeps_uprights(self):
        view = level_view((0, 0, 0), width=200, height=100)
        moved = replace(view, shift=(0.1, 0.2))
        np.testing.assert_allclose(view.rays()[10, 40], moved.rays()[50, 20], atol=1e-6)

    def test_a_region_is_a_part_of_the_whole(self):
        view = level_view((0, 0, 0), bearing=30, tilt=5, width=200, height=100)
        order = Order(width_px=200, height_px=100, region=(0.25, 0.3, 0.5, 0.4))
        part = cropped(view, order)
        self.assertEqual((part.width, part.height), (100, 40))
        np.testing.assert_allclose(part.rays(), view.rays()[30:70, 50:150], atol=1e-5)

    def test_faces_are_named_without_a_mistake(self):
        view = level_view((0, 0, 0))
        for name, ahead in (
            ("east", (1, 0, 0)),
            ("west", (-1, 0, 0)),
            ("north", (0, 1, 0)),
            ("south", (0, -1, 0)),
            ("up", (0, 0, 1)),
            ("down", (0, 0, -1)),
        ):
            np.testing.assert_allclose(face(view, name, 8).ahead, ahead, atol=1e-12)

    def test_cube_to_panorama_and_back(self):
        """A smooth world seen as six faces, laid into a panorama, read back by another library."""
        world = lambda r: np.stack(
            [np.sin(5 * r[..., 0]), np.cos(4 * r[..., 1]), np.sin(6 * r[..., 2])], -1
        )
        view = level_view((0, 0, 0))
        faces = {n: world(face(view, n, 256).rays()).astype(np.float32) for n in FACES}
        whole = face_at(faces, panorama_rays(1024))
        self.assertLess(float(np.abs(whole - world(panorama_rays(1024))).mean()), 0.004)
        from scipy.ndimage import map_coordinates

        single = level_view((0, 0, 0), bearing=137, tilt=24, width=160, height=90)
        rays = single.rays()
        turn = np.arctan2(rays[..., 0], rays[..., 1]) % (2 * np.pi)
        rise = np.arcsin(rays[..., 2])
        at = [(0.5 - rise / np.pi) * 512 - 0.5, turn / (2 * np.pi) * 1024 - 0.5]
        read = np.stack([map_coordinates(whole[..., k], at, order=1) for k in range(3)], -1)
        error = float(np.mean((read - world(rays)) ** 2))
        self.assertGreater(10 * np.log10(4 / error), 40)

    def test_curved_picture_keeps_areas(self):
        rays, inside = curved_rays(400, 200, axes(40, 10))
        _, _, ahead = axes(40, 10)
        off = np.degrees(np.arccos(np.clip(rays @ ahead, -1, 1)))
        self.assertLessEqual(float(off[inside].max()), 100.01)
        self.assertAlmostEqual(float(off[inside].max()), 100, delta=0.6)
        # as many pixels to each solid angle, near the middle and near the rim
        count = lambda low, high: (
            ((off >= low) & (off < high) & inside).sum()
            / (np.cos(np.deg2rad(low)) - np.cos(np.deg2rad(high)))
        )
        self.assertAlmostEqual(count(10, 30) / count(70, 90), 1.0, delta=0.02)

    def test_what_cannot_be_ordered(self):
        for text, word in (("100000x10", "not possible"), ("wide-ish", "no size")):
            with self.assertRaisesRegex(SceneError, word):
                size_of(text)
        with self.assertRaisesRegex(SceneError, "too large"):
            checked(Order(width_px=16000, height_px=16000))
        with self.assertRaisesRegex(SceneError, "does not lie in the frame"):
            checked(Order(region=(0.8, 0, 0.5, 1)))


class OfThePasses(unittest.TestCase):
    def test_tiles_cover_a_picture_once(self):
        covered = np.zeros((2160, 3840), int)
        for x, y, w, h in tiles(3840, 2160):
            covered[y : y + h, x : x + w] += 1
        self.assertTrue((covered == 1).all())

    def test_sums_are_kept_whole(self):
        sums = Sums.empty(40, 30)
        rng = np.random.default_rng(1)
        for _ in range(3):
            sums.add(0, rng.random((30, 40, 3), np.float32), rng.random((30, 40), np.float32))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "whole.sums"
            sums.write(path)
            again = Sums.read(path, 40, 30)
            np.testing.assert_array_equal(again.light, sums.light)
            np.testing.assert_array_equal(again.depth, sums.depth)
            self.assertEqual(again.done, [3])
            self.assertEqual(Sums.read(path, 41, 30).done, [0])
            path.write_bytes(path.read_bytes()[:900])
            self.assertEqual(Sums.read(path, 40, 30).done, [0])

    def test_cleaning_keeps_light_far_brighter_and_far_darker_than_one(self):
        rng = np.random.default_rng(3)
        light = np.full((96, 128, 3), 0.02, np.float32)
        light[:, 64:] = 40.0
        light *= 1 + 0.1 * rng.standard_normal(light.shape).astype(np.float32)
        out = cleaned(light)
        self.assertAlmostEqual(float(out[16:80, 80:112].mean()), 40, delta=1)
        self.assertAlmostEqual(float(out[16:80, 16:48].mean()), 0.02, delta=0.002)
        self.assertLess(float(out[16:80, 80:112].std()), 0.5 * float(light[16:80, 80:112].std()))

    def test_noise_falls_with_the_root_of_the_passes(self):
        rng = np.random.default_rng(2)
        left = {}
        sums = Sums.empty(120, 80)
        for k in range(64):
            light = (0.4 + 0.1 * rng.standard_normal((80, 120, 3))).astype(np.float32)
            sums.add(0, light, np.ones((80, 120), np.float32))
            left[k + 1] = sums.noise(np.ones(3))
        self.assertIsNone(left[1])
        self.assertAlmostEqual(left[16] / left[64], 2.0, delta=0.1)


class OfWholeStills(unittest.TestCase):
    def still(self, build, folder, **order):
        values = {"width_px": 64, "height_px": 40, "quality": "look", **order}
        return Still(build, build.scene.shots[0], Order(**values), Path(folder))

    def test_two_runs_and_a_stopped_one_give_the_same(self):
        build = build_of()
        with tempfile.TemporaryDirectory() as a, tempfile.TemporaryDirectory() as b:
            whole = self.still(build, a)
            whole.run()
            mean, clean = whole.sums[0].mean(), whole.light()[whole.parts[0].name]
            self.assertAlmostEqual(float(clean.mean() / mean.mean()), 1, delta=0.03)
            first = self.still(build, b)
            told = []
            first.tell = told.append

            def check():
                if len([t for t in told if t.share > 0]) > 2:
                    raise Cancelled

            first.check = check
            with self.assertRaises(Cancelled):
                first.run()
            self.assertTrue(0 < min(first.sums[0].done) < 8)
            second = self.still(build, b)
            second.run()
            np.testing.assert_array_equal(whole.sums[0].light, second.sums[0].light)
            shares = [t.share for t in told]
            self.assertEqual(shares, sorted(shares))

    def test_files_read_back_by_other_libraries(self):
        build = build_of()
        with tempfile.TemporaryDirectory() as folder:
            still = self.still(build, folder, bits=16, jpeg=True)
            still.run()
            names = write_still(still, Path(folder) / "out", "one")
            self.assertEqual(names, ["one.png", "one.exr", "one.jpg", "one.json"])
            picture = cv2.imread(f"{folder}/out/one.png", cv2.IMREAD_UNCHANGED)
            self.assertEqual((picture.dtype, picture.shape), (np.uint16, (40, 64, 3)))
            layers = OpenEXR.File(f"{folder}/out/one.exr")
            channels = layers.channels()
            self.assertAlmostEqual(layers.header()["chromaticities"][0], 0.713, places=5)
            self.assertEqual(json.loads(layers.header()["sow"])["shot"]["id"], "s")
            depth = channels["Z"].pixels
            place = np.stack([channels[f"P.{k}"].pixels for k in "XYZ"], -1)
            eye = still.parts[0].view.eye
            hit = depth > 0
            away = np.linalg.norm(place - eye, axis=-1)
            np.testing.assert_allclose(away[hit], depth[hit], rtol=1e-4)
            # scene-linear: bright parts are not cut at one
            self.assertGreater(float(channels["RGB"].pixels.max()), 0.2)
            facts = json.loads((Path(folder) / "out" / "one.json").read_text())
            self.assertEqual(facts["passes"], 8)

    def test_layers_say_what_each_pixel_shows(self):
        sowing = {"id": "o", "name": "Grass & herbs", "mix": [{"kind": "moor-grass"}]}
        lake = {"id": "w", "name": "Lake", "reach": "everywhere", "level_m": -4}
        grounds = [
            {"id": "g", "name": "Turf", "ground": "turf"},
            {"id": "r", "name": "Rock", "ground": "granite"}
            | {"where": [{"kind": "slope", "low": 12, "high": 90}]},
        ]
        stone = {"id": "p", "name": "Stone", "kind": "boulder", "east_m": 92, "north_m": 45}
        build = build_of(
            planting=[{**sowing, "density": 30}],
            water=[lake],
            ground=grounds,
            pieces=[{**stone, "size": 250}],
        )
        with tempfile.TemporaryDirectory() as folder:
            still = self.still(build, folder, layers=True, quality="good")
            still.run()
            write_still(still, Path(folder), "one")
            with OpenEXR.File(f"{folder}/one.exr", separate_channels=True) as file:
                layers = {k: np.array(v.pixels) for k, v in file.channels().items()}
        parts = ("sowing", "piece", "water", "card")
        whole = sum(
            v
            for k, v in layers.items()
            if k in ("sky", "ground", "far") or k.partition(".")[0] in parts
        )
        np.testing.assert_allclose(whole, 1, atol=1e-6)
        for name in ("sowing.Grass-herbs", "piece.Stone", "kind.Boulder", "sky", "ground"):
            self.assertGreater(float(layers[name].mean()), 0.001, name)
        of_ground = layers["material.Turf"] + layers["material.Rock"]
        inside = (layers["P.Y"] < SIDE_M) & (layers["Z"] > 0) & (layers["ground"] == 1)
        np.testing.assert_allclose(of_ground[inside], 1, atol=1e-5)
        sky = layers["sky"] == 1
        normals = np.stack([layers[f"N.{k}"] for k in "XYZ"], -1)
        np.testing.assert_allclose(np.linalg.norm(normals[~sky], axis=-1), 1, atol=1e-4)
        self.assertGreater(float(normals[layers["ground"] == 1][:, 2].mean()), 0.7)
        self.assertEqual(float(np.abs(layers["albedo.G"][sky]).max()), 0)
        stony = layers["piece.Stone"] > 0.99
        self.assertTrue((layers["albedo.G"][stony] > 0.02).all())

    def test_cube_by_the_command_line(self):
        with tempfile.TemporaryDirectory() as folder:
            scene = Path(folder) / "scene.json"
            scene.write_text(scene_of().model_dump_json())
            out = str(Path(folder) / "out")
            asked = ["--size", "32x32", "--quality", "look", "--projection", "cube"]
            self.assertEqual(main(["still", str(scene), out, *asked, "--names", "axes"]), 0)
            made = {p.name for p in Path(out).iterdir()}
            for k in ("px", "nx", "py", "ny", "pz", "nz"):
                self.assertIn(f"one-{k}.png", made)
                self.assertIn(f"one-{k}.exr", made)
            cross = cv2.imread(f"{out}/one-cross.png")
            self.assertEqual(cross.shape, (96, 128, 3))
            north = cv2.imread(f"{out}/one-nz.png")
            np.testing.assert_array_equal(cross[32:64, 32:64], north)
            self.assertEqual(main(["still", str(scene), out, "--shot", "None such"]), 2)

    def test_a_worker_that_is_asked_pass_by_pass_marches_the_sky_once(self):
        build = build_of()
        with tempfile.TemporaryDirectory() as folder:
            order = Order(width_px=48, height_px=32, quality="look")
            still = Still(build, build.shots()[0], order, Path(folder))
            (part,) = still.parts
            name = "sow.core.picture.still.sky_behind"
            with mock.patch(name, side_effect=sky_behind) as marched:
                apart = [light for k in range(2) for light, _ in still.here(part, [(k, 0)])]
                self.assertEqual(marched.call_count, 1)
            together = [light for light, _ in still.here(part, [(0, 0), (1, 0)])]
            np.testing.assert_array_equal(apart, together)

    def test_clouds_are_without_grain(self):
        light = {"sun_bearing": 200, "sun_height": 20, "haze_m": 60000, "clouds": 45}
        build = build_of(light=light)
        lit = build.daylight(64)
        aside, rise = np.meshgrid(np.linspace(-0.5, 0.5, 160), np.linspace(0.7, 0.1, 96))
        rays = np.stack([aside, np.ones_like(aside), rise], -1)
        rays /= np.linalg.norm(rays, axis=-1, keepdims=True)

        def grain(sky):
            bright = sky.mean(-1)
            return float(np.median(np.abs(bright - cv2.medianBlur(bright, 3))[seen] / bright[seen]))

        once = sky_along(lit, rays)
        seen = np.abs(once.mean(-1) / cv2.medianBlur(once.mean(-1), 5) - 1) > 0.02
        self.assertGreater(seen.mean(), 0.1)
        good = sky_behind(lit, rays, "good")
        self.assertLess(grain(good), 0.5 * grain(once))
        np.testing.assert_array_equal(good, sky_behind(lit, rays, "good"))
        self.assertLess(abs(float(good.mean() / once.mean()) - 1), 0.01)

    def test_without_the_renderer_it_is_told(self):
        lit = build_of().daylight(64)
        missing = mock.patch.object(renderer, "mi", None)
        with missing, self.assertRaisesRegex(SceneError, "not installed"):
            Stage(Setting(), lit, np.zeros(3))


def queue_of(folder):
    """The queue of a folder, begun."""
    queue = Queue(Path(folder), "sow.stills.worker", WORKS)
    queue.look()
    return queue


class OfJobs(unittest.TestCase):
    """A still outlives the process that takes it."""

    def ordered(self, folder, **order):
        shelf = Shelf(Path(folder))
        scene = scene_of()
        values = {"width_px": 96, "height_px": 60, "quality": "good", **order}
        write = lambda file: write_package(scene, Rasters(), file)
        return ordered(shelf, 1, "One", scene.shots[0], Order(**values), write)

    def until(self, kept, doing, seconds=120):
        end = time.monotonic() + seconds
        while kept.state.doing not in doing:
            self.assertLess(time.monotonic(), end, kept.state)
            time.sleep(0.05)
        return kept.state

    def test_kills_change_nothing(self):
        with tempfile.TemporaryDirectory() as folder:
            kept = self.ordered(folder)
            undisturbed = self.ordered(folder)
            queue = queue_of(folder)
            rng = np.random.default_rng(5)
            for _ in range(2):
                self.until(kept, ("running",))
                time.sleep(float(rng.uniform(0.2, 3.0)))
                if (process := queue.process) and kept.state.doing == "running":
                    os.kill(process.pid, signal.SIGKILL)
                    process.wait()
                    queue.ends.clear()
            done = self.until(kept, ("done", "failed"))
            self.assertEqual(done.doing, "done", done.trouble)
            other = self.until(undisturbed, ("done", "failed"))
            self.assertEqual(other.files, done.files)
            for name in done.files:
                if not name.endswith(".json"):
                    a = (kept.files / name).read_bytes()
                    self.assertEqual(a, (undisturbed.files / name).read_bytes(), name)
            queue.end()

    def test_pause_go_on_and_stop(self):
        with tempfile.TemporaryDirectory() as folder:
            kept = self.ordered(folder, quality="fine")
            queue = queue_of(folder)
            self.until(kept, ("running",))
            end = time.monotonic() + 60
            while kept.state.share < 0.02 and time.monotonic() < end:
                time.sleep(0.05)
            queue.wished(kept, "pause")
            paused = self.until(kept, ("paused",))
            self.assertLess(paused.share, 1)
            self.assertTrue(so_far(kept).exists())
            queue.wished(kept, "run")
            self.until(kept, ("running", "done"))
            end = time.monotonic() + 60
            while kept.state.share < paused.share:  # it goes on from what it had
                self.assertLess(time.monotonic(), end, kept.state)
                time.sleep(0.05)
            queue.wished(kept, "stop")
            self.until(kept, ("stopped", "done"))
            queue.drop(kept)
            self.assertEqual(queue.shelf.all(), [])
            queue.end()

    def test_no_room_is_told_before(self):
        with (
            tempfile.TemporaryDirectory() as folder,
            mock.patch("sow.stills.order.shutil.disk_usage", return_value=mock.Mock(free=1000)),
        ):
            with self.assertRaisesRegex(SceneError, "MB on the disk"):
                self.ordered(folder)
            self.assertEqual(list(Path(folder).iterdir()), [])


if __name__ == "__main__":
    unittest.main()
