"""Through the real page: a model's file read again, how it shines, the drawers of parts."""

import tempfile
import unittest
from pathlib import Path

import numpy as np
import trimesh
from selenium.webdriver.support.select import Select

from tests.journeys import Journeys
from tests.served import ask, send_files

TIER = "page"

PLOT = {"width_m": 100, "depth_m": 100, "posts": 65}
POSE = {"east": 50, "north": 38, "up": 2.5, "bearing": 0, "tilt": 0, "focal": 50}


def model(rough: float, metal: float, height_m: float, name: str = "wall") -> bytes:
    """A block of one surface, standing on its foot, y up."""
    box = trimesh.creation.box((6, height_m, 0.4))
    box.apply_translation((0, height_m / 2, 0))
    material = trimesh.visual.material.PBRMaterial(
        name=name,
        baseColorFactor=(200, 120, 60, 255),
        roughnessFactor=rough,
        metallicFactor=metal,
    )
    box.visual = trimesh.visual.TextureVisuals(material=material)
    return trimesh.Scene([box]).export(file_type="glb")


class Drawers(Journeys):
    FIRST = {"name": "Yard", "plot": PLOT, "ground": [{"id": "g", "name": "Turf"}]}

    def middle(self) -> np.ndarray:
        """The mean colour of what stands before the eye, as it is drawn."""
        self.page.settled()
        return self.page.still(POSE, 160, 90, 8)[35:55, 60:100].mean((0, 1))

    def with_pieces(self, pieces: list) -> None:
        """The scene with other pieces, opened anew."""
        state = self.page.state()
        document = {**state["document"], "pieces": pieces}
        order = {"base": state["revision"], "label": "elsewhere", "document": document}
        self.assertEqual(ask("POST", f"/api/scenes/{state['id']}/edits", order)[0], 200)
        self.page.go(f"/?quality=sketch&scene={state['id']}")

    def test_a_models_file_is_read_again_and_its_surface_shines_and_clears(self):
        page = self.page
        self.open()
        page.js("delete window.showOpenFilePicker; window.showOpenFilePicker = undefined")
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "Wall.glb"
            file.write_bytes(model(0.9, 0.0, 4))
            page.keys("k")
            page.until(lambda: page.one("[data-cabinet]"), 60)
            page.one("[data-model-files]").send_keys(str(file))
            page.until(lambda: page.one("[data-model-form]"), 60)
            page.click("[data-make-kind]")
            kind = lambda: page.one("[data-kind-sheet^=own-]").get_attribute("data-kind-sheet")
            first = page.until(kind, 60)
            page.click("[data-stand]")
            big = page.on_map()
            document = self.changed(lambda: page.mouse(page.at(big, 50, 50)))
            self.assertEqual(document["pieces"][0]["kind"], first)
            page.js("sow.set({cabinetAt: {drawer: 'own', kind: arguments[0]}})", first)
            page.until(lambda: kind() == first, 60)
            # the file is another one now: higher, of metal, with another name for its surface
            file.write_bytes(model(0.1, 1.0, 5, "tin"))
            before = page.state()["revision"]
            page.one("[data-again-files]").send_keys(str(file))
            told = page.until(lambda: page.text("[data-replaced]"), 60)
            self.assertIn("4 m 5 m", told.replace("\n", " "))
            self.assertIn("wall there gone", told)
            self.assertIn("tin none new", told)
            now = page.kept(before)["document"]["pieces"][0]["kind"]
            self.assertNotEqual(now, first)
            self.assertEqual(kind(), now)
            page.click("[data-close-cabinet]")
            self.looks_at_the_wall()
        self.assertEqual(page.errors(), [])

    def looks_at_the_wall(self):
        """The same wall dull, of bright metal and of glass."""
        seen = {}
        source = send_files("/api/models", ("w.glb", model(0.9, 0.0, 5)))[1]
        piece = {"id": "p", "name": "Wall", "east_m": 50, "north_m": 50}
        for name, surface in (
            ("dull", {"rough": 90, "metal": 0, "glass": 0}),
            ("metal", {"rough": 5, "metal": 100, "glass": 0}),
            ("glass", {"rough": 5, "metal": 0, "glass": 100}),
        ):
            settings = {**source["settings"], "surfaces": [surface]}
            made = ask("POST", f"/api/models/{source['source']}/kinds", {"settings": settings})[1]
            self.with_pieces([{**piece, "kind": made["kind"]["name"]}])
            seen[name] = self.middle()
        self.with_pieces([])
        bare = self.middle()
        away = {name: float(np.abs(colour - bare).mean()) for name, colour in seen.items()}
        self.assertGreater(away["dull"], 12, seen | {"bare": bare})
        self.assertLess(away["glass"], 0.4 * away["dull"], seen | {"bare": bare})
        between = float(np.abs(seen["metal"] - seen["dull"]).mean())
        self.assertGreater(between, 12, seen | {"bare": bare})

    def test_a_part_goes_to_both_drawers_and_comes_back_in_another_scene(self):
        page = self.page
        for line in ask("GET", "/api/parts")[1]:  # what other files left in this server's drawers
            place = f"shared-parts/{line['file']}" if line["file"] else f"parts/{line['id']}"
            ask("DELETE", f"/api/{place}")
        mix = {"id": "w", "name": "Birches", "mix": [{"kind": "birch"}], "density": 1}
        self.open(planting=[mix])
        page.keys("d")
        Select(page.one("[aria-label=Part]")).select_by_value("planting")
        for drawer, name in (("keep", "My birches"), ("share", "Our birches")):
            page.one("[aria-label='Name in the drawer']").send_keys(name)
            page.one("[aria-label='Note in the drawer']").send_keys("for damp places")
            page.click(f"[data-{drawer}-part]")
            page.until(lambda: name in page.text("[data-parts]"), 60)
        rows = page.all("[data-parts] [data-part]")
        told = [row.text for row in rows]
        self.assertTrue(all("for damp places · from Yard" in t for t in told), told)
        self.assertEqual(sum("shared" in t for t in told), 1)
        self.assertEqual(len(page.all("[data-parts] img")), len(rows))
        self.open()
        page.keys("d")
        use = page.one("[data-parts] [data-use]")
        document = self.changed(use.click)
        self.assertEqual([s["name"] for s in document["planting"]], ["Birches"])
        page.keys("d")
        for left in range(len(told) - 1, -1, -1):
            page.click("[data-parts] [aria-label$=' out']")
            page.until(lambda: len(page.all("[data-parts] [data-part]")) == left, 60)
        self.assertIn("The drawers are empty", page.text("[data-parts]"))
        self.assertEqual(page.errors(), [])


if __name__ == "__main__":
    unittest.main()
