"""Streams, falls and eddies; what waves leave on a shore: a film that drains, foam that drifts."""

import json
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from sow.core.build import Build
from sow.core.build.waters import (
    eddies_in,
    falls_in,
    foam_in,
    running_in,
    sea_in,
    spray_in,
    stands_in,
    swash_in,
)
from sow.core.cabinet import kinds
from sow.core.cache import Cache
from sow.core.picture.blended import blended
from sow.core.picture.dressed import WET_STEPS, bodies_of
from sow.core.sample import heights_at
from sow.core.scene import read_scene
from sow.core.water.around import collars
from sow.core.water.eddies import FADES, eddies_of, lengths
from sow.core.water.falls import falls_along, spray_of
from sow.core.water.flow import flow_along
from sow.core.water.foam import drift_of, drifting
from sow.core.water.spectrum import Sea
from sow.core.water.surf import run_up
from sow.core.water.swash import film_at
from sow.core.works.base import do

TIER = "fast"

SAMPLES = Path(__file__).parents[1] / "samples"
STONE = {"id": "p", "name": "Stone", "kind": "boulder", "east_m": 100, "north_m": 110, "size": 60}


def run_of(step: float = 0.5) -> np.ndarray:
    """Sixty metres of a stream towards the east that falls by four metres at 20 m."""
    at = np.arange(0, 60, step)
    level = np.where(at < 20, 10 - 0.01 * at, np.where(at < 22, 9.8 - 2 * (at - 20), 5.8))
    return np.column_stack([at, at * 0, level])


def burn(**more) -> Build:
    """A stream down a slope with a step in it."""
    slope = {"id": "s", "name": "Slope", "kind": "form", "form": "ridge", "height_m": 30}
    slope |= {"length_m": 900, "breadth_m": 300, "east_m": 100, "north_m": 240, "turn": 90}
    line = {"id": "m", "name": "Burn", "kind": "line", "points": [[100, 190], [100, 20]]}
    water = {"id": "w", "name": "Burn", "reach": "stream", "mark": "m", "width_m": 4}
    scene = read_scene(
        {
            "name": "Burn",
            "plot": {"width_m": 200, "depth_m": 200, "posts": 129, "seed": 2},
            "land": [slope],
            "marks": [line],
            "water": [water | more.pop("water", {})],
            **more,
        }
    )
    return Build(scene, scene.plot.grid(), Cache(1 << 28))


class Falls(unittest.TestCase):
    def test_a_fall_is_found_as_high_as_it_is_on_every_grid(self):
        for step in (0.25, 0.5, 1.0):
            (fall,) = falls_along(run_of(step))
            self.assertAlmostEqual(fall.high_m, 4.0, delta=0.05)
            self.assertAlmostEqual(fall.east, 22.0, delta=step)
            self.assertAlmostEqual(fall.foot_m, 5.8, delta=0.05)
        level = run_of()
        level[:, 2] = 10 - 0.01 * level[:, 0]
        self.assertEqual(falls_along(level), [])

    def test_spray_stands_at_its_foot_and_grows_with_its_height(self):
        (fall,) = falls_along(run_of())
        mist, half = spray_of(fall, 4, 1.0, 1), spray_of(fall, 4, 0.5, 1)
        west, south, east, north = mist.bounds
        self.assertAlmostEqual((west + east) / 2, fall.east)
        rim = np.concatenate([mist.cover[[0, -1]].ravel(), mist.cover[:, [0, -1]].ravel()])
        self.assertEqual(float(rim.max()), 0)
        self.assertAlmostEqual(mist.k, 2 * half.k)
        higher = spray_of(replace(fall, high_m=12.0), 4, 1.0, 1)
        self.assertGreater(higher.k, mist.k)
        self.assertGreater(higher.top.max(), mist.top.max())

    def test_a_scene_has_it_in_its_air_and_may_be_without(self):
        steep = burn()
        self.assertEqual(spray_in(steep), steep.in_air().mists)
        none = burn(water={"spray": 0})
        self.assertEqual(none.in_air().mists, [])

    def test_it_beats_up_foam_where_it_strikes_a_pool_and_nowhere_else(self):
        document = json.loads((SAMPLES / "alder-clough.json").read_text()) | {"planting": []}
        names = [w["name"] for w in document["water"]]
        pool = names.index("Pool")
        found = read_scene(document)
        b = Build(found, found.plot.grid(129), Cache(1 << 28))
        self.assertEqual(len(falls_in(b)), 2)  # of which one ends in the pool
        (boil,) = foam_in(b, pool)
        x, y = np.random.default_rng(3).uniform(-9, 9, (2, 4000)) + boil[:2, None]
        foam = collars(x, y, foam_in(b, pool), sea_in(b, pool), 0.4)
        off = np.hypot(x - boil[0], y - boil[1]) - boil[2]
        self.assertGreater(float(foam[off < 0].min()), 0.25)
        self.assertLess(float(foam[off > 4 * boil[4]].max()), 0.03)
        self.assertEqual(len(foam_in(b, names.index("Burn"))), 0)
        document["water"][pool]["foam"] = 0
        none = read_scene(document)
        self.assertEqual(len(foam_in(Build(none, none.plot.grid(129), Cache()), pool)), 0)


class Eddies(unittest.TestCase):
    def setUp(self):
        self.spine = run_of()[:30]
        self.fast = np.full(len(self.spine), 1.5)
        self.disc = np.array([[5.0, 0.4, 0.5, 10.0]])
        self.eddies = eddies_of(self.spine, self.fast, 4.0, self.disc)

    def test_foam_and_eddies_lie_behind_a_stone_and_die_away(self):
        at = (np.arange(len(self.eddies.strip)) + 0.5) / len(self.eddies.strip)
        at *= self.eddies.long_m
        foam = self.eddies.strip[..., 0].max(1)
        moved = self.eddies.strip[..., 2].max(1)
        self.assertLess(float(foam[at < 5 - 3 * 0.5].max()), 0.01)
        self.assertGreater(float(foam[(at > 5.5) & (at < 7)].max()), 0.4)
        self.assertEqual(float(moved[at < 5].max()), 0)
        near, far = moved[(at > 6) & (at < 8)].max(), moved[at > 5 + FADES].max()
        self.assertGreater(near, 2 * far)
        self.assertLess(float(self.eddies.strip[..., 1].min()), -0.3)  # calm in the lee
        self.assertGreater(float(self.eddies.strip[..., 1].max()), 0.3)  # heaped up before it

    def test_they_lie_on_the_side_of_their_stone(self):
        # the stream runs east: a stone to its north lies to its left
        left, right = self.eddies.strip[:, :16, 2], self.eddies.strip[:, 16:, 2]
        self.assertGreater(float(left.sum()), 1.5 * float(right.sum()))
        here = self.eddies.at(np.array([6.5, 6.5]), np.array([-0.2, 0.9]))
        self.assertGreater(here[0, 2], here[1, 2])

    def test_still_water_has_none_and_a_scene_has_those_of_its_stones(self):
        still = eddies_of(self.spine, self.fast * 0, 4.0, self.disc)
        self.assertEqual(float(still.strip[..., [0, 2]].max()), 0)
        self.assertIsNone(eddies_in(burn(), 0))
        b = burn(pieces=[STONE])
        found = eddies_in(b, 0)
        assert found is not None
        self.assertAlmostEqual(found.long_m, lengths(running_in(b, 0, 0).spine)[-1])
        with_, without = running_in(b, 0, 1.0), running_in(burn(), 0, 1.0)
        x, y = np.full(900, 100.42), np.linspace(95, 125, 900)
        fine = np.full(900, 0.05)
        more = with_.at(x, y, fine).foam - without.at(x, y, fine).foam
        self.assertGreater(float(more[y < 110].max()), 0.2)
        self.assertEqual(float(np.abs(more[y > 115]).max()), 0)

    def test_the_flow_is_slow_in_the_lee_and_swings_to_both_sides_behind_a_stone(self):
        b = burn(pieces=[STONE])
        bare, runs = running_in(burn(), 0, 0.0), running_in(b, 0, 0.0)
        (east, north, radius, _), *_ = stands_in(b, 0)
        way = runs.flow(np.array([east]), np.array([north]))[0][0]
        behind = np.linspace(0.5, 12, 60)[:, None] * radius * way + [east, north]
        for x, y, slow in ((*behind[4:8].T, True), (*(behind[:1] - 20 * radius * way).T, False)):
            share = runs.flow(x, y)[1] / bare.flow(x, y)[1]
            self.assertEqual(bool((share < 0.9).all()), slow, share)
        here, there = runs.flow(*behind.T)[0], bare.flow(*behind.T)[0]
        np.testing.assert_allclose(np.linalg.norm(here, axis=1), 1, atol=1e-6)
        aside = here[:, 0] * there[:, 1] - here[:, 1] * there[:, 0]
        self.assertGreater(float(aside.max()), 0.1)
        self.assertLess(float(aside.min()), -0.1)
        later = running_in(b, 0, 0.7).flow(*behind.T)[0]
        self.assertGreater(float(np.abs(later - here).max()), 0.1)  # and the eddies go on


class Shore(unittest.TestCase):
    sea = Sea(0.5, 20, 0, loop_s=24)

    def test_the_film_lies_where_waves_have_run_and_drains(self):
        over = np.linspace(0.01, 2 * run_up(self.sea), 400)
        x, y = np.full(400, 30.0), np.full(400, 12.0)
        times = np.arange(0, 24, 0.25)
        films = np.array([film_at(x, y, over, self.sea, t) for t in times])
        self.assertTrue(((films >= 0) & (films <= 1)).all())
        self.assertEqual(float(films[:, over > run_up(self.sea)].max()), 0)
        low = films[:, 5]
        self.assertGreater(low.max(), 0.9)
        self.assertLess(low.min(), 0.75)
        self.assertTrue((np.diff(low) < 0.001).mean() > 0.7)  # it drains but for a wave's coming
        np.testing.assert_allclose(film_at(x, y, over, self.sea, 24.0), films[0], atol=1e-6)

    def test_foam_drifts_the_way_of_the_waves_and_comes_back(self):
        east, north = drift_of(self.sea)
        self.assertAlmostEqual(np.rad2deg(np.arctan2(east, north)) % 360, self.sea.toward, delta=1)
        x, y = np.random.default_rng(1).random((2, 4000)) * 30
        foam, fine = np.full(4000, 0.6), np.full(4000, 0.05)
        at = lambda t: drifting(x, y, foam, fine, self.sea, t)
        np.testing.assert_allclose(at(0.0), at(24.0), atol=1e-5)
        self.assertGreater(float(np.abs(at(0.0) - at(2.0)).mean()), 0.02)

    def test_the_highest_sea_is_the_one_that_leaves_it(self):
        self.assertIsNone(swash_in(burn()))


class WetStones(unittest.TestCase):
    def test_a_stone_is_dark_and_shines_up_to_where_it_is_wet(self):
        dry = bodies_of("boulder", 0, 0, 8.0)
        half = bodies_of("boulder", 0, 0, 8.0, wet=WET_STEPS // 2)
        faces = lambda bodies: sum(len(b.faces) for b in bodies)
        self.assertEqual(faces(dry), faces(half))
        film = [b for b in half if b.surface.mirrors]
        rest = [b for b in half if not b.surface.mirrors]
        top = max(float(b.positions[b.faces][..., 2].mean(1).max()) for b in film)
        foot = min(float(b.positions[b.faces][..., 2].mean(1).min()) for b in rest)
        self.assertLessEqual(top, foot + 1e-6)
        mean = lambda bodies: np.mean([b.colour.mean() for b in bodies])
        self.assertLess(mean(film), 0.8 * mean(rest))


class Banks(unittest.TestCase):
    def test_a_bank_takes_the_grounds_colour_along_its_rim_and_keeps_its_own_above(self):
        red = {"id": "g", "name": "Red", "ground": "sand", "tint": "#ff2000"}
        b = burn(water={"on": False}, ground=[red])
        at = np.eye(4)
        at[:3, 3] = 100, 100, float(b.ground_at(100, 100))
        bodies = bodies_of("sand-bank", 0, 0, 8.0)
        made = blended(b, bodies, at, 0.3, 0.02)
        for before, after in zip(bodies, made):
            places = after.positions[after.faces].mean(1)
            over = places[:, 2] - heights_at(b.heights, b.grid, places[:, 0], places[:, 1])
            redness = lambda colour: colour[:, 0] / np.maximum(colour[:, 1], 1e-3)
            self.assertGreater(float(redness(after.colour[over < 0]).min()), 1.8)
            self.assertGreater(int((over > 0.35).sum()), 50)
            kept = np.abs(after.colour - before.colour)[over > 0.5]
            self.assertLess(float(kept.max(initial=0)), 1e-5)

    def test_a_bank_is_offered_with_a_rim_that_blends_and_runs_under_water(self):
        done = do("stand a piece", burn().scene, {"kind": "rock-ledge", "east": 50, "north": 60})
        self.assertGreater(done.document["pieces"][0]["blend_cm"], 20)
        for name in ("sand-bank", "shingle-bank", "rock-ledge"):
            for row in kinds[name].shape().levels:
                foot = row[0].positions[row[0].positions[:, 1] > 1.85]
                self.assertLess(float(foot[:, 2].max()), -0.4)
                self.assertGreater(float(row[0].positions[:, 2].max()), 0.4)


class Flow(unittest.TestCase):
    def test_it_runs_faster_and_white_where_it_falls(self):
        run = run_of(1.0)
        fast, white = flow_along(run, 0.3)
        self.assertGreater(fast[21:22].min(), 3 * fast[5:15].max())
        self.assertLess(white[:19].max(), 0.01)
        self.assertGreater(white[21:23].min(), 0.9)
        below = white[22:40]
        self.assertTrue((np.diff(below) <= 0).all() and below[0] > 0.3 > below[-1])


if __name__ == "__main__":
    unittest.main()
