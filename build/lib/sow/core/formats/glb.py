"""glTF 2.0 binary: what gathers arrays, pictures, materials and nodes into one file."""

import json
import struct
from pathlib import Path

import numpy as np

from ..cabinet.mesh import Mesh
from ..errors import SceneError

COLUMNS = 4096  # of a raster that holds a file
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
