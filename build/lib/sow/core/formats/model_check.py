"""What a GLB or an OBJ claims, checked before anything of it is unpacked."""

import json
import re
import struct

from ..errors import SceneError

MOST_TRIANGLES = 1_500_000
MOST_VALUES = 60_000_000
MOST_NODES = 20_000
_WIDTH = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}
_BYTES = {5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4}
_UNDERSTOOD = {
    "KHR_texture_transform",
    "KHR_materials_unlit",
    "KHR_mesh_quantization",
    "EXT_mesh_gpu_instancing",
}


def refuse(message: str, advice: str) -> SceneError:
    """Why a model is not read, and what to do."""
    return SceneError(message, "model", advice)


def few(triangles: int) -> None:
    """Raises SceneError when a model has more triangles than are read."""
    if triangles > MOST_TRIANGLES:
        raise refuse(
            f"The model has {triangles:,} triangles; up to {MOST_TRIANGLES:,} are read.",
            "Simplify it in the program that made it; levels with fewer are then made here.",
        )


def check_glb(data: bytes) -> None:
    """Refuses a GLB that is damaged, points outside itself, or claims more than it holds.

    Raises SceneError.
    """
    if len(data) < 20 or data[:4] != b"glTF":
        raise refuse("This is not a GLB.", "Give a .glb (glTF 2.0 binary) or an .obj.")
    version, length = struct.unpack_from("<II", data, 4)
    size, tag = struct.unpack_from("<I4s", data, 12)
    if version != 2 or length > len(data) or tag != b"JSON" or 20 + size > len(data):
        raise refuse(
            "The GLB is damaged or not of version 2.", "Export it again as glTF 2.0 binary."
        )
    try:
        document = json.loads(data[20 : 20 + size])
        held = struct.unpack_from("<I", data, 20 + size)[0] if len(data) >= 28 + size else 0
        _within_itself(document)
        _no_more_than_held(document, held)
        _few_parts(document)
    except SceneError:
        raise
    except (KeyError, IndexError, TypeError, ValueError, AttributeError, struct.error):
        raise refuse(
            "The GLB is damaged: its parts do not fit together.", "Export it again."
        ) from None


def _within_itself(document: dict) -> None:
    """Refuses files outside, and ways of packing that are not read."""
    for entry in [*document.get("buffers", []), *document.get("images", [])]:
        uri = str(entry.get("uri", ""))
        if uri and not uri.startswith("data:"):
            raise refuse(
                f"The GLB refers to a file outside itself: “{uri[:120]}”.",
                "Export it again with everything packed in.",
            )
    needed = set(document.get("extensionsRequired", [])) - _UNDERSTOOD
    if needed:
        raise refuse(
            f"The GLB is packed in a way that is not read here ({', '.join(sorted(needed))}).",
            "Export it again without compression.",
        )


def _no_more_than_held(document: dict, held: int) -> None:
    """Refuses accessors that reach beyond their view, views beyond their buffer, and too many
    values in all.
    """
    views = document.get("bufferViews", [])
    most = max(held, *(b.get("byteLength", 0) for b in document.get("buffers", [{}])))
    total = 0
    for accessor in document.get("accessors", []):
        number = int(accessor["count"])
        count = number * _WIDTH[accessor["type"]]
        total += count
        if "bufferView" in accessor:
            view = views[accessor["bufferView"]]
            one = _BYTES[accessor["componentType"]] * _WIDTH[accessor["type"]]
            stride = view.get("byteStride") or one
            end = accessor.get("byteOffset", 0) + (number - 1) * stride + one
            if end > view["byteLength"] or view.get("byteOffset", 0) + view["byteLength"] > most:
                raise refuse(
                    "The GLB claims more values than it holds.",
                    "It is damaged or made to do harm; nothing was read. Export it again.",
                )
        if count < 0 or total > MOST_VALUES:
            raise refuse(
                f"The GLB claims more than {MOST_VALUES:,} values.",
                "Simplify it first; nothing was read.",
            )


def _few_parts(document: dict) -> None:
    """Refuses a GLB without a mesh, with too many nodes, or with too many triangles in all."""
    if not document.get("meshes"):
        raise refuse(
            "The GLB holds no mesh.",
            "Export it again with its mesh; lights, cameras and empty nodes are not planted.",
        )
    accessors = document["accessors"]

    def corners(primitive: dict) -> int:
        own = primitive.get("indices")
        return int(accessors[primitive["attributes"]["POSITION"] if own is None else own]["count"])

    each = [sum(corners(p) for p in mesh["primitives"]) // 3 for mesh in document["meshes"]]
    nodes = document.get("nodes", [])
    tree_of(nodes)
    if len(nodes) > MOST_NODES:
        raise refuse(
            f"The GLB has {len(nodes):,} nodes; up to {MOST_NODES:,} are read.",
            "Join its parts in the program that made it.",
        )
    few(sum(each[node["mesh"]] for node in nodes if "mesh" in node))


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


def check_obj(data: bytes, name: str) -> None:
    """Refuses what is no OBJ, holds no faces, or very many of them or of parts.

    Raises SceneError. Each pattern stays within its line, so that it takes no longer than the file
    is long.
    """
    if b"\0" in data or not re.search(rb"^[ \t]{0,64}v[ \t]{1,64}[-\d.]", data, re.M):
        raise refuse(
            f"“{name}” is neither a GLB nor an OBJ.",
            "Give a .glb (glTF 2.0 binary) or an .obj with its .mtl and pictures.",
        )
    triangles = len(re.findall(rb"^[ \t]{0,64}f[ \t]", data, re.M))
    if not triangles:
        raise refuse("The OBJ holds no faces.", "Export it again with its mesh.")
    few(triangles)
    parts = len(re.findall(rb"^[ \t]{0,64}(?:o|g|usemtl)[ \t]", data, re.M))
    if parts > 2 * MOST_NODES:  # each would be a mesh of its own
        raise refuse(
            f"The OBJ has {parts:,} objects, groups and changes of material; up to "
            f"{2 * MOST_NODES:,} are read.",
            "Join its parts in the program that made it.",
        )
