"""Data files: a copy of a shipped table, changed, is a thing of its own; what is wrong with one is
told with file and line, and the rest is taken.
"""

import tempfile
import unittest
from pathlib import Path

from sow.core.air.ready import lights
from sow.core.cabinet import kind_of, kinds
from sow.core.cabinet.measures import MEASURES
from sow.core.cabinet.tree import Tree
from sow.core.document.data import built, read_data
from sow.core.errors import SceneError
from sow.core.picture.grade.ready import READY

TIER = "fast"

GOOD = """# a copy
[kind.test-oak]
like = "oak"
label = "Test oak"
height = 3

[kind.test-oak.form]
spread = 0.2
"""
WRONG = {
    "spread = 0.2": ("spraed = 0.2", "line 8", "“spraed” is not known here; “spread” is meant?"),
    "height = 3": ('height = "tall"', "line 5", "“tall” is no float"),
    'like = "oak"': ('like = "oaks"', "line 3", "“oak” is meant?"),
    "[kind.test-oak]\n": ("[kinds.test-oak]\n", "line 2", "“kind” is meant?"),
    'label = "Test oak"\n': ('leaf = { as = "round" }\n', "line 4", "“round” is not known here"),
}


class Data(unittest.TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def read(self, text: str, told=None) -> None:
        file = self.folder / "own.toml"
        file.write_text(text)
        self.addCleanup(kinds.pop, "test-oak", None)
        read_data(file, told)

    def test_a_table_like_another_has_its_fields_but_for_its_own(self):
        self.read(GOOD)
        oak, own = kind_of("oak"), kind_of("test-oak")
        self.assertEqual((own.label, own.height_m, own.family), ("Test oak", 3, oak.family))
        self.assertAlmostEqual(own.reach_m, 0.6)
        self.assertEqual(own.colour, oak.colour)

    def test_what_is_wrong_is_told_with_file_and_line(self):
        for right, (wrong, line, words) in WRONG.items():
            with self.subTest(wrong):
                with self.assertRaises(SceneError) as told:
                    self.read(GOOD.replace(right, wrong))
                self.assertIn("own.toml, ", told.exception.message)
                self.assertIn(line, told.exception.message)
                self.assertIn(words, told.exception.message)
                self.assertNotIn("test-oak", kinds)
        for text, words in (
            (
                "[light.test]\nsun_hieght = 3",
                "line 2: light “test”: “sun_hieght” is not known here; “sun_height” is meant?",
            ),
            (
                "[grade.test]\nsteps = [{ kind = 'tints', name = 'T', stregnth = 9 }]",
                "line 2: grade",
            ),
            ("[measure.test]\nhigh = [1, 2]", "“height” is meant?"),
            ("[kind.oak]\nrecipe = 'tree'\nlabel = 'Oak'", "registered twice"),
            ("[kind", "can't be read"),
        ):
            with self.subTest(text), self.assertRaisesRegex(SceneError, words):
                self.read(text)

    def test_the_rest_of_a_file_is_taken(self):
        heard = []
        told = lambda file, error: heard.append(error.message)
        self.addCleanup(lights.pop, "test-light", None)
        self.read("[light.bad]\nsun = 1\n[light.test-light]\nlabel = 'Test'\n", told)
        self.assertEqual(len(heard), 1)
        self.assertEqual(lights["test-light"].label, "Test")

    def test_grades_that_ship_are_read(self):
        self.assertEqual(READY["clean"], ("Clean", []))
        self.assertGreaterEqual(len(READY), 7)

    def test_what_is_measured_is_a_kind(self):
        self.assertEqual(set(MEASURES) - set(kinds), set())

    def test_fields_are_built_by_name(self):
        with self.assertRaisesRegex(SceneError, "“form” is missing"):
            built(Tree, {"height": 2.0, "colour": [0, 0, 0], "bark": 1, "leaf": 1}, {})


if __name__ == "__main__":
    unittest.main()
