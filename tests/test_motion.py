"""Moving pictures: what moves do to a moment, frames by workers, and clips."""

import os
import signal
import tempfile
import threading
import time
import unittest
from pathlib import Path

import av
import cv2
import numpy as np

from sow.core.air.light import sun_angles
from sow.core.air.sun import moment_of, sun_place
from sow.core.build import Rasters
from sow.core.errors import SceneError
from sow.core.formats.clipfiles import write_clip
from sow.core.formats.package import write_package
from sow.core.formats.stillfiles import write_frame, write_picture
from sow.core.motion.at import lasts_s, moments
from sow.core.picture.clip import Frames
from sow.core.picture.order import Clip, Order, checked
from sow.core.picture.prepared import view_of
from sow.core.picture.still import Still
from sow.core.picture.sway import sway_of
from sow.core.scene import read_scene
from sow.jobs import Queue, Shelf
from sow.stills import handed
from sow.stills.order import WORKS, ordered
from sow.workers.pool import Pool
from tests.small import SIDE_M, build_of, scene_of

TIER = "whole"

WAY = {"id": "way", "name": "Way", "kind": "line", "points": [[30, 40], [90, 60], [150, 150]]}
STONE = {"id": "stone", "name": "Stone", "kind": "boulder", "east_m": 20, "north_m": 20}


def move(kind, **values):
    return {"id": f"m-{kind}", "name": kind.capitalize(), "kind": kind, **values}


def at(seconds, *entries, shot="s", **more):
    """The moment of a small scene with these moves."""
    build = build_of(moves=list(entries), **more)
    own = next(s for s in build.scene.shots if s.id == shot)
    return moments(build, own)(seconds), build


class OfMoves(unittest.TestCase):
    def test_paces_begin_and_end_where_they_say(self):
        for pace in ("softly", "evenly", "soft start", "soft end"):
            sun = move("sun", starts_s=1, lasts_s=4, pace=pace, bearing=300, height=10)
            bearings = [at(t, sun)[0].light.sun_bearing for t in (0.5, 1, 2, 3, 5, 9)]
            self.assertEqual(bearings[:2], [200, 200], pace)
            self.assertEqual(bearings[-2:], [300, 300], pace)
            self.assertEqual(bearings, sorted(bearings), pace)

    def test_the_sun_goes_through_its_day_and_the_shorter_way_round(self):
        light = {"sun_by": "date", "moment": "2026-06-21T08:00:00+02:00", "latitude": 47}
        sun = move("sun", by="hours", hours=6, lasts_s=3, pace="evenly")
        moment, _ = at(1.5, sun, light=light)
        place = sun_place(47, 10, moment_of("2026-06-21T11:00:00+02:00"))
        self.assertAlmostEqual(sun_angles(moment.light)[0], place.bearing_deg, 3)
        over_north = move("sun", bearing=20, height=10, lasts_s=1, pace="evenly")
        half, _ = at(0.5, over_north, light={"sun_bearing": 340, "sun_height": 10})
        self.assertAlmostEqual(half.light.sun_bearing % 360, 0, 6)

    def test_moves_of_one_sort_follow_one_another_as_keys(self):
        first = move("light", what="haze_m", to=1000, lasts_s=2)
        then = {**first, "id": "m-2", "to": 8000, "starts_s": 3}
        haze = [at(t, first, then)[0].light.haze_m for t in (2, 3, 5, 6)]
        self.assertTrue(np.allclose(haze, [1000, 1000, 8000, 8000]), haze)
        between = at(4, first, then)[0].light.haze_m
        self.assertAlmostEqual(between, np.sqrt(1000 * 8000), delta=1)

    def test_a_glide_keeps_its_height_and_looks_ahead(self):
        glide = move("glide", line="way", over_m=2, lasts_s=4, pace="evenly", smooth_m=8)
        places = []
        for t in np.linspace(0, 4, 9):
            moment, build = at(t, glide, marks=[WAY])
            view = view_of(build, moment.shot, 64, 36)
            ground = build.ground_at(*view.eye[:2])
            self.assertGreaterEqual(view.eye[2] - ground, 2 - 1e-6)
            self.assertLess(view.eye[2] - ground, 2 + 3)
            places.append(view)
        ways = np.diff([v.eye[:2] for v in places], axis=0)
        for way, view in zip(ways, places[1:-1]):
            self.assertGreater(float(way @ view.ahead[:2]) / np.linalg.norm(way), 0.9)
        steps = np.linalg.norm(ways, axis=1)
        self.assertLess(steps.std() / steps.mean(), 0.05)  # evenly

    def test_a_glide_may_keep_its_aim_on_a_place(self):
        aim = {"aim_east_m": 100, "aim_north_m": 190, "aim_over_m": 5}
        glide = move("glide", line="way", looks="to a place", lasts_s=2, **aim)
        for t in (0, 0.7, 2):
            moment, build = at(t, glide, marks=[WAY])
            view = view_of(build, moment.shot, 64, 36)
            target = np.array([100, 190, build.ground_at(100, 190) + 5])
            way = target - view.eye
            self.assertAlmostEqual(float(way @ view.ahead) / np.linalg.norm(way), 1, 6)

    def test_to_another_shot_ends_in_it(self):
        shots = [
            {"id": "s", "name": "One", "east_m": 90, "north_m": 30, "eye_m": 4, "bearing": 350},
            {
                **{"id": "b", "name": "Two", "east_m": 40, "north_m": 150, "eye_m": 9},
                **{"focal_mm": 85, "aim_by": "place", "aim_east_m": 100, "aim_north_m": 100},
            },
        ]
        goes = move("to-shot", to="b", lasts_s=3)
        end, build = at(3, goes, shots=shots)
        a, b = (view_of(build, s, 96, 54) for s in (end.shot, build.scene.shots[1]))
        for one, other in ((a.eye, b.eye), (a.ahead, b.ahead), ([a.focal_mm], [b.focal_mm])):
            self.assertTrue(np.allclose(one, other, atol=1e-6))
        half, _ = at(1.5, goes, shots=shots)
        self.assertAlmostEqual(half.shot.east_m, 65)

    def test_a_piece_goes_along_its_line_facing_its_way(self):
        lake = {"id": "w", "name": "Lake", "reach": "everywhere", "level_m": 4}
        for over in ("ground", "surface"):
            goes = move("piece", piece="stone", line="way", over=over, pace="evenly", lasts_s=10)
            more = {"marks": [WAY], "pieces": [STONE], "water": [lake]}
            stances = [at(t, goes, **more) for t in (2, 5, 5.01)]
            stance, build = stances[1]
            own = stance.pieces["stone"]
            level = build.water()[0]
            foot = build.ground_at(own.east_m, own.north_m)
            if over == "ground":
                self.assertAlmostEqual(own.up_m, foot, 4)
            else:
                self.assertGreaterEqual(own.up_m, foot - 1e-4)
                self.assertTrue(own.up_m >= 4 - 1e-4 or not np.isfinite(level).any())
            later = stances[2][0].pieces["stone"]
            way = np.degrees(np.arctan2(later.east_m - own.east_m, later.north_m - own.north_m))
            self.assertLess(abs((way - own.turn + 180) % 360 - 180), 12)

    def test_wind_leans_plants_with_it_and_is_gone_when_it_ends(self):
        wind = move("wind", strength=100, lasts_s=10, pace="evenly")
        moment, build = at(5, wind)
        self.assertEqual((moment.wind, moment.blown_s), (1.0, 5.0))
        self.assertEqual(at(10, wind)[0].wind, 0)
        rng = np.random.default_rng(2)
        east, north = rng.uniform(0, SIDE_M, (2, 500))
        tall = np.where(np.arange(500) < 250, 0.5, 15.0)
        still = np.zeros(500)
        lean, bearing = sway_of(build, moment)(east, north, tall, still, still)
        with_it = np.cos(np.deg2rad(bearing - moment.light.wind_from - 180))
        self.assertGreater(float((lean * with_it).mean()), 1)
        self.assertGreater(lean[:250].mean(), 2 * lean[250:].mean())  # trunks give way less

    def test_what_cannot_be_moved_is_told_with_its_name(self):
        lost = (
            (move("glide", line="gone"), "follows no line"),
            (move("piece", piece="gone", line="way"), "moves no piece"),
            (move("to-shot", to="gone"), "goes to no shot"),
            (move("sun", by="hours"), "stands by bearing"),
            (move("light", what="clouds", to=400), "cannot be"),
        )
        for entry, says in lost:
            with self.assertRaisesRegex(SceneError, says) as told:
                at(5, entry, marks=[WAY])
            self.assertEqual(told.exception.path, "moves.0")
        for clip, says in (
            (Clip(from_s=3, to_s=2), "ends at"),
            (Clip(from_s=0, to_s=3000, fps=60), "too many"),
        ):
            with self.assertRaisesRegex(SceneError, says):
                checked(Order(clip=clip))
        with self.assertRaisesRegex(SceneError, "cube"):
            checked(Order(clip=Clip(), projection="cube"))

    def test_moves_of_another_shot_do_not_count(self):
        other = move("sun", bearing=300, height=10, shot="x", lasts_s=1)
        moment, build = at(5, other)
        self.assertEqual(moment.light.sun_bearing, 200)
        self.assertEqual(lasts_s(build, "s"), 0)
        self.assertEqual(lasts_s(build, "x"), 1)


MOVES = [
    move("sun", bearing=260, height=12, lasts_s=1),
    move("glide", line="way", over_m=3, lasts_s=1, pace="evenly"),
]
SMALL = {
    "width_px": 48,
    "height_px": 28,
    "quality": "look",
    "clip": {"from_s": 0, "to_s": 0.6, "fps": 5, "form": "frames"},
}


class OfFrames(unittest.TestCase):
    def package(self, **more):
        scene = scene_of(moves=MOVES, marks=[WAY], **more)
        with tempfile.TemporaryFile() as file:
            write_package(scene, Rasters(), file)
            file.seek(0)
            return scene, file.read()

    def test_a_frame_is_the_still_of_its_moment_whatever_came_before(self):
        build = build_of(moves=MOVES, marks=[WAY])
        shot, order = build.scene.shots[0], Order(**SMALL)
        one_by_one = Frames(build, shot, order)
        after_another = one_by_one.shown(1), one_by_one.shown(2)
        self.assertTrue(np.array_equal(Frames(build, shot, order).shown(2), after_another[1]))
        moment = moments(build, shot)(2 / 5)
        with tempfile.TemporaryDirectory() as folder:
            still = Still(build, shot, order, Path(folder), moment=moment)
            still.run()
            alone = still.shown(still.light()["whole"])
        self.assertTrue(np.array_equal(alone, after_another[1]))
        self.assertGreater(float(np.abs(after_another[0] - alone).mean()), 0.01)

    def test_two_workers_of_which_one_is_killed_give_the_same_bytes(self):
        scene, package = self.package()
        order = Order(**SMALL)
        alone = Frames(build_of(moves=MOVES, marks=[WAY]), scene.shots[0], order)
        with Pool(workers=2) as pool:
            pids = [w["pid"] for w in pool.client.run(lambda: {"pid": os.getpid()}).values()]
            threading.Timer(6, os.kill, (pids[0], signal.SIGKILL)).start()
            both = dict(handed.frames(pool, package, scene.shots[0], order, list(range(3))))
            passed = handed.passed(pool, package, scene.shots[0], order, lambda: None)
            with tempfile.TemporaryDirectory() as folder:
                build = build_of(moves=MOVES, marks=[WAY])
                still_order = Order(**{**SMALL, "clip": None})
                far = Still(build, scene.shots[0], still_order, Path(folder), passed=passed)
                far.run()
                spread = far.light()["whole"]
        self.assertEqual(sorted(both), list(range(3)))
        with tempfile.TemporaryDirectory() as folder:
            for k in range(3):
                name = write_frame(alone.still(k), Path(folder), str(k))[0]
                self.assertEqual((Path(folder) / name).read_bytes(), both[k][".png"])
        with tempfile.TemporaryDirectory() as folder:
            here = Still(build, scene.shots[0], still_order, Path(folder))
            here.run()
            self.assertTrue(np.array_equal(here.light()["whole"], spread))

    def test_a_scheduler_that_does_not_answer_is_told_and_done_without(self):
        with Pool("tcp://127.0.0.1:9", workers=1) as pool:
            self.assertIn("does not answer", pool.told)
            self.assertFalse(pool.far)

    def test_a_clip_is_read_back_by_its_frames(self):
        with tempfile.TemporaryDirectory() as folder:
            frames = []
            y, x = np.mgrid[0:36, 0:64]
            for k in range(6):
                picture = np.dstack([x * 2 + 8 * k, y * 4, np.full(x.shape, 90)]).astype(np.uint8)
                frames.append(Path(folder) / f"{k}.png")
                cv2.imwrite(str(frames[-1]), picture)
            for form in ("mp4", "webm"):
                film = write_clip(Path(folder) / "film", frames, 12, form)
                again = film.read_bytes()
                self.assertEqual(
                    again, write_clip(Path(folder) / "film", frames, 12, form).read_bytes()
                )
                with av.open(str(film)) as file:
                    self.assertEqual(file.streams.video[0].average_rate, 12)
                    shown = [f.to_ndarray(format="bgr24") for f in file.decode(video=0)]
                self.assertEqual(len(shown), 6)
                off = np.abs(shown[4].astype(int) - cv2.imread(str(frames[4])))
                self.assertLess(off.mean(), 6)


class OfJobs(unittest.TestCase):
    def test_a_clip_outlives_kills_of_its_process(self):
        with tempfile.TemporaryDirectory() as folder:
            shelf = Shelf(Path(folder))
            scene = scene_of(moves=MOVES, marks=[WAY])
            write = lambda file: write_package(scene, Rasters(), file)
            order = Order(**SMALL)
            order.clip.form = "mp4"
            kept = ordered(shelf, 1, "One", scene.shots[0], order, write)
            queue = Queue(Path(folder), "sow.stills.worker", WORKS)
            queue.look()
            self.addCleanup(queue.end)
            end = time.monotonic() + 200
            killed = 0
            while (state := kept.state).doing not in ("done", "failed"):
                self.assertLess(time.monotonic(), end, state)
                if not killed and 0 < state.share < 1:
                    process = queue.process
                    os.kill(process.pid, signal.SIGKILL)
                    process.wait()
                    killed += 1
                time.sleep(0.05)
            self.assertEqual((state.doing, killed), ("done", 1), state.trouble)
            self.assertEqual(state.files, ["One.mp4"])
            undisturbed = Frames(build_of(moves=MOVES, marks=[WAY]), scene.shots[0], order)
            for k in range(3):
                write_picture(Path(folder) / f"{k}.png", undisturbed.shown(k), 8)
            frames = [Path(folder) / f"{k}.png" for k in range(3)]
            film = write_clip(Path(folder) / "film", frames, 5, "mp4")
            self.assertEqual((kept.files / "One.mp4").read_bytes(), film.read_bytes())


class OfOlderDocuments(unittest.TestCase):
    def test_a_scene_without_moves_reads_as_before(self):
        document = scene_of().model_dump(mode="json")
        document.pop("moves")
        for shot in document["shots"]:
            for name in [k for k in shot if k.startswith("aim_")]:
                shot.pop(name)
        self.assertEqual(read_scene(document), scene_of())


if __name__ == "__main__":
    unittest.main()
