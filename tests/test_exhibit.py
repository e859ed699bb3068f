"""A scene cut out as a model that stands in another."""

import unittest

import numpy as np
import trimesh
from selenium.webdriver.support.select import Select

from sow.core.errors import SceneError
from sow.core.formats.exhibit import Exhibit, exhibit
from sow.core.formats.model import read_model
from sow.core.formats.ownkind import OwnKind, OwnSurface, made, model_glb
from tests.page import Page
from tests.served import ask, server
from tests.small import SIDE_M, build_of, scene_of

TIER = "page"

PLANTING = [
    {"id": "w", "name": "Wood", "mix": [{"kind": "birch"}, {"kind": "boulder"}], "density": 2}
]
STANDS = {
    "ground": [{"id": "g", "name": "Turf", "ground": "turf"}],
    "planting": PLANTING,
    "marks": [
        {
            "id": "bay",
            "name": "Bay",
            "kind": "area",
            "smooth": False,
            "points": [[40, 40], [150, 40], [150, 160], [100, 90], [60, 150]],
        },
        {
            "id": "knot",
            "name": "Knot",
            "kind": "area",
            "smooth": False,
            "points": [[40, 40], [150, 150], [150, 40], [40, 150]],
        },
    ],
    "water": [{"id": "w1", "name": "Pool", "reach": "everywhere", "level_m": -2}],
}
MIDDLE = {"east_m": SIDE_M / 2, "north_m": SIDE_M / 2}


class Cut(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.build = build_of(**STANDS)

    def test_ground_sides_and_floor_close_to_a_body(self):
        x, y = np.array(STANDS["marks"][0]["points"]).T
        bay = abs((x * np.roll(y, -1) - np.roll(x, -1) * y).sum()) / 2
        for cut, area in (("square", 120**2), ("disc", np.pi * 60**2), ("area", bay)):
            order = Exhibit(**MIDDLE, side_m=120, cut=cut, area="bay", deep_m=5)
            model = exhibit(self.build, order)
            named = [model.surfaces[p.surface].name for p in model.parts]
            shell = [p for p, n in zip(model.parts, named) if n in ("Ground", "Sides")]
            meshes = [trimesh.Trimesh(p.positions, p.faces, process=False) for p in shell]
            body = trimesh.util.concatenate(meshes)
            body.merge_vertices(digits_vertex=3)
            self.assertTrue(body.is_watertight, cut)
            self.assertTrue(body.is_winding_consistent, cut)
            ground = meshes[named.index("Ground")]
            flat = ground.area_faces * np.abs(ground.face_normals[:, 2])
            self.assertAlmostEqual(float(flat.sum()) / area, 1, delta=2e-3)
            tall = ground.triangles_center[:, 2]
            self.assertAlmostEqual(body.volume / float((flat * tall).sum()), 1, delta=1e-3)
            heights = self.build.heights
            low = float(heights.min()) - 5
            lowest, highest = model.box()
            self.assertAlmostEqual(float(lowest[2]), 0, places=4)
            self.assertLess(float(highest[2]), float(heights.max()) - low + 25)

    def test_what_stands_within_the_cut_stands_on_it(self):
        model = exhibit(self.build, Exhibit(**MIDDLE, side_m=100, deep_m=4))
        named = [model.surfaces[p.surface].name for p in model.parts]
        standing = model.parts[named.index("What stands")]
        plants = self.build.plants(0)
        near = np.maximum(np.abs(plants.east - 100), np.abs(plants.north - 100)) < 50
        self.assertGreater(int(near.sum()), 50)
        self.assertGreater(len(standing.faces), 20 * int(near.sum()))
        self.assertLess(float(np.abs(standing.positions[:, :2]).max()), 50 + 8)
        water = model.parts[named.index("Water")]
        self.assertLess(float(np.ptp(water.positions[:, 2])), 1e-3)

    def test_it_becomes_a_kind_of_the_size_that_is_wished(self):
        cut = exhibit(self.build, Exhibit(**MIDDLE, side_m=150))
        model = read_model(model_glb(cut), "a.glb")
        for part in cut.parts:  # its colours come back beside its surfaces
            name = cut.surfaces[part.surface].name
            same = lambda p: model.surfaces[p.surface].name == name
            read = [p for p in model.parts if same(p) and len(p.positions) == len(part.positions)]
            if part.colour is not None:
                np.testing.assert_allclose(read[0].colour, part.colour, atol=0.01)
        settings = OwnKind(
            label="Model",
            up="z",
            scale=1.2 / 150,
            origin="kept",
            most_triangles=400_000,
            surfaces=[OwnSurface() for _ in model.surfaces],
        )
        glb, told = made(model, settings)
        self.assertEqual(glb[:4], b"glTF")
        self.assertEqual(told, [])

    def test_a_cut_over_the_edge_is_refused(self):
        with self.assertRaisesRegex(SceneError, "reaches over the plot's edge"):
            exhibit(self.build, Exhibit(east_m=20, north_m=100, side_m=60))

    def test_an_area_that_is_not_there_or_crosses_itself_is_refused(self):
        with self.assertRaisesRegex(SceneError, "no such area.*“Bay”"):
            exhibit(self.build, Exhibit(cut="area", area="none"))
        with self.assertRaisesRegex(SceneError, "“Knot” crosses"):
            exhibit(self.build, Exhibit(cut="area", area="knot"))

    def test_a_scene_that_holds_its_own_exhibit_is_cut_as_it_was_kept(self):
        scene = ask("POST", "/api/scenes", {"document": scene_of().model_dump(mode="json")})[1]
        cut = {**MIDDLE, "side_m": 120}
        order = {"scene": scene["id"], "label": "Model", "cut": cut, "wide_m": 40}
        triangles = []
        for turn in range(3):  # each holds the one before, which stays as it was
            status, made_ = ask("POST", "/api/exhibits", order)
            self.assertEqual(status, 200, made_)
            name = made_["kind"]["name"]
            triangles.append(ask("GET", f"/api/cabinet/kinds/{name}")[1]["triangles"][0])
            state = ask("GET", f"/api/scenes/{scene['id']}")[1]
            piece = {"id": f"p{turn}", "name": "Model", "kind": name, "east_m": 90, "north_m": 90}
            document = {**state["document"], "pieces": [piece]}
            order_ = {"base": state["revision"], "label": "Stood", "document": document}
            self.assertEqual(ask("POST", f"/api/scenes/{scene['id']}/edits", order_)[0], 200)
        self.assertGreater(triangles[1], triangles[0])
        self.assertLess(max(triangles), 400_000)


class Journey(unittest.TestCase):
    """An area of a scene is cut out in the cabinet, and a piece of it stands in another."""

    def test_an_exhibit_is_made_and_stood(self):
        shown = scene_of(**STANDS).model_dump(mode="json") | {"name": "Shown"}
        ask("POST", "/api/scenes", {"document": shown})
        room = ask("POST", "/api/scenes", {"document": scene_of().model_dump(mode="json")})[1]
        page = Page(server().address, "sketch", f"/?scene={room['id']}")
        self.addCleanup(page.close)
        page.shot_if_failed(self)
        page.settled()
        page.keys("k")
        page.until(lambda: page.all("[data-exhibit]"), what="the cabinet")
        page.click("[data-exhibit]")
        page.until(lambda: "Shown" in page.text("[data-exhibit-form]"), what="its form")
        page.js(
            "const box = document.querySelector('[aria-label=\"Scene of the exhibit\"]');"
            "const line = [...box.options].find((o) => o.text === 'Shown');"
            "const set = Object.getOwnPropertyDescriptor("
            "HTMLSelectElement.prototype, 'value').set;"
            "set.call(box, line.value);"
            "box.dispatchEvent(new Event('change', { bubbles: true }));"
        )
        page.until(lambda: not page.one("[data-make-exhibit]").get_attribute("disabled"))
        Select(page.one("[aria-label='Cut to']")).select_by_value("area")
        Select(page.one("[aria-label=Area]")).select_by_visible_text("Bay")
        page.click("[data-make-exhibit]")
        name = page.until(lambda: page.one("[data-kind-sheet^=own-]"), 120).get_attribute(
            "data-kind-sheet"
        )
        self.assertIn("Model of Shown", page.text("[data-kind-sheet]"))
        piece = {"id": "x", "name": "Model", "kind": name, "east_m": 100, "north_m": 60}
        document = {**page.state()["document"], "pieces": [piece]}
        order = {"base": page.state()["revision"], "label": "Stood", "document": document}
        status, state = ask("POST", f"/api/scenes/{room['id']}/edits", order)
        self.assertEqual(status, 200)
        self.assertEqual(state["document"]["pieces"][0]["kind"], name)
        self.assertEqual(page.errors(), [])


if __name__ == "__main__":
    unittest.main()
