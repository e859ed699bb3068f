"""Small pictures that the core draws: a mix on this land, stones in their colours; what is made
ahead.
"""

import io
import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from PIL import Image

from sow import warm
from sow.core.build import Build
from sow.core.cabinet import kinds
from sow.core.cabinet.mesh import Mesh, icosphere
from sow.core.cabinet.portrait import portrait
from sow.core.cabinet.stone import weathered
from sow.core.cache import Cache
from sow.core.planting.mixes import mixed, mixes
from sow.core.sample import heights_at
from sow.core.scene import read_scene
from sow.core.shots.standing import mix_eye
from sow.core.works.take_mix import with_mix
from tests.served import ask, server

TIER = "whole"

DOCUMENT = {
    "name": "Pictures",
    "plot": {"width_m": 500, "depth_m": 500, "posts": 129},
    "land": [
        {"id": "n", "name": "n", "kind": "noise", "height_m": 50, "feature_m": 200, "seed": 8}
    ],
    "ground": [{"id": "g", "name": "g", "ground": "turf"}],
    "marks": [{"id": "l", "name": "l", "kind": "line", "points": [[10, 10], [90, 90]]}],
}


def built(document) -> Build:
    return Build(document, document.plot.view_grid(), Cache())


class MixesOnThisLand(unittest.TestCase):
    def test_every_ready_mix_is_looked_at_by_a_person_before_it(self):
        scene = read_scene(DOCUMENT)
        for name in mixes:
            sowings, marks, _ = mixed(name, built(scene).site("planting"))
            trial = with_mix(scene, sowings, marks)
            self.assertEqual(len(trial.planting), len(sowings))
            self.assertIn("l", [m.id for m in trial.marks])  # what was drawn stays
            build = built(trial)
            eye = mix_eye(build, list(range(len(sowings))))
            ground = float(heights_at(build.heights, build.grid, eye["east"], eye["north"])[0])
            self.assertTrue(1.6 < eye["up"] - ground < 5, name)
            self.assertTrue(0 <= eye["east"] <= 500 and 0 <= eye["north"] <= 500, name)

    def test_its_picture_has_its_size_and_is_the_same_twice(self):
        server()
        state = ask("POST", "/api/scenes", {"document": DOCUMENT})[1]
        path = f"/api/scenes/{state['id']}"
        mix = ask("POST", f"{path}/mixes/heath", {})[1]
        order = {"sowings": mix["sowings"], "marks": mix["marks"], "width_px": 200, "height_px": 90}
        status, first = ask("POST", f"{path}/mix-pictures", order)
        self.assertEqual(status, 200)
        picture = np.asarray(Image.open(io.BytesIO(first)).convert("RGB")).astype(int)
        self.assertEqual(picture.shape, (90, 200, 3))
        self.assertEqual(ask("POST", f"{path}/mix-pictures", order)[1], first)
        bare = [{**s, "density": 0.001, "number": 0} for s in mix["sowings"]]
        status, other = ask("POST", f"{path}/mix-pictures", {**order, "sowings": bare})
        without = np.asarray(Image.open(io.BytesIO(other)).convert("RGB")).astype(int)
        self.assertGreater((np.abs(picture - without).sum(-1) > 40).mean(), 0.1)
        status, taken = ask("POST", f"{path}/mix-pictures", {**order, "followed": True})
        self.assertEqual(status, 200)
        still = np.asarray(Image.open(io.BytesIO(taken)).convert("RGB")).astype(int)
        self.assertEqual(still.shape, picture.shape)
        self.assertGreater(np.abs(still - picture).mean(), 3)
        self.assertGreater(float(still.std()), 10)

    def test_a_mix_that_fits_no_scene_is_refused(self):
        server()
        state = ask("POST", "/api/scenes", {"document": DOCUMENT})[1]
        path = f"/api/scenes/{state['id']}/mix-pictures"
        status, told = ask("POST", path, {"sowings": [{"name": "no id", "mix": "birch"}]})
        self.assertEqual(status, 422)
        self.assertTrue(told["detail"])
        self.assertEqual(ask("POST", path, {"sowings": []})[0], 422)


class Stones(unittest.TestCase):
    def test_a_parted_mesh_keeps_its_shape(self):
        directions, faces = icosphere(1)
        mesh = Mesh.of(directions, faces, np.full((len(directions), 3), 0.3))
        fine = mesh.parted()
        self.assertEqual(len(fine.faces), 4 * len(mesh.faces))
        corners = lambda m: m.positions[m.faces].astype(np.float64)
        area = lambda m: np.linalg.norm(
            np.cross(*(corners(m)[:, k] - corners(m)[:, 0] for k in (1, 2))), axis=1
        ).sum()
        self.assertAlmostEqual(area(fine), area(mesh), places=4)
        facing = lambda m: np.cross(*(corners(m)[:, k] - corners(m)[:, 0] for k in (1, 2)))
        outward = (facing(fine) * corners(fine).mean(1)).sum(-1)
        self.assertTrue((outward > 0).all())

    def test_stones_are_neither_grey_nor_smooth(self):
        for name in ("boulder", "tor", "fallen-block"):
            shape = kinds[name].shape()
            plain = shape.levels[0][0].colour
            worn = weathered(shape.levels[0][0]).colour
            self.assertGreater(worn.mean(1).std(), 1.5 * plain.mean(1).std())
            drawn = portrait(kinds[name]).astype(float)
            stone = drawn[drawn[..., 3] > 200][:, :3]
            self.assertGreater((stone.max(1) - stone.min(1)).mean(), 8)  # it has a colour


class MadeAhead(unittest.TestCase):
    def test_kernels_are_compiled_once_for_the_same_files(self):
        with tempfile.TemporaryDirectory() as folder:
            with (
                mock.patch.dict(os.environ, {"SOW_CACHE": folder, "NUMBA_CACHE_DIR": folder}),
                mock.patch.object(warm, "compile_land") as land,
                mock.patch.object(warm, "compile_rest") as rest,
                mock.patch.object(warm.portrait, "all_kinds") as drawn,
            ):
                warm.main()
                warm.main()
            self.assertEqual((land.call_count, rest.call_count, drawn.call_count), (1, 1, 2))
            self.assertTrue(list(Path(folder).glob("kernels-*")))

    def test_a_trial_is_a_land_that_can_be_built(self):
        scene = warm.trial({"id": "one", "name": "One", "kind": "terraces"})
        heights = built(scene).heights
        self.assertTrue(np.isfinite(heights).all())
        self.assertGreater(float(np.ptp(heights)), 5)


if __name__ == "__main__":
    unittest.main()
