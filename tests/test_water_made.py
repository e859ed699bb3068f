"""What is made of waters: wakes, ice, what is seen from under them, ready shores, files, stills."""

import json
import tempfile
import unittest
from pathlib import Path

import cv2
import numpy as np
import tifffile
import trimesh

from sow.core.build import Build
from sow.core.build.waters import (
    moving_in,
    remarks,
    sea_in,
    shore_in,
    stands_in,
    wakes_in,
    wet_level,
)
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.formats.water_mesh import water_mesh
from sow.core.formats.waterfiles import flow_map, foam_over
from sow.core.grow import grow
from sow.core.motion.base import Moment, StanceAt
from sow.core.picture.prepared import land_of, setting_of, view_of
from sow.core.picture.under import under_of, water_about
from sow.core.sample import heights_at
from sow.core.scene import read_scene
from sow.core.water.entry import Water
from sow.core.water.ice import ice_at, thickness
from sow.core.water.spectrum import GRAVITY
from sow.core.water.wake import CUSP, Wake, wake_of, wakes_at
from sow.core.works.base import do
from sow.core.works.shores import READY

TIER = "fast"

BOWL = {
    "id": "bowl",
    "name": "Bowl",
    "kind": "form",
    "form": "basin",
    "height_m": 14,
    "length_m": 170,
    "breadth_m": 170,
    "east_m": 100,
    "north_m": 100,
}
SLOPE = {
    **BOWL,
    "id": "s",
    "form": "ridge",
    "breadth_m": 380,
    "length_m": 900,
    "north_m": 240,
    "turn": 90,
}
HILL = {**BOWL, "id": "h", "form": "dome", "height_m": 9, "length_m": 40, "breadth_m": 40}
HILL |= {"east_m": 165}
BURN = {"id": "m", "name": "Burn", "kind": "line", "points": [[100, 190], [104, 120], [100, 20]]}
BOAT = {"id": "boat", "name": "Boat", "kind": "boat", "east_m": 100, "north_m": 100}
AFLOAT = {**BOAT, "stands": "water", "wake_ms": 3, "turn": 90}


def document(**more) -> dict:
    plot = {"width_m": 200, "depth_m": 200, "posts": 129, "seed": 2}
    pool = {"id": "w", "name": "Pool", "level_m": -3, "waves_cm": 8}
    return {"name": "Waters", "plot": plot, "land": [BOWL], "water": [pool], **more}


def build_of(**more) -> Build:
    scene = read_scene(document(**more))
    return Build(scene, scene.plot.grid(), Cache(1 << 28))


def pool(**more) -> list[dict]:
    return [{"id": "w", "name": "Pool", "level_m": -3, **more}]


class Wakes(unittest.TestCase):
    wake = Wake(0, 0, 0, 4.0, 1.5, 3.0)

    def test_its_waves_keep_within_kelvins_angle(self):
        behind = np.full(400, -40.0)
        aside = np.linspace(-30, 30, 400)
        high = np.abs(self.wake.height(aside, behind))
        within = np.abs(aside) < 40 * CUSP
        self.assertGreater(float(high[within].max()), 0.02)
        self.assertLess(float(high[np.abs(aside) > 40 * CUSP + 6].max()), 1e-3)
        self.assertEqual(float(np.abs(self.wake.height(aside, -behind)).max()), 0)
        np.testing.assert_allclose(high, high[::-1], atol=1e-9)

    def test_its_crests_across_are_as_far_apart_as_waves_of_its_speed(self):
        back = np.linspace(10, 120, 8000)
        high = self.wake.height(np.full(8000, 0.4), -back)
        crests = back[1:-1][(high[1:-1] > high[:-2]) & (high[1:-1] > high[2:])]
        told = 2 * np.pi * self.wake.speed_ms**2 / GRAVITY
        self.assertAlmostEqual(float(np.median(np.diff(crests))) / told, 1, delta=0.05)

    def test_foam_lies_along_its_sides_and_behind(self):
        foam = self.wake.foam(np.array([0.8, 0.0, 0.0, 9.0]), np.array([-2.0, -6.0, -60.0, -6.0]))
        self.assertGreater(foam[0], 0.4)
        self.assertGreater(foam[1], foam[2])
        self.assertLess(foam[3], 0.01)
        high, east, north, white = wakes_at([], np.zeros(3), np.zeros(3))
        self.assertEqual(float(np.abs([high, east, north, white]).max()), 0)

    def test_an_outline_gives_its_own_and_bad_ones_are_told(self):
        square = np.array([[0, 0], [10, 0], [10, 2], [0, 2]], float)
        wake = wake_of(square, 90, 4, "")
        np.testing.assert_allclose((wake.long_m, wake.broad_m), (10, 2))
        np.testing.assert_allclose((wake.east, wake.north), (10, 1), atol=1e-9)
        with self.assertRaisesRegex(SceneError, "crosses itself"):
            wake_of(square[[0, 2, 1, 3]], 0, 4, "water.0.wake")
        area = lambda x: {
            "id": "a",
            "name": "Hull",
            "kind": "area",
            "smooth": False,
            "points": [[x, 96], [x + 4, 96], [x + 4, 104], [x, 104]],
        }
        afloat = build_of(marks=[area(98)], water=pool(wake="a"))
        self.assertEqual(len(wakes_in(afloat, 0)), 1)
        for marks, words in (([area(2)], "lies on land"), ([], "no area")):
            with self.assertRaisesRegex(SceneError, words):
                wakes_in(build_of(marks=marks, water=pool(wake="a")), 0)

    def test_a_boat_afloat_has_one_where_it_is_at_the_moment(self):
        b = build_of(pieces=[AFLOAT])
        (wake,) = wakes_in(b, 0)
        self.assertGreater(wake.east, 101)
        self.assertAlmostEqual(wake.north, 100, delta=0.01)
        (later,) = wakes_in(b, 0, {"boat": StanceAt(110, 90, -3, 180)})
        self.assertAlmostEqual(later.east, 110, delta=0.01)
        self.assertLess(later.north, 89)
        self.assertEqual(wakes_in(build_of(pieces=[{**AFLOAT, "wake_ms": 0}]), 0), [])
        self.assertEqual(wakes_in(build_of(pieces=[{**AFLOAT, "east_m": 4}]), 0), [])
        at = lambda m: m.at(np.array([97.0]), np.array([100.6]), np.array([0.1])).high[0]
        self.assertNotEqual(at(moving_in(b, 0, 0)), at(moving_in(build_of(), 0, 0)))


class Ice(unittest.TestCase):
    def test_it_grows_from_the_shore_thick_to_thin(self):
        b = build_of()
        wet = b.water()[1][0]
        shares = []
        for frozen in (0, 30, 70, 100):
            water = Water(id="w", name="w", frozen=frozen, ice_cm=40)
            thick = thickness(water, wet, b.grid.spacing)
            shares.append(float((thick[wet] > 0).mean()))
            self.assertLessEqual(float(thick.max()), 0.4001)
        self.assertEqual(shares, sorted(shares))
        self.assertEqual((shares[0], shares[-1]), (0, 1))
        rows, columns = np.nonzero(wet)
        row = rows[len(rows) // 2]
        across = thick[row, columns[rows == row].min() : columns[rows == row].max()]
        self.assertGreater(across[0], across[len(across) // 2])

    def test_where_it_is_frozen_no_wave_runs_and_snow_is_white(self):
        frozen = build_of(water=pool(frozen=100, snow=100, waves_cm=20))
        free = build_of(water=pool(waves_cm=20))
        rng = np.random.default_rng(2)
        x, y = 100 + rng.uniform(-30, 30, (2, 4000))
        fine = np.full(4000, 0.05)
        ice, sea = (moving_in(b, 0, 1.0).at(x, y, fine) for b in (frozen, free))
        self.assertLess(float(ice.high.std()), 0.02 * float(sea.high.std()))
        self.assertGreater(float(np.mean(ice.foam)), 0.5)
        bare = Water(id="w", name="w", frozen=100, snow=0, cracks=0, ice_cm=10)
        own, white, snow = ice_at(x, y, np.full(4000, 0.1), bare)
        self.assertEqual(float(snow.max()), 0)
        self.assertLess(float(white.max()), 0.1)  # thin ice is dark
        self.assertGreater(float(own.min()), 0.5)


class Under(unittest.TestCase):
    def setUp(self):
        self.build = build_of(water=pool(clear_m=3, through="#5f9a94", waves_cm=1))
        self.eye = np.array([100.0, 100.0, -6.0])
        self.under = under_of(self.build, self.eye, self.build.daylight(64), 0.0)

    def seen(self, ray, light, depth):
        r = np.array(ray, float) / np.linalg.norm(ray)
        shape = lambda v: np.array(v, np.float32).reshape(1, 1, -1)
        shown = np.full((1, 1, 3), -1, np.float32)
        d = np.array([[depth]], np.float32)
        return self.under.over(shown, shape(light), d, shape(r))[0, 0]

    def test_an_eye_is_in_the_water_that_holds_it(self):
        self.assertEqual(water_about(self.build, self.eye), 0)
        for place in ((100, 100, 2), (3, 3, -6)):
            self.assertIsNone(water_about(self.build, np.array(place, float)))

    def test_the_waters_colour_takes_over_with_distance(self):
        near, far = (self.seen((0, 1, 0), (0.5, 0.5, 0.5), d) for d in (0.5, 60.0))
        black = self.seen((0, 1, 0), (0, 0, 0), 60.0)
        np.testing.assert_allclose(far, black, rtol=0.01)
        self.assertGreater(near[0], far[0])
        # red goes first
        mid = self.seen((0, 1, 0), (0.5, 0.5, 0.5), 2.0)
        self.assertLess(mid[0] / near[0], mid[1] / near[1])

    def test_the_sky_stands_in_a_round_window(self):
        bright = (9.0, 9.0, 9.0)
        low = [self.seen((0, np.sin(a), np.cos(a)), bright, 0) for a in np.deg2rad((62, 75))]
        high = self.seen((0.02, 0, 1), bright, 0)
        own = self.seen((0, 1, 0), (0, 0, 0), 500.0)
        for look in low:  # beyond 48.6 degrees the water mirrors itself
            self.assertLess(float(look.mean()), 3 * float(own.mean()))
        self.assertGreater(float(high.mean()), float(max(v.mean() for v in low)))

    def test_half_over_and_half_under(self):
        self.eye[2] = self.build.scene.water[0].level_m + 0.03
        self.under = under_of(self.build, self.eye, self.build.daylight(64), 0.0)
        np.testing.assert_array_equal(self.seen((0, 1, 0.3), (1, 1, 1), 5), [-1, -1, -1])
        self.assertGreaterEqual(float(self.seen((0, 1, -0.3), (1, 1, 1), 5).min()), 0)


class Remarks(unittest.TestCase):
    def told(self, **more) -> str:
        return " ".join(remarks(build_of(**more), 0))

    def test_what_a_water_cannot_do_is_told(self):
        self.assertEqual(self.told(), "")
        self.assertIn("All the land", self.told(water=pool(level_m=50)))
        self.assertIn("held to", self.told(water=pool(waves_cm=1500, wave_m=600)))
        self.assertIn("so short", self.told(water=pool(waves_cm=300, wave_m=1)))
        through = {**BURN, "points": [[100, 100], [150, 100], [195, 100]]}
        burn = [{"id": "s", "name": "Burn", "reach": "stream", "mark": "m", "width_m": 4}]
        self.assertIn("rises by", self.told(marks=[through], water=burn, land=[HILL, BOWL]))

    def test_forty_waters_are_built_and_more_are_refused(self):
        many = [{**pool()[0], "id": f"w{i}", "level_m": -3 - 0.05 * i} for i in range(41)]
        b = build_of(water=many[:40])
        self.assertEqual(float(np.nanmax(b.water()[0])), -3)
        with self.assertRaisesRegex(SceneError, "40"):
            build_of(water=many)


class Shores(unittest.TestCase):
    def test_each_ready_shore_lies_at_the_line_and_gives_way_to_the_next(self):
        scene = read_scene(document(land=[SLOPE], water=pool(level_m=2)))
        for name in READY:
            done = do("ready shore", scene, {"water": "w", "name": name})
            again = do("ready shore", read_scene(done.document), {"water": "w", "name": "mud"})
            groups = {e["group"] for e in done.document["ground"] + done.document["planting"]}
            self.assertEqual(groups, {"", "Shore of Pool"})
            self.assertEqual(len(again.document["ground"]), 3)
            shown = read_scene(done.document)
            b = Build(shown, shown.plot.grid(), Cache(1 << 28))
            weights = b.ground()[1:].sum(0)
            near = np.abs(b.heights - 2) < 0.15
            self.assertGreater(float(weights[near].mean()), 0.8)
            self.assertLess(float(weights[b.heights > 8].mean()), 0.02)
            for i in range(len(shown.planting)):
                plants = b.plants(i)
                up = heights_at(b.heights, b.grid, plants.east, plants.north) - 2
                self.assertLess(float(np.abs(up).max(initial=0)), 4)
        with self.assertRaisesRegex(SceneError, "no ready shore"):
            do("ready shore", scene, {"water": "w", "name": "lava"})
        dry = read_scene(document(water=pool(level_m=-90)))
        with self.assertRaisesRegex(SceneError, "no shore"):
            do("ready shore", dry, {"water": "w", "name": "sand"})

    def test_a_ready_water_is_taken_and_waves_wet_the_land(self):
        scene = read_scene(document())
        done = do("ready water", scene, {"water": "w", "name": "silt"})
        self.assertEqual(done.document["water"][0]["clear_m"], 0.25)
        with self.assertRaisesRegex(SceneError, "no ready water"):
            do("ready water", scene, {"water": "w", "name": "wine"})
        calm, rough = (build_of(water=pool(waves_cm=h)) for h in (0, 60))
        more = wet_level(rough).max() - wet_level(calm).max()
        self.assertAlmostEqual(float(more), 0.9 * sea_in(rough, 0).high_m, delta=0.01)


class Files(unittest.TestCase):
    def test_waters_are_written_and_read_elsewhere(self):
        stream = {"id": "s", "name": "Burn", "reach": "stream", "mark": "m", "width_m": 6}
        scene = read_scene(document(marks=[BURN], water=[*pool(waves_cm=30), stream]))
        with tempfile.TemporaryDirectory() as folder:
            grow(scene, None, Path(folder), 129, files={"water": {"at_s": 2.0}})
            made = Path(folder) / "water"
            world = trimesh.load(made / "water.glb")
            document_ = json.loads(_chunk(made / "water.glb"))
            depth = tifffile.imread(made / "depth.tif")
            foam = cv2.imread(str(made / "foam.png"), cv2.IMREAD_UNCHANGED)
            flow = cv2.imread(str(made / "flow.png"))[..., ::-1]
            lines = json.loads((made / "shore.geojson").read_text())
        b = Build(scene, scene.plot.grid(129), Cache(1 << 28))
        self.assertEqual(len(world.geometry), 2)
        heights = np.concatenate([g.vertices[:, 1] for g in world.geometry.values()])
        self.assertGreater(float(np.ptp(heights)), 0.1)  # its waves
        volume = document_["materials"][0]["extensions"]["KHR_materials_volume"]
        self.assertAlmostEqual(volume["attenuationDistance"], scene.water[0].clear_m)
        level, _ = b.water()
        told = np.where(np.isfinite(level), level - b.heights, 0)
        np.testing.assert_allclose(depth, np.maximum(told, 0), atol=1e-3)
        self.assertEqual(foam.shape, b.grid.shape)
        np.testing.assert_allclose(foam / 255, foam_over(b, 2.0), atol=0.01)
        np.testing.assert_array_equal(flow, flow_map(b))
        moving = np.abs(flow[..., :2].astype(int) - 128).max(-1) > 3
        self.assertTrue(moving.any() and not moving[0, 0])
        self.assertLess(float(np.median(flow[moving][:, 1])), 128)  # it runs south
        for feature in lines["features"]:
            line = np.array(feature["geometry"]["coordinates"])
            up = heights_at(b.heights, b.grid, line[:, 0], line[:, 1])
            self.assertLess(float(np.abs(up - feature["properties"]["level_m"]).max()), 0.3)
        self.assertGreater(len(lines["features"]), 0)

    def test_the_mesh_is_the_surface(self):
        b = build_of(water=pool(waves_cm=20))
        m = water_mesh(b, 0, 3.0)
        x, y = m.positions[:, 0], m.positions[:, 1]
        self.assertEqual(len(m.foam), len(m.positions))
        self.assertLess(float(np.abs(m.positions[:, 2] + 3).max()), 0.4)
        self.assertTrue(((x > -2) & (x < 202) & (y > -2) & (y < 202)).all())
        still = water_mesh(build_of(water=pool(waves_cm=0)), 0)
        np.testing.assert_allclose(still.positions[:, 2], -3, atol=1e-5)

    def test_what_stands_in_the_water_is_found(self):
        stones = [
            {"id": f"p{i}", "name": "Stone", "kind": "boulder", "east_m": e, "north_m": 100}
            for i, e in enumerate((100.0, 62.0, 10.0))
        ]
        b = build_of(pieces=stones)
        deep = -3 - heights_at(b.heights, b.grid, np.array([100, 62.0]), np.array([100, 100.0]))
        found = stands_in(b, 0)
        self.assertGreater(deep[0], 5)  # the first lies on the bottom, the last on land
        self.assertTrue(all(abs(f[0] - 62) < 2 for f in found))
        self.assertEqual(shore_in(b, 0).time.shape, b.grid.shape)


class Loops(unittest.TestCase):
    def test_a_still_shows_the_same_water_after_its_loop(self):
        ground = [{"id": "g", "name": "Sand", "ground": "sand"}]
        shot = {"id": "s", "name": "Shore", "east_m": 100, "north_m": 28, "bearing": 0}
        asked = {"waves_cm": 25, "wave_m": 6, "loop_s": 8}
        b = build_of(water=pool(**asked), shots=[shot], ground=ground)
        view = view_of(b, b.scene.shots[0], 96, 54)
        land = land_of(b, view)

        def at(seconds: float):
            moment = Moment(seconds, b.scene.light, b.scene.shots[0], waves_s=seconds)
            return setting_of(b, view, moment, land).bodies

        first, after, between = at(0.0), at(8.0), at(3.0)
        waters = [i for i, body in enumerate(first) if body.of.startswith("water")]
        self.assertEqual(len(waters), 1)
        for i in [0, *waters]:  # the shore that they wet, and the water
            one, other = first[i], after[i]
            np.testing.assert_allclose(one.positions, other.positions, atol=2e-3)
            for name in ("picture", "lean", "wet"):
                mine, back = getattr(one.surface, name), getattr(other.surface, name)
                if mine is not None:
                    off = np.abs(mine.astype(float) - back)
                    self.assertLess(float(off.mean()), 2e-3, f"{name} of {one.of}")
        moved = np.abs(first[waters[0]].surface.lean - between[waters[0]].surface.lean)
        self.assertGreater(float(moved.mean()), 0.005)


def _chunk(path: Path) -> bytes:
    """The JSON of a GLB."""
    data = path.read_bytes()
    return data[20 : 20 + int.from_bytes(data[12:16], "little")]


if __name__ == "__main__":
    unittest.main()
