"""Models brought in: GLB and OBJ to plain triangles with their surfaces. What is asked of a file is
checked before anything is unpacked.
"""

import io
import json
import re
import struct
from dataclasses import dataclass, field

import numpy as np
import trimesh
from PIL import Image
from trimesh.visual.color import ColorVisuals

from ..cabinet.kind import linear
from ..errors import SceneError

MOST_BYTES = 256 << 20
MOST_TRIANGLES = 1_500_000
MOST_VALUES = 60_000_000
MOST_PX = 8192
MOST_NODES = 20_000
PICTURE_PX = 1024  # larger pictures are shrunk to this as they come in
_WIDTH = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}
_BYTES = {5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4}


@dataclass
class Surface:
    """A material of a model: linear colour, a picture (uint8 RGBA) or none, and whether its clear
    parts are cut out.
    """

    name: str
    colour: tuple[float, float, float] = (1.0, 1.0, 1.0)
    picture: np.ndarray | None = None
    cut: bool = False


@dataclass
class Part:
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

    parts: list[Part]
    surfaces: list[Surface]
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


def _refuse(message: str, advice: str) -> SceneError:
    return SceneError(message, "model", advice)


def _check_glb(data: bytes) -> None:
    """Refuses a GLB that is damaged, points outside itself, or claims more than it holds."""
    if len(data) < 20 or data[:4] != b"glTF":
        raise _refuse("This is not a GLB.", "Give a .glb (glTF 2.0 binary) or an .obj.")
    version, length = struct.unpack_from("<II", data, 4)
    size, tag = struct.unpack_from("<I4s", data, 12)
    if version != 2 or length > len(data) or tag != b"JSON" or 20 + size > len(data):
        raise _refuse(
            "The GLB is damaged or not of version 2.", "Export it again as glTF 2.0 binary."
        )
    try:
        doc = json.loads(data[20 : 20 + size])
        held = struct.unpack_from("<I", data, 20 + size)[0] if len(data) >= 28 + size else 0
        for entry in [*doc.get("buffers", []), *doc.get("images", [])]:
            uri = str(entry.get("uri", ""))
            if uri and not uri.startswith("data:"):
                raise _refuse(
                    f"The GLB refers to a file outside itself: “{uri[:120]}”.",
                    "Export it again with everything packed in.",
                )
        needed = set(doc.get("extensionsRequired", [])) - {
            "KHR_texture_transform",
            "KHR_materials_unlit",
            "KHR_mesh_quantization",
            "EXT_mesh_gpu_instancing",
        }
        if needed:
            raise _refuse(
                f"The GLB is packed in a way that is not read here ({', '.join(sorted(needed))}).",
                "Export it again without compression.",
            )
        views, total = doc.get("bufferViews", []), 0
        for a in doc.get("accessors", []):
            count = int(a["count"]) * _WIDTH[a["type"]]
            total += count
            if "bufferView" in a:
                view = views[a["bufferView"]]
                stride = view.get("byteStride") or _BYTES[a["componentType"]] * _WIDTH[a["type"]]
                if a.get("byteOffset", 0) + (int(a["count"]) - 1) * stride + _BYTES[
                    a["componentType"]
                ] * _WIDTH[a["type"]] > view["byteLength"] or view.get("byteOffset", 0) + view[
                    "byteLength"
                ] > max(held, *(b.get("byteLength", 0) for b in doc.get("buffers", [{}]))):
                    raise _refuse(
                        "The GLB claims more values than it holds.",
                        "It is damaged or made to do harm; nothing was read. Export it again.",
                    )
            if count < 0 or total > MOST_VALUES:
                raise _refuse(
                    f"The GLB claims more than {MOST_VALUES:,} values.",
                    "Simplify it first; nothing was read.",
                )
        if not doc.get("meshes"):
            raise _refuse(
                "The GLB holds no mesh.",
                "Export it again with its mesh; lights, cameras and empty nodes are not planted.",
            )
        each = [
            sum(
                int(doc["accessors"][p["indices"]]["count"])
                if "indices" in p
                else int(doc["accessors"][p["attributes"]["POSITION"]]["count"])
                for p in m["primitives"]
            )
            // 3
            for m in doc["meshes"]
        ]
        nodes = doc.get("nodes", [])
        tree_of(nodes)
        if len(nodes) > MOST_NODES:
            raise _refuse(
                f"The GLB has {len(nodes):,} nodes; up to {MOST_NODES:,} are read.",
                "Join its parts in the program that made it.",
            )
        _few(sum(each[n["mesh"]] for n in nodes if "mesh" in n))
    except SceneError:
        raise
    except (KeyError, IndexError, TypeError, ValueError, AttributeError, struct.error):
        raise _refuse(
            "The GLB is damaged: its parts do not fit together.", "Export it again."
        ) from None


def tree_of(nodes: list[dict]) -> list[int]:
    """The roots of a file's nodes.

    Raises ValueError when they are no strict trees, as glTF 2.0 (3.5.2) asks: nodes with two
    parents double at each depth, one that is its own forebear has no end.
    """
    parent: dict[int, int] = {}
    for i, node in enumerate(nodes):
        for child in node.get("children", []):
            if child in parent or not 0 <= int(child) < len(nodes):
                raise ValueError("a node with two parents")
            parent[child] = i
    roots = [i for i in range(len(nodes)) if i not in parent]
    reached, waiting = 0, list(roots)
    while waiting:
        reached += 1
        waiting += nodes[waiting.pop()].get("children", [])
    if reached < len(nodes):
        raise ValueError("a node within itself")
    return roots


def _few_names(text: bytes) -> None:
    """Refuses an OBJ of very many parts, each of which would be a mesh of its own."""
    parts = len(re.findall(rb"^[ \t]{0,64}(?:o|g|usemtl)[ \t]", text, re.M))
    if parts > 2 * MOST_NODES:
        raise _refuse(
            f"The OBJ has {parts:,} objects, groups and changes of material; up to "
            f"{2 * MOST_NODES:,} are read.",
            "Join its parts in the program that made it.",
        )


def _few(triangles: int) -> None:
    if triangles > MOST_TRIANGLES:
        raise _refuse(
            f"The model has {triangles:,} triangles; up to {MOST_TRIANGLES:,} are read.",
            "Simplify it in the program that made it; levels with fewer are then made here.",
        )


def _picture(image) -> np.ndarray:
    if max(image.size) > MOST_PX:
        raise _refuse(
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


def _surface(visual, number: int) -> Surface:
    """A trimesh visual as one of ours."""
    material = getattr(visual, "material", None)
    if material is None:
        return Surface(f"surface {number}")
    name = str(getattr(material, "name", None) or f"surface {number}")[:60]
    if isinstance(material, trimesh.visual.material.PBRMaterial):
        factor = (
            np.ones(4)
            if material.baseColorFactor is None
            else np.asarray(material.baseColorFactor, float).ravel()
        )
        factor = factor / 255 if np.asarray(material.baseColorFactor).dtype == np.uint8 else factor
        image = material.baseColorTexture
        return Surface(
            name,
            _three(factor),
            None if image is None else _picture(image),
            material.alphaMode in ("MASK", "BLEND"),
        )
    image = getattr(material, "image", None)
    plain = np.asarray(material.diffuse)[:3] if image is None else np.full(3, 255)
    picture = None if image is None else _picture(image)
    return Surface(
        name,
        _three(linear(plain.astype(np.uint8))),
        picture,
        picture is not None and bool((picture[..., 3] < 250).any()),
    )


def read_model(data: bytes, name: str, beside: dict[str, bytes] | None = None) -> Model:
    """The triangles of a .glb or .obj, nodes put in their places.

    `beside` are an OBJ's material file and pictures.

    Raises SceneError ("model") for a file that is no model, holds no mesh, too many triangles,
    paths outside itself, or more values than bytes.
    """
    if len(data) > MOST_BYTES:
        raise _refuse(
            f"The file has {len(data) >> 20} MB; up to {MOST_BYTES >> 20} are read.",
            "Simplify it or shrink its pictures.",
        )
    told: list[str] = []
    files = _Beside(beside or {})
    kind = "glb" if data[:4] == b"glTF" or name.lower().endswith(".glb") else "obj"
    if kind == "glb":
        _check_glb(data)
    else:
        text = data[:MOST_BYTES]
        if b"\0" in text or not re.search(rb"^[ \t]{0,64}v[ \t]{1,64}[-\d.]", text, re.M):
            raise _refuse(
                f"“{name}” is neither a GLB nor an OBJ.",
                "Give a .glb (glTF 2.0 binary) or an .obj with its .mtl and pictures.",
            )
        triangles = len(re.findall(rb"^[ \t]{0,64}f[ \t]", text, re.M))
        if not triangles:
            raise _refuse("The OBJ holds no faces.", "Export it again with its mesh.")
        _few(triangles)
        _few_names(text)
    try:
        limit, Image.MAX_IMAGE_PIXELS = Image.MAX_IMAGE_PIXELS, None
        found = trimesh.load_scene(
            io.BytesIO(data),
            file_type=kind,
            resolver=files if kind == "obj" else None,
            process=False,
        )
    except SceneError:
        raise
    except Exception as e:
        raise _refuse(
            f"The model cannot be read: {str(e)[:120] or type(e).__name__}.",
            "Export it again, without compression.",
        ) from None
    finally:
        Image.MAX_IMAGE_PIXELS = limit
    parts = []
    surfaces: list[Surface] = []
    known = {}
    for node in found.graph.nodes_geometry:
        matrix, geometry = found.graph[node]
        mesh = found.geometry[geometry]
        if not isinstance(mesh, trimesh.Trimesh) or not len(mesh.faces):
            continue
        key = id(getattr(mesh.visual, "material", None)) if hasattr(mesh.visual, "material") else -1
        if key not in known:
            known[key] = len(surfaces)
            surfaces.append(_surface(mesh.visual, len(surfaces) + 1))
        uv = getattr(mesh.visual, "uv", None)
        uv = None if uv is None or len(uv) != len(mesh.vertices) else np.c_[uv[:, 0], 1 - uv[:, 1]]
        colour = None
        if isinstance(mesh.visual, ColorVisuals) and mesh.visual.kind == "vertex":
            colour = linear(np.asarray(mesh.visual.vertex_colors)[:, :3])
        places = (
            np.asarray(mesh.vertices, np.float64) @ np.asarray(matrix)[:3, :3].T
            + np.asarray(matrix)[:3, 3]
        )
        faces = np.asarray(mesh.faces)
        if np.linalg.det(np.asarray(matrix)[:3, :3]) < 0:
            faces = faces[:, ::-1]
        if not np.isfinite(places).all():
            raise _refuse("The model has places that are not numbers.", "Export it again.")
        parts.append(Part(places, faces.astype(np.int64), uv, colour, known[key]))
    if not parts:
        raise _refuse(
            "The model holds no mesh.",
            "Export it again with its mesh; lights, cameras and empty nodes are not planted.",
        )
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
    _few(model.triangles)
    return model
