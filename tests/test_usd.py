"""A scene as USD, read by the library of the format itself and asked by its own validators."""

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from pxr import Gf, Usd, UsdGeom, UsdLux, UsdShade, UsdValidation

from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.grow import grow
from sow.core.picture.choose import stood
from sow.core.picture.prepared import view_of
from sow.core.scene import read_scene
from tests.small import build_of, scene_of

TIER = "fast"

MORE = {
    "ground": [{"id": "g", "name": "Turf", "ground": "turf"}],
    "water": [{"id": "w", "name": "Tarn", "level_m": -4}],
    "planting": [
        {
            "id": "p",
            "name": "Wood edge, 1st",
            "mix": [{"kind": "birch"}, {"kind": "boulder"}],
            "density": 4,
            "apart_m": 2,
        }
    ],
    "pieces": [
        {
            "id": "q",
            "name": "The boat",
            "kind": "boat",
            "east_m": 60,
            "north_m": 80,
            "turn": 70,
            "lean": 9,
            "bearing": 30,
            "size": 150,
            "mirrored": True,
            "wide": 150,
            "deep": 80,
            "tall": 120,
            "tint": "#a06040",
        }
    ],
}


class Written(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.out = Path(folder.name)
        scene = scene_of(**MORE)
        shot = scene.shots[0].model_copy(
            update={"shift_up": 12, "shift_aside": -7, "tilt": -8, "aperture": 4, "focus_m": 15}
        )
        cls.scene = scene.model_copy(update={"shots": [shot]})
        cls.build = build_of(**MORE)
        cls.build.scene.shots[:] = [shot]
        asked = {"usd": {"ground_px": 256, "far": True}}
        cache = Cache(1 << 30)
        grow(cls.scene, lambda _: None, cls.out, cache=cache, files=asked, only=["usd"])
        cls.stage = Usd.Stage.Open(str(cls.out / "usd" / "scene.usda"))

    def test_the_formats_own_validators_find_nothing(self):
        validators = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
        self.assertGreater(len(validators), 20)
        for name in ("usd/scene.usda", "scene.usdz"):
            stage = Usd.Stage.Open(str(self.out / name))
            found = UsdValidation.ValidationContext(validators).Validate(stage)
            self.assertEqual([e.GetMessage() for e in found], [], name)

    def test_metres_and_the_upright(self):
        self.assertEqual(UsdGeom.GetStageMetersPerUnit(self.stage), 1)
        self.assertEqual(UsdGeom.GetStageUpAxis(self.stage), UsdGeom.Tokens.z)
        self.assertEqual(self.stage.GetDefaultPrim().GetPath(), "/Scene")

    def test_the_ground_is_the_land(self):
        mesh = UsdGeom.Mesh(self.stage.GetPrimAtPath("/Scene/Ground/Mesh"))
        points = np.array(mesh.GetPointsAttr().Get())
        high = self.build.heights
        np.testing.assert_allclose(points[:, 2].reshape(high.shape), high, atol=1e-4)
        faces = np.array(mesh.GetFaceVertexIndicesAttr().Get()).reshape(-1, 3)
        a, b, c = (points[faces[:, k]] for k in range(3))
        self.assertTrue((np.cross(b - a, c - a)[:, 2] > 0).all())  # wound to face the sky
        st = np.array(UsdGeom.PrimvarsAPI(mesh).GetPrimvar("st").Get())
        north = points[:, 1] / points[:, 1].max()
        np.testing.assert_allclose(st[:, 1], north, atol=1e-5)  # north is the picture's upper edge

    def test_every_plant_stands_as_it_does_in_sow(self):
        prim = next(p for p in self.stage.Traverse() if p.IsA(UsdGeom.PointInstancer))
        self.assertEqual(prim.GetDisplayName(), "Wood edge, 1st")
        instancer = UsdGeom.PointInstancer(prim)
        found = np.array(instancer.ComputeInstanceTransformsAtTime(0, 0))
        p = self.build.plants(0)
        self.assertGreater(len(p), 100)
        at = stood(p.east, p.north, p.up, p.turn, p.lean, p.bearing, p.size)
        np.testing.assert_allclose(found[:, 3, :3], at[:, :3, 3], atol=2e-5 * 200)
        # rotations are kept as halves
        np.testing.assert_allclose(
            found[:, :3, :3].transpose(0, 2, 1), at[:, :3, :3], atol=4e-3 * p.size.max()
        )
        targets = instancer.GetPrototypesRel().GetTargets()
        named = [t.name for t in targets]
        which = np.array(instancer.GetProtoIndicesAttr().Get())
        for name, k in (("birch", 0), ("boulder", 1)):
            mine = np.array([n.startswith(name) for n in named])[which]
            np.testing.assert_array_equal(mine, p.kind == k)

    def test_a_piece_keeps_its_place_turn_size_and_mirror(self):
        prim = next(p for p in self.stage.Traverse() if p.GetDisplayName() == "The boat")
        found = np.array(UsdGeom.Xformable(prim).ComputeLocalToWorldTransform(0)).T
        q = self.build.pieces()[0]
        row = [np.array([q[k]]) for k in ("east_m", "north_m", "up_m", "turn", "lean", "bearing")]
        sizes = np.array([[2.25, 1.2, 1.8]])
        at = stood(*row, sizes, np.array([q["mirrored"]]))[0]
        np.testing.assert_allclose(found, at, atol=1e-5)

    def test_kinds_have_their_levels_as_variants_and_a_sheet(self):
        stage = Usd.Stage.Open(str(self.out / "usd" / "kinds" / "birch.usdc"))
        prim = stage.GetPrimAtPath("/Kind/v0")
        levels = prim.GetVariantSet("level")
        self.assertEqual(levels.GetVariantNames(), ["far", "middle", "near"])
        faces = []
        for level in ("near", "middle", "far"):
            levels.SetVariantSelection(level)
            meshes = [UsdGeom.Mesh(p) for p in Usd.PrimRange(prim) if p.IsA(UsdGeom.Mesh)]
            faces.append(sum(m.GetFaceCount() for m in meshes))
            for m in meshes:
                material, _ = UsdShade.MaterialBindingAPI(m).ComputeBoundMaterial()
                self.assertTrue(material, m.GetPath())
        self.assertEqual(faces, sorted(faces, reverse=True))
        self.assertTrue((self.out / "usd" / "kinds" / "birch.png").exists())

    def test_a_camera_sees_what_the_shot_sees(self):
        prim = self.stage.GetPrimAtPath("/Scene/Shots/One")
        camera = UsdGeom.Camera(prim).GetCamera(0)
        shot = self.build.shots()[0]
        view = view_of(self.build, shot, shot.width_px, shot.height_px)
        frustum = camera.frustum
        matrix = np.array(frustum.ComputeViewMatrix() * frustum.ComputeProjectionMatrix())
        rng = np.random.default_rng(4)
        for _ in range(20):
            deep, aside, up = rng.uniform(5, 80), *rng.uniform(-0.3, 0.3, 2)
            place = view.eye + deep * (view.ahead + aside * view.right + up * view.up)
            clip = np.array([*place, 1.0]) @ matrix
            x = (clip[0] / clip[3] + 1) / 2 * shot.width_px
            half = 18 / shot.focal_mm
            mine = (aside / half - 2 * shot.shift_aside / 100 + 1) / 2 * shot.width_px
            self.assertAlmostEqual(x, mine, delta=0.01)
            tall = half * shot.height_px / shot.width_px
            y = (clip[1] / clip[3] + 1) / 2 * shot.height_px
            own = (up - 2 * shot.shift_up / 100 * half) / tall
            self.assertAlmostEqual(y, (own + 1) / 2 * shot.height_px, delta=0.01)
        self.assertAlmostEqual(camera.fStop, 4)
        self.assertAlmostEqual(camera.focusDistance, 15)

    def test_the_sun_and_the_sky_are_where_they_stand(self):
        lit = self.build.daylight(64)
        sun = UsdLux.DistantLight(self.stage.GetPrimAtPath("/Scene/Light/Sun"))
        at = UsdGeom.Xformable(sun).ComputeLocalToWorldTransform(0)
        shines = np.array(at.TransformDir(Gf.Vec3d(0, 0, -1)))
        np.testing.assert_allclose(shines, -np.asarray(lit.sun), atol=1e-5)
        sky = UsdLux.DomeLight(self.stage.GetPrimAtPath("/Scene/Light/Sky"))
        at = UsdGeom.Xformable(sky).ComputeLocalToWorldTransform(0)
        # a latlong picture's first column lies towards -z of the dome, a quarter on towards +x
        np.testing.assert_allclose(at.TransformDir(Gf.Vec3d(0, 0, -1)), (0, 1, 0), atol=1e-6)
        np.testing.assert_allclose(at.TransformDir(Gf.Vec3d(1, 0, 0)), (1, 0, 0), atol=1e-6)

    def test_only_what_is_named_is_written(self):
        found = {p.name for p in self.out.iterdir()}
        self.assertEqual(found, {"usd", "scene.usdz", "report.json"})
        with self.assertRaisesRegex(SceneError, "no exporter 'usb'"):
            grow(self.scene, lambda _: None, self.out / "no", only=["usb"])
        self.assertFalse((self.out / "no").exists())

    def test_the_scene_itself_goes_with_it(self):
        told = self.stage.GetRootLayer().customLayerData["sow"]["scene"]
        self.assertEqual(read_scene(json.loads(told)), self.scene)


if __name__ == "__main__":
    unittest.main()
