"""Films and grades: each step does what it says, and all that shows a picture shows the same."""

import tempfile
import unittest

import numpy as np
import PyOpenColorIO as ocio  # noqa: N813

from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.formats.cdl import cdl_text, decided, decisions_of
from sow.core.formats.cube import cube_text
from sow.core.formats.lut import read_lut
from sow.core.judge.faults import faults
from sow.core.judge.shot_faults import metered
from sow.core.picture.film import (
    CONFIG,
    GREY,
    HIGHEST_STOP,
    LOWEST_STOP,
    NORMAL,
    RESPONSES,
    SCENE,
    coded,
    developed,
    graded,
    in_acescg,
    table,
)
from sow.core.picture.grade.base import LUMINANCE, GradedFrame, steps, steps_of
from sow.core.picture.grade.ready import READY
from sow.core.picture.grade.tables import as_raster
from sow.core.picture.grade.tries import tries
from sow.core.scene import checked_steps, read_scene
from sow.core.works import do

TIER = "fast"

RNG = np.random.default_rng(11)


def light(rows=40, columns=60):
    return (0.18 * 2.0 ** RNG.uniform(-5, 3, (rows, columns, 3))).astype(np.float32)


def step(kind, **values):
    return checked_steps([{"id": "g", "name": kind, "kind": kind, **values}])[0]


def done(kind, picture, frame=None, **values):
    entry = step(kind, **values)
    return steps.functions[kind](
        entry, picture, frame or GradedFrame(picture.shape[1], picture.shape[0])
    )


def done_with(entry, picture):
    return steps.functions[entry.kind](entry, picture, GradedFrame(1, 1))


class Steps(unittest.TestCase):
    def test_exposure_is_stops(self):
        seen = light()
        np.testing.assert_allclose(done("exposure", seen, stops=1), 2 * seen, rtol=1e-6)

    def test_contrast_keeps_its_pivot_and_spreads_stops(self):
        grey = np.full((1, 1, 3), 0.18, np.float32)
        np.testing.assert_allclose(done("contrast", grey, contrast=150), grey, rtol=1e-5)
        brighter = done("contrast", 2 * grey, contrast=150)
        np.testing.assert_allclose(np.log2(brighter / grey), 1.5, rtol=1e-4)

    def test_what_colours_keeps_the_lightness(self):
        seen = light()
        own = seen @ LUMINANCE
        for kind, values in (
            ("saturation", {"saturation": 60}),
            ("warmth", {"kelvin": 4200, "tint": 30}),
            ("tints", {"strength": 80}),
        ):
            after = done(kind, seen, **values) @ LUMINANCE
            np.testing.assert_allclose(after, own, rtol=2e-3, err_msg=kind)
        grey = done("saturation", seen, saturation=0)
        np.testing.assert_allclose(grey[..., 0], grey[..., 2], rtol=1e-4)

    def test_warmth_says_which_way(self):
        grey = np.full((1, 1, 3), 0.18, np.float32)
        warm, cold = (done("warmth", grey, kelvin=k)[0, 0] for k in (9000, 4500))
        self.assertGreater(warm[0], warm[2])
        self.assertLess(cold[0], cold[2])

    def test_tints_part_lights_from_darks(self):
        ramp = (0.18 * 2.0 ** np.array([-5.0, 5.0], np.float32))[None, :, None]
        seen = done("tints", np.repeat(ramp, 3, 2), lights="#ff0000", darks="#0000ff", strength=60)
        self.assertGreater(seen[0, 0, 2], seen[0, 0, 0])
        self.assertGreater(seen[0, 1, 0], seen[0, 1, 2])

    def test_vignette_is_the_same_however_the_frame_is_cut(self):
        whole = np.ones((80, 120, 3), np.float32)
        frame = GradedFrame(120, 80)
        at_once = done("vignette", whole, frame, stops=2)
        self.assertAlmostEqual(float(at_once[40, 60, 0]), 1.0, places=3)
        self.assertAlmostEqual(float(at_once[0, 0, 0]), 0.25, delta=0.02)
        part = done("vignette", whole[30:60, 40:90], GradedFrame(120, 80, 40, 30), stops=2)
        np.testing.assert_allclose(part, at_once[30:60, 40:90], rtol=1e-5)

    def test_bloom_spreads_light_and_loses_none(self):
        dark = np.zeros((120, 160, 3), np.float32)
        dark[60, 80] = 50.0
        seen = done("bloom", dark, amount=30, size=3)
        self.assertAlmostEqual(float(seen.sum() / dark.sum()), 1.0, delta=0.03)
        self.assertGreater(float(seen[60, 90, 0]), 0)
        dim = np.full((40, 40, 3), 0.1, np.float32)
        np.testing.assert_allclose(done("bloom", dim, amount=30), dim, atol=1e-6)

    def test_grain_is_the_same_for_the_same_seed(self):
        flat = np.full((90, 160, 3), 0.5, np.float32)
        one, again, other = (
            done("grain", flat, GradedFrame(160, 90, seed=k), amount=10) for k in (1, 1, 2)
        )
        np.testing.assert_array_equal(one, again)
        self.assertGreater(np.abs(one - other).max(), 0.01)
        self.assertAlmostEqual(float(one.mean()), 0.5, delta=0.01)
        black = done("grain", 0 * flat, GradedFrame(160, 90), amount=10)
        self.assertEqual(float(black.max()), 0.0)

    def test_a_tone_curve_is_held_at_its_ends(self):
        points = [[0, 0.1], [0.5, 0.5], [1, 0.9]]
        seen = done("tone-curve", np.array([[[0.0, 0.5, 1.0]]], np.float32), points=points)
        np.testing.assert_allclose(seen[0, 0], [0.1, 0.5, 0.9], atol=1e-3)

    def test_what_cannot_be_a_step(self):
        for values in ({"contrast": 5}, {"contrast": "much"}, {"sharpness": 3}):
            with self.assertRaises(SceneError):
                step("contrast", **values)


class Films(unittest.TestCase):
    def test_every_film_rises_and_stays_grey(self):
        ramp = np.repeat((0.18 * 2.0 ** np.linspace(-8, 6, 60))[None, :, None], 3, 2)
        for name in RESPONSES:
            shown = developed(ramp, name)[0]
            self.assertTrue((np.diff(shown[:, 1]) >= -1e-4).all(), name)
            self.assertLess(float(np.ptp(shown, axis=1).max()), 0.012, name)
            self.assertGreater(float(shown[-1, 1]), 0.9, name)

    def test_films_differ_as_their_names_say(self):
        shade = np.full((1, 1, 3), 0.18 / 16, np.float32)
        values = {n: float(developed(shade, n).mean()) for n in RESPONSES}
        self.assertGreater(values["soft"], values["aces"])
        self.assertLess(values["deep"], values["aces"])

    def test_the_table_of_the_view_is_within_a_step(self):
        """Sampled between its entries, as the view does it, over a picture's colours."""
        entries = checked_steps(
            [
                {"id": "a", "name": "a", "kind": "warmth", "kelvin": 7800},
                {"id": "b", "name": "b", "kind": "contrast", "contrast": 112},
                {"id": "c", "name": "c", "kind": "tone-curve"},
            ]
        )
        from scipy.interpolate import RegularGridInterpolator

        seen = (0.12 * 2.0 ** RNG.uniform(-6, 4, (60, 50, 1))) * RNG.uniform(0.6, 1.4, (60, 50, 3))
        made = table("deep", entries).astype(float)
        side = np.arange(made.shape[0])
        stops = np.clip(np.log2(seen * NORMAL / GREY), LOWEST_STOP, HIGHEST_STOP)
        at = (stops - LOWEST_STOP) / (HIGHEST_STOP - LOWEST_STOP) * (len(side) - 1)
        read = RegularGridInterpolator((side, side, side), made[..., :3])(at[..., ::-1])
        off = np.abs(read - 255 * graded(seen, "deep", entries))
        self.assertLess(float(off.mean()), 0.5)
        self.assertLess(float(np.percentile(off, 99)), 1.5)

    def test_the_cube_is_read_by_another_library(self):
        """Written, read by OpenColorIO and applied: what the film shows itself."""
        entries = checked_steps([{"id": "a", "name": "a", "kind": "saturation", "saturation": 60}])
        with tempfile.NamedTemporaryFile("w", suffix=".cube") as file:
            file.write(cube_text("soft", entries, 0.5, 'A "shot"'))
            file.flush()
            config = ocio.Config.CreateFromFile(CONFIG)
            table = ocio.FileTransform(file.name, interpolation=ocio.INTERP_TETRAHEDRAL)
            applied = config.getProcessor(table).getDefaultCPUProcessor()
            seen = light(30, 20)
            coded = seen.reshape(1, -1, 3).copy()
            to_log = config.getProcessor(SCENE, "ACEScct").getDefaultCPUProcessor()
            to_log.apply(ocio.PackedImageDesc(coded, coded.shape[1], 1, 3))
            applied.apply(ocio.PackedImageDesc(coded, coded.shape[1], 1, 3))
        wanted = graded(seen * 2**0.5, "soft", entries)
        self.assertLess(float(np.abs(coded.reshape(seen.shape) - wanted).mean()) * 255, 1.0)

    def test_a_table_from_a_file_stands_for_film_or_grade(self):
        """A film written as .cube and read back shows the same; a plain table changes nothing."""
        grade = checked_steps([{"id": "a", "name": "w", "kind": "warmth", "kelvin": 7400}])
        text = cube_text("deep", grade, 0.5, "x")
        kept = {"film": as_raster(read_lut(text.encode(), "film.cube"))}
        plain = "LUT_3D_SIZE 2\n" + "\n".join(
            f"{r} {g} {b}" for b in (0, 1) for g in (0, 1) for r in (0, 1)
        )
        kept["plain"] = as_raster(read_lut(plain.encode(), "plain.cube"))
        turned = plain.replace("\n1 0 0", "\n0 0 1")  # red comes out blue
        kept["turned"] = as_raster(read_lut(turned.encode(), "turned.3dl.cube"))
        seen = light()
        lut = lambda table, **more: [
            step("lut", table=table, **more).with_rasters(kept.__getitem__)
        ]
        want = graded(seen * 2.0**0.5, "deep", grade)
        film = graded(seen, "aces", lut("film", takes="acescct"))
        self.assertLess(float(np.abs(film - want).mean()), 0.006)
        half = graded(seen, "aces", lut("film", takes="acescct", strength=50))
        np.testing.assert_allclose(half, (film + graded(seen)) / 2, atol=1e-5)
        none = graded(seen, "aces", lut("film", takes="acescct", strength=0))
        np.testing.assert_allclose(none, graded(seen), atol=1e-6)
        np.testing.assert_allclose(graded(seen, "aces", lut("plain")), graded(seen), atol=1e-4)
        red = np.array([[[1.0, 0.0, 0.0]]], np.float32)
        np.testing.assert_allclose(done_with(lut("turned")[0], red)[0, 0], [0, 0, 1], atol=1e-3)

    def test_decisions_are_read_by_another_library(self):
        grade = checked_steps(
            [
                {"id": "a", "name": "w", "kind": "warmth", "kelvin": 7200},
                {"id": "b", "name": "c", "kind": "contrast", "contrast": 115},
                {"id": "c", "name": "s", "kind": "saturation", "saturation": 125},
                {"id": "d", "name": "v", "kind": "vignette"},
            ]
        )
        text = cdl_text(grade, 0.4, "A & B")
        with tempfile.NamedTemporaryFile("w", suffix=".cdl") as file:
            file.write(text)
            file.flush()
            found = ocio.CDLTransform.CreateFromFile(file.name, "grade")
        own = decisions_of(grade, 0.4)
        np.testing.assert_allclose(found.getSlope(), own.slope, atol=1e-5)
        np.testing.assert_allclose(found.getOffset(), own.offset, atol=1e-5)
        np.testing.assert_allclose(found.getPower(), own.power, atol=1e-5)
        self.assertLess(own.off, 0.01)
        self.assertIn("Left out", text)
        seen = (GREY * 2.0 ** RNG.uniform(-3, 2, (1, 200, 1)) * np.ones(3)).astype(np.float32)
        graded_ = seen * np.float32(2**0.4)
        for entry in grade[:3]:
            graded_ = steps.functions[entry.kind](entry, graded_, GradedFrame(1, 1))
        numbers = np.concatenate([own.slope, own.offset, own.power, [own.saturation]])
        off = decided(coded(seen)[0].astype(float), numbers) - coded(graded_)[0]
        self.assertLess(float(np.abs(off).max()), 0.02)

    def test_acescg_keeps_white_and_luminance_order(self):
        white = in_acescg(np.ones((1, 1, 3)))
        np.testing.assert_allclose(white, 1.0, atol=2e-3)
        red = in_acescg(np.array([[[1.0, 0, 0]]]))[0, 0]
        np.testing.assert_allclose(red, [0.6131, 0.0702, 0.0206], atol=2e-3)  # AP1 from Rec.709


def after(name, scene, values):
    return read_scene(do(name, scene, values).document)


def none(name):
    raise AssertionError(f"nothing asks for {name}")


class InAScene(unittest.TestCase):
    def scene(self):
        shots = [{"id": i, "name": i} for i in ("one", "two")]
        return read_scene({"format": "sow-scene-1", "shots": shots})

    def test_a_ready_grade_takes_the_place_of_the_shots_own(self):
        first = after("ready grade", self.scene(), {"name": "evening", "shot": "one"})
        self.assertEqual(len(steps_of(first.grade, "one", none)), len(READY["evening"][1]))
        self.assertEqual(steps_of(first.grade, "two", none), [])
        second = after("ready grade", first, {"name": "ink", "shot": "one"})
        kinds = [e.kind for e in steps_of(second.grade, "one", none)]
        self.assertEqual(kinds, [s["kind"] for s in READY["ink"][1]])
        with self.assertRaises(SceneError):
            do("ready grade", first, {"name": "none such"})

    def test_a_grade_is_carried_from_shot_to_shot(self):
        first = after("ready grade", self.scene(), {"name": "evening", "shot": "one"})
        first.shots[0].film = "deep"
        both = after("copy grade", first, {"from_shot": "one", "to_shot": "two"})
        own, other = (steps_of(both.grade, i, none) for i in ("one", "two"))
        plain = lambda found: [e.model_dump(exclude={"id", "shot"}) for e in found]
        self.assertEqual(plain(own), plain(other))
        self.assertEqual(both.shots[1].film, "deep")

    def test_every_try_can_be_taken(self):
        for mode in ("ready", "films", "exposures", "around"):
            found = tries(mode, "one", "aces", 0.5, [])
            self.assertGreaterEqual(len(found), 4)
            self.assertEqual(len({t.label for t in found}), len(found))
            for t in found:
                checked_steps(t.steps)


class Judged(unittest.TestCase):
    """The meter, and what is told of a shot before it is taken."""

    def scene(self, **shot):
        own = {"id": "s", "name": "S", "east_m": 100, "north_m": 40, "eye_m": 4, **shot}
        return read_scene(
            {
                "format": "sow-scene-1",
                "plot": {"width_m": 200, "depth_m": 200, "posts": 65},
                "ground": [{"id": "g", "name": "g", "ground": "turf"}],
                "light": {"sun_bearing": 10, "sun_height": 12, "clouds": 0},
                "shots": [own],
            }
        )

    def build(self, scene):
        return Build(scene, scene.plot.grid(), Cache(1 << 28))

    def test_the_meter_brings_the_middle_to_grey(self):
        scene = self.scene(bearing=190, tilt=-12)
        once = read_scene(do("meter a shot", scene, {"shot": "s"}).document)
        stops = once.shots[0].exposure
        darker = self.build(scene.model_copy(update={"light": scene.light}))
        darker.scene.light.exposure = -2
        self.assertAlmostEqual(metered(darker, scene.shots[0]) - stops, 2, delta=0.05)

    def test_sun_black_and_blown_are_told(self):
        told = lambda **shot: faults(self.build(self.scene(**shot)))[1]
        self.assertEqual(told(bearing=10, tilt=5, exposure=-1)["sun"], 1)
        self.assertEqual(told(bearing=190)["sun"], 0)
        self.assertEqual(told(bearing=190, exposure=-7)["dark"], 1)
        self.assertEqual(told(bearing=190, exposure=7)["bright"], 1)
        fine = told(bearing=190, exposure=0)
        self.assertEqual((fine["sun"], fine["dark"], fine["bright"]), (0, 0, 0))


if __name__ == "__main__":
    unittest.main()
