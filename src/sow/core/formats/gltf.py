"""A scene as glTF 2.0 binary: the ground as a mesh, plants as instances (EXT_mesh_gpu_instancing)."""
import json
import struct
from pathlib import Path

import numpy as np

from ..build import Build
from ..cabinet import worn
from ..cabinet.kind import linear
from ..planting.sowing import Plants
from ..sample import resample
from ..survey.slope import normals
from ..surface.bake import baked
from ..water.standing import surface_of
from .raster import png_bytes

MOST_GROUND_POSTS = 513
_TYPES = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}


class Glb:
    """Gathers arrays and pictures and writes one .glb. Coordinates come in as east, north, up and leave as x, y up, z south."""

    def __init__(self):
        self.doc = {"asset": {"version": "2.0", "generator": "Sow"}, "scene": 0, "scenes": [{"name": "", "nodes": []}], "nodes": [],
                    "meshes": [], "accessors": [], "bufferViews": [], "buffers": [], "materials": [], "textures": [], "images": [],
                    "samplers": [{"magFilter": 9729, "minFilter": 9987, "wrapS": 33071, "wrapT": 33071}]}
        self.parts: list[bytes] = []
        self.length = 0

    def view(self, data: bytes, target: int | None = None) -> int:
        pad = -len(data) % 4
        self.parts += [data, b"\0" * pad]
        self.doc["bufferViews"].append({"buffer": 0, "byteOffset": self.length, "byteLength": len(data),
                                        **({"target": target} if target else {})})
        self.length += len(data) + pad
        return len(self.doc["bufferViews"]) - 1

    def array(self, values: np.ndarray, target: int | None = None, bounds: bool = False) -> int:
        values = np.ascontiguousarray(values)
        width = 1 if values.ndim == 1 else values.shape[1]
        entry = {"bufferView": self.view(values.tobytes(), target), "componentType": 5125 if values.dtype == np.uint32 else 5126,
                 "count": len(values), "type": _TYPES[width]}
        if bounds:
            entry |= {"min": values.min(0).astype(float).tolist(), "max": values.max(0).astype(float).tolist()}
        self.doc["accessors"].append(entry)
        return len(self.doc["accessors"]) - 1

    def texture(self, png: bytes, name: str) -> int:
        self.doc["images"].append({"bufferView": self.view(png), "mimeType": "image/png", "name": name})
        self.doc["textures"].append({"source": len(self.doc["images"]) - 1, "sampler": 0})
        return len(self.doc["textures"]) - 1

    def material(self, **values) -> int:
        self.doc["materials"].append(values)
        return len(self.doc["materials"]) - 1

    def mesh(self, name, positions, normal, uv, colour, faces, material) -> int:
        attributes = {"POSITION": self.array(y_up(positions), 34962, True), "NORMAL": self.array(y_up(normal), 34962)}
        if uv is not None:
            attributes["TEXCOORD_0"] = self.array(uv.astype(np.float32), 34962)
        if colour is not None:
            attributes["COLOR_0"] = self.array(colour.astype(np.float32), 34962)
        self.doc["meshes"].append({"name": name, "primitives": [
            {"attributes": attributes, "indices": self.array(faces.astype(np.uint32).ravel(), 34963), "material": material}]})
        return len(self.doc["meshes"]) - 1

    def node(self, **values) -> None:
        self.doc["nodes"].append(values)
        self.doc["scenes"][0]["nodes"].append(len(self.doc["nodes"]) - 1)

    def write(self, path: Path) -> None:
        self.doc["buffers"] = [{"byteLength": self.length}]
        text = json.dumps({k: v for k, v in self.doc.items() if v != []}, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        with open(path, "wb") as file:
            file.write(struct.pack("<4sII", b"glTF", 2, 28 + len(text) + self.length))
            file.write(struct.pack("<I4s", len(text), b"JSON") + text)
            file.write(struct.pack("<I4s", self.length, b"BIN\0"))
            for part in self.parts:
                file.write(part)


def y_up(v: np.ndarray) -> np.ndarray:
    """East, north, up to glTF's x, y, z: y is up and z points south."""
    return np.stack([v[:, 0], v[:, 2], -v[:, 1]], 1).astype(np.float32)


def stance_quaternions(turn: np.ndarray, lean: np.ndarray, bearing: np.ndarray) -> np.ndarray:
    """glTF rotations (x, y, z, w), float32 (n, 4), from degrees: first the turn about the upright, then the lean.

    A turn clockwise from north is a negative rotation about y; the lean is about the level axis to the right of its bearing.
    """
    t, l, b = (np.deg2rad(np.asarray(a, np.float64)) for a in (turn, lean, bearing))
    zero = np.zeros_like(t)
    q1 = np.stack([zero, -np.sin(t / 2), zero, np.cos(t / 2)], 1)
    # leaning towards d = (sin b, 0, -cos b): the axis is up x d
    q2 = np.stack([-np.cos(b) * np.sin(l / 2), zero, -np.sin(b) * np.sin(l / 2), np.cos(l / 2)], 1)
    x2, y2, z2, w2 = q2.T
    x1, y1, z1, w1 = q1.T
    return np.stack([w2 * x1 + x2 * w1 + y2 * z1 - z2 * y1, w2 * y1 - x2 * z1 + y2 * w1 + z2 * x1,
                     w2 * z1 + x2 * y1 - y2 * x1 + z2 * w1, w2 * w1 - x2 * x1 - y2 * y1 - z2 * z1], 1).astype(np.float32)


def grid_faces(ny: int, nx: int) -> np.ndarray:
    """Triangles of a grid, each square cut from north-west to south-east, seen from above anticlockwise."""
    i = (np.arange(ny - 1)[:, None] * nx + np.arange(nx - 1)).ravel()
    return np.concatenate([np.stack([i, i + nx, i + nx + 1], 1), np.stack([i, i + nx + 1, i + 1], 1)]).astype(np.uint32)


def write_glb(path: Path, build: Build, sown: list[tuple[str, list[str], Plants]], ground_px: int) -> dict:
    """The whole scene. Gives counts of triangles and instances."""
    out, scene = Glb(), build.scene
    out.doc["scenes"][0]["name"] = scene.name
    out.doc["extensionsUsed"] = ["EXT_mesh_gpu_instancing"]
    grid, heights = build.grid, build.heights
    step = max(1, (max(grid.shape) - 1 + MOST_GROUND_POSTS - 2) // (MOST_GROUND_POSTS - 1))
    shape = tuple(max(2, (n - 1) // step + 1) for n in heights.shape)
    if step > 1:
        heights = resample(heights, shape)
    ny, nx = heights.shape
    east, north = np.linspace(0, grid.width_m, nx), np.linspace(grid.depth_m, 0, ny)
    e, n = np.meshgrid(east, north)
    colour, normal = baked(build, ground_px, heights)
    material = out.material(name="ground", pbrMetallicRoughness={
        "baseColorTexture": {"index": out.texture(png_bytes(colour), "ground colour")}, "metallicFactor": 0, "roughnessFactor": 0.95},
        normalTexture={"index": out.texture(png_bytes(normal), "ground normals")})
    uv = np.stack([e.ravel() / grid.width_m, 1 - n.ravel() / grid.depth_m], 1)
    ground = out.mesh("ground", np.stack([e.ravel(), n.ravel(), heights.ravel()], 1),
                      normals(heights, grid.width_m / (nx - 1)).reshape(-1, 3), uv, None, grid_faces(ny, nx), material)
    out.node(name="ground", mesh=ground)
    level_of_water(out, build)
    shapes: dict[tuple[str, int], int] = {}
    sheets: dict[str, int] = {}

    def mesh_of(kind: str, variant: int) -> int:
        if (kind, variant) not in shapes:
            base, wears, tint = worn(kind)
            mesh = base.shape(wears).levels[variant][0]
            if kind not in sheets:
                plain = bool((mesh.uv < 0).any())
                look = {"metallicFactor": 0, "roughnessFactor": 0.9}
                if tint:
                    look["baseColorFactor"] = [*(float(v) for v in linear(np.array([int(tint[i:i + 2], 16) for i in (0, 2, 4)]))), 1.0]
                if plain:
                    sheets[kind] = out.material(name=kind, pbrMetallicRoughness=look, doubleSided=True)
                else:
                    look["baseColorTexture"] = {"index": out.texture(png_bytes(base.shape(wears).sheet), kind)}
                    sheets[kind] = out.material(name=kind, pbrMetallicRoughness=look, doubleSided=True, alphaMode="MASK", alphaCutoff=0.4)
            uv = None if (mesh.uv < 0).any() else mesh.uv
            shapes[kind, variant] = out.mesh(f"{kind} {variant}", mesh.positions, mesh.normals, uv, np.clip(mesh.colour, 0, 1),
                                             mesh.faces, sheets[kind])
        return shapes[kind, variant]

    instances = 0
    for name, kinds, p in sown:
        for k, kind in enumerate(kinds):
            for variant in worn(kind)[0].variants:
                here = (p.kind == k) & (p.variant == variant)
                if not here.any():
                    continue
                spots = np.stack([p.east[here], p.north[here], p.up[here]], 1)
                scale = np.repeat(p.size[here][:, None], 3, 1).astype(np.float32)
                attributes = {"TRANSLATION": out.array(y_up(spots)), "SCALE": out.array(scale),
                              "ROTATION": out.array(stance_quaternions(p.turn[here], p.lean[here], p.bearing[here]))}
                out.node(name=f"{name}: {kind} {variant}", mesh=mesh_of(kind, variant),
                         extensions={"EXT_mesh_gpu_instancing": {"attributes": attributes}})
                instances += int(here.sum())
    for piece in build.pieces():
        turn = stance_quaternions(*(np.array([piece[k]]) for k in ("turn", "lean", "bearing")))[0]
        out.node(name=piece["name"], mesh=mesh_of(f"{piece['kind']}~{piece['look']}" if piece["look"] != "summer" else piece["kind"], piece["variant"]),
                 translation=[piece["east_m"], piece["up_m"], -piece["north_m"]], rotation=[float(v) for v in turn],
                 scale=[piece["size"] / 100] * 3)
        instances += 1
    out.write(path)
    return {"ground_triangles": 2 * (ny - 1) * (nx - 1), "instances": instances, "bytes": path.stat().st_size}


def level_of_water(out: Glb, build: Build) -> None:
    """Each water as a level sheet: the squares that it wets, or the whole plot for a water that lies everywhere; a stream as a ribbon."""
    _, masks = build.water()
    grid = build.grid
    for water, wet in zip(build.scene.water, masks):
        if not water.on or not wet.any():
            continue
        rows, cols = np.nonzero(wet)
        if water.reach == "everywhere":
            west, east, south, north = 0.0, grid.width_m, 0.0, grid.depth_m
        else:
            xs, ys = grid.xs(), grid.ys()
            west, east = float(xs[max(cols.min() - 1, 0)]), float(xs[min(cols.max() + 1, grid.nx - 1)])
            south, north = float(ys[min(rows.max() + 1, grid.ny - 1)]), float(ys[max(rows.min() - 1, 0)])
        code = water.tint.lstrip("#")
        rgba = [(int(code[i:i + 2], 16) / 255) ** 2.2 for i in (0, 2, 4)] + [0.75]
        material = out.material(name=water.name, pbrMetallicRoughness={"baseColorFactor": rgba, "metallicFactor": 0, "roughnessFactor": 0.08},
                                alphaMode="BLEND")
        if water.reach == "stream":
            spine = surface_of(water, build.line(water.mark), build.heights, grid)
            along = np.gradient(spine[:, :2], axis=0)
            aside = np.stack([along[:, 1], -along[:, 0]], 1) / np.maximum(np.hypot(*along.T), 1e-9)[:, None] * water.width_m / 2
            edges = np.concatenate([spine, spine])
            edges[:len(spine), :2] += aside
            edges[len(spine):, :2] -= aside
            i, n = np.arange(len(spine) - 1), len(spine)
            faces = np.concatenate([np.stack([i, i + 1, i + n], 1), np.stack([i + n, i + 1, i + 1 + n], 1)])
            out.node(name=water.name, mesh=out.mesh(water.name, edges, np.tile((0.0, 0, 1), (len(edges), 1)), None, None, faces, material))
            continue
        corners = np.array([(west, south, water.level_m), (east, south, water.level_m), (east, north, water.level_m),
                            (west, north, water.level_m)])
        mesh = out.mesh(water.name, corners, np.tile((0.0, 0, 1), (4, 1)), None, None, np.array([(0, 1, 2), (0, 2, 3)]), material)
        out.node(name=water.name, mesh=mesh)
