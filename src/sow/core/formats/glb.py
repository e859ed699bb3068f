"""glTF 2.0 binary: what gathers arrays and pictures, and a kind of the cabinet as one file with its
levels.
"""

import io
import json
import struct
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from ..cabinet.family import families
from ..cabinet.kind import Kind, Shape
from ..cabinet.looks import charred, snowed
from ..cabinet.mesh import Mesh
from ..document.text import plain_text
from ..errors import SceneError
from .raster import png_bytes

COLUMNS = 4096  # of a raster that holds a file
MOST_SHEET, MOST_VARIANTS, MOST_LEVELS = 2048, 32, 8  # of a kind's file
_TYPES = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}


def unit_normals(normal: np.ndarray) -> np.ndarray:
    """Normals (n, 3) of unit length, float32; one without a direction points up."""
    wide = np.asarray(normal, np.float64)
    length = np.linalg.norm(wide, axis=1, keepdims=True)
    up = np.array([0.0, 0.0, 1.0])
    return np.where(length > 1e-9, wide / np.maximum(length, 1e-9), up).astype(np.float32)


def within_one(colour: np.ndarray) -> np.ndarray:
    """Linear colours (n, 3) that a file may hold, 0..1, float32: what is brighter keeps its hue."""
    clipped = np.clip(np.asarray(colour, np.float32), 0, None)
    return clipped / np.maximum(clipped.max(axis=1, keepdims=True), 1)


class Glb:
    """Gathers arrays and pictures and writes one .glb.

    Coordinates come in as east, north, up and leave as x, y up, z south.
    """

    def __init__(self):
        self.doc = {
            "asset": {"version": "2.0", "generator": "Sow"},
            "scene": 0,
            "scenes": [{"name": "", "nodes": []}],
            "nodes": [],
            "meshes": [],
            "accessors": [],
            "bufferViews": [],
            "buffers": [],
            "materials": [],
            "textures": [],
            "images": [],
            "samplers": [{"magFilter": 9729, "minFilter": 9987, "wrapS": 33071, "wrapT": 33071}],
        }
        self.parts: list[bytes] = []
        self.length = 0

    def view(self, data: bytes, target: int | None = None) -> int:
        """A buffer view over bytes; gives its index."""
        pad = -len(data) % 4
        self.parts += [data, b"\0" * pad]
        self.doc["bufferViews"].append(
            {
                "buffer": 0,
                "byteOffset": self.length,
                "byteLength": len(data),
                **({"target": target} if target else {}),
            }
        )
        self.length += len(data) + pad
        return len(self.doc["bufferViews"]) - 1

    def array(self, values: np.ndarray, target: int | None = None, bounds: bool = False) -> int:
        """An accessor over float32 or uint32 values (n,) or (n, k); gives its index."""
        values = np.ascontiguousarray(values)
        width = 1 if values.ndim == 1 else values.shape[1]
        entry = {
            "bufferView": self.view(values.tobytes(), target),
            "componentType": 5125 if values.dtype == np.uint32 else 5126,
            "count": len(values),
            "type": _TYPES[width],
        }
        if bounds:
            entry |= {
                "min": values.min(0).astype(float).tolist(),
                "max": values.max(0).astype(float).tolist(),
            }
        self.doc["accessors"].append(entry)
        return len(self.doc["accessors"]) - 1

    def texture(self, png: bytes, name: str) -> int:
        """A texture of a PNG; gives its index."""
        self.doc["images"].append(
            {"bufferView": self.view(png), "mimeType": "image/png", "name": name}
        )
        self.doc["textures"].append({"source": len(self.doc["images"]) - 1, "sampler": 0})
        return len(self.doc["textures"]) - 1

    def material(self, **values) -> int:
        """A material; gives its index."""
        self.doc["materials"].append(values)
        return len(self.doc["materials"]) - 1

    def primitive(
        self, positions, normal, uv, colour, faces, material, tangent=None, **more
    ) -> dict:
        """Triangles of one material; `more` are values of the program's own for each vertex,
        float32 (n,), by a name that begins with _. `tangent` (n, 4) is in the file's own axes.
        """
        attributes = {
            "POSITION": self.array(y_up(positions), 34962, True),
            "NORMAL": self.array(y_up(unit_normals(normal)), 34962),
        }
        if tangent is not None:
            attributes["TANGENT"] = self.array(tangent.astype(np.float32), 34962)
        if uv is not None:
            attributes["TEXCOORD_0"] = self.array(uv.astype(np.float32), 34962)
        if colour is not None:
            attributes["COLOR_0"] = self.array(within_one(colour), 34962)
        attributes |= {
            name: self.array(np.asarray(values, np.float32), 34962)
            for name, values in more.items()
            if values is not None
        }
        return {
            "attributes": attributes,
            "indices": self.array(faces.astype(np.uint32).ravel(), 34963),
            "material": material,
        }

    def mesh(self, name, positions, normal, uv, colour, faces, material, tangent=None) -> int:
        """A mesh of one primitive; gives its index."""
        primitive = self.primitive(positions, normal, uv, colour, faces, material, tangent)
        return self.meshes(name, [primitive])

    def meshes(self, name: str, primitives: list[dict]) -> int:
        """A mesh of several primitives; gives its index."""
        self.doc["meshes"].append({"name": name, "primitives": primitives})
        return len(self.doc["meshes"]) - 1

    def node(self, shown: bool = True, **values) -> int:
        """A node, of the scene unless it is not `shown`."""
        self.doc["nodes"].append(values)
        if shown:
            self.doc["scenes"][0]["nodes"].append(len(self.doc["nodes"]) - 1)
        return len(self.doc["nodes"]) - 1

    def uses(self, extension: str) -> None:
        """Names an extension that the file uses."""
        if extension not in self.doc.setdefault("extensionsUsed", []):
            self.doc["extensionsUsed"].append(extension)

    def dress(self, mesh: Mesh, plain: int, sheet: int | None) -> list[dict]:
        """A mesh of the cabinet as primitives: what has a place in the kind's sheet, and what is of
        plain colour. `plain` and `sheet` are materials.
        """
        out, bare = [], (mesh.uv[mesh.faces, 0] < 0).any(1)
        for here, material in ((bare, plain), (~bare, sheet)):
            if here.any():
                used, faces = np.unique(mesh.faces[here], return_inverse=True)
                at = lambda v: None if v is None else v[used]
                out.append(
                    self.primitive(
                        mesh.positions[used],
                        mesh.normals[used],
                        None if material == plain else mesh.uv[used],
                        mesh.colour[used],
                        faces.reshape(-1, 3),
                        material,
                        _LEAF=at(mesh.leaf),
                        _SURFACE=at(mesh.surface),
                    )
                )
        return out

    def data(self) -> bytes:
        """The whole file as bytes."""
        return b"".join(self._parts())

    def write(self, path: Path) -> None:
        """Writes the file whole or not at all."""
        with open(path, "wb") as file:
            for part in self._parts():
                file.write(part)

    def _parts(self):
        self.doc["buffers"] = [{"byteLength": self.length}]
        text = json.dumps(
            {k: v for k, v in self.doc.items() if v != []}, separators=(",", ":")
        ).encode()
        text += b" " * (-len(text) % 4)
        yield struct.pack("<4sII", b"glTF", 2, 28 + len(text) + self.length)
        yield struct.pack("<I4s", len(text), b"JSON") + text
        yield struct.pack("<I4s", self.length, b"BIN\0")
        yield from self.parts


def z_up(v: np.ndarray) -> np.ndarray:
    """glTF's x, y, z to east, north, up."""
    return np.stack([v[:, 0], -v[:, 2], v[:, 1]], 1).astype(np.float32)


def y_up(v: np.ndarray) -> np.ndarray:
    """East, north, up to glTF's x, y, z: y is up and z points south."""
    return np.stack([v[:, 0], v[:, 2], -v[:, 1]], 1).astype(np.float32)


def as_raster(data: bytes) -> np.ndarray:
    """A file's bytes as a raster that the store can keep, uint8 (rows, 4096), filled up with
    zeros.
    """
    rows = max(1, -(-len(data) // COLUMNS))
    out = np.zeros(rows * COLUMNS, np.uint8)
    out[: len(data)] = np.frombuffer(data, np.uint8)
    return out.reshape(rows, COLUMNS)


def from_raster(values: np.ndarray) -> bytes:
    """The GLB in such a raster. Raises SceneError when it holds none."""
    data = np.ascontiguousarray(values).tobytes()
    if values.dtype != np.uint8 or data[:4] != b"glTF":
        raise SceneError("This is no model.", "kind", "Bring its file in again.")
    return data[: int.from_bytes(data[8:12], "little")]


def kind_glb(
    kind: Kind, look: str = "summer", shape: Shape | None = None, rough: float = 0.9
) -> bytes:
    """A kind with its variants and levels, near to far (MSFT_lod), its sheet, and what Sow knows of
    it in `extras`. `kind_of_glb` reads it back.
    """
    out, shape = Glb(), shape or kind.shape(look)
    out.doc["scenes"][0]["name"] = kind.label
    out.uses("MSFT_lod")
    plain = out.material(
        name=f"{kind.name} plain",
        pbrMetallicRoughness={"metallicFactor": 0, "roughnessFactor": rough},
        doubleSided=True,
    )
    sheet = None
    if any((m.uv >= 0).any() for v in shape.levels for m in v):
        sheet = out.material(
            name=kind.name,
            pbrMetallicRoughness={
                "metallicFactor": 0,
                "roughnessFactor": rough,
                "baseColorTexture": {"index": out.texture(png_bytes(shape.sheet), kind.name)},
            },
            doubleSided=True,
            alphaMode="MASK",
            alphaCutoff=0.4,
        )
    for v, levels in enumerate(shape.levels):
        meshes = [
            out.meshes(f"variant {v} level {k}", out.dress(m, plain, sheet))
            for k, m in enumerate(levels)
        ]
        lower = [
            out.node(False, name=f"{kind.name} {v} level {k + 1}", mesh=m)
            for k, m in enumerate(meshes[1:])
        ]
        out.node(
            name=f"{kind.name} {v}",
            mesh=meshes[0],
            extensions={"MSFT_lod": {"ids": lower}},
            translation=[2.4 * kind.reach_m * v, 0, 0],
            extras={
                "MSFT_screencoverage": [
                    round(min(1.0, kind.height_m / (2 * max(far, kind.height_m))), 4)
                    for far in shape.far_m
                ]
                + [0.0]
            },
        )
    out.doc["extras"] = {
        "sow": {
            "format": "sow-kind-1",
            "label": kind.label,
            "family": kind.family,
            "height_m": kind.height_m,
            "reach_m": kind.reach_m,
            "cover_m2": kind.cover_m2,
            "colour": [float(c) for c in kind.colour],
            "tags": kind.tags,
            "feet": [[float(v) for v in f] for f in kind.feet],
            "surfaces": list(kind.surfaces),
            "far_m": [float(f) for f in shape.far_m],
            "variants": len(shape.levels),
        }
    }
    return out.data()


def kind_of_glb(data: bytes, name: str) -> Kind:
    """A kind from the GLB that `kind_glb` wrote.

    Raises SceneError when it is another or damaged.
    """
    try:
        size = struct.unpack_from("<I", data, 12)[0]
        doc = json.loads(data[20 : 20 + size])
        body = data[28 + size :]
        facts = doc["extras"]["sow"]

        def values(k: int) -> np.ndarray:
            a = doc["accessors"][k]
            view = doc["bufferViews"][a["bufferView"]]
            flat = np.frombuffer(
                body,
                "<u4" if a["componentType"] == 5125 else "<f4",
                a["count"] * {"SCALAR": 1, "VEC2": 2, "VEC3": 3}[a["type"]],
                view["byteOffset"],
            )
            return flat if a["type"] == "SCALAR" else flat.reshape(a["count"], -1)

        def mesh(k: int) -> Mesh:
            parts = []
            for p in doc["meshes"][k]["primitives"]:
                at = p["attributes"]
                own = lambda key: values(at[key]) if key in at else None
                n = len(values(at["POSITION"]))
                parts.append(
                    Mesh(
                        z_up(values(at["POSITION"])),
                        z_up(values(at["NORMAL"])),
                        values(at["TEXCOORD_0"])
                        if "TEXCOORD_0" in at
                        else np.full((n, 2), -1, np.float32),
                        values(at["COLOR_0"]),
                        values(p["indices"]).reshape(-1, 3),
                        own("_LEAF"),
                        own("_SURFACE"),
                    )
                )
            return Mesh.joined(parts)

        told = _told_of(facts)
        levels, at = [], 0
        for _ in range(facts["variants"]):
            count = len(facts["far_m"]) + 1
            levels.append([mesh(at + k) for k in range(count)])
            at += count
        sheet = np.zeros((2, 2, 4), np.uint8)
        if doc.get("images"):
            view = doc["bufferViews"][doc["images"][0]["bufferView"]]
            coded = np.frombuffer(body, np.uint8, view["byteLength"], view["byteOffset"])
            with Image.open(io.BytesIO(coded.tobytes())) as header:
                if max(header.size) > MOST_SHEET:
                    raise ValueError("its picture is too large")
            picture = cv2.imdecode(coded, cv2.IMREAD_UNCHANGED)
            if picture is None:
                raise ValueError("its picture cannot be read")
            sheet = cv2.cvtColor(picture, cv2.COLOR_BGRA2RGBA).astype(np.uint8)
        shapes = {"summer": Shape(levels, sheet, tuple(facts["far_m"]))}
        for m in (m for row in levels for m in row):
            _sound(m)
    except Exception as e:
        why = str(e)[:80] if type(e) is ValueError else "its parts do not fit together"
        raise SceneError(
            f"The model of a kind is damaged: {why}.",
            "kind",
            "Bring its file in again.",
        ) from None

    def make(look: str) -> Shape:
        if look not in shapes:
            whole = shapes["summer"]
            shapes[look] = Shape(
                [
                    [dressed(m, look, float(np.mean(told["colour"]))) for m in v]
                    for v in whole.levels
                ],
                whole.sheet,
                whole.far_m,
            )
        return shapes[look]

    return Kind(
        name,
        told["label"],
        told["family"],
        told["height_m"],
        told["reach_m"],
        told["cover_m2"],
        told["colour"],
        range(facts["variants"]),
        make,
        ("summer", "snow", "burnt"),
        None,
        told["tags"],
        told["feet"],
        told["surfaces"],
    )


def _told_of(facts: dict) -> dict:
    """What a kind's file tells of it, each of its sort. Raises ValueError, KeyError, TypeError."""
    if facts["family"] not in families:
        raise ValueError("a family that there is not")
    if not 1 <= facts["variants"] <= MOST_VARIANTS or len(facts["far_m"]) > MOST_LEVELS:
        raise ValueError("too many variants or levels")
    numbers = {k: float(facts[k]) for k in ("height_m", "reach_m", "cover_m2")}
    red, green, blue = (float(v) for v in facts["colour"])
    feet = tuple((float(e), float(n), float(r)) for e, n, r in facts["feet"])
    far = [float(v) for v in facts["far_m"]]
    if not np.isfinite([*numbers.values(), red, green, blue, *far, *np.ravel(feet)]).all():
        raise ValueError("measures that are no numbers")
    return {
        **numbers,
        "label": plain_text(str(facts["label"]))[:60] or "Own kind",
        "family": facts["family"],
        "colour": (red, green, blue),
        "tags": plain_text(str(facts["tags"])),
        "feet": feet,
        "surfaces": tuple(str(s)[:60] for s in facts["surfaces"]),
    }


def _sound(mesh: Mesh) -> None:
    """Refuses a mesh whose arrays do not fit together: kernels that draw do not ask again."""
    n = len(mesh.positions)
    for values, width in ((mesh.positions, 3), (mesh.normals, 3), (mesh.uv, 2), (mesh.colour, 3)):
        if values.shape != (n, width) or not np.isfinite(values).all():
            raise ValueError("arrays that do not fit together")
    for extra in (mesh.leaf, mesh.surface):
        if extra is not None and len(extra) != n:
            raise ValueError("arrays that do not fit together")
    if mesh.faces.ndim != 2 or (len(mesh.faces) and int(mesh.faces.max()) >= n):
        raise ValueError("faces beyond its places")


def dressed(mesh: Mesh, look: str, mean: float) -> Mesh:
    """A mesh brought in, in a look: snow on what faces up, or charred."""
    copy = Mesh(
        mesh.positions,
        mesh.normals,
        mesh.uv,
        mesh.colour.copy(),
        mesh.faces,
        mesh.leaf,
        mesh.surface,
    )
    return snowed(copy, 0.75, max(mean, 0.05)) if look == "snow" else charred(copy)
