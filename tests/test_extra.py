"""Files of a studio's own: each adds one thing, found in the page and in the files; a bad one is
told, and the rest works.
"""

import io
import json
import os
import shutil
import subprocess
import sys
import tempfile
import unittest
import zipfile
from pathlib import Path

from sow.run import Server
from sow.store.cluster import free_port
from tests.page import Keys, Page

TIER = "page"

EXTRA = Path(__file__).parent / "extra"
BAD = {
    "broken.py": "import a_module_that_is_nowhere\n",
    "taken.py": (EXTRA / "ripples.py").read_text().replace('"toy-ripples"', '"noise"'),
    "raising.py": (EXTRA / "ripples.py")
    .read_text()
    .replace("toy-ripples", "toy-raising")
    .replace("    a = np.deg2rad", '    raise ValueError("no such wave")\n    a = np.deg2rad'),
}
SCENE = {
    "name": "Toys",
    "plot": {"width_m": 300, "depth_m": 300, "posts": 129},
    "land": [{"id": "n", "name": "Noise", "kind": "noise", "feature_m": 120, "height_m": 20}],
    "ground": [{"id": "g", "name": "Turf", "ground": "turf"}],
}


class Extra(unittest.TestCase):
    """One server whose SOW_EXTRA holds a toy of each sort and three bad files."""

    @classmethod
    def setUpClass(cls):
        cls.home = Path(tempfile.mkdtemp(prefix="sow-extra-"))
        cls.home.chmod(0o755)
        cls.folder = cls.home / "extra"
        shutil.copytree(EXTRA, cls.folder)
        for name, text in BAD.items():
            (cls.folder / name).write_text(text)
        cls.before = dict(os.environ)
        os.environ |= {"SOW_EXTRA": str(cls.folder), "SOW_PORT": str(free_port())}
        cls.server = Server(cls.home / "data")
        cls.server.folder.mkdir()
        cls.server.folder.chmod(0o755)
        cls.server.start(180)
        cls.scene = cls.server.ask("/api/scenes", {"document": SCENE}, 60)
        cls.page = Page(
            cls.server.address, "sketch", f"/?scene={cls.scene['id']}", key=cls.server.key
        )
        cls.page.settled()

    @classmethod
    def tearDownClass(cls):
        cls.page.close()
        cls.server.stop()
        os.environ.clear()
        os.environ |= cls.before
        shutil.rmtree(cls.home, ignore_errors=True)

    def tearDown(self):
        self.page.shot_if_failed(self)

    def changed(self, deed) -> dict:
        """The document after a deed was kept."""
        before = self.page.state()["revision"]
        deed()
        return self.page.kept(before)["document"]

    def test_each_toy_is_offered_set_and_handed_over(self):
        page = self.page
        with self.subTest("bad files are told at start and in the page"):
            told = {x["file"]: x["message"] for x in self.server.ask("/api/catalogue")["left_out"]}
            self.assertEqual(set(told), {"broken.py", "taken.py"})
            self.assertIn("a_module_that_is_nowhere", told["broken.py"])
            self.assertIn("registered twice", told["taken.py"])
            self.assertIn("broken.py was left out", page.text())
        with self.subTest("a landform in the menu with its picture, its panel and its files"):
            self.landform()
        with self.subTest("a condition in the menu of rules"):
            self.condition()
        with self.subTest("a sheet of the survey"):
            page.unfold("land")
            page.until(lambda: page.one("[data-survey] select"), 20)
            sheets = "[...document.querySelectorAll('[data-survey] option')]"
            self.assertIn("Toy: east", page.js(f"return {sheets}.map((o) => o.text)"))
            page.js(
                "const s = document.querySelector('[data-survey] select');"
                "Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value')"
                ".set.call(s, 'toy-east'); s.dispatchEvent(new Event('change', {bubbles: true}))"
            )
            page.until(lambda: page.js("return !!sow.get().sheet?.answer"), 60)
            self.assertEqual(page.js("return Math.round(sow.get().sheet.answer.highest)"), 300)
        with self.subTest("a family in the cabinet, its kind sown"):
            page.js("document.querySelector('[data-pad]').focus()")
            page.keys("k")
            page.click("[data-drawer=toy-coral]")
            page.until(lambda: "Toy cone" in page.text(), 30)
            page.keys(Keys.ESCAPE)
            page.unfold("planting")
            page.click("[aria-label='Add sowing']")
            sown = self.changed(lambda: page.click("[data-add=toy-cone]"))["planting"]
            self.assertEqual(sown[0]["mix"][0]["kind"], "toy-cone")
            self.assertLessEqual(sown[0]["density"], 3)
        with self.subTest("an exporter with its options, in the files"):
            self.files()
        with self.subTest("a function that raises is told, and the rest goes on"):
            page.unfold("land")
            page.click("[aria-label='Add landform or process']")
            self.changed(lambda: page.click("[data-add=toy-raising]"))
            page.until(lambda: "no such wave" in page.text(), 60)
            self.assertIn("raising.py", page.text())
            page.js("document.querySelector('[data-pad]').focus()")
            page.chord(Keys.CONTROL, "z")
            kinds = "return sow.get().state.document.land.map((e) => e.kind)"
            page.until(lambda: "toy-raising" not in page.js(kinds), 30)
            page.settled()
        unlooked = [e for e in page.errors() if " 422 " not in e]
        self.assertEqual(unlooked, [])

    def landform(self):
        page = self.page
        page.unfold("land")
        page.click("[aria-label='Add landform or process']")
        line = page.one("[data-add=toy-ripples]")
        self.assertIn("Toy ripples", line.text)
        picture = "const i = document.querySelector('[data-add=toy-ripples] img'); return "
        page.until(lambda: page.js(picture + "i.complete && i.naturalWidth > 20"), 60)
        made = self.changed(lambda: page.click("[data-add=toy-ripples]"))["land"][-1]
        self.assertEqual((made["kind"], made["spacing_m"]), ("toy-ripples", 60))
        entry = f"[data-entry={made['id']}]"
        self.assertIn("60 m apart", page.text(entry))
        slider = f"{entry} [role=slider][aria-label='Ripple height']"
        page.js("document.querySelector(arguments[0]).focus()", slider)
        higher = self.changed(lambda: page.keys(Keys.ARROW_RIGHT))["land"][-1]["height_m"]
        self.assertGreater(higher, made["height_m"])

    def condition(self):
        page = self.page
        page.unfold("ground")
        page.click("[data-entry=g] button")
        page.click("[data-entry=g] [aria-label='Add rule']")
        rule = self.changed(lambda: page.click("[data-add=toy-stripes]"))["ground"][0]["where"][0]
        self.assertEqual((rule["kind"], rule["width_m"]), ("toy-stripes", 30))
        page.until(lambda: "Stripe width" in page.text("[data-where=toy-stripes]"), 20)

    def files(self):
        page = self.page
        page.unfold("handover")
        page.click_text("Toy note", "[data-section=handover]")
        page.click("[data-exporter=toy-note] [data-field=feet]")
        page.click("[data-grow]")
        page.until(lambda: page.one("[data-files]"), 180)
        page.click("[data-files]")
        with zipfile.ZipFile(io.BytesIO(page.downloaded(".zip").read_bytes())) as files:
            self.assertRegex(files.read("note.txt").decode(), r"^\d+\.\d ft\n$")
            self.assertIn("toy-cone", files.read("plants.csv").decode())
            self.assertIn("kinds/toy-cone.glb", files.namelist())

    def test_the_command_line_grows_with_them_too(self):
        scene = self.home / "scene.json"
        toy = {"id": "t", "name": "Toy", "kind": "toy-ripples"}
        scene.write_text(json.dumps({**SCENE, "land": [toy], "ground": []}))
        out = self.home / "out"
        told = subprocess.run(
            [sys.executable, "-m", "sow", "grow", scene, out, "--size", "65"],
            env=os.environ | {"PYTHONPATH": "src"},
            capture_output=True,
            text=True,
            check=True,
        )
        self.assertEqual((out / "note.txt").read_text(), "8.0 m\n")
        self.assertIn("broken.py was left out", told.stderr)


if __name__ == "__main__":
    unittest.main()
