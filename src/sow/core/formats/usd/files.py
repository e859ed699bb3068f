"""Writing a scene as USD."""

import json
import shutil
from pathlib import Path

import numpy as np
from pxr import Sdf, UsdGeom, UsdUtils
from pydantic import Field

from ...air.light_of import REST_ROWS
from ...document.entry import Strict
from ...errors import SceneError
from ..exporter import Grown, exporter
from ..ground_mesh import GroundForm
from ..lightfiles import exr_bytes_of
from ..package import travelling
from ..preview import of_far, of_scene
from .kinds import KindFiles
from .landed import write_far, write_ground, write_waters
from .layer import as_group, below, called, layer
from .planted import write_planting
from .seen import add_cameras, add_lamps, add_sky


class _Forms(Strict):
    """What is written: these come first in the panel."""

    wanted: bool = Field(
        False,
        title="Scene as USD",
        description="Metres, z up; sowings as point instancers, kinds with their levels as "
        "variants, light and cameras.",
    )
    folder: bool = Field(
        True, title="As a folder", description="The layers side by side: scene.usda is entered."
    )
    package: bool = Field(True, title="As one package", description="scene.usdz")


class UsdFiles(GroundForm, _Forms):
    """How the scene is written as USD."""


@exporter(
    "usd",
    "USD",
    UsdFiles,
    of_scene,
    {**dict.fromkeys(("wanted", "folder", "package"), of_scene), "far": of_far},
)
def usd_files(grown: Grown, options: UsdFiles) -> None:
    """Ground, water, plants, pieces, light and cameras as USD layers and as one package."""
    if not options.wanted:
        return
    folder = grown.out / "usd"
    entry = write_usd(folder, grown, options)
    if options.package:
        package = grown.out / "scene.usdz"
        if not UsdUtils.CreateNewUsdzPackage(Sdf.AssetPath(str(entry)), str(package)):
            raise SceneError(
                "The USD package could not be put together.",
                "files.usd",
                "Take the folder form, or look whether the disk is full.",
            )
    if not options.folder:
        shutil.rmtree(folder)


def write_usd(folder: Path, grown: Grown, form: GroundForm) -> Path:
    """The layers of a scene in a folder; gives the one that is entered."""
    build = grown.build
    if folder.exists():
        shutil.rmtree(folder)
    entry = folder / "scene.usda"
    stage, root = layer(entry, "Scene")
    called(root, build.scene.name)
    as_group(root)
    sow = {"scene": json.dumps(travelling(build.scene))}
    stage.GetRootLayer().customLayerData = {"sow": sow}
    refer = lambda name, file, path: (
        UsdGeom.Xform.Define(stage, below(root, name))
        .GetPrim()
        .GetReferences()
        .AddReference(f"./{file}", path)
    )
    ground = write_ground(folder / "ground.usdc", build, form)
    refer("Ground", "ground.usdc", "/Ground")
    if form.far and build.scene.beyond.edge != "end":
        write_far(folder / "far.usdc", build)
        refer("Far", "far.usdc", "/Far")
    if write_waters(folder / "water.usdc", build):
        refer("Water", "water.usdc", "/Water")
    grown.check()
    instances = write_planting(folder / "planting.usdc", grown, KindFiles(folder))
    refer("Planting", "planting.usdc", "/Planting")
    lit = build.daylight(REST_ROWS)
    exr_bytes_of(folder / "sky.exr", np.asarray(lit.sky))
    lights = UsdGeom.Scope.Define(stage, below(root, "Light")).GetPrim()
    add_sky(lights, lit, "./sky.exr")
    add_lamps(lights, build.in_air().lamps, lit)
    add_cameras(UsdGeom.Scope.Define(stage, below(root, "Shots")).GetPrim(), build)
    stage.GetRootLayer().Save()
    grown.report["usd"] = {
        "ground_triangles": len(ground.faces),
        "ground_error_m": round(ground.error_m, 4),
        "instances": instances,
    }
    return entry
