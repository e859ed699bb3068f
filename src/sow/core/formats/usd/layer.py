"""Layers of a USD scene: metres, z up, names as people gave them."""

from pathlib import Path

import numpy as np
from pxr import Gf, Kind, Sdf, Tf, Usd, UsdGeom, UsdShade, Vt

from ..glb import unit_normals

ST = "st"


def layer(path: Path, root: str) -> tuple[Usd.Stage, Usd.Prim]:
    """A new stage that is kept in a file, and the prim that it is entered by."""
    path.parent.mkdir(parents=True, exist_ok=True)
    stage = Usd.Stage.CreateNew(str(path))
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z)
    UsdGeom.SetStageMetersPerUnit(stage, 1.0)
    stage.SetMetadata("comment", "Written by Sow")
    prim = UsdGeom.Xform.Define(stage, f"/{root}").GetPrim()
    stage.SetDefaultPrim(prim)
    return stage, prim


def below(parent: Usd.Prim, name: str) -> str:
    """A path below a prim that no other has, for what people call `name`."""
    plain = Tf.MakeValidIdentifier(name) or "unnamed"
    path, k = parent.GetPath().AppendChild(plain), 1
    while parent.GetStage().GetPrimAtPath(path):
        k += 1
        path = parent.GetPath().AppendChild(f"{plain}_{k}")
    return str(path)


def called(prim: Usd.Prim, name: str) -> Usd.Prim:
    """Writes down what people call it, whatever its path had to become."""
    prim.SetDisplayName(name)
    return prim


def vec3(values: np.ndarray) -> Vt.Vec3fArray:
    """Rows (n, 3) as USD keeps them."""
    return Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(values, np.float32))


def mesh(
    stage: Usd.Stage,
    path: str,
    positions: np.ndarray,
    faces: np.ndarray,
    normals: np.ndarray | None = None,
    uv: np.ndarray | None = None,
    colour: np.ndarray | None = None,
    both_sides: bool = False,
) -> UsdGeom.Mesh:
    """Triangles (m, 3) over positions (n, 3) in m; `uv` (n, 2) counts from the picture's lower left
    corner, `colour` (n, 3) is linear.
    """
    made = UsdGeom.Mesh.Define(stage, path)
    made.CreatePointsAttr(vec3(positions))
    made.CreateFaceVertexCountsAttr(Vt.IntArray.FromNumpy(np.full(len(faces), 3, np.int32)))
    flat = np.ascontiguousarray(faces.ravel(), np.int32)
    made.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(flat))
    made.CreateSubdivisionSchemeAttr(UsdGeom.Tokens.none)
    made.CreateDoubleSidedAttr(both_sides)
    made.CreateExtentAttr(vec3(np.stack([positions.min(0), positions.max(0)])))
    if normals is not None:
        made.CreateNormalsAttr(vec3(unit_normals(normals)))
        made.SetNormalsInterpolation(UsdGeom.Tokens.vertex)
    values = UsdGeom.PrimvarsAPI(made)
    if uv is not None:
        st = values.CreatePrimvar(ST, Sdf.ValueTypeNames.TexCoord2fArray, UsdGeom.Tokens.vertex)
        st.Set(Vt.Vec2fArray.FromNumpy(np.ascontiguousarray(uv, np.float32)))
    if colour is not None:
        made.CreateDisplayColorPrimvar(UsdGeom.Tokens.vertex).Set(vec3(colour))
    return made


class UsdLook:
    """A preview surface below a prim."""

    def __init__(self, stage: Usd.Stage, path: str, rough: float = 0.9):
        self.stage = stage
        self.path = path
        self.material = UsdShade.Material.Define(stage, path)
        self.surface = UsdShade.Shader.Define(stage, f"{path}/Surface")
        self.surface.CreateIdAttr("UsdPreviewSurface")
        self.put("roughness", Sdf.ValueTypeNames.Float, rough)
        self.put("metallic", Sdf.ValueTypeNames.Float, 0.0)
        out = self.surface.CreateOutput("surface", Sdf.ValueTypeNames.Token)
        self.material.CreateSurfaceOutput().ConnectToSource(out)

    def put(self, name: str, sort: Sdf.ValueTypeName, value) -> None:
        """Sets one of its inputs."""
        self.surface.CreateInput(name, sort).Set(value)

    def _read(self, node: str, sort: str, name: str, type_: Sdf.ValueTypeName):
        reader = UsdShade.Shader.Define(self.stage, f"{self.path}/{node}")
        reader.CreateIdAttr(f"UsdPrimvarReader_{sort}")
        reader.CreateInput("varname", Sdf.ValueTypeNames.String).Set(name)
        return reader.CreateOutput("result", type_)

    def coloured_by_mesh(self) -> None:
        """The colour is the mesh's own."""
        out = self._read("Colour", "float3", "displayColor", Sdf.ValueTypeNames.Float3)
        self.surface.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f).ConnectToSource(out)

    def picture(
        self, name: str, file: str, inputs: dict[str, str], scale=None, bias=None, linear=False
    ) -> None:
        """A picture file drives `inputs` (input to channel: rgb, r, g, b or a)."""
        texture = UsdShade.Shader.Define(self.stage, f"{self.path}/{name}")
        texture.CreateIdAttr("UsdUVTexture")
        put = lambda key, sort, value: texture.CreateInput(key, sort).Set(value)
        types = Sdf.ValueTypeNames
        put("file", types.Asset, Sdf.AssetPath(file))
        put("sourceColorSpace", types.Token, "raw" if linear else "sRGB")
        for side in ("wrapS", "wrapT"):
            put(side, types.Token, "clamp")
        for key, value in (("scale", scale), ("bias", bias)):
            if value is not None:
                put(key, types.Float4, Gf.Vec4f(*value))
        path = f"{self.path}/Places"
        if not self.stage.GetPrimAtPath(path):
            self._read("Places", "float2", ST, types.Float2)
        places = UsdShade.Shader.Get(self.stage, path).GetOutput("result")
        texture.CreateInput("st", types.Float2).ConnectToSource(places)
        sorts = {"normal": types.Normal3f, "diffuseColor": types.Color3f}
        for key, channel in inputs.items():
            of = types.Float3 if channel == "rgb" else types.Float
            out = texture.GetOutput(channel) or texture.CreateOutput(channel, of)
            self.surface.CreateInput(key, sorts.get(key, types.Float)).ConnectToSource(out)

    def bind(self, prim: Usd.Prim) -> None:
        """Clothes a prim with it."""
        UsdShade.MaterialBindingAPI.Apply(prim).Bind(self.material)


def as_component(prim: Usd.Prim) -> None:
    """Marks a prim as one thing that is placed as a whole."""
    Usd.ModelAPI(prim).SetKind(Kind.Tokens.component)


def as_group(prim: Usd.Prim) -> None:
    """Marks a prim as what holds several things."""
    Usd.ModelAPI(prim).SetKind(Kind.Tokens.group)
