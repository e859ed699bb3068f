"""Kinds of the cabinet as USD: a file for each kind and look, with its variants and levels."""

from pathlib import Path

import numpy as np
from pxr import Sdf, Usd, UsdGeom

from ...cabinet import worn
from ...cabinet.dressed import BETWEEN
from ...cabinet.kind import Finish, Kind
from ...cabinet.mesh import Mesh
from ..glb import within_one
from ..plants import called as file_label
from ..raster import file_name, png_bytes
from .layer import UsdLook, as_component, called, layer, mesh

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
            base = file_name(file_label(name.replace(BETWEEN, " ")), self.taken)
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
        looks = _Looks(stage, f"{prim.GetPath()}/Looks", kind, factor, picture)
        for shape_mesh in row:  # beside the levels, which share them
            for number, on_sheet, _ in _dressed(kind, shape_mesh):
                looks.of(shape_mesh, number, on_sheet)
        levels = prim.GetVariantSets().AddVariantSet("level")
        for level, shape_mesh in zip(LEVELS, row):
            levels.AddVariant(level)
            levels.SetVariantSelection(level)
            with levels.GetVariantEditContext():
                _add_level(stage, f"{prim.GetPath()}/Body", shape_mesh, factor, looks)
        levels.SetVariantSelection(LEVELS[0])
    stage.GetRootLayer().Save()


class _Looks:
    """The preview surfaces of a kind: what is modelled has the mesh's colours; what is cut from the
    sheet has its picture, which a preview surface cannot tint at each vertex, in the mean tone of
    its posts. Each surface of its own finish has both of its own.
    """

    def __init__(self, stage: Usd.Stage, path: str, kind: Kind, factor, picture: str):
        UsdGeom.Scope.Define(stage, path)
        self.stage, self.path, self.kind = stage, path, kind
        self.factor, self.picture = factor, picture
        self.made: dict[str, UsdLook] = {}

    def name(self, number: int, on_sheet: bool) -> str:
        """What the look of a surface is called."""
        return ("Sheet" if on_sheet else "Plain") + (str(number) if number >= 0 else "")

    def of(self, m: Mesh, number: int, on_sheet: bool) -> UsdLook:
        """The look of a surface (-1: one without a finish), made when it is first asked for."""
        name = self.name(number, on_sheet)
        if name not in self.made:
            finish = self.kind.finish[number] if number >= 0 else Finish()
            look = UsdLook(self.stage, f"{self.path}/{name}", finish.rough)
            look.put("metallic", Sdf.ValueTypeNames.Float, finish.metal)
            if on_sheet:
                self._picture(look, m)
            else:
                look.coloured_by_mesh()
                if finish.glass:
                    look.put("opacity", Sdf.ValueTypeNames.Float, 1 - finish.glass)
            self.made[name] = look
        return self.made[name]

    def _picture(self, look: UsdLook, m: Mesh) -> None:
        colours = m.colour[m.uv[:, 0] >= 0]
        tone = within_one(colours.mean(0, keepdims=True) * self.factor)[0]
        channels = {"diffuseColor": "rgb", "opacity": "a"}
        look.picture("Picture", f"./{self.picture}", channels, (*map(float, tone), 1.0))
        look.put("opacityThreshold", Sdf.ValueTypeNames.Float, 0.4)


def _dressed(kind: Kind, m: Mesh) -> list[tuple[int, bool, np.ndarray]]:
    """The faces that share a look: the number of their surface (-1: of a kind without finishes),
    whether they lie on the sheet, which they are.
    """
    of = np.full(len(m.faces), -1)
    if kind.finish and m.surface is not None:
        of = m.surface[m.faces[:, 0]].astype(int)
    bare = (m.uv[m.faces, 0] < 0).any(1)
    parts = [
        (number, on_sheet, (of == number) & (bare != on_sheet))
        for number in np.unique(of).tolist()
        for on_sheet in (False, True)
    ]
    return [part for part in parts if part[2].any()]


def _add_level(stage: Usd.Stage, path: str, m: Mesh, factor, looks: _Looks) -> None:
    UsdGeom.Xform.Define(stage, path)
    for number, on_sheet, here in _dressed(looks.kind, m):
        used, faces = np.unique(m.faces[here], return_inverse=True)
        made = mesh(
            stage,
            f"{path}/{looks.name(number, on_sheet)}",
            m.positions[used],
            faces.reshape(-1, 3),
            m.normals[used],
            m.uv[used] * (1, -1) + (0, 1) if on_sheet else None,
            None if on_sheet else within_one(m.colour[used] * factor),
            both_sides=True,
        )
        looks.of(m, number, on_sheet).bind(made.GetPrim())
