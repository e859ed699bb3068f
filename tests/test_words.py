"""Words: one class name has one meaning, and the glossary tells of what is there."""

import ast
import re
import unittest
from collections import defaultdict
from pathlib import Path

TIER = "fast"
ROOT = Path(__file__).parents[1]
SOURCES = sorted((ROOT / "src").rglob("*.py"))
# words of ours for which the field has its own, by what stands for them now
RETIRED = {"crew": "pool", "wall": "sandbox", "glimpse": "preview"}
WRITES_KINDS = {"src/sow/core/cabinet/dressed.py", "web/src/api/dressed.ts"}


class Words(unittest.TestCase):
    def test_a_class_name_stands_for_one_thing(self):
        where = defaultdict(list)
        for path in SOURCES:
            for node in ast.parse(path.read_text()).body:
                if isinstance(node, ast.ClassDef):
                    where[node.name].append(str(path.relative_to(ROOT)))
        twice = {name: files for name, files in where.items() if len(files) > 1}
        self.assertEqual(twice, {})

    def test_each_row_of_the_glossary_names_a_place_that_is_there(self):
        rows = [
            [cell.strip() for cell in line.strip("|\n ").split("|")]
            for line in (ROOT / "docs" / "glossary.md").read_text().splitlines()
            if line.startswith("|")
        ][2:]
        self.assertGreater(len(rows), 40)
        words = [row[0] for row in rows]
        self.assertEqual(len(words), len(set(words)))
        for word, field, told, where in rows:
            with self.subTest(word):
                self.assertTrue(field and told)
                self.assertTrue((ROOT / where.strip("`")).exists(), where)

    def test_no_module_or_class_has_a_retired_name(self):
        for path in SOURCES:
            names = {part.removesuffix(".py") for part in path.relative_to(ROOT).parts}
            classes = {
                node.name.lower()
                for node in ast.walk(ast.parse(path.read_text()))
                if isinstance(node, ast.ClassDef)
            }
            for word in RETIRED.keys() & (names | classes):
                self.fail(f"{path.relative_to(ROOT)}: “{word}” is called “{RETIRED[word]}” now.")

    def test_one_file_reads_and_writes_the_string_of_a_dressed_kind(self):
        pages = [p for p in (ROOT / "web" / "src").rglob("*.ts*") if p.suffix in (".ts", ".tsx")]
        for path in [*SOURCES, *pages]:
            if str(path.relative_to(ROOT)) not in WRITES_KINDS:
                found = re.search(r'["`}]~["`{$]', path.read_text())
                self.assertIsNone(found, path)


if __name__ == "__main__":
    unittest.main()
