"""Models brought in: GLB and OBJ to plain triangles with their surfaces. What is asked of a file is
checked before anything is unpacked.
"""

import io
import json
import re
from dataclasses import dataclass, field, replace

import numpy as np
import trimesh
from PIL import Image
from trimesh.visual.color import ColorVisuals

from ..cabinet.kind import Finish, linear
from .model_check import check_glb, check_obj, few, refuse

MOST_BYTES = 256 << 20
MOST_PX = 8192
PICTURE_PX = 1024  # larger pictures are shrunk to this as they come in


@dataclass
class ModelSurface:
    """A material of a model: linear colour, a picture (uint8 RGBA) or none, whether its clear
    parts are cut out, and how it shines.
    """

    name: str
    colour: tuple[float, float, float] = (1.0, 1.0, 1.0)
    picture: np.ndarray | None = None
    cut: bool = False
    finish: Finish = Finish()


@dataclass
class ModelPart:
    """Triangles of one surface: positions (n, 3) in the file's own axes, uv (n, 2) with its origin
    at the upper left or none, linear colours (n, 3) or none, faces (m, 3).
    """

    positions: np.ndarray
    faces: np.ndarray
    uv: np.ndarray | None
    colour: np.ndarray | None
    surface: int


@dataclass
class Model:
    """A file read: its parts, its surfaces, and what was noticed on the way."""

    parts: list[ModelPart]
    surfaces: list[ModelSurface]
    told: list[str] = field(default_factory=list)

    @property
    def triangles(self) -> int:
        """How many triangles all parts have."""
        return sum(len(p.faces) for p in self.parts)

    def box(self) -> tuple[np.ndarray, np.ndarray]:
        """Lowest and highest corner in the file's own axes."""
        every = np.concatenate([p.positions for p in self.parts])
        return every.min(0), every.max(0)


class _Beside(trimesh.resolvers.Resolver):
    """Files that were given along with an OBJ, by the last part of their name; paths are never
    followed.
    """

    def __init__(self, files: dict[str, bytes]):
        self.files = {_base(k): v for k, v in files.items()}
        self.missed: list[str] = []
        self.outside: list[str] = []

    def get(self, name: str) -> bytes:
        """The bytes of a file beside the model, or nothing."""
        if name.startswith(("/", "\\")) or ":" in name or ".." in name:
            self.outside.append(name)
        if _base(name) not in self.files:
            self.missed.append(_base(name))
            raise FileNotFoundError(name)
        return self.files[_base(name)]

    def keys(self):
        """Names of the files beside the model."""
        return self.files.keys()

    def write(self, name, data):
        """Refused: reading writes nothing."""
        raise OSError("nothing is written")

    def namespaced(self, namespace):
        """The same files, seen from a folder among them."""
        return self


def _base(name: str) -> str:
    return re.split(r"[\\/]", name)[-1].lower()


def _picture(image) -> np.ndarray:
    if max(image.size) > MOST_PX:
        raise refuse(
            f"A picture of the model is {image.size[0]} x {image.size[1]} px; up to "
            f"{MOST_PX} are read.",
            "Make it smaller.",
        )
    image = image.convert("RGBA")
    image.thumbnail((PICTURE_PX, PICTURE_PX), Image.Resampling.BOX)
    return np.asarray(image)


def _three(values: np.ndarray) -> tuple[float, float, float]:
    red, green, blue = (float(v) for v in values[:3])
    return red, green, blue


def _surface(visual, number: int) -> ModelSurface:
    """A trimesh visual as one of ours."""
    material = getattr(visual, "material", None)
    if material is None:
        return ModelSurface(f"surface {number}")
    name = str(getattr(material, "name", None) or f"surface {number}")[:60]
    if isinstance(material, trimesh.visual.material.PBRMaterial):
        factor = (
            np.ones(4)
            if material.baseColorFactor is None
            else np.asarray(material.baseColorFactor, float).ravel()
        )
        factor = factor / 255 if np.asarray(material.baseColorFactor).dtype == np.uint8 else factor
        image = material.baseColorTexture
        return ModelSurface(
            name,
            _three(factor),
            None if image is None else _picture(image),
            material.alphaMode in ("MASK", "BLEND"),
            Finish(
                0.9 if material.roughnessFactor is None else float(material.roughnessFactor),
                float(material.metallicFactor or 0),
            ),
        )
    image = getattr(material, "image", None)
    plain = np.asarray(material.diffuse)[:3] if image is None else np.full(3, 255)
    picture = None if image is None else _picture(image)
    return ModelSurface(
        name,
        _three(linear(plain.astype(np.uint8))),
        picture,
        picture is not None and bool((picture[..., 3] < 250).any()),
    )


def _panes(data: bytes) -> dict[str, float]:
    """How much light goes straight through the materials of a GLB, by name, which the library that
    reads it leaves out.
    """
    size = int.from_bytes(data[12:16], "little")
    out = {}
    for material in json.loads(data[20 : 20 + size]).get("materials", []):
        told = material.get("extensions", {}).get("KHR_materials_transmission", {})
        share = told.get("transmissionFactor", 0)
        if isinstance(share, int | float) and share > 0:
            out[str(material.get("name", ""))[:60]] = min(float(share), 1.0)
    return out


def _loaded(data: bytes, kind: str, files: _Beside | None) -> trimesh.Scene:
    limit, Image.MAX_IMAGE_PIXELS = Image.MAX_IMAGE_PIXELS, None
    try:
        return trimesh.load_scene(io.BytesIO(data), file_type=kind, resolver=files, process=False)
    except MemoryError:
        raise
    except Exception as e:
        raise refuse(
            f"The model cannot be read: {str(e)[:120] or type(e).__name__}.",
            "Export it again, without compression.",
        ) from None
    finally:
        Image.MAX_IMAGE_PIXELS = limit


def _placed(found: trimesh.Scene) -> tuple[list[ModelPart], list[ModelSurface]]:
    """The meshes of a scene, each where its node puts it, and their surfaces."""
    parts: list[ModelPart] = []
    surfaces: list[ModelSurface] = []
    known: dict[int, int] = {}
    for node in found.graph.nodes_geometry:
        matrix, geometry = found.graph[node]
        mesh = found.geometry[geometry]
        if not isinstance(mesh, trimesh.Trimesh) or not len(mesh.faces):
            continue
        key = id(getattr(mesh.visual, "material", None)) if hasattr(mesh.visual, "material") else -1
        if key not in known:
            known[key] = len(surfaces)
            surfaces.append(_surface(mesh.visual, len(surfaces) + 1))
        parts.append(_part(mesh, np.asarray(matrix), known[key]))
    return parts, surfaces


def _part(mesh: trimesh.Trimesh, matrix: np.ndarray, surface: int) -> ModelPart:
    uv = getattr(mesh.visual, "uv", None)
    uv = None if uv is None or len(uv) != len(mesh.vertices) else np.c_[uv[:, 0], 1 - uv[:, 1]]
    colour = None
    if isinstance(mesh.visual, ColorVisuals) and mesh.visual.kind == "vertex":
        colour = linear(np.asarray(mesh.visual.vertex_colors)[:, :3])
    given = getattr(mesh.visual, "vertex_attributes", {}).get("color")
    if given is not None and len(given) == len(mesh.vertices):  # beside a material it is linear
        plain = np.asarray(given)[:, :3]
        colour = plain.astype(np.float64) / (255 if plain.dtype == np.uint8 else 1)
    places = np.asarray(mesh.vertices, np.float64) @ matrix[:3, :3].T + matrix[:3, 3]
    if not np.isfinite(places).all():
        raise refuse("The model has places that are not numbers.", "Export it again.")
    faces = np.asarray(mesh.faces)
    if np.linalg.det(matrix[:3, :3]) < 0:
        faces = faces[:, ::-1]
    return ModelPart(places, faces.astype(np.int64), uv, colour, surface)


def read_model(data: bytes, name: str, beside: dict[str, bytes] | None = None) -> Model:
    """The triangles of a .glb or .obj, nodes put in their places.

    `beside` are an OBJ's material file and pictures.

    Raises SceneError ("model") for a file that is no model, holds no mesh, too many triangles,
    paths outside itself, or more values than bytes.
    """
    if len(data) > MOST_BYTES:
        raise refuse(
            f"The file has {len(data) >> 20} MB; up to {MOST_BYTES >> 20} are read.",
            "Simplify it or shrink its pictures.",
        )
    files = _Beside(beside or {})
    panes: dict[str, float] = {}
    if data[:4] == b"glTF" or name.lower().endswith(".glb"):
        check_glb(data)
        found = _loaded(data, "glb", None)
        panes = _panes(data)
    else:
        check_obj(data, name)
        found = _loaded(data, "obj", files)
    parts, surfaces = _placed(found)
    for surface in surfaces:
        if surface.name in panes:
            surface.finish = replace(surface.finish, glass=panes[surface.name])
    if not parts:
        raise refuse(
            "The model holds no mesh.",
            "Export it again with its mesh; lights, cameras and empty nodes are not planted.",
        )
    told: list[str] = []
    if files.outside:
        told.append(
            f"It names files by paths outside itself (“{files.outside[0][:80]}”); only "
            "files given along with it were used."
        )
    if files.missed:
        told.append(
            f"Not given along with it: {', '.join(sorted(set(files.missed))[:6])}; those "
            "surfaces are plain."
        )
    model = Model(parts, surfaces, told)
    few(model.triangles)
    return model
