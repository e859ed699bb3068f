"""Journeys on the demo's land: a pond dug, a path and a stream laid, a mask painted, an older state
compared and taken from; a three-part ground with lichen.
"""

import base64
import json
import tempfile
import unittest
from pathlib import Path

import cv2
import numpy as np
from scipy.ndimage import minimum_filter
from scipy.spatial import cKDTree
from selenium.webdriver.support.ui import Select

from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.judge.faults import faults
from sow.core.marks.shapes import near, way
from sow.core.sample import heights_at
from sow.core.scene import read_scene
from sow.core.water.hollow import hollow_at
from sow.web.working import Stored
from tests.page import Keys, Page
from tests.served import ask, server

TIER = "page"


class Brackenhope(unittest.TestCase):
    """Its planting is switched off, its grid is coarse and its land ends, which quarters the time;
    the land, the water and the ground are the demo's own.
    """

    @classmethod
    def setUpClass(cls):
        document = json.loads(Path("samples/brackenhope.json").read_text())
        document["plot"]["posts"], document["beyond"] = 257, {"edge": "end"}
        for sowing in document["planting"]:
            sowing["on"] = False
        cls.first = ask("POST", "/api/scenes", {"document": document})[1]
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        cls.page = Page(server().address, "sketch", f"/?scene={cls.first['id']}")
        cls.addClassCleanup(cls.page.close)
        cls.page.settled()

    def tearDown(self):
        self.page.shot_if_failed(self)

    def changed(self, work):
        """Does a thing on the page and gives the document that it made."""
        before = self.page.state()["revision"]
        work()
        return self.page.kept(before)["document"]

    def added(self, section, key):
        self.page.unfold(section)
        label = {
            "land": "landform or process",
            "water": "water",
            "ground": "material",
            "planting": "sowing",
        }[section]
        return self.changed(
            lambda: (
                self.page.click(f"[aria-label='Add {label}']"),
                self.page.click(f"[data-add={key}]"),
            )
        )

    def drawn(self, big, points):
        """A line drawn on the map, as the mark that it became."""
        self.page.unfold("marks")
        self.page.click("[data-draw=line]")
        for e, n in points:
            self.page.mouse(self.page.at(big, e, n))
        return self.changed(lambda: self.page.keys(Keys.ENTER))["marks"][-1]

    def height(self, east, north):
        return self.page.js(
            "const f = sow.get().products.field, c = Math.round(arguments[0] / f.spacing), "
            "r = Math.round(f.ny - 1 - arguments[1] / f.spacing); return f.values[r * f.nx "
            "+ c]",
            east,
            north,
        )

    def test_the_demo_is_worked_by_hand(self):
        steps = (
            self.dig_a_pond_and_lay_a_path_and_a_stream,
            self.paint_a_mask_compare_and_take_back,
            self.lay_three_part_ground_and_lichen,
            self.plant_a_wood_a_drove_way_and_a_sheepfold,
        )
        for step in steps:  # each goes on from the scene that the one before has made
            with self.subTest(step.__name__):
                step()

    def dig_a_pond_and_lay_a_path_and_a_stream(self):
        page = self.page
        # a pond is dug with one touch of the basin brush, and filled to below its rim
        self.added("land", "hand")
        page.click("[data-brush=basin]")
        page.js(
            "const b = sow.get().brush; sow.set({brush: {...b, size_m: 40, strength_m: 5, "
            "rim: 10}})"
        )
        big = page.on_map()
        floor = self.height(528, 612)
        document = self.changed(lambda: page.mouse(page.at(big, 528, 612)))
        self.assertEqual(document["land"][-1]["strokes"][0]["tool"], "basin")
        self.assertAlmostEqual(self.height(528, 612), floor - 5, delta=0.3)
        page.keys(Keys.ESCAPE)
        self.added("water", "pool")
        page.click_text("Place the pool by a click", "[data-section=water]")
        document = self.changed(lambda: page.mouse(page.at(big, 528, 612)))
        pond = document["water"][-1]
        rim = hollow_at(
            np.array(
                page.js("return Array.from(sow.get().products.field.values)"), np.float32
            ).reshape(read_scene(document).plot.view_grid().shape),
            read_scene(document).plot.view_grid(),
            528,
            612,
        )[1]
        self.assertAlmostEqual(pond["level_m"], rim, delta=0.2)
        wet = next(
            w["wet_m2"] for w in page.js("return sow.get().manifest.water") if w["id"] == pond["id"]
        )
        self.assertTrue(100 < wet < 5500, wet)  # it does not run over

        # a line is drawn on the map and used as a path; another as a stream bed that carries water
        # into the pond
        drove = self.drawn(big, [(560, 300), (700, 420), (860, 420), (1050, 520)])
        land = self.added("land", "path")["land"][-1]
        self.assertEqual((land["kind"], land["mark"]), ("path", drove["id"]))
        brook = self.drawn(big, [(1180, 830), (1000, 740), (800, 660), (550, 618)])
        entry = self.added("land", "stream")["land"][-1]
        document = self.changed(
            lambda: Select(
                page.one(f"[data-entry={entry['id']}] select[aria-label=Line]")
            ).select_by_value(brook["id"])
        )
        self.assertEqual(document["land"][-1]["mark"], brook["id"])
        water = self.added("water", "stream")["water"][-1]
        self.assertEqual(water["reach"], "stream")
        document = self.changed(
            lambda: Select(
                page.one(f"[data-entry={water['id']}] select[aria-label=Line]")
            ).select_by_value(brook["id"])
        )
        page.unfold("marks")
        scene = read_scene(document)
        build = Build(scene, scene.plot.view_grid(), Cache(), Stored())
        shown = page.js("return Array.from(sow.get().products.field.values)")
        np.testing.assert_allclose(
            build.heights.ravel(), shown, atol=1e-3
        )  # the page shows what the core makes
        spine = way(build.marks.line(brook["id"]))
        z = heights_at(
            minimum_filter(build.heights, 3), build.grid, spine[:, 0], spine[:, 1]
        )  # the bed is narrower than the posts are apart
        self.assertTrue(
            (np.diff(z[2:]) < 2.5).all() and z[0] - z[-1] > 5,
            f"the bed runs downhill: {z.round(2).tolist()}",
        )
        level, masks = build.water()
        away = near(spine, build.grid, 20)[0]
        self.assertTrue(masks[-1].any() and (away[masks[-1]] < 5).all())
        self.assertEqual(page.errors(), [])

    def paint_a_mask_compare_and_take_back(self):
        page = self.page
        page.unfold("marks")
        document = self.changed(lambda: page.click("[data-new-mask]"))
        mask = document["marks"][-1]["id"]
        big = page.on_map()
        page.js(
            "const b = sow.get().brush; sow.set({brush: {...(b ?? {}), size_m: 60, soft: "
            "40, firm: 80}})"
        )
        document = self.changed(
            lambda: page.mouse(*[page.at(big, 300 + 20 * k, 1200) for k in range(9)])
        )
        page.until(lambda: page.js("return sow.get().mask && sow.get().mask.share") > 0.004, 60)
        self.assertIn("lies where it is hatched", page.text("[data-mask-key]"))
        self.assertTrue(next(m["raster"] for m in document["marks"] if m["id"] == mask))
        before = page.js("return sow.get().mask.share")
        page.keys(Keys.ESCAPE)
        page.click(f"[data-entry={mask}] [aria-label='Add rule']")
        self.changed(lambda: page.click("[data-add=slope]"))
        self.changed(lambda: page.click("[data-fill=where]"))
        page.until(
            lambda: abs(page.js("return sow.get().mask.share") - before) > 0.02, 60
        )  # filled from the rule
        # an earlier step is compared with now, and its water brought back
        page.keys("m")
        page.keys("h")
        page.until(lambda: page.all(f"[data-step='{self.first['revision']}']"), 60)
        page.click(f"[data-step='{self.first['revision']}']")
        page.click("[data-compare]")
        page.until(lambda: page.all("[data-wipe]"), 120)
        self.assertIn("marks", page.text("[data-wipe]"))
        left, right = (
            cv2.imdecode(
                np.frombuffer(
                    base64.b64decode(
                        page.js(f"return sow.get().compared.{k}.picture").split(",")[1]
                    ),
                    np.uint8,
                ),
                1,
            )
            for k in "ab"
        )
        self.assertEqual(left.shape, right.shape)
        page.click("[data-difference]")
        page.until(lambda: page.all("[data-survey-key]"), 60)
        self.assertIn("Difference", page.text("[data-survey-key]"))
        page.click_text("put away", "[data-survey-key]")
        page.keys("h")
        page.until(lambda: page.all(f"[data-step='{self.first['revision']}']"), 60)
        page.click(f"[data-step='{self.first['revision']}']")
        Select(page.one("[aria-label='Part to bring into now']")).select_by_value("water")
        now = page.state()["document"]
        document = self.changed(lambda: page.click("[data-bring]"))
        self.assertEqual(document["water"], self.first["document"]["water"])
        self.assertEqual(document["marks"], now["marks"])
        page.keys(Keys.ESCAPE)
        self.assertEqual(page.errors(), [])

    def lay_three_part_ground_and_lichen(self):
        document = json.loads(Path("samples/brackenhope.json").read_text())
        document["plot"]["posts"], document["ground"], document["planting"], document["beyond"] = (
            129,
            [],
            [],
            {"edge": "end"},
        )
        state = ask("POST", "/api/scenes", {"document": document})[1]
        page = self.page
        page.go(f"/?scene={state['id']}&quality=sketch")
        page.settled()

        changed = self.changed

        def added(ground):
            return changed(
                lambda: (
                    page.click("[aria-label='Add material']"),
                    page.click(f"[data-add={ground}]"),
                )
            )["ground"]

        page.unfold("ground")
        added("turf")  # what lies on gentle ground
        added("granite")  # what shows where it is steep: its band is stepped with the keys
        self.assertEqual(page.js("return sow.get().doc.ground[1].where[0].kind"), "slope")
        low = page.js("return sow.get().doc.ground[1].where[0].low")
        changed(lambda: page.one("[aria-label='slope from']").send_keys(Keys.ARROW_LEFT))
        self.assertLess(page.js("return sow.get().doc.ground[1].where[0].low"), low)
        page.until(lambda: page.all("[data-holds]"), 60)
        self.assertIn("ha", page.text("[data-holds]"))
        snow = added("snow")[-1]["id"]  # what lies on the heights
        changed(
            lambda: (
                page.click(f"[data-entry={snow}] [aria-label='Add rule']"),
                page.click("[data-add=height]"),
            )
        )
        # lichen from a mask picture, inverted, bound to one landform
        mask = Path(page.home.name) / "lichen.png"
        y, x = np.mgrid[0:128, 0:128] / 127
        cv2.imwrite(str(mask), np.uint8(255 * (np.hypot(x - 0.5, y - 0.5) > 0.25)))
        page.unfold("marks")
        changed(lambda: page.drop(mask))
        page.unfold("ground")
        lichen = added("moss")[-1]["id"]
        changed(lambda: page.click(f"[data-entry={lichen}] [aria-label='Remove noise patches']"))
        changed(
            lambda: (
                page.click(f"[data-entry={lichen}] [aria-label='Add rule']"),
                page.click("[data-add=mask]"),
            )
        )
        changed(
            lambda: Select(
                page.one(f"[data-entry={lichen}] select[aria-label='Lies over']")
            ).select_by_value("crests")
        )
        document = changed(
            lambda: page.js(
                "document.querySelectorAll(`[data-entry='${arguments[0]}'] "
                "[data-where=mask] input[type=checkbox]`)[1].click()",
                lichen,
            )
        )
        rule = document["ground"][-1]["where"][0]
        self.assertEqual((rule["kind"], rule["bound"], rule["invert"]), ("mask", "crests", True))
        shares = page.js("return sow.get().manifest.shares")
        self.assertTrue(all(v > 0.005 for v in shares.values()), shares)
        self.assertAlmostEqual(sum(shares.values()), 1, places=3)
        # why is there turf here? one click goes to the rule that keeps the rock away
        page.js(
            "sow.set({place: {east: 430, north: 575, up: 0, slope: 0, facing: 0, ground: "
            "''}, pinned: true})"
        )
        page.js("document.querySelector('[data-pad]').focus()")
        page.keys("y")
        page.until(lambda: page.all("[data-reason]"), 60)
        rock = document["ground"][1]["id"]
        self.assertIn("asks from", page.text(f"[data-reason={rock}]"))
        page.click(f"[data-reason={rock}] [data-verdict=slope]")
        page.until(
            lambda: (
                page.js("return document.activeElement.getAttribute('aria-label')") == "slope from"
            ),
            60,
        )
        page.click_text("put away", "[data-why]")
        # the mask is deleted: the rule says so, asks nothing, and undo mends it
        page.unfold("marks")
        changed(
            lambda: (
                page.js(
                    "const id = sow.get().doc.marks[0].id; sow.set({chosen: id}); "
                    "document.querySelector('[data-pad]').focus()"
                )
                or page.keys(Keys.DELETE)
            )
        )
        self.assertEqual(len(page.js("return sow.get().manifest.lacking")), 1)
        page.unfold("ground")
        page.click(f"[data-entry={lichen}] button")
        page.until(lambda: "asks nothing" in page.text("[data-absent]"), 60)
        page.js("document.querySelector('[data-pad]').focus()")
        page.chord(Keys.CONTROL, "z")
        page.until(lambda: page.js("return sow.get().manifest.lacking") == [], 60)
        page.settled()
        # a texture set is brought in; saved again outside, it is read again in place
        page.js("""const paint = (hue) => { const c = document.createElement('canvas');
            c.width = c.height = 64; const g = c.getContext('2d'); for (let i = 0; i < 64;
            i++) for (let k = 0; k < 64; k++) {
            g.fillStyle = `hsl(${hue} 40% ${20 + ((i * 7 + k * 13) % 50)}%)`; g.fillRect(i, k, 1,
            1); }
            const bytes = atob(c.toDataURL('image/png').split(',')[1]);
            return Uint8Array.from(bytes, (x) => x.charCodeAt(0)); };
            window.outside = {bytes: paint(30), at: 1}; window.saveAgain = () => {
            window.outside = {bytes: paint(200), at: 2}; };
            window.showOpenFilePicker = async () => [{name: 'crust_colour.png',
            getFile: async () => new File([window.outside.bytes], 'crust_colour.png',
            {type: 'image/png', lastModified: window.outside.at})}];""")
        first = changed(lambda: page.click(f"[data-entry={lichen}] [data-bring-texture]"))[
            "ground"
        ][-1]["texture"]
        self.assertEqual(len(first), 64)
        self.assertIn(
            "height was taken from its colour", page.text(f"[data-entry={lichen}] [data-texture]")
        )
        second = changed(lambda: page.js("saveAgain()"))["ground"][-1]["texture"]
        self.assertNotEqual(first, second)
        # a ready set is chosen from the sheet
        page.js("document.querySelector('[data-pad]').focus()")
        page.keys("b")
        page.until(lambda: page.all("[data-preset=snow-peaks]"), 90)
        document = changed(lambda: page.click("[data-preset=snow-peaks]"))
        self.assertGreater(len(document["ground"]), 5)
        self.assertEqual(page.errors(), [])

    def plants(self, document):
        """The plants of each sowing that is on, by the core."""
        scene = read_scene(document)
        build = Build(scene, scene.plot.view_grid(), Cache(), Stored())
        return {s.name: build.plants(i) for i, s in enumerate(scene.planting) if s.on}, build

    def table(self, sowing_id):
        """East and north of each plant that the page holds of a sowing."""
        return np.array(
            self.page.js(
                "const s = sow.get().products.sown.find((x) => x.id === arguments[0]); "
                "return Array.from(s.table)",
                sowing_id,
            )
        ).reshape(-1, 9)[:, :2]

    def plant_a_wood_a_drove_way_and_a_sheepfold(self):
        page = self.page
        big = page.on_map()
        # a birch wood with its edge; its grass is left out here, as it is most of the time that
        # this takes
        page.unfold("planting")
        page.click("[data-action=mixes]")
        page.until(lambda: page.all("[data-take-mix=birch-wood]"), 30)
        document = self.changed(lambda: page.click("[data-take-mix=birch-wood]"))
        wood = [s for s in document["planting"] if s["group"] == "Birch wood"]
        self.assertEqual([s["name"] for s in wood][:2], ["Birches", "Young birches"])
        page.js("sow.set({chosen: null})")
        document = self.changed(
            lambda: page.js("document.querySelector(`[aria-label='Group Birch wood on']`).click()")
        )
        for s in wood[:2]:
            page.click(f"[data-entry={s['id']}] button[aria-expanded]")
            document = self.changed(
                lambda: page.js(
                    "document.querySelector(`[aria-label='${arguments[0]} on']`).click()", s["name"]
                )
            )
        sown, _ = self.plants(document)
        old, young = sown["Birches"], sown["Young birches"]
        self.assertGreater(len(old), 3000)
        away = cKDTree(np.c_[old.east, old.north]).query(np.c_[young.east, young.north])[0]
        self.assertGreater(
            float(((away > 1) & (away < 18)).mean()), 0.9
        )  # as near as a grid of 6 m tells
        at = np.array([old.east[len(old) // 2], old.north[len(old) // 2]])
        # a drove way through it, cleared once for all sowings
        way_ = self.drawn(big, [at + (-150, -90), at + (-40, 10), at + (60, -10), at + (170, 80)])
        document = self.changed(
            lambda: page.js(
                "[...document.querySelectorAll('[data-section=marks] label')].find((l) => "
                "l.textContent.includes('clearing')).querySelector('input').click()"
            )
        )
        mark = next(m for m in read_scene(document).marks if m.id == way_["id"])
        sown, build = self.plants(document)
        for name in ("Birches", "Young birches"):
            p = sown[name]
            from_way = near(way(mark), build.grid, 40)[0]
            here = from_way[
                np.rint(build.grid.rows_of(p.north)).astype(int),
                np.rint(build.grid.cols_of(p.east)).astype(int),
            ]
            self.assertGreater(float(here.min()), mark.clear_m - build.grid.spacing, name)
        # bracken is brushed on beside it, and then thinned by a number: the strokes are sown again
        entry = self.added("planting", "bracken")["planting"][-1]
        while page.all(f"[data-entry={entry['id']}] [data-where] [aria-label^='Remove']"):
            document = self.changed(
                lambda: page.click(
                    f"[data-entry={entry['id']}] [data-where] [aria-label^='Remove']"
                )
            )
        document = self.changed(lambda: page.click(f"[data-entry={entry['id']}] [data-brush-on]"))
        page.js("const b = sow.get().brush; sow.set({brush: {...b, size_m: 18, firm: 95}})")
        document = self.changed(
            lambda: page.mouse(
                *[page.at(big, *(at + d)) for d in ((-120, 40), (-60, 60), (0, 60), (60, 50))]
            )
        )
        self.assertTrue(
            next(m for m in document["marks"] if m["id"] == f"sown-{entry['id']}")["raster"]
        )
        page.click_text("Done with the brush", f"[data-entry={entry['id']}]")

        def per_hectare(number):
            box = page.one(f"[data-entry={entry['id']}] input[aria-label='Per hectare']")
            box.click()
            box.send_keys(Keys.CONTROL, "a")
            box.send_keys(str(number), Keys.ENTER)

        document = self.changed(lambda: per_hectare(1500))
        first = self.table(entry["id"])
        self.assertGreater(len(first), 100)
        self.assertLess(float(np.abs(first[:, 1] - at[1]).max()), 140)
        document = self.changed(lambda: per_hectare(850))
        second = self.table(entry["id"])
        self.assertGreater(
            len({tuple(p) for p in second} & {tuple(p) for p in first}) / len(second), 0.6
        )  # thinned, not sown anew
        self.assertAlmostEqual(len(second) / len(first), 85 / 150, delta=0.09)
        self.assertIn(
            f"{len(second):,} stand", page.text(f"[data-entry={entry['id']}] [data-stand]")
        )

        # a sheepfold of walls and a bench; what floats is found and mended
        def place(kind, spot):
            page.js("sow.set({chosen: null})")
            page.click("[aria-label='Add piece']")
            page.click(f"[data-add={kind}]")
            page.until(lambda: page.one(f"[data-placing={kind}]"), 60)
            return self.changed(lambda: page.mouse(page.at(big, *spot)))["pieces"][-1]

        fold = at + (30, -60)
        wall = place("wall", fold)
        document = self.changed(lambda: page.click(f"[data-entry={wall['id']}] [data-ring-of]"))
        walls = [p for p in document["pieces"] if p["kind"] == "wall"]
        self.assertGreater(len(walls), 8)
        place("bench", fold + (25, 0))
        page.click("[data-action=faults]")
        told = page.until(lambda: page.one("[data-faults]"), 120)
        self.assertGreater(int(told.get_attribute("data-faults")), 0)
        self.assertIn("float", told.text)
        document = self.changed(lambda: page.click("[data-mend]"))
        page.until(
            lambda: page.all("[data-faults]") and "float" not in page.text("[data-faults]"), 120
        )
        page.keys(Keys.ESCAPE)
        bare = {
            **document,
            "planting": [],
            "land": [e for e in document["land"] if e["kind"] != "hand"],
        }
        found, _ = faults(self.plants(bare)[1])
        self.assertEqual([f.name for f in found if f.what == "floats"], [])


if __name__ == "__main__":
    unittest.main()
