"""Leaves that the eye stands among: finer where it is near, the same plants as before."""

import unittest

import numpy as np

from sow.core.cabinet.growth.foliage import lobed, pinnate, pointed, rhombic, set_out
from sow.core.cabinet.rounded import rounded
from sow.core.picture.bodies import Body, Copies, Surface
from sow.core.picture.near_leaves import with_near_leaves
from sow.core.picture.views import View
from sow.core.shots.shot import axes

TIER = "fast"

FOLDED = {
    "rhombic": rhombic(0.046, 0.038, 0.36),
    "pointed": pointed(0.06, 0.04),
    "lobed": lobed(0.09, 0.055, 4),
    "hanging": pointed(0.2, 0.06, 0.4, 0.9),
}


def area(places: np.ndarray, faces: np.ndarray) -> float:
    at = places[faces]
    return float(np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1).sum())


def view(eye) -> View:
    right, up, ahead = axes(0, 0)
    return View(np.array(eye, float), right, up, ahead, 28.0, 960, 540)


def plant() -> Body:
    """Leaves along a level row from the origin to 40 m north."""
    n = 400
    at = np.stack([np.zeros(n), np.linspace(0, 40, n), np.ones(n)], 1)
    way = np.tile((1.0, 0, 0), (n, 1))
    up = np.tile((0, 0, 1.0), (n, 1))
    mesh = set_out(FOLDED["pointed"], at, way, up, np.ones(n), np.tile((0.1, 0.2, 0.05), (n, 1)))
    colour = mesh.colour[mesh.faces].mean(1)
    return Body(mesh.positions, mesh.faces, Surface(through=0.5), colour=colour)


class NearLeaves(unittest.TestCase):
    def test_a_finer_leaf_keeps_foot_tip_and_about_its_area(self):
        for name, leaf in FOLDED.items():
            with self.subTest(name):
                finer = rounded(leaf.places, leaf.faces)
                np.testing.assert_allclose(finer.weights.sum(1), 1, atol=1e-9)
                places = finer.weights @ leaf.places
                blade = finer.faces[: finer.ribs]
                ratio = area(places, blade) / area(leaf.places, leaf.faces)
                self.assertTrue(0.85 < ratio < 1.4, ratio)
                for post in ((0, 0, 0), leaf.places[leaf.places[:, 1].argmax()]):
                    self.assertLess(np.linalg.norm(places - post, axis=1).min(), 0.08)
                stalk = places[finer.faces[-1]]
                self.assertLess(stalk[:, 1].min(), -0.15)

    def test_it_is_the_same_leaf_however_it_is_turned_and_sized(self):
        leaf = FOLDED["lobed"]
        c, s = np.cos(0.7), np.sin(0.7)
        turn = 3.1 * np.array(((c, 0, s), (0, 1, 0), (-s, 0, c)))
        one = rounded(leaf.places, leaf.faces)
        two = rounded(leaf.places @ turn.T + 5, leaf.faces)
        np.testing.assert_array_equal(one.faces, two.faces)
        np.testing.assert_allclose(one.weights, two.weights, atol=1e-6)

    def test_what_is_no_folded_leaf_stays(self):
        blade = np.array([(0, 0, 0), (1, 0, 0), (0, 5, 0), (1, 5, 0.0)])
        self.assertIsNone(rounded(blade, np.array([(0, 1, 2), (1, 3, 2)])))
        many = pinnate(0.15, 0.045, 0.016, 6)
        self.assertIsNone(rounded(many.places, many.faces))

    def test_leaves_by_the_eye_are_finer_and_no_other_changes(self):
        body = plant()
        stands = np.stack([np.eye(4), np.eye(4)])
        stands[1, :3, 3] = (300, 0, 0)
        eye = (0.5, 10.0, 1.0)
        found = list(with_near_leaves(Copies([body], stands, "of", "kind"), view(eye)))
        self.assertEqual([len(c.at) for c in found], [1, 1])
        mine, other = found
        self.assertIs(other.bodies[0], body)
        self.assertEqual((mine.of, mine.kind), ("of", "kind"))
        finer = mine.bodies[0]
        self.assertGreater(len(finer.faces), 1.5 * len(body.faces))
        self.assertEqual(len(finer.colour), len(finer.faces))
        self.assertLess(finer.faces.max(), len(finer.positions))
        far = lambda b: b.positions[b.faces][np.abs(b.positions[b.faces][:, :, 1] - 10).min(1) > 4]
        np.testing.assert_array_equal(far(finer), far(body))
        near = lambda b: (np.abs(b.positions[b.faces][:, :, 1] - 10) < 1).all(1).sum()
        self.assertGreater(near(finer), 8 * near(body))

    def test_an_eye_that_is_far_from_all_gets_what_there_was(self):
        copies = Copies([plant()], np.eye(4)[None])
        self.assertEqual(list(with_near_leaves(copies, view((9.0, 10.0, 1.0)))), [copies])


if __name__ == "__main__":
    unittest.main()
