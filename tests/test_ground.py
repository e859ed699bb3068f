"""The ground: weights, conditions, textures, presets, files. Its journey is in test_brackenhope."""

import io
import json
import tempfile
import unittest
import zlib
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from sow.core.build import Build, Rasters
from sow.core.cabinet import grounds
from sow.core.cabinet.kind import linear
from sow.core.cache import Cache
from sow.core.document.references import missing
from sow.core.errors import SceneError
from sow.core.formats.groundfiles import GroundFiles, whole, write_pictures
from sow.core.formats.texture import mended, read_picture, read_texture, seam
from sow.core.grow import grow
from sow.core.judge.texture_nearness import nearness
from sow.core.judge.why import reasons
from sow.core.scene import read_scene
from sow.core.surface.bake import colour_at
from sow.core.surface.match import matched, perceived
from sow.core.surface.material import Material, stood_out, tuned
from sow.core.surface.presets import clothes, presets
from sow.core.surface.repeat import repetition
from sow.core.surface.tiling import laid, shrunk
from sow.core.survey.sight import hidden_by

TIER = "whole"

NOISE = {"id": "n", "name": "Noise", "kind": "noise", "height_m": 40, "feature_m": 200}
LAKE = {"id": "w", "name": "Lake", "level_m": -12}


def built(ground, posts=257, width=400, land=(NOISE,), **more):
    scene = read_scene(
        {
            "name": "t",
            "plot": {"width_m": width, "depth_m": width, "posts": 1025},
            "land": list(land),
            "ground": ground,
            **more,
        }
    )
    return Build(scene, scene.plot.grid(posts), Cache())


def material(id_, ground="turf", *where, **more):
    return {"id": id_, "name": id_, "ground": ground, "where": list(where), **more}


STEEP = {"kind": "slope", "low": 20, "high": 90, "soft": 6}
HIGH = {"kind": "height", "low": 8, "high": 12000, "soft": 8}
PATCHES = {"kind": "patches", "size_m": 60, "share": 40}


class Weights(unittest.TestCase):
    def test_they_sum_to_one_and_agree_on_every_grid(self):
        ground = [
            material("a"),
            material("b", "heath", PATCHES),
            material("c", "scree", STEEP, stands=100),
            material("d", "snow", HIGH, {**STEEP, "join": "except"}, edge=20, broken=120),
        ]
        coarse = built(ground, 513).ground()
        fine = built(ground, 1025).ground()
        for w in (coarse, fine):
            self.assertLess(np.abs(w.sum(0) - 1).max(), 1e-5)
            self.assertGreaterEqual(w.min(), 0)
        np.testing.assert_allclose(coarse.mean((1, 2)), fine.mean((1, 2)), atol=0.012)
        self.assertLess(np.abs(coarse - fine[:, ::2, ::2]).mean(), 0.03)
        self.assertTrue((built(ground, 513).ground() == coarse).all())

    def test_blend_by_height_keeps_the_mean_and_lets_stones_stand_out(self):
        height = np.linspace(0, 1, 4001, dtype=np.float32)
        for c in (0.1, 0.3, 0.5, 0.8):
            self.assertAlmostEqual(
                float(stood_out(np.full_like(height, c), height, 1).mean()), c, delta=0.02
            )
        # on a plot of a few metres the posts themselves carry it: cobbles stand out of sand that
        # half buries them
        flat = [{"id": "n", "name": "n", "kind": "noise", "height_m": 0.001, "feature_m": 5}]
        ground = [
            material("a", "cobbles", size_m=3),
            material(
                "b",
                "sand",
                {"kind": "patches", "size_m": 40, "share": 50, "soft": 100},
                broken=0,
                edge=100,
                stands=100,
            ),
        ]
        w = built(ground, 1025, 8, flat).ground()[1]
        plain = built([ground[0], {**ground[1], "stands": 0}], 1025, 8, flat).ground()[1]
        self.assertAlmostEqual(float(w.mean()), float(plain.mean()), delta=0.05)
        self.assertGreater(float(np.abs(w - plain).mean()), 0.1)
        ranks = laid(
            grounds["cobbles"].ranks()[..., None].astype(np.float32) / 255,
            *np.meshgrid(np.linspace(0, 8, 1025), np.linspace(8, 0, 1025)),
            3,
            0,
            False,
        ).reshape(w.shape)
        inside = (plain > 0.2) & (plain < 0.8)
        self.assertLess(
            np.corrcoef(w[inside] - plain[inside], ranks[inside])[0, 1], -0.5
        )  # sand lies low

    def test_two_that_claim_all_and_none_at_all(self):
        w = built([material("a"), material("b", "sand"), material("c", "snow", on=False)]).ground()
        self.assertTrue((w[0] == 0).all() and (w[1] == 1).all() and (w[2] == 0).all())
        self.assertEqual(built([]).ground().shape[0], 0)
        self.assertTrue(
            (built([material("a", "turf", STEEP)]).ground() == 1).all()
        )  # the first lies everywhere
        with self.assertRaises(SceneError):
            built([material(f"m{i}") for i in range(17)])


class Conditions(unittest.TestCase):
    def lies(self, *where, **more):
        return built(
            [material("a"), material("b", "sand", *where, broken=0, edge=100, stands=0)], **more
        ).ground()[1]

    def test_lists_join_as_all_any_and_except(self):
        steep, high = self.lies(STEEP), self.lies(HIGH)
        np.testing.assert_allclose(self.lies(STEEP, HIGH), steep * high, atol=1e-5)
        np.testing.assert_allclose(
            self.lies(STEEP, {**HIGH, "join": "any"}), 1 - (1 - steep) * (1 - high), atol=1e-5
        )
        np.testing.assert_allclose(
            self.lies(STEEP, {**HIGH, "join": "except"}), steep * (1 - high), atol=1e-5
        )
        np.testing.assert_allclose(
            self.lies({**STEEP, "strength": 40}), 1 - 0.4 * (1 - steep), atol=1e-5
        )
        np.testing.assert_allclose(self.lies({**STEEP, "invert": True}), 1 - steep, atol=1e-5)

    def test_a_target_of_cover_finds_its_threshold_on_any_grid(self):
        gentle = {"kind": "slope", "low": 0, "high": 14, "soft": 2}
        low = {"kind": "height", "take": "lowest", "share": 25, "soft": 1}
        for posts in (129, 257, 513):
            part = (
                self.lies(gentle, low, posts=posts).mean() / self.lies(gentle, posts=posts).mean()
            )
            self.assertAlmostEqual(float(part), 0.25, delta=0.02)  # a quarter of the gentle ground

    def test_cover_pieces_sowings_and_sight(self):
        ground = [
            material("a"),
            material("b", "scree", STEEP),
            material(
                "c",
                "moss",
                {"kind": "covered", "material": "b", "low": 20, "high": 80, "soft": 10},
                edge=100,
                broken=0,
            ),
        ]
        w = built(ground).ground()
        before = built(ground[:2]).ground()[1]
        self.assertTrue(
            (w[2][(before > 0.95) | (before < 0.05)] < 0.01).all() and w[2].max() > 0.9
        )  # along the scree's rim
        piece = {"id": "p", "name": "p", "kind": "boulder", "east_m": 100, "north_m": 300}
        near = self.lies({"kind": "near-piece", "within_m": 20, "soft": 2}, pieces=[piece])
        self.assertAlmostEqual(float(near.sum()) * (400 / 256) ** 2, np.pi * 400, delta=60)
        sowing = {
            "id": "s",
            "name": "s",
            "mix": [{"kind": "boulder"}],
            "density": 0.2,
            "apart_m": 5,
        }
        scene = built(
            [material("a"), material("b", "sand")],
            planting=[
                sowing,
                {
                    **sowing,
                    "id": "t",
                    "density": 20,
                    "apart_m": 0.3,
                    "where": [
                        {"kind": "near-sowing", "sowing": "s", "low": 0, "high": 4, "soft": 1}
                    ],
                },
            ],
        )
        stones, under = scene.plants(0), scene.plants(1)
        away = np.hypot(
            under.east[:, None] - stones.east[None], under.north[:, None] - stones.north[None]
        ).min(1)
        self.assertTrue(len(under) > 300 and away.max() < 6.5)
        # sight: an eye behind a wall sees up to the wall, and what stands above its top
        b = built([material("a")], land=[])
        heights = np.zeros(b.grid.shape, np.float32)
        heights[:, 128] = 10
        hidden = hidden_by(heights, b.grid, 100, 200, 2)
        self.assertTrue((hidden[:, :128] == 0).all() and (hidden[:, 140:] > 5).all())
        self.assertAlmostEqual(float(hidden[128, 192]), 2 + 8 * 200 / 100, delta=0.6)

    def test_what_is_gone_asks_nothing_and_is_told_and_circles_are_refused(self):
        gone = [
            {"kind": "mask", "mark": "x"},
            {"kind": "covered", "material": "x"},
            {"kind": "near-piece", "piece": "x"},
            {"kind": "in-sight", "shot": "x"},
            {"kind": "shows", "landform": "x"},
            {"kind": "near-line", "mark": "x"},
        ]
        b = built([material("a"), material("b", "sand", STEEP, *gone)])
        np.testing.assert_array_equal(
            b.ground()[1], built([material("a"), material("b", "sand", STEEP)]).ground()[1]
        )
        found = missing(b.scene)
        self.assertEqual([r.path for r, _ in found], [f"ground.1.where.{k}" for k in range(1, 7)])
        self.assertIn("asks nothing", found[0][1])
        looks = lambda other: {"kind": "covered", "material": other}
        with self.assertRaisesRegex(SceneError, "circle: “b” looks at “c” looks at “b”"):
            built(
                [
                    material("a"),
                    material("b", "sand", looks("c")),
                    material("c", "snow", looks("b")),
                ]
            )
        with self.assertRaisesRegex(SceneError, "“b” looks at “c”, which lies after it"):
            built([material("a"), material("b", "sand", looks("c")), material("c", "snow")])

    def test_why_here_names_what_decides(self):
        b = built(
            [
                material("a"),
                material("b", "sand", {"kind": "slope", "low": 85, "high": 90, "soft": 1}, HIGH),
            ]
        )
        r, c = np.unravel_index(b.heights.argmax(), b.grid.shape)
        found = reasons(b, float(b.grid.xs()[c]), float(b.grid.ys()[r]))
        self.assertEqual((found[1].decides, round(found[1].share, 3)), (0, 0.0))
        slope, height = found[1].verdicts
        self.assertAlmostEqual(slope.value, float(b.slope()[r, c]), places=3)
        self.assertTrue(slope.answer == 0 and height.answer == 1 and height.unit == "m")
        with self.assertRaisesRegex(SceneError, "off the plot"):
            reasons(b, -5, 10)


class Textures(unittest.TestCase):
    def test_no_repeat_shows_and_the_mean_stays(self):
        for name in ("turf", "cobbles", "sandstone"):
            g = grounds[name]
            texture = linear(g.maps()[0][..., :3])
            small = shrunk(texture, 64)
            x, y = np.meshgrid(np.arange(640) * 4 / 64, np.arange(640) * 4 / 64)
            tiled = laid(small, x, y, 4, 0, g.directed).reshape(640, 640, 3)
            plain = np.tile(small, (10, 10, 1))
            np.testing.assert_allclose(tiled.mean((0, 1)), texture.mean((0, 1)), rtol=0.06)
            self.assertLess(abs(tiled.std() / plain.std() - 1), 0.15, name)
            self.assertGreater(repetition(plain), 0.9)
            self.assertLess(repetition(tiled), 0.35, name)

    def test_the_measures_tell_each_pair_of_materials_apart(self):
        def features(g):
            colour, detail = g.maps()
            lab = cv2.cvtColor(colour[..., :3][..., ::-1].copy(), cv2.COLOR_BGR2LAB).astype(
                np.float32
            )
            grey = lab[..., 0] - lab[..., 0].mean()
            power = [cv2.GaussianBlur(grey, (0, 0), s).std() for s in (1, 4, 16)]
            return np.array(
                [
                    *lab.mean((0, 1)) / 8,
                    grey.std() / 4,
                    *np.array(power) / 4,
                    detail[..., 2].mean() / 25,
                    detail[..., :2].std() / 12,
                ]
            )

        families = [g for g in grounds.values() if g.family == g.name]
        self.assertGreaterEqual(len(families), 16)
        all_ = np.array([features(g) for g in families])
        off = np.linalg.norm(all_[:, None] - all_[None], axis=-1) + np.eye(len(families)) * 9
        i, j = np.unravel_index(off.argmin(), off.shape)
        self.assertGreater(off.min(), 1.0, f"{families[i].name} and {families[j].name}")
        for (
            g
        ) in families:  # high grains catch the light: height and colour agree, within a material
            self.assertTrue(sum(1 for o in grounds.values() if o.family == g.name) >= 3)

    def test_sets_brought_in_are_read_mended_and_refused(self):
        def file(mode, size=(256, 256), kind="PNG"):
            rng = np.random.default_rng(3)
            picture = Image.fromarray(
                rng.integers(0, 255, (size[1], size[0], 3), np.uint8)
            ).convert(mode)
            out = io.BytesIO()
            picture.save(out, kind)
            return out.getvalue()

        for mode, kind in (
            ("RGB", "JPEG"),
            ("LA", "PNG"),
            ("P", "PNG"),
            ("CMYK", "JPEG"),
            ("I;16", "TIFF"),
            ("RGBA", "WEBP"),
        ):
            data = file(mode, kind=kind) if mode != "I;16" else None
            if data is None:
                out = io.BytesIO()
                Image.fromarray(
                    np.random.default_rng(1).integers(0, 65535, (256, 256), np.uint16)
                ).save(out, kind)
                data = out.getvalue()
            sheet, told, _ = read_texture({"colour": data, "packed": file("RGB")})
            self.assertEqual((sheet.shape, sheet.dtype), ((512, 4096), np.uint8), mode)
            self.assertGreater(sheet.std(), 5)
        self.assertTrue(
            any("middle square" in t for t in read_texture({"colour": file("RGB", (400, 256))})[1])
        )
        for files, words in (
            ({}, "needs a picture of its colour"),
            ({"colour": file("RGB", (1, 1))}, "too small"),
            ({"colour": b"nonsense"}, "cannot be read"),
            ({"colour": file("RGB")[:900]}, "damaged"),
        ):
            with self.assertRaisesRegex(SceneError, words):
                read_texture(files)
        head = bytearray(file("L", (16, 16)))
        head[16:24] = (20000).to_bytes(4, "big") * 2  # a header alone must be enough to refuse it
        head[29:33] = zlib.crc32(head[12:29]).to_bytes(4, "big")
        with self.assertRaisesRegex(SceneError, "20000 x 20000 px: too large"):
            read_texture({"colour": bytes(head)})
        y, x = np.mgrid[0:512, 0:512] / 512
        slope = np.float32(
            np.dstack([0.3 + 0.4 * x, 0.5 + 0.3 * y * x, 0.4 + 0 * x])
            + np.random.default_rng(2).normal(0, 0.01, (512, 512, 3))
        )
        self.assertGreater(seam(slope), 4)
        self.assertLess(seam(mended(slope)), 2)

    def test_a_colour_is_pulled_towards_another(self):
        m = Material(id="a", name="a")
        mean, goal = grounds["turf"].mean(), np.array((0.3, 0.22, 0.1))
        off = lambda values: np.linalg.norm(
            perceived(tuned(m.model_copy(update=values), mean)) - perceived(goal)
        )
        all_ = matched(m, mean, goal, 1)
        half = matched(m, mean, goal, 0.5)
        self.assertLess(off(all_), 0.03)
        self.assertAlmostEqual(off(half) / off({}), 0.5, delta=0.12)


class Ready(unittest.TestCase):
    def test_presets_set_their_bands_from_the_land(self):
        self.assertGreaterEqual(len(presets), 8)
        for name in presets:
            flat, steep = (
                built([], land=[{**NOISE, "height_m": h}], water=[LAKE]) for h in (12, 90)
            )
            (a, _), (b, told) = (clothes(name, x.site("water")) for x in (flat, steep))
            w = built(b, land=[{**NOISE, "height_m": 90}], water=[LAKE]).ground()
            self.assertGreaterEqual((w.mean((1, 2)) > 0.005).sum(), 4, name)
            self.assertNotEqual([m["where"] for m in a], [m["where"] for m in b], name)
            self.assertTrue(told and all(any(c.isdigit() for c in t) for t in told), name)

    def test_nearness_follows_the_shot(self):
        shot = {
            "id": "s",
            "name": "s",
            "east_m": 200,
            "north_m": 200,
            "eye_m": 1.7,
            "bearing": 0,
            "tilt": -10,
            "focal_mm": 24,
        }
        for size, verdict in ((8, "blurs"), (0.4, "fits")):
            (line,) = nearness(built([material("a", size_m=size)], shots=[shot]))
            self.assertEqual(line.verdict, verdict)
            self.assertAlmostEqual(
                line.element_mm, line.nearest_m * 36 / 24 / 1920 * 1000, places=4
            )
        self.assertEqual(nearness(built([material("a")]))[0].verdict, "no shot sees it")


class Laid(unittest.TestCase):
    def test_a_picture_of_the_whole_ground_lies_exactly(self):
        rgb = np.random.default_rng(4).integers(20, 235, (16, 16, 3), np.uint8)
        out = io.BytesIO()
        Image.fromarray(rgb).save(out, "PNG")
        sheet = read_picture(out.getvalue())

        class Own(Rasters):
            def load(self, name):
                return sheet

        scene = lambda **more: read_scene(
            {
                "name": "t",
                "plot": {"width_m": 320, "depth_m": 320, "posts": 257},
                "land": [
                    {**NOISE, "height_m": 5},
                    {
                        "id": "f",
                        "name": "f",
                        "kind": "form",
                        "form": "dome",
                        "east_m": 160,
                        "north_m": 160,
                        "length_m": 80,
                        "breadth_m": 80,
                    },
                ],
                "ground": [
                    material("a", "snow"),
                    material("b", "turf", picture="x" * 8, edge=100, broken=0, stands=0, **more),
                ],
            }
        )
        middle = 10 + 20 * np.arange(16.0)
        whole_ = Build(scene(), scene().plot.grid(257), Cache(), Own())
        np.testing.assert_allclose(colour_at(whole_, middle, middle[::-1]), linear(rgb), atol=0.004)
        np.testing.assert_allclose(whole_.means()[1], linear(rgb).reshape(-1, 3).mean(0), rtol=0.2)
        frame = whole_.marks.frame("f")
        over = Build(scene(over="f"), scene().plot.grid(257), Cache(), Own())
        share = over.ground()[1]
        self.assertAlmostEqual(
            float(share.sum()) * over.grid.spacing**2,
            frame.width_m * frame.depth_m,
            delta=0.06 * frame.width_m * frame.depth_m,
        )
        centre = over.picture_at(
            over.scene.ground[1],
            np.array([[160 - frame.width_m / 32]]),
            np.array([[160 + frame.depth_m / 32]]),
        )
        np.testing.assert_allclose(centre[0, 0, :3], linear(rgb[7, 7]), atol=0.01)
        # its relief is light alone: the baked normals lean with it, the ground does not move
        y, x = np.mgrid[0:64, 0:64]
        ramp = io.BytesIO()
        Image.fromarray(np.uint8(x * 4)).save(ramp, "PNG")
        sheet = read_picture(out.getvalue(), ramp.getvalue())
        self.assertEqual(
            sheet.reshape(16, 16, 4)[8, :, 3].tolist(),
            sorted(sheet.reshape(16, 16, 4)[8, :, 3].tolist()),
        )
        steep = Build(scene(picture_m=160), scene().plot.grid(257), Cache(), Own())
        with tempfile.TemporaryDirectory() as folder:
            write_pictures(
                Path(folder), steep, GroundFiles(picture_px=128), lambda *a: None, lambda: None
            )
            normal = (
                np.asarray(Image.open(Path(folder) / "ground/normal.png")).astype(float) / 127.5 - 1
            )
        self.assertAlmostEqual(
            float(np.median(normal[20:-20, 30:-30, 0])), -0.45, delta=0.08
        )  # 160 m over 320 m rises to the east
        np.testing.assert_array_equal(steep.heights, whole_.heights)
        for data, words in ((b"no", "cannot be read"), (out.getvalue()[:60], "cannot be read")):
            with self.assertRaisesRegex(SceneError, words):
                read_picture(data)


class Files(unittest.TestCase):
    def test_weights_pictures_textures_and_legend(self):
        b = built(
            [
                material("Turf"),
                material("Scree", "scree", STEEP),
                material("Snow", "snow", HIGH),
                material("Off", "ice", on=False),
                material("Sand", "sand", PATCHES),
                material("Moss", "moss", PATCHES),
            ]
        )
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder)
            grow(
                b.scene,
                b.rasters,
                out / "a",
                129,
                256,
                files={
                    "ground": {
                        "bits": 16,
                        "packed": True,
                        "picture_px": 300,
                        "tile_px": 256,
                        "textures": True,
                    }
                },
            )
            legend = json.loads((out / "a/materials/legend.json").read_text())
            sums = sum(
                cv2.imread(str(out / "a/materials" / f), cv2.IMREAD_UNCHANGED).astype(int).sum(-1)
                for f in sorted({line["file"].split("/")[1] for line in legend["materials"]})
            )
            self.assertTrue((sums == 65535).all())
            names = [(line["name"], line["channel"]) for line in legend["materials"]]
            self.assertEqual(
                names,
                [
                    ("Turf", "red"),
                    ("Scree", "green"),
                    ("Snow", "blue"),
                    ("Sand", "alpha"),
                    ("Moss", "red"),
                ],
            )
            second = cv2.imread(str(out / "a/materials/weights-1.png"), cv2.IMREAD_UNCHANGED)[
                ..., 1
            ]
            share = Build(b.scene, b.scene.plot.grid(129), Cache()).ground()[1]
            self.assertLess(np.abs(second / 65535 - share).max(), 2e-5)
            tiles = {p.name for p in (out / "a/ground").iterdir()}
            self.assertIn("colour-2-2.png", tiles)
            grow(b.scene, b.rasters, out / "b", 129, 256, files={"ground": {"picture_px": 300}})
            one = np.asarray(Image.open(out / "b/ground/colour.png"))
            tile = np.asarray(Image.open(out / "a/ground/colour-2-2.png"))
            np.testing.assert_array_equal(one[256:, 256:], tile)  # a tile equals the whole
            self.assertEqual(one.shape, (300, 300, 3))
            self.assertIn("Scree", (out / "b/materials/legend.svg").read_text())
            self.assertEqual(
                np.asarray(Image.open(out / "a/textures/scree-normal.png")).shape, (512, 512, 3)
            )
            normal = np.asarray(Image.open(out / "b/ground/normal.png")).astype(float) / 127.5 - 1
            np.testing.assert_allclose(np.linalg.norm(normal, axis=-1), 1, atol=0.02)

    def test_whole_numbers_sum_exactly(self):
        w = (
            np.random.default_rng(5)
            .dirichlet(np.ones(7), (40, 30))
            .transpose(2, 0, 1)
            .astype(np.float32)
        )
        for top in (255, 65535):
            v = whole(w, top)
            self.assertTrue((v.astype(int).sum(0) == top).all())
            self.assertLess(np.abs(v / top - w).max(), 1.01 / top)


if __name__ == "__main__":
    unittest.main()
