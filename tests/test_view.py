"""What is drawn agrees with what the core says: ground, materials, plants, light. Read back from
the real page's pixels.
"""

import unittest

import numpy as np
from selenium.webdriver.support.ui import Select

from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.sample import heights_at, values_at
from sow.core.scene import read_scene
from tests.page import Keys, Page
from tests.served import ask, server

TIER = "page"

PLOT = {"width_m": 400, "depth_m": 400, "posts": 257}
NOISE = {
    "id": "n",
    "name": "Noise",
    "kind": "noise",
    "height_m": 40,
    "feature_m": 160,
    "octaves": 5,
    "seed": 5,
}
EVEN = {"sun_bearing": 200, "sun_height": 70, "clouds": 100, "haze_m": 400000, "exposure": 0}


class Drawn(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.page = Page(server().address, "sketch")
        cls.addClassCleanup(cls.page.close)

    def open(self, **document):
        document = {
            "name": "View",
            "plot": PLOT,
            "land": [NOISE],
            "beyond": {"edge": "end"},
            "light": EVEN,
            **document,
        }
        status, state = ask("POST", "/api/scenes", {"document": document})
        self.assertEqual(status, 200, state)
        self.page.go(f"/?quality=sketch&scene={state['id']}")
        self.page.settled()
        scene = read_scene(document)
        return Build(scene, scene.plot.view_grid(), Cache()), state

    def still(self, pose: dict, width=400, height=300, frames=1) -> np.ndarray:
        return self.page.still(pose, width, height, frames)

    def pose(self, **more) -> dict:
        return {
            "east": 200,
            "north": -60,
            "up": 190,
            "bearing": 0,
            "tilt": -38,
            "focal": 28,
            **more,
        }

    def look(self, pose: dict):
        self.page.js(
            "sow.view.pose = arguments[0]; sow.view.changed(true); sow.set({pose: arguments[0]})",
            pose,
        )
        self.page.settled()

    def test_the_ground_under_the_pointer_is_the_cores_ground(self):
        b, _ = self.open()
        self.look(self.pose())
        places = self.page.js("""const out = []; for (let i = 0; i < 12; i++) for (let j = 0;
            j < 12; j++) {
            const p = sow.view.pick((i + 0.5) / 12, (j + 0.5) / 12); if (p) out.push([p.x, p.y,
            p.z]); } return out""")
        self.assertGreater(len(places), 60)
        places = np.array(places)
        np.testing.assert_allclose(
            heights_at(b.heights, b.grid, places[:, 0], places[:, 1]), places[:, 2], atol=0.05
        )

    def test_200_drawn_points_wear_the_weights_that_are_exported(self):
        ground = [
            {"id": "r", "name": "r", "ground": "sand", "tint": "#ff0000", "bright": 150},
            {
                "id": "b",
                "name": "b",
                "ground": "sand",
                "tint": "#0000ff",
                "bright": 150,
                "stands": 100,
                "where": [{"kind": "slope", "low": 16, "high": 90, "soft": 10}],
            },
            {
                "id": "g",
                "name": "g",
                "ground": "sand",
                "tint": "#00ff00",
                "bright": 150,
                "stands": 100,
                "where": [{"kind": "patches", "size_m": 90, "share": 35}],
            },
        ]
        b, _ = self.open(ground=ground)
        pose = self.pose(up=320, north=120, tilt=-80)
        picture = self.still(pose, 400, 300, 4)
        self.look(pose)
        # places whose pixel is known: unproject the still's own pixels on the core's ground
        points = self.page.js(
            """const {view: v} = sow, out = [], keep = v.camera.aspect;
                const size = v.renderer.getSize(v.camera.position.clone());
            for (let k = 0; k < 900 && out.length < 240; k++) { const x = 20 + (k * 131) % 360,
            y = 15 + (k * 71) % 270;
              const across = Math.tan(Math.atan(18 / arguments[0].focal)),
              fx = ((x + 0.5) / 400 * 2 - 1) * across,
              fy = (1 - (y + 0.5) / 300 * 2) * across * 0.75;
              const cross = across * size.y / size.x, p = v.pick((fx / across + 1) / 2,
              (1 - fy / cross) / 2);
              if (p && Math.abs(fy) < cross) out.push([x, y, p.x, p.y]); } return out""",
            pose,
        )
        self.assertGreaterEqual(len(points), 200)
        points = np.array(points[:200])
        rgb = picture[points[:, 1].astype(int), points[:, 0].astype(int)]
        linear = (rgb / 255) ** 2.2
        for k, channel in enumerate((0, 2, 1)):
            weight = values_at(b.ground()[k], b.grid, points[:, 2], points[:, 3])
            share = linear[:, channel] / np.maximum(linear.sum(1), 1e-6)
            self.assertGreater(np.ptp(weight), 0.9)
            self.assertGreater(np.corrcoef(weight, share)[0, 1], 0.93, "rbg"[k])
            self.assertGreater(share[weight > 0.97].min(), 0.55, "rbg"[k])
            self.assertLess(share[weight < 0.03].max(), 0.4, "rbg"[k])

    def test_every_drawn_plant_stands_on_the_drawn_ground(self):
        sowing = {
            "id": "s",
            "name": "s",
            "mix": [{"kind": "boulder"}],
            "density": 4,
            "apart_m": 1.5,
            "stance": {"sink_cm": 10, "largest": 100, "smallest": 100, "settle": 0},
        }
        b, _ = self.open(planting=[sowing])
        table, sinks = self.page.js(
            "const s = sow.get().products.sown[0]; return [Array.from(s.table), "
            "Array.from(s.sinks)]"
        )
        table = np.array(table).reshape(-1, 9)
        plants = b.plants(0)
        self.assertEqual(len(table), len(plants))
        np.testing.assert_allclose(np.sort(table[:, 0]), np.sort(plants.east), atol=1e-3)
        np.testing.assert_allclose(sinks, 0.1, atol=5e-3)
        ground = heights_at(b.heights, b.grid, table[:, 0], table[:, 1])
        np.testing.assert_allclose(ground - table[:, 2], 0.1, atol=5e-3)
        tiles, edge = self.page.js("const s = sow.get().products.sown[0]; return [s.tiles, s.tile]")
        for column, row, start, end in tiles:
            part = table[start:end]
            self.assertTrue(((part[:, 0] // edge == column) & (part[:, 1] // edge == row)).all())
        self.assertEqual(sum(t[3] - t[2] for t in tiles), len(table))

    def test_hidden_in_the_view_is_not_absent(self):
        sowing = {
            "id": "s",
            "name": "Stones",
            "mix": [{"kind": "boulder"}],
            "density": 6,
            "apart_m": 1.5,
            "stance": {"smallest": 150, "largest": 300},
        }
        _, state = self.open(planting=[sowing], ground=[{"id": "g", "name": "g", "ground": "turf"}])
        pose = self.pose()
        shown = self.still(pose)
        self.page.unfold("planting")
        self.page.click("[aria-label='Hide Stones in the view']")
        self.page.settled()
        self.assertEqual(self.page.js("return sow.view.plantsDrawn"), 0)
        self.assertLess(np.abs(self.still(pose) - shown).max(), 3)  # a still holds everything
        self.assertEqual(
            self.page.js("return sow.get().manifest.sown[0].count"),
            self.page.js("return sow.get().products.sown[0].table.length / 9"),
        )
        self.assertEqual(ask("GET", f"/api/scenes/{state['id']}")[1]["revision"], state["revision"])

    def test_pieces_water_and_land_have_an_eye_too(self):
        stone = {"id": "p", "name": "Stone", "kind": "boulder", "east_m": 200, "north_m": 150}
        lake = {"id": "w", "name": "Lake", "level_m": 12, "clear_m": 2}
        self.open(pieces=[stone], water=[lake])
        pose = self.pose()
        shown = self.still(pose)
        page = self.page
        self.look(pose)
        drawn = (
            "return [sow.view.trianglesDrawn > 0, "
            "sow.view.water.drawn(false).some((c) => c.visible)]"
        )
        self.assertEqual(page.js(drawn), [True, True])
        page.unfold("water")
        page.click("[aria-label='Hide Lake in the view']")
        page.unfold("planting")
        page.click_text("▸ Placed by hand", "[data-section=planting]")
        page.click("[aria-label='Hide Stone in the view']")
        page.settled()
        self.assertEqual(page.js(drawn), [False, False])
        page.unfold("land")
        page.click("[data-action=hide-land]")
        page.settled()
        self.assertFalse(page.js("return sow.view.grounds.plot.group.visible"))
        self.assertLess(np.abs(self.still(pose) - shown).max(), 3)

    def test_straight_up_and_down_keep_the_bearing(self):
        self.open()
        for tilt in (-90, 90):
            page = self.page
            across = page.js(
                """const v = sow.view; v.pose = {...v.pose, bearing: 50, tilt: arguments[0]};
                v.project(v.pose.east, v.pose.north, v.pose.up + arguments[0]);
                const e = v.camera.matrixWorld.elements; return [e[0], e[1], e[2]]""",
                tilt,
            )
            wanted = [np.cos(np.deg2rad(50)), -np.sin(np.deg2rad(50)), 0]
            np.testing.assert_allclose(across, wanted, atol=1e-6)

    def test_light_and_haze(self):
        self.open(ground=[{"id": "g", "name": "g", "ground": "turf"}])
        change = lambda **light: (
            self.page.js(
                "const d = structuredClone(sow.get().doc); Object.assign(d.light, "
                "arguments[0]); sow.set({doc: d}); sow.view.setLight(d)",
                light,
            ),
            self.page.settled(),
        )
        pose = self.pose(tilt=-20, up=120)
        ground = lambda picture: picture[-60:].mean()
        means = []
        for exposure in (-2, 0, 2):
            change(exposure=exposure)
            means.append(ground(self.still(pose)))
        self.assertTrue(means[0] + 10 < means[1] < means[2] - 10, means)
        change(exposure=0, clouds=0, sun_height=40, sun_bearing=180)
        noon = self.still(pose)
        change(sun_height=-4)
        dusk = self.still(pose)
        self.assertLess(ground(dusk), 0.8 * ground(noon))  # a meter helps, but not altogether
        self.assertGreater(
            dusk[-60:, :, 2].mean() / dusk[-60:, :, 0].mean(),
            1.1 * noon[-60:, :, 2].mean() / noon[-60:, :, 0].mean(),
        )
        # a low sun throws the land's own shadow: the picture gains dark parts
        change(sun_height=6)
        low = self.still(pose)
        self.assertGreater(
            low[-150:].std() / low[-150:].mean(), noon[-150:].std() / noon[-150:].mean()
        )
        change(sun_height=40, haze_m=150, haze_top_m=3000)
        thick = self.still(pose)
        self.assertLess(thick[120:200].std(), 0.6 * noon[120:200].std())

    def test_stills_have_their_size_and_are_the_same_twice(self):
        self.open(ground=[{"id": "g", "name": "g", "ground": "turf"}])
        pose = self.pose()
        for width, height in ((64, 64), (301, 203), (1300, 310)):
            first = self.still(pose, width, height)
            self.assertEqual(first.shape, (height, width, 3))
        np.testing.assert_array_equal(self.still(pose, 301, 203, 2), self.still(pose, 301, 203, 2))
        # joints of tiles do not show: a still cut in two tiles agrees with a small one of the same
        # view
        wide = self.still(pose, 1300, 310)
        small = self.still(pose, 650, 155, 4)
        halved = wide.reshape(155, 2, 650, 2, 3).mean((1, 3))
        self.assertLess(
            np.abs(halved - small)[:, 315:335].mean(), 1.5 * np.abs(halved - small).mean() + 1
        )
        stopped = self.page.driver.execute_async_script("""
            const done = arguments[arguments.length - 1]; let n = 0;
            sow.view.still(sow.view.pose, 300, 200, 50, () => n++,
            () => n > 2).then((b) => done([b, n]))""")
        self.assertEqual(stopped[0], None)
        self.assertLess(stopped[1], 6)
        self.page.settled()

    def test_nothing_is_drawn_at_rest(self):
        self.open()
        frames = lambda: self.page.js("return sow.view.renderer.info.render.frame")
        before = frames()
        self.page.js("return new Promise((r) => setTimeout(r, 900))")
        self.assertEqual(frames(), before)
        self.page.js("sow.view.pose = {...sow.view.pose, bearing: 40}; sow.view.changed()")
        self.page.settled()
        self.assertGreater(frames(), before)
        self.assertEqual(self.page.one("[data-settled]").get_attribute("data-settled"), "true")

    def test_water_is_drawn_to_the_horizon(self):
        self.open(land=[{**NOISE, "height_m": 4}], water=[{"id": "w", "name": "Sea", "level_m": 3}])
        picture = self.still(
            {"east": 200, "north": 200, "up": 12, "bearing": 0, "tilt": 0, "focal": 24}
        )
        sky = picture[60:140].mean((0, 1))
        sea = picture[165:290].mean((0, 1))
        self.assertGreater(np.abs(sky - sea).sum(), 20)
        self.assertLess(
            picture[170:, 50:350].std(axis=1).mean(), 40
        )  # level water everywhere, no edge of the plot
        far = picture[152:156].mean((0, 1))
        self.assertLess(np.abs(far - picture[144:148].mean((0, 1))).max(), 70)

    def test_a_level_eye_sees_the_same_sky_as_one_that_is_nearly_level(self):
        self.open(light={**EVEN, "clouds": 35, "sun_height": 40})
        pose = self.pose(up=100, bearing=40)
        sky = lambda tilt: self.still(self.pose(**(pose | {"tilt": tilt})))[:120].astype(float)
        for tilt in (0, 90):  # the zenith at the picture's edge of sight, and in its middle
            picture = sky(tilt)
            self.assertGreater(picture.std(), 6)
            self.assertLess(np.abs(picture - sky(tilt - 0.02)).mean(), 0.5)

    def test_still_water_mirrors_what_stands_over_it(self):
        flat = {"id": "f", "name": "Flat", "kind": "noise", "height_m": 0.2, "feature_m": 160}
        water = {"id": "w", "name": "Tarn", "level_m": 1, "waves_cm": 0, "clear_m": 0.3}
        tree = {"id": "t", "name": "Pine", "kind": "pine", "east_m": 200, "north_m": 226}
        self.open(land=[flat], water=[water], pieces=[tree], light={**EVEN, "clouds": 0})
        self.page.js("sow.view.quality.mirror = 1")
        pose = {"east": 200, "north": 200, "up": 5, "bearing": 0, "tilt": -4, "focal": 24}
        picture = self.still(pose).astype(float).mean(2)
        over, under = self.page.js(
            """const p = arguments[0]; sow.view.pose = p;
            return [8, 2 - 8].map((up) => sow.view.project(200, 226, up).y)""",
            pose,
        )
        column = lambda y, x: picture[int(y * 300) + np.arange(-6, 7)][:, x - 5 : x + 6]
        for y in (over, under):  # the tree, and the tree upside down
            dark, beside = column(y, 200).mean(), column(y, 330).mean()
            self.assertLess(dark, 0.8 * beside, f"at {y:.2f} of the picture's height")
        self.page.js("sow.view.quality.mirror = 0")
        without = self.still(pose).astype(float).mean(2)
        rows = int(under * 300) + np.arange(-6, 7)
        self.assertGreater(np.abs(without - picture)[rows, 195:206].mean(), 3)

    def test_shot_in_the_inset_clean_view_and_light_buttons(self):
        shot = {
            "id": "s",
            "name": "Low shot",
            "east_m": 200,
            "north_m": 100,
            "eye_m": 2,
            "bearing": 30,
            "focal_mm": 35,
        }
        _, state = self.open(shots=[shot], ground=[{"id": "g", "name": "g", "ground": "turf"}])
        pose = self.page.js("return sow.view.pose")
        self.assertAlmostEqual(pose["bearing"], 30)
        self.page.unfold("shots")
        self.page.click("[data-entry=s] button")
        self.page.click_text("In the inset", "[data-section=shots]")
        self.page.settled()
        self.assertEqual(
            self.page.js("return sow.view.inset && sow.view.inset.shot.name"), "Low shot"
        )
        self.page.unfold("light")
        Select(self.page.one("[aria-label='Ready light']")).select_by_value("first-mist")
        self.page.until(
            lambda: (
                ask("GET", f"/api/scenes/{state['id']}")[1]["document"]["light"]["haze_m"] == 1300
            ),
            60,
        )
        self.page.settled()
        self.assertEqual(ask("GET", f"/api/scenes/{state['id']}")[1]["steps"], 2)
        self.page.js("document.querySelector('[data-pad]').focus()")
        self.page.keys("c")
        self.page.until(lambda: not self.page.all("[data-section]"), 60)
        self.page.keys(Keys.ESCAPE)
        self.page.until(lambda: self.page.all("[data-section]"), 60)
        self.page.settled()
        self.assertEqual(self.page.errors(), [])


if __name__ == "__main__":
    unittest.main()
