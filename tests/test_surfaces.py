"""Surfaces of models brought in: how they shine, what is laid on them, in every file and still."""

import json
import subprocess
import tempfile
import unittest
from pathlib import Path

import numpy as np
import pygltflib
import trimesh
from pxr import Usd, UsdShade

from sow.core.build import Build
from sow.core.cabinet import own_kind
from sow.core.cabinet.kind import Finish
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.formats.exporter import options_of
from sow.core.formats.gltf import write_glb
from sow.core.formats.kind_glb import kind_of_glb
from sow.core.formats.model import read_model
from sow.core.formats.ownkind import OwnKind, OwnSurface, facts_of, made, model_glb
from sow.core.formats.usd.kinds import KindFiles
from sow.core.picture.dressed import bodies_of
from sow.core.picture.made import _bsdf
from tests.small import scene_of
from tests.test_own import with_json

TIER = "fast"

ROOT = Path(__file__).parents[1]


def hut() -> bytes:
    """Walls of plaster, a roof of bright metal, a window of glass."""
    scene = trimesh.Scene()
    for name, size, at, rough, metal in (
        ("plaster", (4, 2.4, 3), (0, 1.2, 0), 0.95, 0.0),
        ("tin", (4.6, 0.3, 3.6), (0, 2.55, 0), 0.25, 1.0),
        ("pane", (1, 1, 0.02), (0, 1.3, 1.6), 0.05, 0.0),
    ):
        box = trimesh.creation.box(size)
        material = trimesh.visual.material.PBRMaterial(
            name=name,
            baseColorFactor=(150, 140, 120, 255),
            roughnessFactor=rough,
            metallicFactor=metal,
        )
        box.visual = trimesh.visual.TextureVisuals(material=material)
        where = trimesh.transformations.translation_matrix(at)
        scene.add_geometry(box, node_name=name, geom_name=name, transform=where)

    def glaze(doc):
        for material in doc["materials"]:
            if material["name"] == "pane":
                told = {"transmissionFactor": 0.8}
                material["extensions"] = {"KHR_materials_transmission": told}
        doc["extensionsUsed"] = ["KHR_materials_transmission"]

    return with_json(scene.export(file_type="glb"), glaze)


def kind_with(settings: OwnKind | None = None):
    model = read_model(hut(), "hut.glb")
    settings = settings or OwnKind(**facts_of(model)["settings"])
    return model, kind_of_glb(made(model, settings)[0], "own-hut")


class Surfaces(unittest.TestCase):
    def test_they_shine_as_the_file_says_and_it_travels_whole(self):
        model, kind = kind_with()
        finish = dict(zip(kind.surfaces, kind.finish))
        self.assertEqual(finish["tin"], Finish(0.25, 1.0, 0.0))
        self.assertEqual(finish["pane"], Finish(0.05, 0.0, 0.8))
        again = read_model(model_glb(model), "again.glb")
        self.assertEqual(
            {s.name: s.finish for s in again.surfaces}, {s.name: s.finish for s in model.surfaces}
        )
        plain = trimesh.creation.box((1, 1, 1)).export(file_type="glb")
        dull = kind_of_glb(made(read_model(plain, "b.glb"), OwnKind())[0], "own-b")
        self.assertEqual(dull.finish, ())

    def test_what_is_set_counts_before_the_file(self):
        names = [s.name for s in read_model(hut(), "hut.glb").surfaces]
        surfaces = [OwnSurface(rough=40, metal=0) if n == "tin" else OwnSurface() for n in names]
        _, kind = kind_with(OwnKind(surfaces=surfaces))
        finish = dict(zip(kind.surfaces, kind.finish))
        self.assertEqual(finish["tin"], Finish(0.4, 0.0, 0.0))
        self.assertEqual(finish["pane"].glass, 0.8)

    def test_stills_make_metal_and_panes_of_them(self):
        _, kind = kind_with()
        own_kind("own-hut", lambda: kind)
        bodies = bodies_of("own-hut", 0, 0, 1.0, 0, 0)
        shine = {(b.surface.rough, b.surface.metal, b.surface.glass) for b in bodies}
        self.assertEqual(
            {tuple(round(float(v), 3) for v in s) for s in shine},
            {(0.95, 0.0, 0.0), (0.25, 1.0, 0.0), (0.05, 0.0, 0.8)},
        )
        told = [str(_bsdf(b.surface)) for b in bodies]
        self.assertEqual(sum("Thin Principled" in t for t in told), 1)

    def test_files_tell_them_and_the_validator_finds_nothing(self):
        _, kind = kind_with()
        own_kind("own-hut", lambda: kind)
        piece = {"id": "p", "name": "Hut", "kind": "own-hut", "east_m": 50, "north_m": 60}
        scene = scene_of(pieces=[piece])
        build = Build(scene, scene.plot.grid(33), Cache())
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "scene.glb"
            write_glb(file, build, [], options_of({"scene": {"ground_px": 64}})["scene"])
            told = subprocess.run(
                ["node", "tests/gltf_check.mjs", str(file)],
                capture_output=True,
                text=True,
                check=True,
                cwd=ROOT,
            )
            report = json.loads(told.stdout)[str(file)]
            self.assertEqual((report["errors"], report["warnings"]), (0, 0), report)
            materials = {m.name.split(": ")[-1]: m for m in pygltflib.GLTF2().load(file).materials}
            self.assertEqual(materials["tin"].pbrMetallicRoughness.metallicFactor, 1.0)
            pane = materials["pane"].extensions["KHR_materials_transmission"]
            self.assertEqual(pane["transmissionFactor"], 0.8)
            usd = Path(folder) / "usd"
            (usd / "kinds").mkdir(parents=True)
            stage = Usd.Stage.Open(str(usd / KindFiles(usd).file("own-hut")))
            found = {}
            for prim in stage.Traverse():
                if prim.IsA(UsdShade.Shader) and prim.GetName() == "Surface":
                    value = lambda name: UsdShade.Shader(prim).GetInput(name)
                    opacity = value("opacity").Get() if value("opacity") else None
                    opacity = 1.0 if opacity is None else opacity
                    shine = (value("roughness").Get(), value("metallic").Get(), opacity)
                    found[tuple(round(float(v), 3) for v in shine)] = prim.GetPath()
            self.assertLessEqual({(0.95, 0, 1), (0.25, 1, 1), (0.05, 0, 0.2)}, set(found))

    def test_a_ground_takes_the_place_of_a_picture_at_true_size(self):
        model = read_model(hut(), "hut.glb")
        names = [s.name for s in model.surfaces]
        surfaces = [
            OwnSurface(ground="granite", ground_m=1.5) if n == "plaster" else OwnSurface()
            for n in names
        ]
        _, kind = kind_with(OwnKind(surfaces=surfaces))
        near = kind.shape().levels[0][0]
        walls = near.surface == names.index("plaster")
        self.assertTrue((near.uv[walls] >= 0).all())
        self.assertTrue((near.uv[~walls] < 0).all())
        # a metre along a wall is as much of the picture along every wall
        place, uv = near.positions[near.faces], near.uv[near.faces]
        on_wall = walls[near.faces[:, 0]]
        edge = np.linalg.norm(place[on_wall, 1] - place[on_wall, 0], axis=1)
        share = np.linalg.norm((uv[on_wall, 1] - uv[on_wall, 0]) * (2, 1), axis=1)
        np.testing.assert_allclose(share / edge, (share / edge)[0], rtol=0.05)
        with self.assertRaises(ValueError):
            OwnSurface(ground="no such ground")

    def test_bad_finishes_of_a_file_are_held_in_bounds_or_refused(self):
        data, _ = made(read_model(hut(), "hut.glb"), OwnKind())

        def worse(doc):
            doc["extras"]["sow"]["finish"][0] = [9, -3, 2]

        kind = kind_of_glb(with_json(data, worse), "own-x")
        self.assertEqual(kind.finish[0], Finish(1.0, 0.0, 1.0))

        def torn(doc):
            doc["extras"]["sow"]["finish"][0] = ["rough"]

        with self.assertRaises(SceneError):
            kind_of_glb(with_json(data, torn), "own-y")


if __name__ == "__main__":
    unittest.main()
