"""Shots as cameras of a glTF, read by another library."""

import tempfile
import unittest
from pathlib import Path

import numpy as np
import pygltflib
from scipy.spatial.transform import Rotation

from sow.core.cache import Cache
from sow.core.grow import grow
from sow.core.picture.prepared import view_of
from tests.small import build_of, scene_of

TIER = "whole"

SHOTS = [
    {"id": "a", "name": "Down", "east_m": 60, "north_m": 30, "bearing": 310, "tilt": -25},
    {"id": "b", "name": "Up", "east_m": 120, "north_m": 90, "bearing": 95, "tilt": 12},
]
LENS = {"eye_m": 3, "focal_mm": 50, "width_px": 1000, "height_px": 400, "aperture": 2.8}


class Cameras(unittest.TestCase):
    def test_each_shot_is_a_camera_that_sees_the_same(self):
        shots = [{**shot, **LENS} for shot in SHOTS]
        build = build_of(shots=shots)
        with tempfile.TemporaryDirectory() as folder:
            scene = scene_of(shots=shots)
            cache = Cache(1 << 30)
            files = {"scene": {"ground_px": 64, "ground_as": "budget", "ground_triangles": 200}}
            report = grow(
                scene, lambda _: None, Path(folder), cache=cache, files=files, only=["scene"]
            )
            glb = pygltflib.GLTF2().load(f"{folder}/scene.glb")
        self.assertLessEqual(report["gltf"]["ground_triangles"], 200)
        self.assertGreater(report["gltf"]["ground_error_m"], 0)
        self.assertEqual([c.name for c in glb.cameras], ["Down", "Up"])
        rng = np.random.default_rng(2)
        for index, shot in enumerate(build.shots()):
            node = next(n for n in glb.nodes if n.camera == index)
            lens = glb.cameras[index].perspective
            view = view_of(build, shot, shot.width_px, shot.height_px)
            turned = Rotation.from_quat(node.rotation).as_matrix()
            tall = np.tan(lens.yfov / 2)
            self.assertAlmostEqual(lens.aspectRatio, 2.5)
            for _ in range(10):
                deep, aside, up = rng.uniform(4, 90), *rng.uniform(-0.2, 0.2, 2)
                place = view.eye + deep * (view.ahead + aside * view.right + up * view.up)
                file = np.array([place[0], place[2], -place[1]]) - node.translation
                x, y, z = turned.T @ file
                self.assertAlmostEqual(-z, deep, places=4)
                half = 18 / shot.focal_mm
                self.assertAlmostEqual(x / -z / (tall * 2.5), aside / half, places=5)
                self.assertAlmostEqual(y / -z / tall, up / (half * 0.4), places=5)
            self.assertEqual(glb.cameras[index].extras["aperture"], 2.8)


if __name__ == "__main__":
    unittest.main()
