"""Ground and waters as USD."""

from pathlib import Path

import numpy as np
from pxr import Gf, Sdf, UsdGeom, Vt

from ...build import Build
from ...build.far_rings import far_rings
from ...cabinet.kind import srgb_bytes
from ...shared import WATER_INDEX
from ...surface.bake import baked
from ..ground_mesh import GroundForm, GroundMesh, ground_mesh
from ..raster import png_bytes
from ..water_mesh import colour_of, water_mesh
from .layer import UsdLook, as_component, below, called, layer, mesh

NORMALS = (2.0, 2.0, 2.0, 1.0), (-1.0, -1.0, -1.0, 0.0)  # what makes -1..1 of a picture's 0..1


def write_ground(path: Path, build: Build, form: GroundForm) -> GroundMesh:
    """The ground with its baked colour and normals as one layer."""
    stage, root = layer(path, "Ground")
    called(root, "Ground")
    as_component(root)
    made = ground_mesh(build, form)
    colour, normal = baked(build, form.ground_px, made.heights)
    (path.parent / "ground colour.png").write_bytes(png_bytes(colour))
    (path.parent / "ground normals.png").write_bytes(png_bytes(normal))
    look = UsdLook(stage, "/Ground/Look", 0.95)
    look.picture("Colour", "./ground colour.png", {"diffuseColor": "rgb"})
    look.picture("Normals", "./ground normals.png", {"normal": "rgb"}, *NORMALS, linear=True)
    uv = made.uv * (1, -1) + (0, 1)
    body = mesh(stage, "/Ground/Mesh", made.positions, made.faces, made.normals, uv)
    look.bind(body.GetPrim())
    stage.GetRootLayer().Save()
    return made


def write_far(path: Path, build: Build) -> None:
    """The rings of far land with the colour of what clothes them, as one layer."""
    stage, root = layer(path, "Far")
    called(root, "Far land")
    as_component(root)
    for k, ring in enumerate(far_rings(build)):
        name = f"far {k + 1} colour.png"
        (path.parent / name).write_bytes(png_bytes(srgb_bytes(ring.colour)))
        look = UsdLook(stage, f"/Far/Look_{k + 1}", 0.95)
        look.picture("Colour", f"./{name}", {"diffuseColor": "rgb"})
        uv = ring.uv * (1, -1) + (0, 1)
        body = mesh(stage, f"/Far/Ring_{k + 1}", ring.places, ring.faces, ring.normals, uv)
        look.bind(body.GetPrim())
    stage.GetRootLayer().Save()


def write_waters(path: Path, build: Build) -> bool:
    """Each water with its waves, its foam as the primvar `foam`; gives whether there are any."""
    _, masks = build.water()
    wet = [i for i, w in enumerate(build.scene.water) if w.on and masks[i].any()]
    if not wet:
        return False
    stage, root = layer(path, "Water")
    for i in wet:
        water = build.scene.water[i]
        made = water_mesh(build, i)
        prim = UsdGeom.Xform.Define(stage, below(root, water.name)).GetPrim()
        called(prim, water.name)
        as_component(prim)
        look = UsdLook(stage, f"{prim.GetPath()}/Look", 0.08)
        look.put("diffuseColor", Sdf.ValueTypeNames.Color3f, Gf.Vec3f(*colour_of(water.tint)))
        look.put("ior", Sdf.ValueTypeNames.Float, WATER_INDEX)
        look.put("opacity", Sdf.ValueTypeNames.Float, 0.55)
        body = mesh(
            stage, f"{prim.GetPath()}/Surface", made.positions, made.faces, made.normals, None
        )
        foam = UsdGeom.PrimvarsAPI(body).CreatePrimvar(
            "foam", Sdf.ValueTypeNames.FloatArray, UsdGeom.Tokens.vertex
        )
        foam.Set(Vt.FloatArray.FromNumpy(np.ascontiguousarray(made.foam, np.float32)))
        look.bind(body.GetPrim())
    stage.GetRootLayer().Save()
    return True
