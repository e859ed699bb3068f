"""The ground as a net of few triangles."""

import unittest

import numpy as np
from scipy.spatial import Delaunay

from sow.core.formats.gltf import SceneFiles
from sow.core.formats.ground_mesh import ground_mesh
from sow.core.formats.net import net_of
from sow.core.plot import grid_faces
from sow.core.sample import resample
from tests.small import build_of

TIER = "fast"

LAND = [
    {"kind": "noise", "id": "n", "name": "Hills", "height_m": 60, "feature_m": 90},
    {"kind": "wear", "id": "w", "name": "Worn"},
]


def at_posts(x, y, z, faces, shape) -> np.ndarray:
    """Heights of triangles at every post of a grid, by the triangle that holds it."""
    out = np.full(shape, np.nan)
    for a, b, c in faces:
        i, j = np.meshgrid(
            np.arange(int(np.ceil(x[[a, b, c]].min())), int(x[[a, b, c]].max()) + 1),
            np.arange(int(np.ceil(y[[a, b, c]].min())), int(y[[a, b, c]].max()) + 1),
        )
        d = (x[b] - x[a]) * (y[c] - y[a]) - (x[c] - x[a]) * (y[b] - y[a])
        u = ((i - x[a]) * (y[c] - y[a]) - (x[c] - x[a]) * (j - y[a])) / d
        v = ((x[b] - x[a]) * (j - y[a]) - (i - x[a]) * (y[b] - y[a])) / d
        inside = (u > -1e-9) & (v > -1e-9) & (u + v < 1 + 1e-9)
        high = z[a] + u * (z[b] - z[a]) + v * (z[c] - z[a])
        out[j[inside], i[inside]] = high[inside]
    return out


class ANet(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.build = build_of(land=LAND)
        cls.high = cls.build.heights.astype(float)

    def off(self, net) -> np.ndarray:
        x, y = net.columns.astype(float), net.rows.astype(float)
        z = self.high[net.rows, net.columns]
        return np.abs(at_posts(x, y, z, net.faces, self.high.shape) - self.high)

    def test_it_is_as_near_as_it_tells_and_covers_every_post_once(self):
        for asked in ({"triangles": 600}, {"error_m": 0.5}):
            net = net_of(self.high, **asked)
            off = self.off(net)
            self.assertFalse(np.isnan(off).any())
            self.assertAlmostEqual(float(off.max()), net.error_m, places=6)
            ny, nx = self.high.shape
            corners = np.stack([net.columns, net.rows], 1)[net.faces].astype(float)
            ahead, aside = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
            areas = (ahead[:, 0] * aside[:, 1] - ahead[:, 1] * aside[:, 0]) / 2
            self.assertTrue((areas < 0).all())  # rows run south: each faces the sky
            self.assertAlmostEqual(-areas.sum(), (nx - 1) * (ny - 1))

    def test_a_tenth_of_the_triangles_is_thrice_as_near_as_a_coarser_grid(self):
        whole = 2 * (self.high.shape[0] - 1) ** 2
        for share, times in ((0.1, 3.0), (0.02, 2.0)):
            net = net_of(self.high, triangles=int(whole * share))
            self.assertLessEqual(len(net.faces), whole * share)
            n = int(np.sqrt(whole * share / 2)) + 2  # no fewer triangles than the net
            coarse = resample(self.high, (n, n))
            y, x = np.mgrid[:n, :n] * ((len(self.high) - 1) / (n - 1))
            again = at_posts(
                x.ravel(), y.ravel(), coarse.ravel(), grid_faces(n, n), self.high.shape
            )
            self.assertLess(times * net.error_m, np.nanmax(np.abs(again - self.high)), share)

    def test_nothing_is_off_where_none_is_left_and_a_level_takes_two(self):
        net = net_of(self.high)
        self.assertEqual(net.error_m, 0)
        level = net_of(np.full((40, 60), 3.0))
        self.assertEqual((len(level.faces), level.error_m), (2, 0))

    def test_its_triangles_are_delaunay(self):
        net = net_of(self.high, triangles=300)
        points = np.stack([net.columns, net.rows], 1)
        longest = lambda faces: sorted(
            max(np.hypot(*(points[f[i]] - points[f[i - 1]])) for i in range(3)) for f in faces
        )
        mine, theirs = longest(net.faces), longest(Delaunay(points).simplices)
        self.assertEqual(len(mine), len(theirs))
        # where four posts lie on a circle either way of parting them is right
        self.assertAlmostEqual(np.mean(mine), np.mean(theirs), delta=0.02 * np.mean(theirs))

    def test_plots_side_by_side_meet(self):
        middle = self.high.shape[1] // 2
        left = net_of(self.high[:, : middle + 1], error_m=0.8)
        right = net_of(self.high[:, middle:], error_m=0.8)
        shared = sorted(left.rows[left.columns == middle])
        self.assertEqual(shared, sorted(right.rows[right.columns == 0]))
        self.assertLess(len(shared), len(self.high) / 2)

    def test_in_files(self):
        fine = ground_mesh(self.build, SceneFiles())
        few = ground_mesh(self.build, SceneFiles(ground_as="budget", ground_triangles=500))
        near = ground_mesh(self.build, SceneFiles(ground_as="error", ground_error_m=0.3))
        self.assertLessEqual(len(few.faces), 500)
        self.assertLess(near.error_m, 0.3)
        for made in (fine, few, near):
            np.testing.assert_allclose(np.ptp(made.positions[:, :2], axis=0), 200)
            a, b, c = (made.positions[made.faces[:, k]] for k in range(3))
            self.assertTrue((np.cross(b - a, c - a)[:, 2] > 0).all())
            np.testing.assert_allclose(made.uv[:, 0] * 200, made.positions[:, 0], atol=1e-9)
            np.testing.assert_allclose(np.linalg.norm(made.normals, axis=1), 1, atol=1e-5)


if __name__ == "__main__":
    unittest.main()
