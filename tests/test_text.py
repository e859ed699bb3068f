"""Text from outside, made harmless; and documents whose names would do harm."""

import csv
import io
import json
import unittest
import xml.etree.ElementTree as ET

from sow.core.document.text import cell, file_stem, harmless, plain_text
from sow.core.errors import SceneError
from sow.core.scene import read_scene

TIER = "fast"

HARM = (
    "<script>alert(1)</script>",
    "<img src=x onerror=alert(1)>",
    "javascript:alert(1)",
    "]]><!-- & ' \" -->",
    "=HYPERLINK(1)",
    "@cmd",
    "a\u202egnp.exe",
    "a\r\nSet-Cookie: b=c",
    "tab\tbell\x07",
    "\\u0000",
    "../../etc/passwd",
    "名前 नाम اسم",
)


class Text(unittest.TestCase):
    def test_is_on_one_line_without_what_hides_or_turns(self):
        for text in HARM:
            seen = harmless(text)
            self.assertNotRegex(seen, "[\\x00-\\x1f\\x7f\u202a-\u202e\u2066-\u2069]")
            self.assertEqual(harmless(seen), seen)
        self.assertEqual(plain_text("  a \n b\u200b "), "a b")
        self.assertEqual(plain_text("क्\u200dष"), "क्\u200dष")  # a joiner is part of some words
        self.assertEqual(harmless("名前 नाम اسم"), "名前 नाम اسم")

    def test_cells_are_no_formulas_and_stems_no_paths(self):
        for text in ("=1+1", "+1", "-1", "@x", "\t=1"):
            self.assertEqual(cell(text), "'" + text)
        self.assertEqual(cell("birch - old"), "birch - old")
        for text in HARM:
            self.assertRegex(file_stem(text, "kind"), "^[A-Za-z0-9-]{1,80}$")

    def test_names_that_cannot_be_seen_are_refused(self):
        for name in ("\u202e", "\x07", " \n "):
            with self.assertRaises(SceneError):
                read_scene({"name": name})
        self.assertEqual(read_scene({"name": "a\r\nb"}).name, "a  b")


class Documents(unittest.TestCase):
    """The files that are handed over hold no markup, no formula and no control character of a
    name's making.
    """

    @classmethod
    def setUpClass(cls):
        from sow.core.build import Build
        from sow.core.cache import Cache
        from sow.core.formats.plan import plan_pdf, plan_svg
        from sow.core.formats.plants import write_csv  # noqa: F401  (what the schedule quotes as)
        from sow.core.formats.schedule import schedule_csv

        cls.names = [n for n in HARM if "\x07" not in n]
        mix = [{"kind": "birch"}]
        document = {
            "name": HARM[0],
            "plot": {"width_m": 200, "depth_m": 200, "posts": 129},
            "planting": [
                {"id": f"s{i}", "name": n, "mix": mix, "density": 0.2, "seed": i + 1}
                for i, n in enumerate(cls.names)
            ],
        }
        cls.scene = read_scene(document)
        build = Build(cls.scene, cls.scene.plot.draft_grid(), Cache(1 << 28))
        cls.svg = plan_svg(build)
        cls.pdf = plan_pdf(build)
        cls.csv = schedule_csv(build)

    def test_the_plan_is_one_picture_of_drawing_elements(self):
        root = ET.fromstring(self.svg)
        tags = {e.tag.split("}")[-1] for e in root.iter()}
        self.assertFalse(tags & {"script", "foreignObject", "img", "a", "iframe"}, tags)
        for e in root.iter():
            self.assertFalse([k for k in e.attrib if k.lower().startswith("on")], e.attrib)
        self.assertIn(HARM[0], "".join(root.itertext()))
        self.assertTrue(bytes(self.pdf).startswith(b"%PDF-"))
        self.assertNotIn(b"/JavaScript", self.pdf)

    def test_the_schedule_holds_no_formula(self):
        rows = list(csv.reader(io.StringIO(self.csv)))
        for row in rows[1:]:
            for value in row:
                self.assertFalse(value.startswith(("=", "+", "@", "-")), value)
        self.assertIn("'=HYPERLINK(1)", [r[0] for r in rows])

    def test_a_document_reads_back_the_same(self):
        again = read_scene(json.loads(json.dumps(self.scene.model_dump(mode="json"))))
        self.assertEqual(again, self.scene)
