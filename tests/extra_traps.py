"""What a studio's own files could stumble over; run where SOW_EXTRA is set (`test_every_field`)."""

import copy
import unittest

import numpy as np

from sow.core.air.ready import lights
from sow.core.build import Build
from sow.core.cabinet import kind_of
from sow.core.cache import Cache
from sow.core.document.extra import troubles
from sow.core.errors import SceneError
from sow.core.planting.plants import Plants
from sow.core.scene import read_scene
from sow.core.shared import PLANT_FLOATS, VARIANTS
from sow.web.products import instances_of

DOCUMENT = {
    "name": "Traps",
    "plot": {"width_m": 200, "depth_m": 200, "posts": 65},
    "land": [{"id": "b", "name": "Bank", "kind": "toy-causeway", "line": "l"}],
    "marks": [
        {"id": "l", "name": "Line", "kind": "line", "points": [[20, 20], [180, 20]]},
        {
            "id": "a",
            "name": "Glade",
            "kind": "area",
            "smooth": False,
            "points": [[20, 20], [90, 20], [90, 90], [20, 90]],
        },
    ],
    "ground": [
        {"id": "g", "name": "Turf"},
        {
            "id": "h",
            "name": "Sand",
            "ground": "sand",
            "stands": 0,
            "broken": 0,
            "where": [{"kind": "toy-glade", "glade": "a"}],
        },
    ],
}


def built(document: dict, cache: Cache) -> Build:
    scene = read_scene(document)
    return Build(scene, scene.plot.grid(), cache)


class Traps(unittest.TestCase):
    def setUp(self):
        self.assertEqual(troubles, [])
        self.cache = Cache()
        self.first = built(DOCUMENT, self.cache)
        self.document = copy.deepcopy(DOCUMENT)

    def again(self) -> tuple[Build, Build]:
        """The edited document, with what the first one left in the cache, and anew."""
        return built(self.document, self.cache), built(self.document, Cache())

    def test_a_landform_whose_line_is_called_line_follows_it(self):
        self.assertGreater(float(self.first.heights.max()), 11)
        self.document["marks"][0]["points"] = [[20, 180], [180, 180]]
        kept, anew = self.again()
        np.testing.assert_array_equal(kept.heights, anew.heights)
        self.assertGreater(float(np.abs(kept.heights - self.first.heights).max()), 11)

    def test_a_condition_whose_area_has_another_name_follows_it(self):
        before = self.first.ground()
        self.document["marks"][1]["points"] = [[110, 110], [180, 110], [180, 180], [110, 180]]
        kept, anew = self.again()
        np.testing.assert_array_equal(kept.ground(), anew.ground())
        self.assertAlmostEqual(float(np.abs(kept.ground() - before).max()), 1, places=3)

    def test_a_band_takes_a_share_by_its_measure_or_says_that_it_has_none(self):
        where = self.document["ground"][1]["where"]
        where[0] = {"kind": "toy-east-band", "take": "lowest", "share": 25}
        share = float(built(self.document, Cache()).ground()[1].mean())
        self.assertAlmostEqual(share, 0.25, delta=0.02)
        where[0]["kind"] = "toy-unmeasured"
        with self.assertRaises(SceneError) as told:
            built(self.document, Cache()).ground()
        self.assertIn("can't take a share", str(told.exception))
        self.assertIn("ground.1.where.0.take", told.exception.path)

    def test_each_of_many_variants_is_drawn_as_itself(self):
        self.assertEqual(len(kind_of("toy-many").variants), 32)
        for name, count in (("toy-many", 32), ("boulder", 4)):
            self.assertLessEqual(count, VARIANTS, name)
        rows = 2 * 32
        column = np.zeros(rows, np.float32)
        kind = np.repeat([0, 1], 32).astype(np.uint8)
        variant = np.tile(np.arange(32), 2).astype(np.uint8)
        plants = Plants(
            **dict.fromkeys(("east", "north", "up", "turn", "lean", "bearing"), column),
            **dict.fromkeys(("size", "tint", "rank"), column),
            kind=kind,
            variant=variant,
        )
        codes = np.frombuffer(instances_of(plants, 16)[0], "<f4").reshape(rows, PLANT_FLOATS)[:, 8]
        self.assertEqual(len(set(codes)), rows)
        np.testing.assert_array_equal(np.sort(codes // VARIANTS), kind)
        np.testing.assert_array_equal(np.sort(codes % VARIANTS), np.sort(variant))

    def test_a_kind_and_a_light_as_data_are_taken(self):
        own = kind_of("toy-birch")
        self.assertEqual((own.height_m, own.family), (5.0, kind_of("birch").family))
        self.assertAlmostEqual(own.reach_m, 0.29 * 5)
        self.assertEqual(lights["toy-dusk"].values, {"sun_height": 2})

    def test_a_reference_to_a_mark_that_is_gone_is_told_or_asks_nothing(self):
        self.document["marks"] = []
        kept, _ = self.again()
        self.assertEqual(float(np.abs(kept.heights).max()), 0)
        self.assertAlmostEqual(float(kept.ground()[1].mean()), 1, places=3)


if __name__ == "__main__":
    unittest.main()
