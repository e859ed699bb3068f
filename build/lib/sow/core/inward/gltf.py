"""A scene from a GLB: ground, instances, pieces, lights and cameras."""

import json
import re
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.spatial.transform import Rotation

from ..errors import SceneError
from ..formats.model_check import check_glb, tree_of
from .found import (
    Found,
    Standing,
    lamp_of,
    lay_ground,
    piece_of,
    refuse,
    shot_of,
    stance_of,
    sun_of,
)

TURNED = np.array([[1, 0, 0], [0, 0, -1], [0, 1, 0]], float)  # x, y up, z south to east, north, up
GROUND = re.compile(r"ground|terrain|land|relief|floor", re.I)
DTYPES = {5120: "<i1", 5121: "<u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
FRAME_MM = 36.0


@dataclass
class _Node:
    """A node with the matrix (4, 4) that carries it into the world, in the file's own axes."""

    values: dict[str, Any]
    world: np.ndarray

    @property
    def name(self) -> str:
        return str(self.values.get("name", ""))

    @property
    def sow(self) -> dict[str, Any]:
        """What Sow wrote of it."""
        told = self.values.get("extras")
        own = told.get("sow") if isinstance(told, dict) else None
        return own if isinstance(own, dict) else {}


class _File:
    """The document of a GLB and its numbers."""

    def __init__(self, data: bytes):
        check_glb(data)
        size = struct.unpack_from("<I", data, 12)[0]
        self.doc = json.loads(data[20 : 20 + size])
        self.bytes = data[28 + size :]

    def array(self, index: int) -> np.ndarray:
        """The values of an accessor, float64 or whole numbers (count, width)."""
        accessor = self.doc["accessors"][index]
        view = self.doc["bufferViews"][accessor["bufferView"]]
        kind = np.dtype(DTYPES[accessor["componentType"]])
        width = WIDTHS[accessor["type"]]
        start = view.get("byteOffset", 0) + accessor.get("byteOffset", 0)
        stride = view.get("byteStride") or kind.itemsize * width
        raw = np.lib.stride_tricks.as_strided(
            np.frombuffer(self.bytes, np.uint8, count=len(self.bytes) - start, offset=start),
            (accessor["count"], kind.itemsize * width),
            (stride, 1),
        )
        values = np.ascontiguousarray(raw).view(kind).reshape(accessor["count"], width)
        if accessor.get("normalized"):
            most = np.iinfo(kind).max
            return np.maximum(values / most, -1.0)
        return values.astype(np.float64) if kind.kind == "f" else values

    def nodes(self) -> Iterator[_Node]:
        """Every node of the file, each after what it hangs on."""
        nodes = self.doc.get("nodes", [])
        waiting = [(i, np.eye(4)) for i in reversed(tree_of(nodes))]
        while waiting:
            i, above = waiting.pop()
            world = above @ _local(nodes[i])
            yield _Node(nodes[i], world)
            waiting += [(child, world) for child in reversed(nodes[i].get("children", []))]

    def vertices(self, mesh: int) -> np.ndarray:
        """The vertices of a mesh, float64 (n, 3)."""
        primitives = self.doc["meshes"][mesh]["primitives"]
        return np.concatenate([self.array(p["attributes"]["POSITION"]) for p in primitives])


def _local(node: dict[str, Any]) -> np.ndarray:
    if "matrix" in node:
        return np.array(node["matrix"], float).reshape(4, 4).T
    out = np.eye(4)
    turn = Rotation.from_quat(node.get("rotation", (0, 0, 0, 1))).as_matrix()
    out[:3, :3] = turn * np.array(node.get("scale", (1, 1, 1)))
    out[:3, 3] = node.get("translation", (0, 0, 0))
    return out


def read_gltf(data: bytes, name: str) -> Found:
    """A scene from a GLB. Raises SceneError when the file is damaged."""
    try:
        return _read(_File(data), name)
    except SceneError:
        raise
    except (KeyError, IndexError, TypeError, ValueError, struct.error) as e:
        raise refuse(f"“{name}” is damaged: {e}.", "Export it again.") from None


def _read(file: _File, name: str) -> Found:
    scenes = file.doc.get("scenes") or [{}]
    scene = scenes[file.doc.get("scene", 0)]
    told = scene.get("extras")
    sow = told.get("sow", {}) if isinstance(told, dict) else {}
    found = Found(scene.get("name") or name.rsplit(".", 1)[0], document=sow.get("scene"))
    nodes = list(file.nodes())
    ground = _ground(file, nodes)
    corner = np.zeros(3)
    if ground is not None:
        points = _carried(file.vertices(ground.values["mesh"]), ground.world)
        corner = lay_ground(found, points, ground.name)
    lights = file.doc.get("extensions", {}).get("KHR_lights_punctual", {}).get("lights", [])
    strange: dict[str, int] = {}
    for node in nodes:
        if node is ground:
            continue
        extensions = node.values.get("extensions", {})
        if "KHR_lights_punctual" in extensions:
            light = lights[extensions["KHR_lights_punctual"]["light"]]
            _take_light(found, light, node, corner)
        if "camera" in node.values:
            camera = file.doc["cameras"][node.values["camera"]]
            _take_camera(found, camera, node, corner)
        if "EXT_mesh_gpu_instancing" in extensions:
            asked = extensions["EXT_mesh_gpu_instancing"]["attributes"]
            _take_instances(found, file, node, asked, corner)
        elif "mesh" in node.values:
            if node.sow.get("piece"):
                _take_piece(found, node, corner)
            elif not node.sow.keys() & {"water", "far", "card"}:
                mesh = file.doc["meshes"][node.values["mesh"]].get("name") or node.name
                strange[mesh] = strange.get(mesh, 0) + 1
    for mesh, count in strange.items():
        found.left.append(f"The mesh “{mesh}” ({count}): bring its file in as a kind.")
    return found


def _carried(points: np.ndarray, world: np.ndarray) -> np.ndarray:
    """Places of a file (n, 3) in the world, as east, north, up."""
    return (points @ world[:3, :3].T + world[:3, 3]) @ TURNED.T


def _ground(file: _File, nodes: list[_Node]) -> _Node | None:
    """What is likeliest the ground: a mesh called so, or one that is wide and flat."""
    best, most = None, 0.0
    for node in nodes:
        if "mesh" not in node.values or "EXT_mesh_gpu_instancing" in node.values.get(
            "extensions", {}
        ):
            continue
        if node.sow and not node.sow.get("ground"):
            continue
        points = _carried(file.vertices(node.values["mesh"]), node.world)
        width, depth, height = np.ptp(points, axis=0)
        area = width * depth
        named = bool(GROUND.search(node.name)) or bool(node.sow.get("ground"))
        if named:
            area *= 10
        elif height > 0.7 * min(width, depth) or len(points) < 64:
            continue
        if area > most:
            best, most = node, area
    return best


def _axes(worlds: np.ndarray) -> np.ndarray:
    """The axes (n, 3, 3) of things whose matrices (n, 3, 3) are in the file's: east, north, up."""
    return TURNED @ worlds @ TURNED.T


def _take_instances(
    found: Found, file: _File, node: _Node, asked: dict[str, int], corner: np.ndarray
) -> None:
    places = file.array(asked["TRANSLATION"]) if "TRANSLATION" in asked else None
    count = next(len(file.array(i)) for i in asked.values())
    places = np.zeros((count, 3)) if places is None else places
    turns = file.array(asked["ROTATION"]) if "ROTATION" in asked else None
    sizes = file.array(asked["SCALE"]) if "SCALE" in asked else np.ones((count, 3))
    axes = np.broadcast_to(np.eye(3), (count, 3, 3))
    if turns is not None:
        axes = Rotation.from_quat(turns).as_matrix()
    axes = node.world[:3, :3] @ (axes * sizes[:, None, :])
    mesh = file.doc["meshes"][node.values["mesh"]].get("name", "") if "mesh" in node.values else ""
    kind = node.sow.get("kind") or re.sub(r"[._\s-]*\d+$", "", mesh or node.name)
    turn, _, _, size = stance_of(_axes(axes))
    at = _carried(places, node.world) - corner
    variant = np.full(count, float(node.sow.get("variant", 0)))
    table = np.column_stack([at, turn, size, variant])
    found.standing.append(Standing(str(node.sow.get("sowing") or kind), str(kind), table))


def _take_piece(found: Found, node: _Node, corner: np.ndarray) -> None:
    at = _carried(np.zeros((1, 3)), node.world)[0] - corner
    axes = _axes(node.world[None, :3, :3])[0]
    told = node.sow
    variant = int(told.get("variant", 0))
    found.pieces.append(piece_of(told["piece"], node.name, told["kind"], at, axes, variant))


def _take_light(found: Found, light: dict[str, Any], node: _Node, corner: np.ndarray) -> None:
    away = TURNED @ node.world[:3, :3] @ np.array([0.0, 0.0, -1.0])
    away = away / max(float(np.linalg.norm(away)), 1e-12)
    if light["type"] == "directional":
        if found.sun is not None:
            found.left.append(f"The light “{light.get('name', '')}”: there is one sun.")
            return
        found.sun = sun_of(away)
        return
    at = _carried(np.zeros((1, 3)), node.world)[0] - corner
    outer = light.get("spot", {}).get("outerConeAngle") if light["type"] == "spot" else None
    candela = float(light.get("intensity", 1.0))
    colour = np.asarray(light.get("color", (1, 1, 1)), float)
    found.lamps.append(lamp_of(light.get("name", "Lamp"), at, away, candela * colour, outer))


def _take_camera(found: Found, camera: dict[str, Any], node: _Node, corner: np.ndarray) -> None:
    if camera.get("type") != "perspective":
        found.left.append(f"The camera “{node.name}”: only cameras in perspective become shots.")
        return
    lens = camera["perspective"]
    extras = camera.get("extras")
    told: dict[str, Any] = extras if isinstance(extras, dict) else {}
    aspect = float(lens.get("aspectRatio", 16 / 9))
    focal = told.get("focal_mm") or FRAME_MM / aspect / 2 / np.tan(float(lens["yfov"]) / 2)
    ahead = TURNED @ node.world[:3, :3] @ np.array([0.0, 0.0, -1.0])
    at = _carried(np.zeros((1, 3)), node.world)[0] - corner
    shot = shot_of(camera.get("name") or node.name or "Camera", at, ahead, float(focal), aspect)
    for field, key in (
        ("aperture", "aperture"),
        ("focus_m", "focus_m"),
        ("shift_up", "shift_up_percent"),
        ("shift_aside", "shift_aside_percent"),
    ):
        if key in told:
            shot[field] = float(told[key])
    found.shots.append(shot)
