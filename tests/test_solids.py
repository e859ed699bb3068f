"""Solids, and pieces of three sizes: everywhere the same body."""

import json
import unittest
from pathlib import Path

import numpy as np
import trimesh

from sow.core.build import Build
from sow.core.cabinet import kind_of, kinds
from sow.core.cabinet.bent import Arc, bent_name
from sow.core.cabinet.feet import stretched
from sow.core.cabinet.solids import BELOW_M, ROUND, TREADS
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.judge.faults import faults
from sow.core.picture.choose import pieces_of
from sow.core.picture.prepared import view_of
from sow.core.planting.pieces import piece_feet
from sow.core.planting.surface import solid, top_at
from sow.core.scene import read_scene
from sow.core.works import do

TIER = "fast"

SAMPLES = Path(__file__).parents[1] / "samples"

VOLUMES = {
    "block": 1 + BELOW_M,
    "slab": 0.2,
    "column": ROUND / 8 * np.sin(2 * np.pi / ROUND) * (1 + BELOW_M),
    "ramp": 0.5 + BELOW_M,
    "steps": sum((k + 1) / TREADS for k in range(TREADS)) / TREADS + BELOW_M,
    "gable-roof": 0.5,
    "hip-roof": 0.22 + 0.56 / 3,
    "board": 0.02 * (1 + BELOW_M),
}


def scene(**more):
    piece = {"id": "b", "name": "Wall", "kind": "block", "east_m": 40, "north_m": 50} | more
    return read_scene(
        {
            "name": "Yard",
            "plot": {"width_m": 100, "depth_m": 100, "posts": 129},
            "pieces": [piece],
            "shots": [{"id": "s", "name": "S", "east_m": 40, "north_m": 20, "eye_m": 3}],
        }
    )


def built(**more) -> Build:
    s = scene(**more)
    return Build(s, s.plot.grid(), Cache())


class Solids(unittest.TestCase):
    def test_are_closed_and_as_large_as_they_are_told(self):
        self.assertEqual(set(VOLUMES), {k for k in kinds if kinds[k].family == "solid"})
        for name, volume in VOLUMES.items():
            mesh = kinds[name].shape().levels[0][0]
            body = trimesh.Trimesh(mesh.positions, mesh.faces, process=True)
            body.merge_vertices(merge_norm=True)
            self.assertTrue(body.is_watertight, name)
            self.assertTrue(body.is_winding_consistent, name)
            self.assertAlmostEqual(body.volume, volume, places=5, msg=name)
            lengths = np.linalg.norm(mesh.normals, axis=1)
            np.testing.assert_allclose(lengths, 1, atol=1e-5, err_msg=name)
            a, b, c = (mesh.positions[mesh.faces[:, k]] for k in range(3))
            flat = np.cross(b - a, c - a)
            facing = (flat * mesh.normals[mesh.faces[:, 0]]).sum(1)
            self.assertTrue((facing > 0).all(), name)
            np.testing.assert_allclose(np.ptp(mesh.positions[:, 0]), 1, atol=1e-6)

    def test_a_solid_has_no_stone_s_name_and_is_sown_nowhere(self):
        with self.assertRaisesRegex(SceneError, "Two kinds are called 'block'"):
            kinds["block"] = kinds["boulder"]
        for name in ("fallen-block", "rock-slab"):
            self.assertEqual(kind_of(name).family, "stone")
        for file in sorted(SAMPLES.glob("*.json")):
            for sowing in json.loads(file.read_text())["planting"]:
                for part in sowing["mix"]:
                    self.assertNotEqual(kind_of(part["kind"]).family, "solid", sowing["name"])


class Bent(unittest.TestCase):
    SIZES = {"wide": 800, "deep": 40, "tall": 180}

    def test_a_wall_round_a_court_is_closed_as_thick_and_as_long_as_before(self):
        for degrees in (90.0, -200.0):
            kind = kind_of(bent_name("block", degrees, *self.SIZES.values()))
            mesh = kind.shape().levels[0][0]
            body = trimesh.Trimesh(mesh.positions, mesh.faces, process=True)
            body.merge_vertices(merge_norm=True)
            self.assertTrue(body.is_watertight)
            self.assertAlmostEqual(body.volume / (8 * 0.4 * 1.8 * (1 + BELOW_M)), 1, delta=0.003)
            radius = 8 / np.deg2rad(degrees)
            away = np.hypot(mesh.positions[:, 0], mesh.positions[:, 1] - radius)
            corner = np.abs(away - abs(radius))
            self.assertLess(float(corner.max()), 0.2 + 1e-5)
            self.assertAlmostEqual(float(np.ptp(away)), 0.4, places=4)
            a, b, c = (mesh.positions[mesh.faces[:, k]] for k in range(3))
            flat = np.cross(b - a, c - a)
            real = np.linalg.norm(flat, axis=1) > 1e-6
            facing = (flat * mesh.normals[mesh.faces[:, 0]]).sum(1)[real]
            self.assertTrue((facing > 0).all())
            self.assertAlmostEqual(kind.height_m, 1.8, places=5)

    def test_what_is_long_from_south_to_north_bends_to_its_left_too(self):
        arc = Arc(90.0, 1, -4.0, 4.0)
        ends = arc.carried(np.array([[0.0, -4, 0], [0, 0, 0], [0, 4, 0]]))
        radius = 8 / (np.pi / 2)
        self.assertLess(ends[2, 0], 0)  # its northern end goes west
        np.testing.assert_allclose(np.hypot(ends[:, 0] + radius, ends[:, 1]), radius)
        turned = arc.turned(np.array([[0.0, 1, 0]]), np.array([[0.0, 4, 0]]))
        np.testing.assert_allclose(turned, [[-np.sin(np.pi / 4), np.cos(np.pi / 4), 0]])

    def test_its_foot_follows_the_arc_and_nothing_else_stands_in_it(self):
        bent = scene(**self.SIZES, bend=120).pieces[0]
        east, north, radius = piece_feet(bent)
        middle = 8 / np.deg2rad(120)
        away = np.hypot(east - 40, north - 50 - middle)
        self.assertLess(float((np.abs(away - middle) + radius).max()), 0.25)
        straight = piece_feet(scene(**self.SIZES, bend=0).pieces[0])
        self.assertLess(float(np.abs(straight[1] - 50).max()), 0.2)

    def test_leaves_and_limbs_of_a_bent_hedge_are_as_many(self):
        plain, bent = kind_of("oak"), kind_of(bent_name("oak", 40, 100, 100, 100))
        for a, b in zip(plain.parts(0, "summer", 1 / 36), bent.parts(0, "summer", 1 / 36)):
            self.assertEqual(len(a.mesh.faces), len(b.mesh.faces))
            np.testing.assert_array_equal(a.mesh.positions[:, 2], b.mesh.positions[:, 2])


class ThreeSizes(unittest.TestCase):
    SIZES = {"size": 200, "wide": 400, "deep": 20, "tall": 90, "turn": 30}  # 8 x 0.4 x 1.8 m

    def test_the_same_body_in_stills_and_for_what_is_sown_on_it_bent_too(self):
        for bend in (0, 75):
            self.same_body(built(**self.SIZES, bend=bend), bend)

    def same_body(self, build, bend):
        shot = build.shots()[0]
        copies = next(iter(pieces_of(build, view_of(build, shot, 320, 200))))
        places = np.concatenate([b.positions for b in copies.bodies])
        stands = np.c_[places, np.ones(len(places))] @ copies.at[0].T
        corners, normals = solid(build.pieces()[0])
        for axis in range(3):
            edge = corners[..., axis].min(), corners[..., axis].max()
            np.testing.assert_allclose(
                (stands[:, axis].min(), stands[:, axis].max()), edge, atol=1e-4
            )
        a = np.deg2rad(30)
        wide = 8 * np.cos(a) + 0.4 * np.sin(a)
        if not bend:
            self.assertAlmostEqual(float(np.ptp(stands[:, 0])), wide, places=3)
        self.assertAlmostEqual(float(np.ptp(stands[:, 2])), 1.8 * (1 + BELOW_M), places=3)
        np.testing.assert_allclose(np.linalg.norm(normals, axis=1), 1)

    def test_its_top_is_where_it_stands_and_not_beside(self):
        piece = built(**self.SIZES).pieces()[0]
        a = np.deg2rad(30)
        along = np.array([np.cos(a), -np.sin(a)])  # to its right, turned clockwise
        for far, there in ((3.9, True), (-3.9, True), (4.1, False)):
            east, north = (40, 50) + far * along
            top = top_at(piece, east, north)
            self.assertEqual(np.isfinite(top), there)
            if there:
                self.assertAlmostEqual(top, piece["up_m"] + 1.8, places=4)

    def test_its_foot_keeps_its_whole_length_clear_and_no_more(self):
        s = scene(**self.SIZES)
        east, north, radius = piece_feet(s.pieces[0])
        a = np.deg2rad(30)
        across = (east - 40) * np.cos(a) - (north - 50) * np.sin(a)
        ahead = (east - 40) * np.sin(a) + (north - 50) * np.cos(a)
        self.assertGreater((across + radius).max(), 3.6)
        self.assertLess((across + radius).max(), 4.7)
        self.assertLess((np.abs(ahead) + radius).max(), 0.3)
        # no gap along its middle
        middle = np.sort(across[np.abs(ahead) < 0.07])
        self.assertLess(np.diff(middle).max(), 2.2 * radius.min() + 0.1)

    def test_a_disc_that_is_not_stretched_stays_one(self):
        np.testing.assert_allclose(stretched([(1.0, 2.0, 0.5)], 3, 3), [(3, 6, 1.5)])
        long = stretched([(0.0, 0.0, 1.0)], 5, 1)
        self.assertAlmostEqual((long[:, 0] + long[:, 2]).max(), 5)
        self.assertTrue((long[:, 2] == 1).all())

    def test_one_that_floats_is_told_by_its_own_measures(self):
        bench = {"kind": "bench", "wide": 300, "deep": 100, "tall": 200}
        told, _ = faults(built(**bench, sink_cm=-40))
        self.assertIn("floats", {f.what for f in told})
        told, _ = faults(built(**bench))
        self.assertNotIn("floats", {f.what for f in told})

    def test_solids_are_put_together_but_nothing_else_stands_in_them(self):
        s = scene(**self.SIZES)
        wall = s.model_dump(mode="json")["pieces"][0]
        beside = {**wall, "id": "c", "name": "Pier", "wide": 50, "deep": 50}
        bench = {"id": "d", "name": "Bench", "kind": "bench", "east_m": 40, "north_m": 50}
        both = read_scene({**s.model_dump(mode="json"), "pieces": [wall, beside, bench]})
        told, _ = faults(Build(both, both.plot.grid(), Cache()))
        self.assertEqual({f.name for f in told if f.what == "cross"}, {"Bench"})

    def test_a_tint_colours_it(self):
        build = built(tint="#804020", bright=150)
        piece = build.pieces()[0]
        self.assertEqual(piece["dressed"], "block~summer~804020~150")
        shot = build.shots()[0]
        copies = next(iter(pieces_of(build, view_of(build, shot, 320, 200))))
        mean = copies.bodies[0].colour.mean(0)
        plain = np.array(kind_of("block").colour)
        red = (0x80 / 255 + 0.055) / 1.055
        self.assertAlmostEqual(mean[0] / plain[0], 1.5 * red**2.4, places=3)
        self.assertGreater(mean[0] / plain[0], 2 * mean[2] / plain[2])


class AlongALine(unittest.TestCase):
    def scene(self, points, kind="line", height=20):
        land = [{"id": "n", "name": "n", "kind": "noise", "height_m": height, "feature_m": 90}]
        mark = {"id": "m", "name": "Yard", "kind": kind, "points": points, "smooth": False}
        return read_scene(
            {
                "name": "Yard",
                "plot": {"width_m": 100, "depth_m": 100, "posts": 129},
                "land": land,
                "marks": [mark],
            }
        )

    def built(self, s, **asked):
        done = do("build along a line", s, {"mark": "m", **asked})
        after = read_scene(done.document)
        return after, Build(after, after.plot.grid(), Cache())

    def test_a_wall_stands_in_the_ground_and_over_it_all_along(self):
        s = self.scene([[20, 20], [60, 30], [70, 75]])
        after, build = self.built(s, what="wall", tall_m=1.5, thick_m=0.5)
        self.assertEqual({p.group for p in after.pieces}, {"Yard"})
        pieces = build.pieces()
        self.assertGreater(len(pieces), 20)
        for t in np.linspace(0.01, 0.99, 60):
            corners = np.array([[20, 20], [60, 30], [70, 75]], float)
            long = np.hypot(*np.diff(corners, axis=0).T)
            at = t * long.sum()
            leg = int(at > long[0])
            part = (at - long[0] * leg) / long[leg]
            east, north = corners[leg] + part * (corners[leg + 1] - corners[leg])
            ground = build.ground_at(east, north)
            over = [q for q in pieces if np.isfinite(top_at(q, east, north))]
            self.assertTrue(over, (east, north))
            tops = [top_at(q, east, north) - ground for q in over]
            self.assertGreater(max(tops), 1.45)
            self.assertLess(min(tops), 1.5 * 1.36 + 0.1)
            feet = [solid(q)[0][..., 2].min() for q in over]
            self.assertLess(min(feet), ground)
        told, _ = faults(build)
        self.assertNotIn("floats", {f.what for f in told})

    def test_openings_are_left_and_a_coping_lies_on_top(self):
        s = self.scene([[20, 50], [60, 50]], height=0)
        asked = {"what": "wall", "tall_m": 2, "thick_m": 0.3, "coping_cm": 10}
        after, build = self.built(s, openings=[[15, 3]], **asked)
        high = lambda east: max(top_at(q, east, 50.0) for q in build.pieces())
        self.assertEqual(high(35.0), -np.inf)
        self.assertAlmostEqual(high(25.0) - build.ground_at(25, 50), 2.1, places=3)
        self.assertEqual({p.kind for p in after.pieces}, {"block", "slab"})

    def test_slabs_lie_on_the_ground_with_their_joints(self):
        s = self.scene([[20, 30], [80, 60]])
        _, build = self.built(s, what="slabs", thick_m=1.2, stretch_m=0.8, joint_cm=3)
        pieces = build.pieces()
        self.assertAlmostEqual(len(pieces), np.hypot(60, 30) / 0.8, delta=1.5)
        over = []
        for q in pieces:
            corners, _ = solid(q)
            flat = corners.reshape(-1, 3)
            middle = flat.mean(0)
            over.append(middle[2] - build.ground_at(float(middle[0]), float(middle[1])))
        self.assertLess(np.abs(over).max(), 0.08)
        told, _ = faults(build)
        self.assertNotIn("floats", {f.what for f in told})

    def test_what_cannot_be_is_told(self):
        with self.assertRaisesRegex(SceneError, "no such line"):
            do("build along a line", self.scene([[1, 1], [2, 2]]), {"mark": "x", "what": "wall"})
        with self.assertRaisesRegex(SceneError, "only 0.10 m"):
            self.built(self.scene([[20, 20], [20.1, 20]]), what="wall")
        with self.assertRaisesRegex(SceneError, "one line may have 600"):
            round_ = self.scene([[1, 1], [99, 1], [99, 99], [1, 99]], "area")
            self.built(round_, what="slabs", stretch_m=0.25)
        with self.assertRaises(SceneError):
            self.built(self.scene([[20, 20], [30, 30]]), what="wall", tall_m=-1)
        with self.assertRaisesRegex(SceneError, "two points"):
            self.scene([[20, 20]])


if __name__ == "__main__":
    unittest.main()
