"""Conditions that measure to things, against the plain way: every post asked of everything."""

import unittest

import numpy as np

from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.scene import read_scene
from sow.core.where import holding

TIER = "fast"

PLOT = {"width_m": 400, "depth_m": 300, "posts": 129}
LINE = {
    "id": "way",
    "name": "w",
    "kind": "line",
    "smooth": False,
    "points": [[40, 60], [200, 220], [360, 90]],
}
FIELD = {
    "id": "field",
    "name": "f",
    "kind": "area",
    "smooth": False,
    "points": [[90, 60], [300, 80], [210, 240]],
}
RISE = {"id": "n", "name": "n", "kind": "noise", "height_m": 30, "feature_m": 160, "seed": 3}
PIECES = [
    {"id": f"p{i}", "name": "p", "kind": "boulder", "east_m": e, "north_m": n}
    for i, (e, n) in enumerate(((80, 90), (310, 210), (200, 40)))
]


def built(**more) -> Build:
    document = {"name": "t", "plot": PLOT, "land": [RISE], "marks": [LINE, FIELD], **more}
    scene = read_scene(document)
    return Build(scene, scene.plot.view_grid(), Cache(1 << 28))


def asked(build: Build, kind: str, stage: str = "planting", **more) -> np.ndarray:
    rule = {"kind": kind, **more}
    scene = read_scene({"name": "t", "ground": [{"id": "g", "name": "g", "where": [rule]}]})
    found = holding(scene.ground[0].where, build.site(stage), "here")
    assert found is not None
    return found


def posts(build: Build) -> np.ndarray:
    """East and north of every post, (n, 2)."""
    x, y = np.meshgrid(build.grid.xs(), build.grid.ys())
    return np.column_stack([x.ravel(), y.ravel()])


def to_segments(at: np.ndarray, path: np.ndarray) -> np.ndarray:
    """Distance of places to a path, one segment after another."""
    out = np.full(len(at), np.inf)
    for a, b in zip(path, path[1:]):
        t = np.clip(((at - a) @ (b - a)) / ((b - a) @ (b - a)), 0, 1)
        out = np.minimum(out, np.linalg.norm(at - (a + t[:, None] * (b - a)), axis=1))
    return out


def within(at: np.ndarray, ring: np.ndarray) -> np.ndarray:
    """Whether places lie in a ring, by the crossings of a ray."""
    inside = np.zeros(len(at), bool)
    for (x1, y1), (x2, y2) in zip(ring, np.roll(ring, -1, axis=0)):
        spans = (y1 > at[:, 1]) != (y2 > at[:, 1])
        with np.errstate(all="ignore"):
            cut = x1 + (at[:, 1] - y1) / (y2 - y1) * (x2 - x1)
        inside ^= spans & (at[:, 0] < cut)
    return inside


def smooth(t: np.ndarray) -> np.ndarray:
    """-1..1 to 0..1 with level ends."""
    t = np.clip(t / 2 + 0.5, 0, 1)
    return t * t * (3 - 2 * t)


class ToThings(unittest.TestCase):
    def same(self, answer: np.ndarray, plain: np.ndarray, atol=2e-3) -> None:
        np.testing.assert_allclose(answer.ravel(), plain, atol=atol)

    def test_near_a_piece_is_near_the_nearest(self):
        build = built(pieces=PIECES)
        at = posts(build)
        away = np.min([np.hypot(*(at - (p["east_m"], p["north_m"])).T) for p in PIECES], axis=0)
        self.same(asked(build, "near-piece", within_m=40, soft=12), smooth((40 - away) / 6))
        one = np.hypot(*(at - (310, 210)).T)
        self.same(
            asked(build, "near-piece", piece="p1", within_m=25, soft=4), smooth((25 - one) / 2)
        )

    def test_near_a_sowing_is_near_its_plants(self):
        sowing = {
            "id": "s",
            "name": "s",
            "mix": [{"kind": "boulder"}],
            "density": 0.2,
            "apart_m": 9,
        }
        build = built(planting=[sowing])
        plants = build.plants(0)
        self.assertGreater(len(plants), 50)
        at = posts(build)
        away = np.min(
            [np.hypot(at[:, 0] - e, at[:, 1] - n) for e, n in zip(plants.east, plants.north)],
            axis=0,
        )
        found = asked(build, "near-sowing", sowing="s", low=5, high=12, soft=3)
        rise = np.clip((away - 5) / 3 + 0.5, 0, 1)
        fall = np.clip((12 - away) / 3 + 0.5, 0, 1)
        self.same(found, rise**2 * (3 - 2 * rise) * fall**2 * (3 - 2 * fall))

    def test_near_what_a_material_covers_and_where_a_landform_shows(self):
        heart = {"kind": "in-area", "mark": "field", "soft": 0.1}
        ground = [
            {"id": "base", "name": "Base", "ground": "turf"},
            {"id": "bed", "name": "Bed", "ground": "peat", "where": [heart], "broken": 0},
        ]
        build = built(ground=ground)
        at, half = posts(build), build.grid.spacing
        held = build.ground()[1].ravel() >= 0.5
        away = np.min([np.hypot(*(at - p).T) for p in at[held]], axis=0) - half / 2
        away[held] = 0
        found = asked(build, "near-material", material="bed", low=0, high=30, soft=10)
        fall = np.clip((30 - away) / 10 + 0.5, 0, 1)
        self.same(found, fall**2 * (3 - 2 * fall))
        land = build.scene.land[0].id
        self.assertTrue((asked(build, "near-landform", landform=land, high=5) == 1).all())

    def test_near_a_line_and_in_an_area(self):
        build = built()
        at = posts(build)
        away = to_segments(at, np.array(LINE["points"], float))
        self.same(
            asked(build, "near-line", mark="way", within_m=20, soft=10), smooth((20 - away) / 5)
        )
        ring = np.array(FIELD["points"], float)
        deep = to_segments(at, np.vstack([ring, ring[:1]])) * np.where(within(at, ring), 1, -1)
        for grown in (0, 15, -15):
            found = asked(build, "in-area", mark="field", grown_m=grown, soft=10)
            self.same(found, smooth((deep + grown) / 5))

    def test_distance_to_water_is_that_to_the_nearest_wet_post(self):
        build = built(water=[{"id": "w", "name": "w", "reach": "everywhere", "level_m": 2}])
        wet = np.isfinite(build.water()[0])
        self.assertTrue(0.02 < wet.mean() < 0.9, wet.mean())
        at = posts(build)
        shore = at[wet.ravel()]
        dry = ~wet.ravel()
        away = np.array([np.hypot(*(shore - p).T).min() for p in at[dry]])
        found = asked(build, "from-water", low=0, high=30, soft=1).ravel()[dry]
        spacing = build.grid.spacing
        self.assertTrue((found[away < 30 - 2 * spacing] > 0.99).all())
        self.assertTrue((found[away > 30 + 2 * spacing] < 0.01).all())

    def test_what_a_shot_sees_is_what_no_land_stands_before(self):
        """The line of sight walked in small steps over the land itself."""
        shot = {"id": "v", "name": "v", "east_m": 200, "north_m": 30}
        build = built(shots=[shot])
        own = build.site().shots["v"]
        eye = own.east_m, own.north_m, own.eye_m
        found = asked(build, "in-sight", shot="v", soft=0.5, frame="all around")
        rng = np.random.default_rng(2)
        agreed = asked_of = 0
        for _ in range(400):
            r, c = rng.integers(0, build.grid.ny), rng.integers(0, build.grid.nx)
            goal = (build.grid.xs()[c], build.grid.ys()[r], float(build.heights[r, c]))
            clear = self.lowest_clearance(build, eye, goal)
            if abs(clear) < 0.6:
                continue  # so near to the edge of sight that the grid decides
            asked_of += 1
            agreed += (found[r, c] > 0.5) == (clear > 0)
        self.assertGreater(asked_of, 150)
        self.assertGreater(agreed / asked_of, 0.97)

    def lowest_clearance(self, build: Build, eye, goal) -> float:
        """By how many metres the line from an eye to a place passes over the land at the least."""
        steps = np.linspace(0.02, 0.98, 400)
        east = eye[0] + (goal[0] - eye[0]) * steps
        north = eye[1] + (goal[1] - eye[1]) * steps
        up = eye[2] + (goal[2] - eye[2]) * steps
        rows = np.clip(np.rint(build.grid.rows_of(north)).astype(int), 0, build.grid.ny - 1)
        cols = np.clip(np.rint(build.grid.cols_of(east)).astype(int), 0, build.grid.nx - 1)
        return float((up - build.heights[rows, cols]).min())


class AShore(unittest.TestCase):
    """The land bent so that its shore follows a line."""

    def bent(self, **more) -> tuple[Build, np.ndarray]:
        rule = {"id": "s", "name": "s", "kind": "shore-line", "mark": "way", "level_m": 6, **more}
        build = built(land=[RISE, rule])
        plain = built()
        return build, plain.heights

    def test_water_lies_on_its_side_and_land_on_the_other(self):
        for water, sign in (("left", 1), ("right", -1)):
            build, _ = self.bent(water=water, reach_m=50, beach_m=8)
            at = posts(build)
            path = np.array(LINE["points"], float)
            away = to_segments(at, path)
            side = np.zeros(len(at))
            best = np.full(len(at), np.inf)
            for a, b in zip(path, path[1:]):
                own = to_segments(at, np.array([a, b]))
                cross = (b - a)[0] * (at - a)[:, 1] - (b - a)[1] * (at - a)[:, 0]
                side = np.where(own < best, np.sign(cross), side)
                best = np.minimum(best, own)
            beside = (away > 6) & (away < 20)
            beside &= (at[:, 0] > 60) & (at[:, 0] < 340)  # not about the line's ends
            heights = build.heights.ravel()
            left = heights[beside & (side > 0)]
            right = heights[beside & (side < 0)]
            wet, dry = (left, right) if sign > 0 else (right, left)
            self.assertLess(float(wet.max()), 6.01)
            self.assertGreater(float(dry.min()), 5.99)

    def test_on_the_line_it_stands_at_the_level_and_far_off_nothing_is_moved(self):
        build, before = self.bent(reach_m=50, beach=4, beach_m=10)
        at = posts(build)
        away = to_segments(at, np.array(LINE["points"], float))
        moved = np.abs(build.heights - before).ravel()
        self.assertEqual(float(moved[away > 50.5].max()), 0.0)
        on_line = build.heights.ravel()[away < 0.3]
        self.assertGreater(len(on_line), 10)
        np.testing.assert_allclose(on_line, 6, atol=0.1)
