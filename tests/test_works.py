"""Works: what is done to a scene in one deed, without the page; and what the lists offer."""

import json
import math
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import numpy as np
from pydantic import Field

from sow.core.build import Build
from sow.core.cabinet import lands
from sow.core.cache import Cache
from sow.core.document.entry import Strict
from sow.core.document.fields import setting
from sow.core.errors import SceneError
from sow.core.judge.faults import faults
from sow.core.judge.forecast import plot_cost
from sow.core.judge.proof import values, varied
from sow.core.marks import geometry
from sow.core.plot import Plot
from sow.core.scene import read_scene
from sow.core.works import do, works
from sow.core.works.offering import LISTS, offers, rule_offers
from sow.core.works.plot import new_scene

TIER = "fast"

NOISE = {"id": "n", "name": "Noise", "kind": "noise", "feature_m": 120, "height_m": 30}
CACHE = Cache()


def scene(**more):
    """A small scene of 200 by 100 m."""
    plot = {"width_m": 200, "depth_m": 100, "posts": 65}
    return read_scene({"name": "t", "plot": plot, "land": [NOISE], **more})


def line(points, **more):
    return {"id": "l", "name": "Line", "kind": "line", "points": points, **more}


def piece(**more):
    return {"id": "p", "name": "Stone", "kind": "boulder", "east_m": 50, "north_m": 40, **more}


class Offers(unittest.TestCase):
    def test_every_offer_and_every_rule_makes_a_scene_that_can_be_read(self):
        marks = [line([[10, 10], [150, 80]]), {"id": "m", "name": "Mask", "kind": "mask"}]
        start = scene(marks=marks)
        for name in LISTS:
            for offer in offers(name):
                with self.subTest(f"{name}: {offer.key}"):
                    done = do("add an entry", start, {"list": name, "key": offer.key}, CACHE)
                    self.assertTrue(done.label and done.chosen)
        two = [{"id": i, "name": i, "ground": "turf"} for i in "gh"]
        clothed = scene(ground=two, marks=marks)
        for key, label, _ in rule_offers("planting"):
            with self.subTest(f"rule {key}"):
                done = do("add a rule", clothed, {"path": ["ground", 1], "key": key}, CACHE)
                self.assertIn(label, done.label)

    def test_first_values_follow_the_plot(self):
        small = do("add an entry", scene(), {"list": "land", "key": "noise-ridged"}, CACHE)
        wide = read_scene({"name": "w", "plot": {"width_m": 2000, "depth_m": 1000, "posts": 65}})
        large = do("add an entry", wide, {"list": "land", "key": "noise-ridged"}, CACHE)
        for field in ("feature_m", "height_m"):
            ratio = large.document["land"][-1][field] / small.document["land"][-1][field]
            self.assertAlmostEqual(ratio, 10, delta=0.6)

    def test_the_shore_line_is_offered(self):
        self.assertIn("shore-line", [o.key for o in offers("land")])

    def test_a_misspelt_key_and_a_text_for_a_list_are_refused(self):
        with self.assertRaises(TypeError):
            setting(1, "Size", "m", lowest=0)
        with self.assertRaisesRegex(SceneError, "as a text"):
            setting(1, "Size", "m", only={"reach": "pool"})
        with self.assertRaisesRegex(SceneError, "no scale"):
            setting(1, "Size", "m", scale="logarithmic")

        class Held(Strict):
            size: float = setting(1, "Size", "m", lo=0, hi=2, only={"reach": ["pool"]})
            name: str = Field("")

        told = Held.model_json_schema()["properties"]["size"]["sow"]
        self.assertEqual(told["only"], {"reach": ["pool"]})


class Lines(unittest.TestCase):
    def reshape(self, how, points, **more):
        start = scene(marks=[line(points)])
        return do("reshape line", start, {"mark": "l", "how": how, **more}).document["marks"]

    def test_simplified_within_its_tolerance(self):
        t = np.linspace(0, 6, 200)
        wavy = np.stack([20 + 20 * t, 50 + 20 * np.sin(t)], 1).round(2).tolist()
        kept = self.reshape("simplify", wavy, amount_m=1)[0]["points"]
        self.assertLess(len(kept), 30)
        east, north = np.array(kept).T
        off = np.interp([p[0] for p in wavy], east, north) - [p[1] for p in wavy]
        self.assertLess(float(np.abs(off).max()), 1.2)

    def test_beside_at_its_distance_joined_at_the_near_ends_and_a_stretch(self):
        straight = [[10, 20], [60, 20], [110, 20]]
        right = self.reshape("right", straight, amount_m=5)[1]["points"]
        self.assertEqual(right, [[10, 15], [60, 15], [110, 15]])
        part = self.reshape("stretch", straight, start=25, end=75)[1]["points"]
        self.assertEqual(part, [[35, 20], [60, 20], [85, 20]])
        self.assertEqual(
            geometry.joined([[0, 0], [10, 0]], [[30, 0], [11, 0]], 0.1),
            [[0, 0], [10, 0], [11, 0], [30, 0]],
        )
        self.assertEqual(geometry.inserted(straight, False, 80, 22, 5), 2)
        self.assertIsNone(geometry.inserted(straight, False, 80, 40, 5))

    def test_closed_opened_split_and_what_cannot_be(self):
        marks = self.reshape("close", [[0, 0], [50, 0], [50, 50]])
        self.assertEqual(marks[0]["kind"], "area")
        marks = self.reshape("split", [[0, 0], [50, 0], [50, 50]])
        self.assertEqual([len(m["points"]) for m in marks], [2, 2])
        start = scene(marks=[line([[0, 0], [50, 0]])])
        done = do("reshape line", start, {"mark": "l", "how": "close"})
        self.assertEqual((done.label, done.told), ("", "An area needs three points."))

    def test_a_material_along_a_path_takes_its_width(self):
        path = {"id": "w", "name": "Path", "kind": "path", "mark": "l", "width_m": 6}
        start = scene(land=[NOISE, path], marks=[line([[10, 10], [150, 80]])])
        asked = {"mark": "l", "how": "carry", "ground": "gravel"}
        rule = do("reshape line", start, asked).document["ground"][0]["where"][0]
        self.assertEqual((rule["kind"], rule["within_m"]), ("near-line", 3))

    def test_the_contour_through_a_place(self):
        done = do("contour as a line", scene(), {"east": 80, "north": 50}, CACHE)
        self.assertGreater(len(done.document["marks"][0]["points"]), 3)


class Pieces(unittest.TestCase):
    def copies(self, **asked):
        done = do("copy a piece", scene(pieces=[piece()]), {"piece": "p", **asked})
        return done.document["pieces"]

    def test_a_row_a_ring_and_an_array(self):
        row = self.copies(how="row", count=4, step_m=3)
        self.assertEqual([p["east_m"] for p in row], [50, 53, 56, 59])
        self.assertEqual({p["north_m"] for p in row}, {40})
        grid = self.copies(how="array", count=3, rows=2, step_m=4)
        places = {(p["east_m"], p["north_m"]) for p in grid}
        self.assertEqual(places, {(50 + 4 * i, 40 + 4 * j) for i in range(3) for j in range(2)})
        ring = self.copies(how="ring", radius_m=10, step_m=6)
        away = [math.hypot(p["east_m"] - 50, p["north_m"] - 50) for p in ring]
        np.testing.assert_allclose(away, 10, atol=0.01)
        self.assertEqual(len({p["id"] for p in ring}), len(ring))

    def test_several_moved_about_their_middle_and_mirrored(self):
        two = [piece(), piece(id="q", east_m=70)]
        asked = {"pieces": ["p", "q"], "how": "move", "turn": 90, "size": 200}
        moved = do("pieces together", scene(pieces=two), asked).document["pieces"]
        np.testing.assert_allclose(
            [(p["east_m"], p["north_m"]) for p in moved], [(60, 50), (60, 30)]
        )
        self.assertEqual({(p["turn"], p["size"]) for p in moved}, {(90, 200)})
        asked = {"pieces": ["p", "q"], "how": "mirror"}
        both = do("pieces together", scene(pieces=two), asked).document["pieces"]
        self.assertEqual([p["mirrored"] for p in both], [False, False, True, True])
        middle = (both[0]["east_m"] + both[2]["east_m"]) / 2
        self.assertAlmostEqual((both[1]["east_m"] + both[3]["east_m"]) / 2, middle)

    def test_faults_are_mended(self):
        steep = {"id": "s", "name": "s", "kind": "form", "form": "cone", "height_m": 60}
        steep |= {"length_m": 100, "breadth_m": 100, "east_m": 100, "north_m": 50}
        start = scene(land=[steep], pieces=[piece(east_m=85, north_m=50, size=300)])
        count = lambda s: faults(Build(s, s.plot.view_grid(), CACHE))[1]["floats"]
        self.assertEqual(count(start), 1)
        done = do("mend faults", start, {}, CACHE)
        self.assertEqual(count(read_scene(done.document)), 0)

    def test_what_stands_under_water_is_told_and_what_belongs_there_is_not(self):
        lake = {"id": "l", "name": "Lake", "reach": "everywhere", "level_m": 1.5}
        stands = [
            piece(id="p", name="Man", kind="person", east_m=20, north_m=20),
            piece(id="q", name="Stone", kind="boulder", east_m=40, north_m=20),
            piece(id="r", name="Boat", kind="boat", east_m=60, north_m=20, stands="water"),
            piece(id="s", name="Tree", kind="oak", east_m=20, north_m=40),
        ]
        start = scene(land=[], water=[lake], pieces=stands)
        told, count = faults(Build(start, start.plot.view_grid(), CACHE))
        self.assertEqual(count["drowned"], 1)
        (fault,) = (f for f in told if f.what == "drowned")
        self.assertEqual(fault.id, "p")
        self.assertIn("1.5 m of its 1.8 m are under water", fault.told)
        start = scene(land=[], pieces=stands)
        self.assertEqual(faults(Build(start, start.plot.view_grid(), CACHE))[1]["drowned"], 0)


class Whole(unittest.TestCase):
    def test_a_ready_land_is_scaled_to_the_plot(self):
        ready = read_scene(lands.text("fjord"))
        done = do("bring a ready land", scene(land=[]), {"land": "fjord"})
        ratio = 200 / max(ready.plot.width_m, ready.plot.depth_m)
        for own, made in zip(ready.land, done.document["land"]):
            self.assertEqual(made["group"], "Fjord")
            for field in ("height_m", "feature_m", "length_m", "depth_m"):
                if field in made:
                    wanted = getattr(own, field) * ratio
                    self.assertAlmostEqual(made[field], wanted, delta=abs(wanted) * 1e-4)
            for field in ("octaves", "turn", "seed"):
                if field in made:
                    self.assertEqual(made[field], getattr(own, field))

    def test_some_kinds_get_another_number_and_the_others_keep_theirs(self):
        mix = [{"kind": "heather", "share": 60}, {"kind": "bracken", "share": 40}]
        sowing = {"id": "s", "name": "s", "mix": mix, "density": 40, "apart_m": 0.1}
        start = scene(planting=[sowing])
        count = lambda s: np.bincount(Build(s, s.plot.view_grid(), CACHE).plants(0).kind).tolist()
        before = count(start)
        asked = {"sowing": "s", "kinds": [1], "stand": before, "number": before[1] / 4}
        after = count(read_scene(do("some kinds of a mix", start, asked).document))
        self.assertAlmostEqual(after[0] / before[0], 1, delta=0.02)
        self.assertAlmostEqual(after[1] / before[1], 0.25, delta=0.02)
        asked = {"sowing": "s", "kinds": [0], "size": 50}
        made = do("some kinds of a mix", start, asked).document["planting"][0]["mix"]
        self.assertEqual([p["size"] for p in made], [50, 100])

    def test_a_duplicate_has_another_seed_and_its_own_mask(self):
        own = {**NOISE, "seed": 7, "where": [{"kind": "mask", "mark": "m", "bound": "n"}]}
        marks = [{"id": "m", "name": "Mask", "kind": "mask"}]
        made = do("duplicate an entry", scene(land=[own], marks=marks), {"entry": "n"})
        copy = made.document["land"][1]
        self.assertEqual((copy["seed"], copy["where"][0]["bound"]), (8, copy["id"]))

    def test_the_plot_is_set_anew_and_every_place_stays(self):
        start = scene(pieces=[piece()], marks=[line([[10, 10], [150, 80]])])
        asked = {"width_m": 400, "depth_m": 300, "posts": 129}
        made = do("set the plot", start, asked).document
        self.assertEqual(made["plot"]["width_m"], 400)
        self.assertEqual(made["pieces"][0]["east_m"], 50)
        self.assertEqual(made["marks"][0]["points"][1], [150, 80])
        with self.assertRaises(SceneError):
            do("set the plot", start, {**asked, "posts": 3})

    def test_what_a_plot_costs_and_how_a_new_scene_begins(self):
        cost = plot_cost(800, 800, 1025)
        self.assertAlmostEqual(cost.spacing_m, 0.78125)
        self.assertEqual(cost.triangles, 2 * 1025 * 1025)
        rolling = new_scene("t", Plot(width_m=800, depth_m=800, posts=129), True)
        self.assertEqual([e["kind"] for e in rolling["land"]], ["noise"])
        self.assertLess(rolling["light"]["sun_height"], 40)  # light from the side

    def test_the_proof_sheet_begins_with_what_changes_most(self):
        found = varied(scene(), "n")
        self.assertEqual(found.settings[0].label, "Feature size")
        size = found.settings[0]
        tried = values(size, 120, None, 1, 0)
        self.assertEqual((tried[0], tried[-1]), (size.low, size.high))
        near = values(size, 120, 120, 0.1, 0)
        self.assertTrue(min(near) < 120 < max(near) and max(near) < 4 * min(near))
        seed = next(s for s in found.settings if s.seed)
        self.assertEqual(len(set(values(seed, 3, None, 1, 0))), 12)

    def test_the_command_line_does_a_work(self):
        with tempfile.TemporaryDirectory() as folder:
            before, after = Path(folder) / "a.json", Path(folder) / "b.json"
            before.write_text(json.dumps(scene(pieces=[piece()]).model_dump(mode="json")))
            asked = json.dumps({"piece": "p", "how": "row", "count": 3})
            run = [sys.executable, "-m", "sow", "work", before, "copy a piece", asked, after]
            told = subprocess.run(run, capture_output=True, text=True, check=True)
            self.assertEqual(told.stdout.strip(), "Stone: row")
            self.assertEqual(len(read_scene(after.read_bytes()).pieces), 3)

    def test_what_is_no_work_and_what_is_asked_wrong(self):
        start = scene()
        for name, asked, words in (
            ("fly", {}, "no work"),
            ("ready light", {"name": "noon"}, "no light"),
            ("duplicate an entry", {"entry": "x"}, "no entry"),
            ("copy a piece", {"piece": "n", "how": "row", "count": 900}, "less than or equal"),
        ):
            with self.subTest(name), self.assertRaisesRegex(SceneError, words):
                do(name, start, asked)
        self.assertGreater(len(works), 12)


if __name__ == "__main__":
    unittest.main()
