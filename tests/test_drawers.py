"""What lies in the cabinet is what it says: kinds by their measures, grounds by what a texture must
be, heightmaps by their range, and mixes on every sort of ready land.
"""

import json
import unittest
from itertools import combinations

import cv2
import numpy as np

from sow.core.build import Build
from sow.core.cabinet import grounds, heightmaps, kinds, lands
from sow.core.cabinet.family import families
from sow.core.cabinet.kind import linear
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.formats.texture import seam
from sow.core.planting.mix_file import gathered, read_mix
from sow.core.planting.mixes import mixed, mixes
from sow.core.scene import read_scene

TIER = "whole"

PLAIN = {k: v for k, v in kinds.items() if v.family != "figure"}


class Measures(unittest.TestCase):
    """Each kind has the height and reach that it states, and stands on the ground."""

    @classmethod
    def setUpClass(cls):
        cls.shapes = {name: kind.shape() for name, kind in PLAIN.items()}

    def near(self, name: str) -> np.ndarray:
        """Places of all variants at their nearest level, (n, 3)."""
        return np.concatenate([levels[0].positions for levels in self.shapes[name].levels])

    def test_height_and_reach_are_those_stated(self):
        for name, kind in PLAIN.items():
            with self.subTest(name):
                places = self.near(name)
                tops = [levels[0].positions[:, 2].max() for levels in self.shapes[name].levels]
                self.assertAlmostEqual(float(np.mean(tops)) / kind.height_m, 1, delta=0.45)
                away = np.hypot(places[:, 0], places[:, 1])
                self.assertGreater(float(away.max()), 0.35 * kind.reach_m)
                self.assertLess(float(np.quantile(away, 0.98)), 3.2 * kind.reach_m)

    def test_it_stands_on_the_ground_not_over_it(self):
        for name in PLAIN:
            for levels in self.shapes[name].levels:
                for mesh in levels[:-1]:
                    low = float(mesh.positions[:, 2].min())
                    high = float(mesh.positions[:, 2].max())
                    self.assertLess(low, 0.08 * high + 0.02, name)

    def test_levels_are_ever_coarser_and_keep_the_outline(self):
        for name, shape in self.shapes.items():
            with self.subTest(name):
                self.assertEqual(len(shape.far_m), len(shape.levels[0]) - 1)
                self.assertTrue((np.diff(shape.far_m) > 0).all())
                for levels in shape.levels:
                    counts = [len(m.faces) for m in levels]
                    self.assertEqual(counts, sorted(counts, reverse=True))
                    self.assertEqual(counts[-1], 2)  # the card that faces the eye
                    tops = [float(m.positions[:, 2].max()) for m in levels]
                    self.assertLess(max(tops) / min(tops), 1.6)

    def test_variants_differ_and_the_same_is_made_twice(self):
        for name in ("birch", "heather", "boulder", "moor-grass", "bracken", "wall", "log"):
            kind = kinds[name]
            again = kind.make("summer")
            firsts = [levels[0].positions for levels in self.shapes[name].levels]
            for mine, other in zip(firsts, [levels[0].positions for levels in again.levels]):
                np.testing.assert_array_equal(mine, other)
            self.assertEqual(len({p.tobytes() for p in firsts}), len(firsts), name)

    def test_normals_are_of_unit_length_and_pictures_have_clear_parts(self):
        for name, shape in self.shapes.items():
            for levels in shape.levels:
                for mesh in levels:
                    length = np.linalg.norm(mesh.normals, axis=1)
                    np.testing.assert_allclose(length, 1, atol=0.35, err_msg=name)
            if families[PLAIN[name].family].leafy:
                clear = float((shape.sheet[..., 3] < 20).mean())
                self.assertTrue(0.02 < clear < 0.99, (name, clear))

    def test_colours_are_those_of_things_that_are_lit(self):
        for name, kind in PLAIN.items():
            for look in kind.looks:
                colour = np.array(kind.mean(look))
                self.assertTrue((colour >= 0).all() and (colour < 0.95).all(), (name, look))
            if "winter" in kind.looks and kind.look("autumn") == "autumn":
                self.assertFalse(
                    np.allclose(kind.mean("summer"), kind.mean("burnt"), atol=0.004), name
                )


class Grounds(unittest.TestCase):
    FAMILIES = [g for g in grounds.values() if g.family == g.name]

    def test_they_tile(self):
        for g in self.FAMILIES:
            colour, detail = g.maps()
            self.assertEqual((colour.shape, detail.shape), ((512, 512, 4), (512, 512, 4)))
            for picture in (colour, detail):
                self.assertLess(seam(picture.astype(np.float32) / 255), 1.6, g.name)

    def test_height_uses_its_range_and_ranks_are_even(self):
        for g in self.FAMILIES:
            height = g.maps()[0][..., 3]
            self.assertGreater(int(np.ptp(height)), 120, g.name)
            ranks = g.ranks()
            self.assertAlmostEqual(float(ranks.mean()), 127.5, delta=6)
            order = np.argsort(height.ravel()[::97], kind="stable")
            self.assertTrue((np.diff(ranks.ravel()[::97][order].astype(int)) >= 0).all(), g.name)

    def test_normals_lean_down_the_slope_of_the_height(self):
        for g in self.FAMILIES:
            colour, detail = g.maps()
            height = colour[..., 3].astype(np.float32)
            east = detail[..., 0].astype(np.float32) / 127.5 - 1
            rise = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) / 2
            self.assertLess(float(np.corrcoef(east.ravel(), rise.ravel())[0, 1]), -0.5, g.name)
            north = detail[..., 1].astype(np.float32) / 127.5 - 1
            self.assertLess(float((east**2 + north**2).max()), 1.05, g.name)

    def test_their_brightness_is_that_of_ground(self):
        """Albedo of soils and vegetation lies between about 0.03 and 0.5; fresh snow above 0.7."""
        for g in self.FAMILIES:
            mean = float(g.mean() @ (0.2126, 0.7152, 0.0722))
            low, high = (0.6, 0.98) if g.name == "snow" else (0.02, 0.62)
            self.assertTrue(low < mean < high, (g.name, mean))
            seen = linear(g.maps()[0][..., :3]).mean((0, 1))
            np.testing.assert_allclose(seen, g.mean(), atol=0.02, err_msg=g.name)

    def test_variants_are_other_pictures_of_the_same_stuff(self):
        for g in grounds.values():
            if g.family == g.name:
                continue
            first = grounds[g.family]
            self.assertEqual(
                (g.directed, g.grown, g.lies), (first.directed, first.grown, first.lies)
            )
            if g.name.endswith("-2") and g.family in ("turf", "granite", "sand"):
                self.assertFalse(np.array_equal(g.maps()[0], first.maps()[0]), g.name)


class Heightmaps(unittest.TestCase):
    def test_each_is_whole_spans_its_range_and_is_the_same_twice(self):
        for name in heightmaps.LABELS:
            with self.subTest(name):
                h = heightmaps.ready(name)
                self.assertEqual((h.shape, h.dtype), ((513, 513), np.float32))
                self.assertTrue(np.isfinite(h).all())
                self.assertAlmostEqual(float(h.min()), 0, delta=1e-4)
                self.assertAlmostEqual(float(h.max()), 1, delta=1e-4)
                self.assertGreater(float(h.std()), 0.05)
                steep = np.abs(np.diff(h, axis=1)).max()
                self.assertLess(float(steep), 0.35)  # no wall of one post

    def test_another_name_is_refused(self):
        with self.assertRaises((SceneError, KeyError, ValueError)):
            heightmaps.ready("nowhere")


class Lands(unittest.TestCase):
    def test_each_ships_with_a_picture_of_its_own(self):
        pictures = [cv2.imread(str(lands.picture_path(land.name))) for land in lands.listed()]
        self.assertEqual({picture.shape for picture in pictures}, {(270, 360, 3)})
        for picture in pictures:
            self.assertGreater(picture.std(), 20)
        apart = [np.abs(a - b.astype(float)).mean() for a, b in combinations(pictures, 2)]
        self.assertGreater(min(apart), 10)
        with self.assertRaises(SceneError):
            lands.picture_path("../index")


class Mixes(unittest.TestCase):
    """Every mix grows on every sort of land, or says why not."""

    def test_each_fits_each_ready_land(self):
        grown: dict[str, int] = dict.fromkeys(mixes, 0)
        for land in list(lands.listed())[:3]:
            document = json.loads(lands.text(land.name))
            document["planting"] = []
            scene = read_scene(document)
            build = Build(scene, scene.plot.draft_grid(), Cache(1 << 28))
            site = build.site()
            for name in mixes:
                sowings, marks, told = mixed(name, site)
                self.assertTrue(sowings, name)
                self.assertTrue(all(isinstance(t, str) and t for t in told))
                kept = [
                    m for m in document.get("marks", []) if m["id"] not in {x["id"] for x in marks}
                ]
                whole = read_scene({**document, "planting": sowings, "marks": kept + marks})
                ids = [s.id for s in whole.planting]
                self.assertEqual(len(set(ids)), len(ids))
                own = Build(whole, whole.plot.draft_grid(), build.cache)
                grown[name] += sum(own.forecasts()) > 0
        self.assertFalse([name for name, count in grown.items() if not count], grown)

    def test_a_mix_goes_to_a_file_and_comes_back(self):
        scene = read_scene(
            {
                "name": "m",
                "plot": {"width_m": 300, "depth_m": 300, "posts": 129},
                "marks": [{"id": "l", "name": "l", "kind": "line", "points": [[0, 0], [9, 9]]}],
                "planting": [
                    {"id": "a", "name": "a", "group": "g", "mix": [{"kind": "birch"}]},
                    {
                        "id": "b",
                        "name": "b",
                        "group": "g",
                        "mix": [{"kind": "rowan"}],
                        "where": [{"kind": "near-line", "mark": "l"}],
                    },
                    {"id": "c", "name": "c", "mix": [{"kind": "boulder"}]},
                ],
            }
        )
        mix = gathered(scene, "a")
        self.assertEqual(([s["id"] for s in mix.sowings], mix.name), (["a", "b"], "g"))
        self.assertEqual([m["id"] for m in mix.marks], ["l"])
        self.assertEqual(read_mix(mix.document()), mix)
        self.assertEqual([s["id"] for s in gathered(scene, "c").sowings], ["c"])
        with self.assertRaises(SceneError):
            gathered(scene, "nobody")

    def test_what_is_no_mix_is_refused(self):
        plain = {"format": "sow-mix-1", "name": "m", "sowings": [], "marks": []}
        for wrong in (
            b"",
            b"{",
            b"[]",
            b"\xff\xfe",
            b'{"a":' * 5000,
            {**plain, "format": "sow-mix-2"},
            {**plain, "marks": 7},
            {**plain, "marks": [3]},
            {**plain, "sowings": "none"},
            {**plain, "sowings": [{"id": "a"}]},
            {**plain, "sowings": [{"id": "a", "name": "a", "mix": [{"kind": "unicorn"}]}]},
        ):
            with self.assertRaises(SceneError, msg=str(wrong)[:60]) as told:
                read_mix(wrong)
            self.assertTrue(str(told.exception))
