"""Scenes read back from what was handed over, and read from what others made."""

import io
import json
import tempfile
import unittest
import zipfile
from pathlib import Path

import numpy as np
import pygltflib
from pxr import Gf, Usd, UsdGeom, UsdLux, Vt
from scipy.spatial import cKDTree

from sow.commands import main
from sow.core.build import Build, Rasters
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.formats.package import Package, unpack
from sow.core.grow import grow
from sow.core.inward.read import read_any, write_read
from sow.core.scene import read_scene
from tests.page import Page
from tests.served import ask, server
from tests.test_large import full

TIER = "page"

SEEN = {
    "shots": [
        {
            "id": "s",
            "name": "One",
            "east_m": 90,
            "north_m": 30,
            "eye_m": 4,
            "bearing": 10,
            "tilt": -5,
            "focal_mm": 35,
            "aperture": 2.8,
            "focus_m": 12,
        }
    ],
    "pieces": [
        {
            "id": "pc",
            "name": "Stone",
            "kind": "boulder",
            "east_m": 200,
            "north_m": 210,
            "turn": 40,
            "size": 150,
            "wide": 120,
            "lean": 8,
            "bearing": 70,
        },
        {
            "id": "wall",
            "name": "Court",
            "kind": "block",
            "east_m": 120,
            "north_m": 90,
            "wide": 900,
            "deep": 40,
            "tall": 180,
            "bend": -110,
        },
    ],
    "air": [
        {
            "id": "l",
            "name": "Lamp",
            "kind": "lamp",
            "east_m": 100,
            "north_m": 100,
            "aim_east_m": 120,
            "aim_north_m": 110,
            "lumens": 2000,
            "spread": 40,
        }
    ],
}
FORMS = ("scene.glb", "scene.usdz", "layers.zip", "tiles.zip")


def build_of(package) -> Build:
    class Read(Rasters):
        def load(self, name: str) -> np.ndarray:
            return package.rasters[name]

    scene = read_scene(package.document)
    return Build(scene, scene.plot.grid(257), Cache(1 << 29), Read())


class RoundTrips(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scene = full(**SEEN)
        cls.build = Build(cls.scene, cls.scene.plot.grid(257), Cache(1 << 29))
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        out = Path(folder.name)
        files = {
            "tiles": {"posts": 129, "tif": True},
            "scene": {"far": True},
            "usd": {"far": True},
        }
        grow(cls.scene, Rasters(), out, 257, only=["scene", "usd", "tiles", "plants"], files=files)
        cls.files = {name: (out / name).read_bytes() for name in FORMS[:2]}
        cls.files["layers.zip"] = cls.zipped(out, out / "usd")
        cls.files["tiles.zip"] = cls.zipped(out, out / "tiles", out / "plants.csv")

    @staticmethod
    def zipped(root: Path, *given: Path) -> bytes:
        held = io.BytesIO()
        with zipfile.ZipFile(held, "w") as archive:
            for path in given:
                for file in sorted(path.rglob("*")) if path.is_dir() else [path]:
                    if file.is_file():
                        archive.write(file, file.relative_to(root))
        return held.getvalue()

    def test_the_scene_that_travels_along_comes_back_as_it_was(self):
        for name, data in self.files.items():
            package, found = read_any(data, name)
            self.assertEqual(read_scene(package.document), self.scene, name)
            self.assertEqual(found.left, [])

    def test_what_stands_in_the_files_is_what_was_handed_over(self):
        for name, data in self.files.items():
            with self.subTest(name):
                package, _ = read_any(data, name, measured=True)
                self.assertEqual([e["kind"] for e in package.document["land"]], ["heightmap"])
                self.compare(build_of(package), name)

    def compare(self, read: Build, name: str) -> None:
        own = self.build
        self.assertLess(np.abs(read.heights - own.heights).max(), 0.001)
        self.assertLess(np.abs(read.ground() - own.ground()).max(), 0.006)
        sowings = {s.name: i for i, s in enumerate(own.scene.planting)}
        self.assertEqual({s.name for s in read.scene.planting} - {"by hand"}, set(sowings))
        for i, sowing in enumerate(read.scene.planting):
            if sowing.name == "by hand":
                continue
            a, b = read.plants(i), own.plants(sowings[sowing.name])
            self.assertEqual(len(a), len(b))
            away, k = cKDTree(np.column_stack([a.east, a.north])).query(
                np.column_stack([b.east, b.north])
            )
            self.assertLess(away.max(), 0.002)
            self.assertLess(np.abs((a.turn[k] - b.turn + 180) % 360 - 180).max(), 0.06)
            self.assertLess(np.abs(a.size[k] / b.size - 1).max(), 1e-3)
            kinds = lambda build, j, plants: np.array(
                [p.kind for p in build.scene.planting[j].mix]
            )[plants.kind]
            same = kinds(read, i, a)[k] == kinds(own, sowings[sowing.name], b)
            self.assertTrue(same.all())
        shot, was = read.shots()[0], own.shots()[0]
        for field in ("east_m", "north_m", "eye_m", "bearing", "tilt", "focal_mm"):
            self.assertAlmostEqual(getattr(shot, field), getattr(was, field), delta=0.01)
        self.assertEqual(read.scene.light, own.scene.light)
        if not name.startswith("tiles"):
            self.assertAlmostEqual(shot.aperture, was.aperture, places=3)
            self.assertAlmostEqual(shot.focus_m, was.focus_m, places=3)
            fields = ("east_m", "north_m", "up_m", "turn", "lean", "bearing", "size", "wide")
            for piece, other in zip(read.pieces(), own.pieces(), strict=True):
                for field in (*fields, "deep", "tall", "bend"):
                    self.assertAlmostEqual(piece[field], other[field], delta=0.01, msg=field)

    def test_more_places_than_a_picture_has_rows_come_back(self):
        places = np.zeros((50_000, 5), np.float32)
        places[:, 1:3] = np.random.default_rng(1).uniform(0, 400, (50_000, 2))
        held = io.BytesIO()
        document = {
            "name": "Many",
            "planting": [{"id": "p", "name": "p", "mix": [{"kind": "oak"}]}],
        }
        document["planting"][0] |= {"layout": "given", "places": "rasters/p.tif", "names": ["oak"]}
        write_read(Package(document, {"rasters/p.tif": places}), held)
        back = unpack(held.getvalue())
        np.testing.assert_array_equal(next(iter(back.rasters.values())), places)

    def test_the_command_line_writes_a_scene_that_grows(self):
        with tempfile.TemporaryDirectory() as folder:
            source, made = Path(folder) / "scene.glb", Path(folder) / "read.zip"
            source.write_bytes(self.files["scene.glb"])
            self.assertEqual(main(["read", str(source), str(made), "--measured"]), 0)
            out = Path(folder) / "out"
            asked = ["grow", str(made), str(out), "--size", "129", "--only", "plants"]
            self.assertEqual(main(asked), 0)
            lines = (out / "plants.csv").read_text().splitlines()
            plants = sum(len(self.build.plants(i)) for i in range(3))
        self.assertEqual(len(lines) - 1, plants + len(SEEN["pieces"]))


def foreign_glb() -> bytes:
    """A net of a ground, instanced oaks, a lamp, a sun, a camera and a mesh of no known kind."""
    rng = np.random.default_rng(3)
    plane = rng.uniform(-40, 40, (400, 2))
    plane[:4] = [[-40, -40], [40, -40], [-40, 40], [40, 40]]
    ground = np.column_stack([plane[:, 0], 3 + 0.05 * plane[:, 0], plane[:, 1]]).astype("<f4")
    oaks = np.array([[-10, 2.5, 5], [12, 3.6, -20]], "<f4")
    points = pygltflib.Primitive(attributes=pygltflib.Attributes(POSITION=0), mode=0)
    blobs = [ground.tobytes(), oaks.tobytes()]
    file = pygltflib.GLTF2(
        scene=0,
        scenes=[pygltflib.Scene(nodes=[0, 1, 2, 3, 4, 5])],
        buffers=[pygltflib.Buffer(byteLength=sum(map(len, blobs)))],
        bufferViews=[
            pygltflib.BufferView(buffer=0, byteOffset=0, byteLength=len(blobs[0])),
            pygltflib.BufferView(buffer=0, byteOffset=len(blobs[0]), byteLength=len(blobs[1])),
        ],
        accessors=[
            pygltflib.Accessor(bufferView=0, componentType=5126, count=400, type="VEC3"),
            pygltflib.Accessor(bufferView=1, componentType=5126, count=2, type="VEC3"),
        ],
        meshes=[
            pygltflib.Mesh(name=name, primitives=[points])
            for name in ("Terrain", "Oak_large.003", "Gizmo")
        ],
        cameras=[
            pygltflib.Camera(
                type="perspective",
                perspective=pygltflib.Perspective(yfov=0.6, znear=0.1, aspectRatio=1.5),
            )
        ],
        nodes=[
            pygltflib.Node(name="Terrain", mesh=0),
            pygltflib.Node(
                name="Oaks",
                mesh=1,
                extensions={"EXT_mesh_gpu_instancing": {"attributes": {"TRANSLATION": 1}}},
            ),
            pygltflib.Node(name="Camera 1", camera=0, translation=[0, 8, 30]),
            pygltflib.Node(
                name="Sun",
                rotation=[-0.3826834, 0, 0, 0.9238795],
                extensions={"KHR_lights_punctual": {"light": 0}},
            ),
            pygltflib.Node(
                name="Bulb",
                translation=[5, 6, 5],
                extensions={"KHR_lights_punctual": {"light": 1}},
            ),
            pygltflib.Node(name="Gizmo", mesh=2, scale=[0.01, 0.01, 0.01]),
        ],
        extensionsUsed=["KHR_lights_punctual", "EXT_mesh_gpu_instancing"],
        extensions={
            "KHR_lights_punctual": {
                "lights": [
                    {"type": "directional", "intensity": 80000},
                    {"type": "point", "intensity": 100, "color": [1, 0.6, 0.3], "name": "Bulb"},
                ]
            }
        },
    )
    file.set_binary_blob(b"".join(blobs))
    return b"".join(file.save_to_bytes())


def foreign_usd(folder: Path) -> bytes:
    """A ground and instancers in centimetres, y up."""
    path = folder / "other.usda"
    stage = Usd.Stage.CreateNew(str(path))
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.y)
    UsdGeom.SetStageMetersPerUnit(stage, 0.01)
    root = UsdGeom.Xform.Define(stage, "/World")
    stage.SetDefaultPrim(root.GetPrim())
    x, z = np.meshgrid(np.linspace(0, 8000, 41), np.linspace(-6000, 0, 31))
    points = np.stack([x.ravel(), 100 + 0.02 * x.ravel(), z.ravel()], 1)
    ground = UsdGeom.Mesh.Define(stage, "/World/Terrain")
    ground.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(points.astype(np.float32)))
    made = UsdGeom.PointInstancer.Define(stage, "/World/Trees")
    for name in ("birch", "spruce"):
        UsdGeom.Xform.Define(stage, f"/World/Trees/{name}")
        made.CreatePrototypesRel().AddTarget(f"/World/Trees/{name}")
    made.CreatePositionsAttr([Gf.Vec3f(1000, 120, -2000), Gf.Vec3f(4000, 180, -1000)])
    made.CreateProtoIndicesAttr([0, 1])
    made.CreateScalesAttr([Gf.Vec3f(1, 1, 1), Gf.Vec3f(2, 2, 2)])
    quarter = float(np.sqrt(0.5))  # a quarter turn to the left about y, which faces west
    made.CreateOrientationsAttr([Gf.Quath(1, 0, 0, 0), Gf.Quath(quarter, 0, quarter, 0)])
    UsdLux.DistantLight.Define(stage, "/World/Sun").AddRotateXOp().Set(-30.0)
    stage.GetRootLayer().Save()
    return path.read_bytes()


class FromElsewhere(unittest.TestCase):
    def test_a_glb_of_others_comes_in_as_far_as_it_says(self):
        package, found = read_any(foreign_glb(), "other.glb")
        scene = read_scene(package.document)
        build = build_of(package)
        self.assertAlmostEqual(scene.plot.width_m, 80, places=3)
        self.assertAlmostEqual(build.ground_at(40, 40), 3, delta=0.05)
        self.assertAlmostEqual(build.ground_at(70, 20), 4.5, delta=0.05)
        plants = build.plants(0)
        self.assertEqual(scene.planting[0].mix[0].kind, "oak")
        np.testing.assert_allclose(np.sort(plants.east), [30, 52], atol=1e-3)
        np.testing.assert_allclose(np.sort(plants.north), [35, 60], atol=1e-3)
        shot = scene.shots[0]
        self.assertAlmostEqual(shot.focal_mm, 18 / (1.5 * np.tan(0.3)), places=2)
        self.assertAlmostEqual(shot.eye_m, 5, delta=0.1)
        self.assertAlmostEqual(scene.light.sun_height, 45, delta=0.01)
        self.assertAlmostEqual(scene.light.sun_bearing % 360, 180, delta=0.01)
        lamp = scene.air[0]
        bright = 100 * (0.2126 + 0.6 * 0.7152 + 0.3 * 0.0722)
        self.assertAlmostEqual(lamp.lumens, 4 * np.pi * bright, delta=0.1)
        self.assertLess(lamp.warmth_k, 4200)
        self.assertTrue(any("Gizmo" in line for line in found.left))

    def test_usd_in_centimetres_with_y_upward_is_converted_and_told(self):
        with tempfile.TemporaryDirectory() as folder:
            data = foreign_usd(Path(folder))
        package, found = read_any(data, "other.usda")
        build = build_of(package)
        self.assertTrue(any("y axis" in line for line in found.taken))
        self.assertTrue(any("0.01 m" in line for line in found.taken))
        self.assertAlmostEqual(build.scene.plot.width_m, 80, places=3)
        self.assertAlmostEqual(build.scene.plot.depth_m, 60, places=3)
        self.assertAlmostEqual(build.ground_at(50, 20), 2, delta=0.01)
        plants = build.plants(0)
        kinds = [build.scene.planting[0].mix[k].kind for k in plants.kind]
        spruce = kinds.index("spruce")
        self.assertAlmostEqual(float(plants.size[spruce]), 2, places=3)
        self.assertAlmostEqual(float(plants.turn[spruce]), 270, delta=0.1)
        self.assertAlmostEqual(float(plants.north[spruce]), 10, places=2)
        self.assertAlmostEqual(build.scene.light.sun_height, 30, places=2)

    def test_bad_files_are_refused_in_words(self):
        whole = foreign_glb()
        with self.assertRaises(SceneError):
            read_any(whole[: len(whole) // 2], "half.glb")
        with self.assertRaisesRegex(SceneError, "no USD that can be read"):
            read_any(b"#usda 1.0\n( broken", "bad.usda")
        outside = '#usda 1.0\ndef "W" ( references = @/etc/hostname.usda@ ) {}\n'
        with self.assertRaises(SceneError):
            read_any(outside.encode(), "outside.usda")
        facts = {
            "posts": 129,
            "spacing_m": 1,
            "plot_m": [128, 128],
            "tiles": {"down": 1, "across": 1},
            "heights": {"lowest_m": 0, "highest_m": 1, "of": 65535},
            "list": [{"row": 0, "column": 0, "heights": {"tif": "height-00-00.tif"}}],
        }
        held = io.BytesIO()
        with zipfile.ZipFile(held, "w") as archive:
            archive.writestr("tiles.json", json.dumps(facts))
        with self.assertRaisesRegex(SceneError, "height-00-00.tif. is missing"):
            read_any(held.getvalue(), "tiles.zip")


class Journey(unittest.TestCase):
    """A scene is handed over as glTF, brought in again, and read anew by what stands in it."""

    def test_handed_over_and_read_back(self):
        scene = full(**SEEN)
        state = ask("POST", "/api/scenes", {"document": scene.model_dump(mode="json")})[1]
        with tempfile.TemporaryDirectory() as folder:
            grow(scene, Rasters(), Path(folder), 129, only=["scene"])
            page = Page(server().address, "sketch", f"/?scene={state['id']}")
            self.addCleanup(page.close)
            page.shot_if_failed(self)
            page.settled()
            page.js("sow.set({ dialog: 'scenes' })")
            page.one("[data-scene-file]").send_keys(str(Path(folder) / "scene.glb"))
            page.until(lambda: page.all("[data-told=Taken]"), what="what was taken")
            self.assertIn("entry by entry", page.text("[data-told=Taken]"))
            first = page.state()
            self.assertNotEqual(first["id"], state["id"])
            self.assertEqual(first["document"], state["document"])
            page.click("[data-read-measured]")
            page.until(lambda: "Trees" in page.text(".sheetbox"), what="what stands in it")
            page.js("sow.set({ dialog: null })")
            page.settled()
            read = page.state()["document"]
            self.assertEqual([e["kind"] for e in read["land"]], ["heightmap"])
            self.assertEqual(page.errors(), [])


if __name__ == "__main__":
    unittest.main()
