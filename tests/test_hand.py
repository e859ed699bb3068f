"""Work by hand: brushes, strokes that stay, and strokes that outlive a broken server."""

import random
import struct
import unittest

import numpy as np
from selenium.webdriver.common.actions.action_builder import ActionBuilder

from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.hand.bake import bake
from sow.core.land.base import Below
from sow.core.land.hand import ByHand, gathered
from sow.core.sample import heights_at
from sow.core.scene import read_scene
from tests.page import Page
from tests.served import ask, server
from tests.test_kinds import Given, built

TIER = "page"

NOISE = {"id": "n", "name": "n", "kind": "noise", "feature_m": 120, "height_m": 30, "seed": 8}
LINE = [[120, 150, 0.1]] + [[120 + 8 * k, 150, 0.1] for k in range(1, 20)]


def hand(*strokes, **more):
    return {
        "id": "h",
        "name": "h",
        "kind": "hand",
        "strokes": [{"size_m": 30, "strength_m": 4, "points": LINE, **s} for s in strokes],
        **more,
    }


def at(b, e, n):
    return float(heights_at(b.heights, b.grid, [e], [n])[0])


class Brushes(unittest.TestCase):
    def done(self, posts=257, **stroke):
        return built([NOISE, hand(stroke)], posts)

    def test_each_brush_does_what_it_says(self):
        plain = built([NOISE], 257)
        for tool, sign in (("raise", 1), ("lower", -1)):
            change = self.done(tool=tool).heights - plain.heights
            self.assertGreater(sign * float(change[96, 128]), 0.5)
            self.assertTrue((sign * change >= -1e-4).all())
            self.assertEqual(float(np.abs(change[:60]).max()), 0)
        rough = lambda b: float(np.abs(np.diff(b.heights[90:103, 100:170], 2, axis=1)).mean())
        self.assertLess(rough(self.done(tool="smooth", firm=90)), 0.7 * rough(plain))
        self.assertGreater(rough(self.done(tool="roughen", grain_m=6)), 1.3 * rough(plain))
        level = self.done(tool="level", firm=99, points=[[e, n, 3] for e, n, _ in LINE])
        np.testing.assert_allclose(
            [at(level, e, 150) for e in (150, 200, 250)], at(plain, 120, 150), atol=0.3
        )
        typed = {
            "level": "typed",
            "level_m": 2,
            "firm": 99,
            "points": [[e, n, 3] for e, n, _ in LINE],
        }
        for tool, keep in (("cut", np.minimum), ("fill", np.maximum)):
            b = self.done(tool=tool, **typed)
            np.testing.assert_allclose(
                [at(b, e, 150) for e in (150, 200, 250)],
                [keep(at(plain, e, 150), 2) for e in (150, 200, 250)],
                atol=0.3,
            )
        grade = self.done(tool="grade", firm=99, points=[[100, 150, 0.1], [300, 150, 0.1]])
        a, z = at(plain, 100, 150), at(plain, 300, 150)
        np.testing.assert_allclose(
            [at(grade, 150, 150), at(grade, 200, 150), at(grade, 250, 150)],
            [a + (z - a) * t for t in (0.25, 0.5, 0.75)],
            atol=0.4,
        )
        pond = self.done(tool="basin", size_m=50, strength_m=6, rim=25, points=[[200, 150, 1]])
        self.assertAlmostEqual(at(pond, 200, 150) - at(plain, 200, 150), -6, delta=0.1)
        self.assertGreater(at(pond, 242, 150) - at(plain, 242, 150), 1)
        pull = self.done(tool="pull", points=[[200, 150, 0], [200, 150, 1.5], [200, 150, 0.5]])
        self.assertAlmostEqual(at(pull, 200, 150) - at(plain, 200, 150), 8, delta=0.1)

    def test_a_stroke_is_the_same_in_metres_on_every_grid_and_for_every_speed(self):
        coarse, fine = (built([hand({"tool": "raise"})], n).heights for n in (129, 513))
        self.assertLess(np.abs(coarse - fine[::4, ::4]).max(), 0.15)
        slow = built([hand({"tool": "raise"})], 257).heights
        fast = built(
            [hand({"tool": "raise", "points": [LINE[0], [LINE[-1][0], 150, 1.9]]})], 257
        ).heights
        self.assertAlmostEqual(float(slow.sum() / fast.sum()), 1, delta=0.06)

    def test_ten_thousand_strokes(self):
        document = {
            "name": "t",
            "plot": {"width_m": 400, "depth_m": 300, "posts": 129},
            "land": [hand(*[{"tool": "raise"}] * 10_000)],
        }
        with self.assertRaisesRegex(SceneError, "10000|at most 8"):
            read_scene(document)
        scene = read_scene({**document, "land": [hand()]})
        grid = scene.plot.grid(129)
        count = 10_000
        rng = np.random.default_rng(6)
        flat = np.zeros(grid.shape, np.float32)

        def gather(points, kept=None):  # some strokes over what is kept, as the store does it
            entry = ByHand(
                id="h",
                name="h",
                raster="" if kept is None else "kept",
                strokes=[
                    {"tool": "raise", "size_m": 25, "strength_m": 3, "points": [p]} for p in points
                ],
            )
            return gathered(entry, Below(flat, grid, scene.plot, lambda name: kept))

        places = np.column_stack(
            [rng.uniform(-25, 425, count), rng.uniform(-25, 325, count), np.full(count, 0.02)]
        ).tolist()
        made = None
        for k in range(0, count, 8):
            made = gather(places[k : k + 8], made)
        one = float(gather([[200, 150, 0.02]]).sum()) * grid.spacing**2
        self.assertTrue((made >= 0).all())
        self.assertAlmostEqual(
            float(made.mean()) / (count * one / (450 * 350)), 1, delta=0.03
        )  # nothing of any stroke was lost on the way

    def test_amount_where_and_rubbing_out(self):
        whole, half = (self.done(amount=a).heights for a in (100, 50))
        plain = built([NOISE], 257).heights
        np.testing.assert_allclose(half - plain, (whole - plain) / 2, atol=1e-4)
        only = self.done(where=[{"kind": "height", "low": 2, "high": 12000, "soft": 0}]).heights
        np.testing.assert_array_equal(only[plain < 1.9], plain[plain < 1.9])
        np.testing.assert_allclose(only[plain > 2.1], whole[plain > 2.1], atol=1e-4)
        rubbed = built(
            [
                NOISE,
                hand(
                    {"tool": "raise"},
                    {
                        "tool": "rub",
                        "firm": 99,
                        "points": [[e, n, 5] for e, n, _ in LINE],
                        "size_m": 60,
                    },
                ),
            ],
            257,
        ).heights
        self.assertLess(
            float(np.abs(rubbed - plain).max()), 0.1 * float(np.abs(whole - plain).max())
        )

    def test_strokes_stay_when_the_land_below_changes_and_gathered_ones_are_the_same(self):
        scene = lambda seed, entry: read_scene(
            {
                "name": "t",
                "plot": {"width_m": 400, "depth_m": 300, "posts": 513},
                "land": [{**NOISE, "seed": seed}, entry],
            }
        )
        entry = hand({"tool": "raise"}, {"tool": "lower", "points": [[300, 100, 0.5]]}, posts=513)
        one, other = (
            Build(scene(s, entry), scene(s, entry).plot.grid(257), Cache()) for s in (1, 2)
        )
        added = [b.heights - b.land_step(1).heights for b in (one, other)]
        np.testing.assert_allclose(*added, atol=1e-4)
        made = bake(one, 1)
        self.assertEqual(made.shape, scene(1, entry).plot.grid(513).shape)
        kept = {**entry, "strokes": [], "raster": "made"}
        again = Build(scene(1, kept), scene(1, kept).plot.grid(257), Cache(), Given(made=made))
        np.testing.assert_allclose(again.heights, one.heights, atol=0.05)

    def test_strange_strokes(self):
        plain = built([NOISE], 129).heights
        out = built([NOISE, hand({"points": [[9000, 9000, 1], [9500, 9000, 1]]})], 129).heights
        np.testing.assert_array_equal(out, plain)
        leaving = built([NOISE, hand({"points": [[380, 150, 1], [700, 150, 1]]})], 129).heights
        self.assertGreater(float((leaving - plain)[48, -1]), 0.1)
        wide = built(
            [NOISE, hand({"size_m": 5000, "soft": 0, "points": [[200, 150, 1]]})], 129
        ).heights
        np.testing.assert_allclose(wide - plain, 4, atol=1e-4)


class Strokes(unittest.TestCase):
    def scene(self):
        _, state = ask(
            "POST",
            "/api/scenes",
            {
                "document": {
                    "name": "Strokes",
                    "plot": {"width_m": 300, "depth_m": 300, "posts": 257},
                    "land": [
                        {"id": "n", "name": "n", "kind": "noise", "height_m": 20, "feature_m": 80},
                        {"id": "h", "name": "By hand", "kind": "hand"},
                    ],
                }
            },
        )
        return state

    def chunk(self, state, session, seq, points, **brush):
        return ask(
            "POST",
            f"/api/scenes/{state['id']}/strokes/{session}",
            {
                "seq": seq,
                "base": state["revision"],
                "entry": "h",
                "brush": {"tool": "raise", "size_m": 12, **brush},
                "points": points,
            },
        )

    def test_only_the_changed_rectangle_travels_and_it_is_what_the_build_makes(self):
        state = self.scene()
        document = state["document"]
        for k in range(3):
            status, raw = self.chunk(
                state, "s1", k, [[100 + 20 * k, 150, 0.2], [110 + 20 * k, 152, 0.2]]
            )
            self.assertEqual(status, 200)
            r0, c0, rows, columns = struct.unpack("<4I", raw[:16])
            self.assertEqual(len(raw), 16 + 4 * rows * columns)
            self.assertLess(rows * columns, 60 * 60)
        last = np.frombuffer(raw[16:], "<f4").reshape(rows, columns)
        status, after = ask("POST", f"/api/scenes/{state['id']}/strokes/s1/end", {})
        self.assertEqual(
            (status, after["steps"], after["document"]["land"][1]["count"]), (200, 2, 1)
        )
        scene = read_scene(after["document"])
        heights = Build(scene, scene.plot.view_grid(), Cache()).heights
        np.testing.assert_allclose(heights[r0 : r0 + rows, c0 : c0 + columns], last, atol=1e-3)
        # a second stroke: the first goes into the raster; undo brings it back
        state = after
        self.chunk(state, "s2", 0, [[200, 80, 1]])
        status, two = ask("POST", f"/api/scenes/{state['id']}/strokes/s2/end", {})
        entry = two["document"]["land"][1]
        self.assertTrue(entry["raster"] and len(entry["strokes"]) == 1 and entry["count"] == 2)
        _, back = ask("POST", f"/api/scenes/{state['id']}/undo", {})
        self.assertEqual(
            back["document"]["land"][1]["strokes"], after["document"]["land"][1]["strokes"]
        )
        self.assertEqual(
            ask("GET", f"/api/scenes/{state['id']}")[1]["document"]["land"][0], document["land"][0]
        )

    def test_a_stroke_on_a_stale_revision_or_without_a_landform_is_refused(self):
        state = self.scene()
        ask(
            "POST",
            f"/api/scenes/{state['id']}/edits",
            {
                "base": state["revision"],
                "label": "x",
                "document": {**state["document"], "name": "Other"},
            },
        )
        self.assertEqual(self.chunk(state, "s", 0, [[1, 1, 1]])[0], 409)
        fresh = ask("GET", f"/api/scenes/{state['id']}")[1]
        status, told = ask(
            "POST",
            f"/api/scenes/{state['id']}/strokes/s",
            {
                "seq": 0,
                "base": fresh["revision"],
                "entry": "gone",
                "brush": {},
                "points": [[1, 1, 1]],
            },
        )
        self.assertEqual(status, 422)
        self.assertIn("no landform by hand", told["detail"])

    def test_what_was_acknowledged_of_a_stroke_outlives_kills(self):
        rng = random.Random(4)
        state = self.scene()
        for turn in range(3):
            state = ask("GET", f"/api/scenes/{state['id']}")[1]
            steps, kept = state["steps"], 0
            for k in range(rng.randint(1, 4)):
                status, _ = self.chunk(
                    state, f"k{turn}", k, [[40 + 10 * k + turn * 20, 60 + 12 * turn, 0.3]]
                )
                self.assertEqual(status, 200)
                kept += 1
            server().kill()
            server().start(120)
            after = ask("GET", f"/api/scenes/{state['id']}")[1]
            self.assertEqual(after["steps"], steps + 1)  # one revision, undone as one
            self.assertEqual(len(after["document"]["land"][1]["strokes"][-1]["points"]), kept)
            self.assertIn("after a break", after["label"])
            state = after
        # the same stroke goes on when only the server was lost and the page still holds it
        self.chunk(state, "on", 0, [[250, 250, 0.5]])
        server().kill()
        server().start(120)
        status, raw = self.chunk(state, "on", 1, [[255, 250, 0.5]])
        self.assertEqual(status, 200)
        self.assertGreater(struct.unpack("<4I", raw[:16])[2], 0)
        _, done = ask("POST", f"/api/scenes/{state['id']}/strokes/on/end", {})
        self.assertEqual(len(done["document"]["land"][1]["strokes"][-1]["points"]), 2)


class Page_(unittest.TestCase):
    def test_a_hill_is_raised_and_turned_down_through_the_page(self):
        _, state = ask(
            "POST",
            "/api/scenes",
            {
                "document": {
                    "name": "Sculpt",
                    "plot": {"width_m": 200, "depth_m": 200, "posts": 257},
                    "land": [
                        {"id": "n", "name": "n", "kind": "noise", "height_m": 8, "feature_m": 60}
                    ],
                    "beyond": {"edge": "end"},
                }
            },
        )
        page = Page(server().address, "sketch", f"/?scene={state['id']}")
        self.addCleanup(page.close)
        page.settled()
        page.click("[aria-label='Add landform or process']")
        page.click("[data-add=hand]")
        page.until(lambda: page.all("[data-brushes]"), 60)
        page.settled()
        page.click("[data-brush=raise]")
        pad = page.one("[data-pad]").rect
        x = pad["x"] + pad["width"] * 0.5
        y = pad["y"] + pad["height"] * 0.72
        highest = lambda: page.js(
            "const v = sow.get().products.field.values; let m = -1e9; for (const h of v) m "
            "= Math.max(m, h); return m"
        )
        total = lambda: page.js("return sow.get().products.field.values.reduce((a, h) => a + h, 0)")
        before = total()
        draw = ActionBuilder(page.driver, duration=30)
        draw.pointer_action.move_to_location(int(x), int(y)).pointer_down()
        for k in range(1, 8):
            draw.pointer_action.move_to_location(int(x + 10 * k), int(y))
        draw.perform()
        page.until(
            lambda: total() > before + 1, 30, "the picture did not follow the stroke"
        )  # before it is let go
        during = page.js("return sow.get().state.steps")
        release = ActionBuilder(page.driver, duration=30)
        release.pointer_action.pointer_up()
        release.perform()
        page.until(lambda: page.js("return sow.get().state.steps") == during + 1, 40)
        page.settled()
        entry = page.js("return sow.get().doc.land[1]")
        self.assertEqual(
            (entry["kind"], entry["count"], entry["strokes"][0]["tool"]), ("hand", 1, "raise")
        )
        self.assertGreater(len(entry["strokes"][0]["points"]), 4)
        scene = read_scene(page.js("return sow.get().doc"))
        np.testing.assert_allclose(
            highest(), Build(scene, scene.plot.view_grid(), Cache()).heights.max(), atol=1e-3
        )
        once = total()
        page.click("[data-repeat]")
        page.until(lambda: len(page.js("return sow.get().doc.land[1].strokes")) == 2, 60)
        page.settled()
        self.assertAlmostEqual(
            (total() - before) / (once - before), 2, delta=0.02
        )  # the same again
        self.assertEqual(page.errors(), [])

    def test_strokes_set_aside_are_told_and_thrown_away_only_when_asked(self):
        hand = {"id": "h", "name": "By hand", "kind": "hand", "posts": 129}
        plot = {"width_m": 200, "depth_m": 200, "posts": 129}
        document = {"name": "Aside", "plot": plot, "land": [hand]}
        state = ask("POST", "/api/scenes", {"document": document})[1]
        at = f"/api/scenes/{state['id']}"
        brush = {"tool": "raise", "size_m": 20, "strength_m": 2}
        for session in ("one", "two"):
            order = {"seq": 0, "base": state["revision"], "entry": "h", "brush": brush}
            points = {"points": [[90, 90, 0.5]]}
            self.assertEqual(ask("POST", f"{at}/strokes/{session}", order | points)[0], 200)
        edit = {"base": state["revision"], "label": "without", "document": document | {"land": []}}
        self.assertEqual(ask("POST", f"{at}/edits", edit)[0], 200)
        server().kill()
        server().start(120)
        page = Page(server().address, "sketch", f"/?scene={state['id']}")
        self.addCleanup(page.close)
        page.until(lambda: len(page.all("[data-aside]")) == 2, 60)
        self.assertEqual(page.js("return document.activeElement.textContent"), "Keep them aside")
        page.click("[data-drop-aside]")
        page.until(lambda: len(page.all("[data-aside]")) == 1, 20)
        page.click_text("Keep them aside")
        page.until(lambda: not page.all("[data-aside]"), 20)
        page.settled()
        self.assertEqual(ask("POST", f"{at}/undo")[0], 200)
        page.go(f"/?quality=sketch&scene={state['id']}")
        page.settled()  # the landform is back: what was kept is there, and nothing is told
        self.assertFalse(page.all("[data-aside]"))
        strokes = page.js("return sow.get().doc.land[0].strokes")
        self.assertEqual([s["points"] for s in strokes], [[[90, 90, 0.5]]])


if __name__ == "__main__":
    unittest.main()
