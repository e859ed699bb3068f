"""Solids, and pieces of three sizes: everywhere the same body."""

import unittest

import numpy as np
import trimesh

from sow.core.build import Build
from sow.core.cabinet import kind_of, kinds
from sow.core.cabinet.solids import BELOW_M, ROUND, TREADS
from sow.core.cache import Cache
from sow.core.judge.faults import faults
from sow.core.picture.choose import pieces_of
from sow.core.picture.prepared import view_of
from sow.core.planting.pieces import piece_feet, stretched
from sow.core.planting.surface import solid, top_at
from sow.core.scene import read_scene

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


class ThreeSizes(unittest.TestCase):
    SIZES = {"size": 200, "wide": 400, "deep": 20, "tall": 90, "turn": 30}  # 8 x 0.4 x 1.8 m

    def test_the_same_body_in_stills_and_for_what_is_sown_on_it(self):
        build = built(**self.SIZES)
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
        told, _ = faults(built(**self.SIZES, sink_cm=-60))
        self.assertIn("floats", {f.what for f in told})
        told, _ = faults(built(**self.SIZES))
        self.assertNotIn("floats", {f.what for f in told})

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


if __name__ == "__main__":
    unittest.main()
