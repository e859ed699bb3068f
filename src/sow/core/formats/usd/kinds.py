"""Kinds of the cabinet as USD: a file for each kind and look, with its variants and levels."""

from pathlib import Path

import numpy as np
from pxr import Sdf, Usd, UsdGeom

from ...cabinet import worn
from ...cabinet.mesh import Mesh
from ..glb import within_one
from ..plants import called as file_label
from ..raster import file_name, png_bytes
from .layer import Look, as_component, called, layer, mesh

LEVELS = ("near", "middle", "far", "farther")
ROOT = "Kind"


class KindFiles:
    """The kinds that a scene uses, each written once into the folder `kinds`."""

    def __init__(self, folder: Path):
        self.folder = folder
        self.taken: set[str] = set()
        self.files: dict[str, str] = {}

    def file(self, name: str) -> str:
        """The file of a kind as a mix names it, as seen from the scene's folder."""
        if name not in self.files:
            base = file_name(file_label(name.replace("~", " ")), self.taken)
            _write_kind(self.folder / "kinds" / f"{base}.usdc", name, f"{base}.png")
            self.files[name] = f"kinds/{base}.usdc"
        return self.files[name]

    def refer(self, prim: Usd.Prim, name: str, variant: int, up: str = "./") -> None:
        """Makes a prim stand for a variant of a kind."""
        path = f"/{ROOT}/v{variant % len(worn(name)[0].variants)}"
        prim.GetReferences().AddReference(f"{up}{self.file(name)}", path)
        prim.SetInstanceable(True)


def _write_kind(path: Path, name: str, picture: str) -> None:
    """A kind and look: a prim for each variant, whose levels are the choices of a variant set."""
    kind, look, tone = worn(name)
    shape = kind.shape(look)
    stage, root = layer(path, ROOT)
    called(root, kind.label)
    factor = np.ones(3) if tone is None else np.asarray(tone, float)
    if any((m.uv >= 0).any() for row in shape.levels for m in row):
        (path.parent / picture).write_bytes(png_bytes(shape.sheet))
    for v, row in enumerate(shape.levels):
        prim = UsdGeom.Xform.Define(stage, f"/{ROOT}/v{v}").GetPrim()
        called(prim, f"{kind.label} {v}")
        as_component(prim)
        looks = _looks(stage, f"{prim.GetPath()}/Looks", row, factor, picture)
        levels = prim.GetVariantSets().AddVariantSet("level")
        for level, shape_mesh in zip(LEVELS, row):
            levels.AddVariant(level)
            levels.SetVariantSelection(level)
            with levels.GetVariantEditContext():
                _add_level(stage, f"{prim.GetPath()}/Body", shape_mesh, factor, looks)
        levels.SetVariantSelection(LEVELS[0])
    stage.GetRootLayer().Save()


def _looks(stage: Usd.Stage, path: str, row: list[Mesh], factor, picture: str) -> dict[str, Look]:
    """What is modelled has the mesh's colours; what is cut from the sheet has its picture, which a
    preview surface cannot tint at each vertex, in the mean tone of its posts.
    """
    UsdGeom.Scope.Define(stage, path)
    plain = Look(stage, f"{path}/Plain")
    plain.coloured_by_mesh()
    out = {"plain": plain}
    on_sheet = [m.colour[m.uv[:, 0] >= 0] for m in row]
    if sum(map(len, on_sheet)):
        tone = within_one(np.concatenate(on_sheet).mean(0, keepdims=True) * factor)[0]
        cut = Look(stage, f"{path}/Sheet")
        channels = {"diffuseColor": "rgb", "opacity": "a"}
        cut.picture("Picture", f"./{picture}", channels, (*map(float, tone), 1.0))
        cut.put("opacityThreshold", Sdf.ValueTypeNames.Float, 0.4)
        out["sheet"] = cut
    return out


def _add_level(stage: Usd.Stage, path: str, m: Mesh, factor, looks: dict[str, Look]) -> None:
    UsdGeom.Xform.Define(stage, path)
    bare = (m.uv[m.faces, 0] < 0).any(1)
    for name, here in (("plain", bare), ("sheet", ~bare)):
        if not here.any():
            continue
        used, faces = np.unique(m.faces[here], return_inverse=True)
        uv = m.uv[used] * (1, -1) + (0, 1) if name == "sheet" else None
        colour = within_one(m.colour[used] * factor) if name == "plain" else None
        made = mesh(
            stage,
            f"{path}/{name.title()}",
            m.positions[used],
            faces.reshape(-1, 3),
            m.normals[used],
            uv,
            colour,
            both_sides=True,
        )
        looks[name].bind(made.GetPrim())
