"""The light through the real page: one light for view, core and tables; the sun, mist, lamps and
panoramas set by hand.
"""

import json
import tempfile
import unittest
from pathlib import Path

import cv2
import numpy as np
import OpenEXR
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.support.ui import Select

from sow.core.air.harmonics import arriving, from_panorama
from sow.core.air.light import Light
from sow.core.air.light_of import daylight
from sow.core.air.sun import direction, moment_of, sun_place
from sow.core.cache import Cache
from sow.core.picture.film import bytes_of
from sow.core.plot import Plot
from sow.core.sample import heights_at
from sow.core.survey.sky import openness, sun_line
from sow.core.survey.slope import normals
from sow.core.water.clear import READY
from tests.page import Keys, Page
from tests.served import ask, send_files, server

TIER = "page"

FLAT = {"width_m": 240, "depth_m": 160, "posts": 65}
CLEAR = {"sun_bearing": 150, "sun_height": 50, "clouds": 0, "veil": 0, "haze_m": 400000}
UP = np.array([0.0, 0.0, 1.0])
SAMPLES = Path(__file__).parents[1] / "samples"
SIZE = (480, 360)
POSE = {"east": 120, "north": -160, "up": 150, "bearing": 0, "tilt": -34, "focal": 24}
MIDDLES = [((c + 0.5) * 40, 160 - (r + 0.5) * 40, 0.0) for r in range(4) for c in range(6)]


def means(picture: np.ndarray, pose: dict, places, upright: bool = False) -> np.ndarray:
    """Mean colours (n, 3) about places (east, north, up in m) on a picture of SIZE from a pose that
    looks north; `upright` where it keeps the upright upright, as a shifted lens does.
    """
    tilt = np.deg2rad(pose["tilt"])
    scale = SIZE[0] * pose["focal"] / 36
    out = []
    for east, north, up in places:
        dx, dy, dz = east - pose["east"], north - pose["north"], up - pose["up"]
        ahead = dy * np.cos(tilt) + dz * np.sin(tilt)
        rise = (dz * np.cos(tilt) - dy * np.sin(tilt)) / ahead
        side = dx / ahead
        if upright:
            side, rise = dx / dy, np.tan(np.arctan2(dz, np.hypot(dx, dy)) - tilt)
        x, y = int(SIZE[0] / 2 + side * scale), int(SIZE[1] / 2 - rise * scale)
        out.append(picture[y - 3 : y + 4, x - 3 : x + 4].mean((0, 1)))
    return np.array(out)


class LightPage(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.page = Page(server().address, "sketch")
        cls.addClassCleanup(cls.page.close)

    def open(self, **document) -> dict:
        document = {"name": "Light", "plot": FLAT, "light": CLEAR, **document}
        document.setdefault("beyond", {"edge": "end"})
        status, state = ask("POST", "/api/scenes", {"document": document})
        self.assertEqual(status, 200, state)
        self.page.go(f"/?quality=sketch&scene={state['id']}")
        self.page.settled()
        self.page.unfold("light")
        return state

    def light(self, state: dict) -> dict:
        return ask("GET", f"/api/scenes/{state['id']}")[1]["document"]["light"]

    def kept(self, state: dict, holds) -> None:
        self.page.until(lambda: holds(self.light(state)), 60, "the light is not kept")
        self.page.settled()

    def patches(self, seed: int, size_px: int = 40) -> tuple[np.ndarray, list[dict]]:
        """24 patches (4, 6, 3), six of them grey, and the ground on which they lie."""
        rng = np.random.default_rng(seed)
        shown = rng.integers(40, 235, (4, 6, 3), np.uint8)
        shown[0] = np.linspace(40, 235, 6)[:, None]
        blown = np.kron(shown, np.ones((size_px, size_px, 1), np.uint8))
        png = cv2.imencode(".png", blown[..., ::-1])[1]
        made = send_files("/api/ground-pictures", ("p.png", png.tobytes()))[1]
        return shown, [{"id": "g", "name": "g", "ground": "sand", "picture": made["picture"]}]

    def drawn_from(self, pose: dict) -> np.ndarray:
        """What the view draws from a pose."""
        self.page.js("sow.view.pose = arguments[0]; sow.view.changed(true)", pose)
        self.page.settled()
        return self.page.still(pose, *SIZE, 2)

    def small_picture(self, state: dict, pose: dict) -> np.ndarray:
        """The core's small picture from it."""
        asked = {"document": self.page.js("return sow.get().doc"), "pose": pose}
        asked |= {"width_px": SIZE[0], "height_px": SIZE[1], "fine": True}
        png = ask("POST", f"/api/scenes/{state['id']}/proofs", asked)[1]
        return cv2.imdecode(np.frombuffer(png, np.uint8), 1)[..., ::-1]

    def still_from(self, state: dict, shot: dict, quality: str) -> np.ndarray:
        """A still by following the light."""
        order = {"width_px": SIZE[0], "height_px": SIZE[1], "quality": quality}
        asked = {"shot": shot, "order": order}
        line = ask("POST", f"/api/scenes/{state['id']}/stills", asked)[1]
        done = lambda: ask("GET", f"/api/stills/{line['id']}")[1]
        self.page.until(lambda: done()["doing"] in ("done", "failed"), 600)
        self.assertEqual(done()["doing"], "done", done())
        png = ask("GET", f"/api/stills/{line['id']}/files/{done()['files'][0]}")[1]
        return cv2.imdecode(np.frombuffer(png, np.uint8), 1)[..., ::-1]

    def are_near(self, one: np.ndarray, other: np.ndarray, share: float, what) -> None:
        self.assertLess(np.abs(one - other).mean() / 255, share, what)

    def test_24_patches_are_the_same_in_view_core_and_tables(self):
        """Mean difference under 3 % of white, for two suns."""
        shown, ground = self.patches(4)
        linear = ((shown / 255.0) ** 2.2).reshape(24, 3)
        for height in (55, 14):
            state = self.open(light={**CLEAR, "sun_height": height}, ground=ground)
            drawn = self.drawn_from(POSE)
            small = self.small_picture(state, POSE)
            light = Light(**{**CLEAR, "sun_height": height})
            colour = self.page.js("return sow.get().manifest.colour")
            lit = daylight(light, np.array(colour), 0, 240, Cache(), 512)
            flat = arriving(lit.numbers, UP) + lit.sunlight * lit.sun[2]
            told = bytes_of(linear * flat / np.pi * lit.exposure).astype(float)
            view = means(drawn, POSE, MIDDLES)
            core = means(small, POSE, MIDDLES, upright=True)
            self.are_near(view, told, 0.03, height)
            self.are_near(core, told, 0.03, height)
            self.are_near(view, core, 0.03, height)

    def test_24_patches_on_the_land_of_the_demo(self):
        """The same on slopes, through a kilometre of air: what the law of light tells of each."""
        shown, ground = self.patches(9)
        demo = json.loads((SAMPLES / "brackenhope.json").read_text())
        bare = {"planting": [], "water": [], "pieces": [], "air": [], "shots": [], "grade": []}
        light = {**demo["light"], **CLEAR, "sun_bearing": 215, "sun_height": 38}
        document = {**demo, **bare, "ground": ground, "light": light}
        document["plot"] = {**demo["plot"], "posts": 257}
        state = self.open(**document)
        plot = Plot(**document["plot"])
        _, m = ask("POST", f"/api/scenes/{state['id']}/builds", {"grid": "view", "client": "t"})
        grid = plot.grid(m["grid"]["nx"])
        raw = ask("GET", f"/api/products/{m['heights']}")[1]
        heights = np.frombuffer(raw, "<f4").reshape(grid.shape)
        lit = daylight(
            Light(**light),
            np.array(m["colour"]),
            float(np.round(heights.min())),
            1600,
            Cache(),
            512,
        )
        facing, opens = normals(heights, grid.spacing), openness(heights, grid.spacing)
        lies = (
            facing[..., 2]
            + 0.1 * (opens > 92)
            + 0.1 * (heights - sun_line(heights, grid.spacing, lit.sun) > 6)
        )
        places, told = [], []
        pose = {**POSE, "east": 800, "north": -900, "up": 900, "tilt": -34}
        flat = arriving(lit.numbers, UP) + lit.sunlight * lit.sun[2]
        for k, colour in enumerate(((shown / 255.0) ** 2.2).reshape(24, 3)):
            r, c = divmod(k, 6)
            rows = slice(int((r + 0.3) * grid.ny / 4), int((r + 0.7) * grid.ny / 4))
            columns = slice(int((c + 0.3) * grid.nx / 6), int((c + 0.7) * grid.nx / 6))
            at = np.unravel_index(np.argmax(lies[rows, columns]), lies[rows, columns].shape)
            row, column = at[0] + rows.start, at[1] + columns.start
            n, open_ = facing[row, column].astype(float), opens[row, column] / 100
            arrives = lit.sunlight * max(n @ lit.sun, 0) + arriving(lit.numbers, n) * open_
            arrives = arrives + np.array(m["colour"]) * flat * (1 - open_)
            place = np.array([grid.xs()[column], grid.ys()[row], heights[row, column]])
            way = place - [pose["east"], pose["north"], pose["up"]]
            far = np.linalg.norm(way)
            passes = lit.haze.passes(pose["up"], place[2], far)
            tone = from_panorama(lit.tone, (way / far)[None, None])[0, 0]
            seen = colour * arrives / np.pi * passes + tone * (1 - passes)
            places.append(place)
            told.append(bytes_of(seen * lit.exposure).astype(float))
        view = means(self.drawn_from(pose), pose, places)
        core = means(self.small_picture(state, pose), pose, places, upright=True)
        told = np.array(told)
        self.are_near(view, told, 0.03, "view and tables")
        self.are_near(core, told, 0.03, "core and tables")
        self.are_near(view, core, 0.03, "view and core")

    def test_view_beside_still(self):
        """The patches as the view draws them and as a still has them, by following the light."""
        shown, ground = self.patches(7)
        eye = {"east_m": 120, "north_m": -160, "eye_m": 150, "tilt": -34, "focal_mm": 24}
        shot = {"id": "s", "name": "Patches", **eye}
        state = self.open(ground=ground, shots=[shot])
        drawn = self.drawn_from(POSE)
        still = self.still_from(state, shot, "good")
        view, taken = means(drawn, POSE, MIDDLES), means(still, POSE, MIDDLES)
        self.are_near(view, taken, 0.06, "view and still")

    def test_water_in_the_view_beside_a_still(self):
        """A sandy shore under a clear tarn, from above and along the surface: bed, body, mirror."""
        plot = {"width_m": 240, "depth_m": 240, "posts": 129}
        ridge = {"form": "ridge", "height_m": 20, "length_m": 1200, "breadth_m": 480, "turn": 90}
        fall = {"id": "f", "name": "f", "kind": "form", **ridge, "east_m": 120, "north_m": 260}
        ground = [{"id": "g", "name": "g", "ground": "sand", "relief": 0}]
        tarn = {"kind": "standing", "level_m": 10, "waves_cm": 6, **READY["tarn"].values()}
        steep = {"north_m": -40, "eye_m": 70, "tilt": -34}, slice(120, 300), slice(80, 400)
        low = {"north_m": 20, "eye_m": 12, "tilt": -3}, slice(100, 360), slice(0, 480)
        for eye, rows, columns in (steep, low):
            shot = {"id": "s", "name": "Shore", "east_m": 120, "focal_mm": 24, **eye}
            made = {"plot": plot, "land": [fall], "ground": ground, "shots": [shot]}
            state = self.open(**made, water=[{"id": "w", "name": "w", **tarn}])
            drawn = self.drawn_from(self.page.js("return sow.view.poseOf(sow.get().doc.shots[0])"))
            still = self.still_from(state, shot, "look")
            soft = [cv2.blur(p.astype(float), (9, 9))[rows, columns] for p in (drawn, still)]
            away = np.abs(soft[0] - soft[1]) / 255
            self.assertLess(float(away.mean()), 0.03, eye)
            self.assertLess(float(np.quantile(away, 0.95)), 0.06, eye)
            self.assertGreater(float(soft[1].std()) / 255, 0.04, eye)  # there is something to see

    def test_the_shade_of_clouds_falls_where_a_still_has_it(self):
        plot = {"width_m": 1600, "depth_m": 1200, "posts": 129}
        hills = {"id": "n", "name": "n", "kind": "noise", "height_m": 90, "feature_m": 900}
        clouds = {"clouds": 45, "cloud_size_m": 300, "cloud_base_m": 500, "cloud_seed": 4}
        light = {**CLEAR, **clouds, "sun_height": 24, "sun_bearing": 200}
        ground = [{"id": "g", "name": "g", "ground": "sand", "relief": 0}]
        eye = {"east_m": 800, "north_m": -700, "eye_m": 900, "tilt": -34, "focal_mm": 24}
        shot = {"id": "s", "name": "Hills", **eye}
        state = self.open(plot=plot, land=[hills], ground=ground, light=light, shots=[shot])
        pose = self.page.js("return sow.view.poseOf(sow.get().doc.shots[0])")
        view, still = self.drawn_from(pose), self.still_from(state, shot, "look")
        lands = self.page.js("return Array.from(sow.view.products.field.values)")
        grid = Plot(**plot).grid(self.page.js("return sow.view.products.field.nx"))
        at = np.stack(np.meshgrid(np.linspace(100, 1500, 15), np.linspace(100, 1100, 8)), -1)
        at = at.reshape(-1, 2)
        up = heights_at(np.array(lands, np.float32).reshape(grid.shape), grid, *at.T)
        places = np.column_stack([at, up])
        drawn = means(view, pose, places)[:, 1]
        followed = means(still, pose, places)[:, 1]
        self.assertGreater(followed.std(), 0.05 * followed.mean())  # some lie in the shade
        self.assertGreater(float(np.corrcoef(drawn, followed)[0, 1]), 0.9)

    def test_a_ready_light_is_taken_told_and_put_back(self):
        state = self.open()
        Select(self.page.one("[aria-label='Ready light']")).select_by_value("low-evening")
        self.kept(state, lambda l: l["ready"] == "low-evening" and l["sun_height"] == 6)
        self.page.until(lambda: "Low evening" in self.page.text("[data-made-from]"), 30)
        self.assertNotIn("but for", self.page.text("[data-made-from]"))
        ask_light = {**self.light(state), "exposure": 1}
        self.page.js(
            "const d = structuredClone(sow.get().doc); d.light = arguments[0]; "
            "sow.drag((x) => { x.light = d.light; })",
            ask_light,
        )
        self.page.until(lambda: "but for exposure" in self.page.text("[data-made-from]"), 30)
        self.page.click_text("put back", "[data-made-from]")
        self.kept(state, lambda l: l["exposure"] == 0.2)

    def test_the_sun_is_dragged_in_the_picture_and_on_the_dial(self):
        state = self.open()
        self.page.js(
            "sow.view.pose = {...sow.view.pose, bearing: 90, tilt: 10}; sow.view.changed(true)"
        )
        self.page.click("[data-sun-tool]")
        pad = self.page.one("[data-pad]")
        wide, high = pad.size["width"], pad.size["height"]
        chain = ActionChains(self.page.driver)
        chain.move_to_element_with_offset(pad, -wide // 4, -high // 4).click_and_hold()
        chain.move_by_offset(wide // 4, 0).release().perform()
        # the pointer ends in the middle across, a quarter of the height above the middle
        self.kept(state, lambda l: abs(l["sun_bearing"] - 90) < 2 and 15 < l["sun_height"] < 40)
        self.page.click("[data-sun-tool]")
        dial = self.page.one("[data-dial]")
        before = self.light(state)["sun_bearing"]
        self.page.js("arguments[0].focus()", dial)
        dial.send_keys(Keys.ARROW_RIGHT)
        self.kept(state, lambda l: abs(l["sun_bearing"] - before - 2) < 0.01)
        box = dial.size["width"]
        chain = ActionChains(self.page.driver)
        chain.move_to_element_with_offset(dial, 0, int(0.3 * box)).click().perform()
        self.kept(state, lambda l: abs(l["sun_bearing"] - 180) < 3 and 5 < l["sun_height"] < 40)

    def test_a_light_by_date_and_place(self):
        state = self.open()
        self.page.click_text("place and date", "[data-section=light]")
        self.kept(state, lambda l: l["sun_by"] == "date")
        field = self.page.one("[aria-label='Latitude in °']")
        field.click()
        field.send_keys("-33.5", Keys.ENTER)
        self.kept(state, lambda l: l["latitude"] == -33.5)
        light = self.light(state)
        told = sun_place(-33.5, light["longitude"], moment_of(light["moment"]))
        self.page.until(
            lambda: abs(self.page.js("return sow.get().sun.bearing") - told.bearing_deg) < 0.01, 60
        )
        drawn = self.page.js("return sow.view.air.uSun.value.toArray()")
        seen = direction(told.bearing_deg, told.height_refracted_deg)
        np.testing.assert_allclose(drawn, seen, atol=1e-4)

    def test_a_panorama_is_brought_in_turned_and_compared(self):
        state = self.open()
        sky = np.full((64, 128, 3), 0.5, np.float32)
        sky[32:] = 0.1
        sky[16, 32] = 4000  # a sun in the east, 44 degrees high
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "sky.exr"
            OpenEXR.File({"type": OpenEXR.scanlineimage}, {"RGB": sky}).write(str(path))
            self.page.one("[data-picture='Panorama']").send_keys(str(path))
            self.kept(state, lambda l: len(l["panorama"]) == 64)
            self.page.click_text("its sun", "[data-section=light]")
            self.kept(
                state,
                lambda l: abs(l["sun_bearing"] - 91.4) < 2 and abs(l["sun_height"] - 43.6) < 2,
            )
            field = self.page.one("[aria-label='Turned in °']")
            field.click()
            field.send_keys("90", Keys.ENTER)
            self.kept(state, lambda l: l["panorama_turn"] == 90)
            self.page.click_text("its sun", "[data-section=light]")
            self.kept(state, lambda l: abs(l["sun_bearing"] - 181.4) < 2)
            # what is no panorama is told, and nothing is lost
            bad = Path(folder) / "square.hdr"
            cv2.imwrite(str(bad), np.ones((64, 64, 3), np.float32))
            self.page.one("[data-picture='Panorama']").send_keys(str(bad))
            self.page.until(lambda: "twice as wide as high" in self.page.text(), 30)
            self.assertIn("422", self.page.errors()[0])  # the only one, and meant
            self.assertEqual(len(self.light(state)["panorama"]), 64)
        self.page.click("[data-lights]")
        self.page.click("[data-mode=panorama]")
        self.page.until(lambda: self.page.all("[data-tries='7']"), 200)
        self.page.click("[aria-label='Take Even grey']")
        self.kept(state, lambda l: l["panorama"] == "ready-even")

    def test_mist_is_placed_and_bounded_and_a_lamp_is_aimed(self):
        state = self.open()
        document = lambda: ask("GET", f"/api/scenes/{state['id']}")[1]["document"]
        self.page.click_text("mist, lamp or card", "[data-section=light]")
        self.page.click_text("Bank of mist", "[role=menu]")
        self.page.until(lambda: len(document()["air"]) == 1, 60)
        self.page.settled()
        field = self.page.one("[aria-label='Across in m']")
        field.click()
        field.send_keys("50", Keys.ENTER)
        self.page.until(lambda: document()["air"][0]["width_m"] == 50, 60)
        self.page.settled()
        self.page.click("[data-air-tool=stand]")
        self.page.js(
            "sow.view.pose = {east: 120, north: -20, up: 90, bearing: 0, tilt: -40, focal: 28}; "
            "sow.view.changed(true); sow.set({pose: sow.view.pose})"
        )
        self.page.settled()
        place = self.page.js("const p = sow.view.pick(0.6, 0.5); return [p.x, p.y]")
        pad = self.page.one("[data-pad]")
        ActionChains(self.page.driver).move_to_element_with_offset(
            pad, int(0.1 * pad.size["width"]), 0
        ).click().perform()
        self.page.until(lambda: abs(document()["air"][0]["east_m"] - place[0]) < 1, 60)
        self.page.settled()
        mist = self.page.js("return sow.get().manifest.mists[0].bounds")
        self.assertAlmostEqual((mist[0] + mist[2]) / 2, place[0], delta=1)
        self.page.click_text("mist, lamp or card", "[data-section=light]")
        self.page.click_text("Lamp", "[role=menu]")
        self.page.until(lambda: len(document()["air"]) == 2, 60)
        self.page.settled()
        self.page.click("[data-air-tool=aim]")
        ActionChains(self.page.driver).move_to_element_with_offset(
            pad, -int(0.2 * pad.size["width"]), 0
        ).click().perform()
        self.page.until(
            lambda: document()["air"][1]["aim_east_m"] < document()["air"][1]["east_m"] - 5, 60
        )
        self.page.settled()
        [lamp] = self.page.js("return sow.get().manifest.lamps")
        self.assertLess(lamp["aim"][0], -0.5)
        self.assertEqual(self.page.errors(), [])


if __name__ == "__main__":
    unittest.main()
