"""A shot matched to a picture, aimed on a place, and what its frame meets."""

import unittest
from dataclasses import replace

import numpy as np

from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.judge.in_frame import COLUMNS, ROWS, in_frame
from sow.core.judge.shot_faults import shot_faults
from sow.core.picture.prepared import view_of
from sow.core.scene import read_scene
from sow.core.shots.match import Known, by_lines, by_places
from sow.core.shots.shot import aimed, beyond_frame, eye_over
from sow.core.where import holding
from sow.core.works import do
from tests.small import SIDE_M, build_of, scene_of

TIER = "fast"


def on_picture(view, shot, way):
    """Where a direction from the eye shows on the picture, 0..1 across and down."""
    deep = way @ view.ahead
    wide = shot.focal_mm / 36
    x = (way @ view.right) / deep * wide - shot.shift_aside / 100
    y = (way @ view.up) / deep * wide - shot.shift_up / 100
    return float(0.5 + x), float(0.5 - y * shot.width_px / shot.height_px)


class Match(unittest.TestCase):
    def setUp(self):
        self.build = build_of()
        self.first = self.build.scene.shots[0]

    def shot(self, **values):
        return self.first.model_copy(update=values)

    def seen(self, shot, rng, count):
        """Places that a shot sees, where it sees them."""
        view = view_of(self.build, shot, 1920, 1080)
        found = []
        while len(found) < count:
            east, north = rng.uniform(0, SIDE_M), rng.uniform(60, SIDE_M)
            over = rng.uniform(0, 20)
            up = self.build.ground_at(east, north) + over
            way = np.array([east, north, up]) - view.eye
            if way @ view.ahead < 5:
                continue
            across, down = on_picture(view, shot, way)
            if 0 < across < 1 and 0 < down < 1:
                found.append(Known(across, down, east, north, over))
        return found

    def test_known_places_give_place_aim_and_lens(self):
        rng = np.random.default_rng(4)
        for _ in range(4):
            shot = self.shot(
                east_m=float(rng.uniform(20, 180)),
                north_m=float(rng.uniform(20, 60)),
                eye_m=float(rng.uniform(1.5, 20)),
                bearing=float(rng.uniform(-30, 30) % 360),
                tilt=float(rng.uniform(-12, 8)),
                focal_mm=float(rng.uniform(20, 60)),
                shift_up=5,
            )
            known = self.seen(shot, rng, 5)
            for count in (3, 5):
                lens = {"focal_mm": shot.focal_mm} if count == 3 else {}
                found = by_places(
                    self.shot(shift_up=5, **lens), known[:count], self.build.ground_at
                )
                for name in ("east_m", "north_m", "eye_m", "bearing", "tilt", "focal_mm"):
                    own, want = getattr(found.shot, name), getattr(shot, name)
                    self.assertAlmostEqual(own, want, delta=0.05, msg=f"{name} of {count}")
                self.assertLess(found.off, 1e-3)

    def test_a_mark_that_is_off_by_a_pixel_moves_little(self):
        rng = np.random.default_rng(6)
        shot = self.shot(tilt=-6, focal_mm=30)
        known = [
            replace(k, across=k.across + rng.normal() / 1920, down=k.down + rng.normal() / 1080)
            for k in self.seen(shot, rng, 12)
        ]
        found = by_places(self.first, known, self.build.ground_at).shot
        self.assertLess(np.hypot(found.east_m - shot.east_m, found.north_m - shot.north_m), 0.6)
        self.assertAlmostEqual(found.focal_mm, 30, delta=0.6)

    def test_horizon_and_uprights(self):
        for tilt, focal in ((-12, 28), (8, 35), (-0.5, 50), (15, 20)):
            shot = self.shot(tilt=tilt, focal_mm=focal)
            view = view_of(self.build, shot, 1920, 1080)
            level = np.array([view.ahead[0], view.ahead[1], 0])
            horizon = [on_picture(view, shot, level + k * view.right) for k in (-0.3, 0.2)]
            plumb = lambda x, z: 10 * level + x * view.right + np.array([0, 0, z])
            uprights = [[on_picture(view, shot, plumb(x, z)) for z in (-2, 2)] for x in (-3, 4)]
            start = self.shot(tilt=2, focal_mm=30)
            both = by_lines(start, horizon, uprights)
            self.assertAlmostEqual(both.tilt, tilt, delta=0.02)
            self.assertAlmostEqual(both.focal_mm, focal, delta=0.05 if abs(tilt) > 1 else 2)
            own_lens = self.shot(tilt=2, focal_mm=focal)
            self.assertAlmostEqual(by_lines(own_lens, horizon, None).tilt, tilt, delta=0.02)
            self.assertAlmostEqual(by_lines(own_lens, None, uprights).tilt, tilt, delta=0.02)

    def test_marks_that_contradict_one_another_change_nothing(self):
        document = scene_of()
        line = {"across": 0.2, "down": 0.5, "east": 50, "north": 100}
        wrong = [
            {**line, "across": a, "east": e, "north": n}
            for a, e, n in ((0.9, 20, 100), (0.1, 180, 100), (0.5, 100, 20), (0.5, 100, 199))
        ]
        for values, says in (
            ({}, "Nothing is marked"),
            ({"places": [line, line]}, "too few"),
            ({"places": [{**line, "east": e} for e in (40, 80, 120)]}, "in one line"),
            ({"places": wrong}, "No eye sees"),
            ({"horizon": [[0.5, 0.2], [0.5, 0.8]]}, "marked upright"),
        ):
            flat = scene_of(land=[])
            with self.assertRaisesRegex(SceneError, says):
                do("match a shot", flat if "line" in says else document, {"shot": "s", **values})
        done = do("match a shot", document, {"shot": "s", "horizon": [[0, 0.4], [1, 0.4]]})
        self.assertLess(done.document["shots"][0]["tilt"], 0)  # a horizon that lies high


class Aim(unittest.TestCase):
    PLACE = {"aim_by": "place", "aim_east_m": 60, "aim_north_m": 150, "aim_over_m": 3}

    def test_an_aim_keeps_its_height_when_the_land_changes(self):
        for height in (5, 18, 40):
            land = [{"kind": "noise", "id": "n", "name": "h", "height_m": height, "feature_m": 90}]
            scene = scene_of(land=land)
            shots = [{**scene.shots[0].model_dump(), **self.PLACE}]
            build = build_of(land=land, shots=shots)
            view = view_of(build, build.scene.shots[0], 64, 36)
            target = np.array([60, 150, build.ground_at(60, 150) + 3])
            way = target - view.eye
            self.assertAlmostEqual(float(way @ view.ahead) / np.linalg.norm(way), 1, 9)
            own = build.shots()[0]
            self.assertEqual(own.aim_by, "angles")
            self.assertAlmostEqual(own.bearing, np.degrees(np.arctan2(-30, 120)) % 360, 6)

    def test_beyond_the_frame_is_told_in_metres(self):
        build = build_of()
        shot = aimed(build.scene.shots[0], build.ground_at)
        eye = eye_over(shot, build.ground_at)
        view = view_of(build, shot, 200, 112)
        rays = view.rays().reshape(-1, 3)
        for k, far in ((0.97, 0.0), (1.2, None)):
            x, y = np.array([-1, 0, 1]) * 18 / shot.focal_mm * k, np.zeros(3)
            way = view.ahead + x[:, None] * view.right + y[:, None] * view.up
            at = eye + 50 * way
            off = beyond_frame(shot, eye, *at.T)
            if far is not None:
                self.assertEqual(off.tolist(), [0, 0, 0])
            else:
                self.assertTrue((off[[0, 2]] > 3).all() and off[1] == 0)
        places = eye + rays * 40
        self.assertLess(float(beyond_frame(shot, eye, *places.T).max()), 0.2)

    def test_in_sight_of_a_shot_is_what_its_frame_meets(self):
        build = build_of()
        site = build.site()
        own = {"kind": "in-sight", "shot": "s", "soft": 0.05}
        condition = lambda **more: _where({**own, **more})
        framed = holding(condition(), site, "where") > 0.5
        around = holding(condition(frame="all around"), site, "where") > 0.5
        self.assertLess(framed.sum(), 0.6 * around.sum())
        self.assertFalse((framed & ~around).any())
        met = in_frame(build, build.scene.shots[0])
        here = np.isfinite(met.away)
        inside = here & ((met.place[..., :2] > 2) & (met.place[..., :2] < SIDE_M - 2)).all(-1)
        east, north = met.place[inside][:, 0], met.place[inside][:, 1]
        rows = np.rint(build.grid.rows_of(north)).astype(int)
        columns = np.rint(build.grid.cols_of(east)).astype(int)
        soft = holding(condition(soft=1.5), site, "where") > 0.05
        self.assertGreater(float(soft[rows, columns].mean()), 0.97)


def _where(condition):
    scene = read_scene({"name": "w", "ground": [{"id": "g", "name": "g", "where": [condition]}]})
    return scene.ground[0].where


class Frames(unittest.TestCase):
    def test_flat_ground_is_met_where_trigonometry_has_it(self):
        build = build_of(land=[], beyond={"edge": "run on"})
        shot = build.scene.shots[0].model_copy(update={"tilt": -10, "bearing": 0})
        met = in_frame(build, shot)
        view = view_of(build, shot, COLUMNS, ROWS)
        down = view.rays()[..., 2]
        want = np.where(down < -0.02, -shot.eye_m / np.minimum(down, -1e-6), np.nan)
        near = want < 150
        self.assertLess(float(np.nanmax(np.abs(met.away - want)[near] / want[near])), 0.02)

    def told(self, **more):
        document = {**scene_of().model_dump(mode="json"), **more}
        scene = read_scene(document)
        build = Build(scene, scene.plot.grid(), Cache(1 << 30))
        return {f.what: f.told for f in shot_faults(build)}

    def test_each_fault_is_told_where_it_is_and_not_where_it_is_not(self):
        shot = scene_of().shots[0].model_dump()
        self.assertIn("edge of the world", self.told(beyond={"edge": "end"})["edge"])
        self.assertNotIn("edge", self.told(beyond={"edge": "run on"}))
        self.assertIn("nothing in it", self.told()["empty"])
        stones = [
            {"id": f"p{i}", "name": "Stone", "kind": "boulder", "east_m": e, "north_m": n}
            | {"size": 300}
            for i, (e, n) in enumerate(((95, 70), (100, 80), (90, 90), (105, 100)))
        ]
        self.assertNotIn("empty", self.told(pieces=stones))
        self.assertIn("beyond the plot", self.told(shots=[{**shot, "east_m": -40}])["outside"])
        lake = [{"id": "w", "name": "Lake", "reach": "everywhere", "level_m": 60}]
        self.assertIn("under water", self.told(water=lake)["outside"])
        dark = self.told(shots=[{**shot, "exposure": -6}])
        self.assertIn("expose it by", dark["dark"])


if __name__ == "__main__":
    unittest.main()
