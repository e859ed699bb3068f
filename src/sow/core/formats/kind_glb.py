"""A kind of the cabinet as one GLB with its variants and levels, and back."""

import io
import json
import struct

import cv2
import numpy as np
from PIL import Image

from ..cabinet.family import families
from ..cabinet.kind import Finish, Kind, KindShape
from ..cabinet.looks import charred, snowed
from ..cabinet.mesh import Mesh
from ..document.text import plain_text
from ..errors import SceneError
from .finish import dressing
from .glb import Glb, z_up
from .raster import png_bytes

MOST_SHEET, MOST_VARIANTS, MOST_LEVELS = 2048, 32, 8  # of a kind's file


def kind_glb(
    kind: Kind, look: str = "summer", shape: KindShape | None = None, rough: float = 0.9
) -> bytes:
    """A kind with its variants and levels, near to far (MSFT_lod), its sheet, and what Sow knows of
    it in `extras`. `kind_of_glb` reads it back.
    """
    out, shape = Glb(), shape or kind.shape(look)
    out.doc["scenes"][0]["name"] = kind.label
    out.uses("MSFT_lod")
    sheet = None
    if any((m.uv >= 0).any() for v in shape.levels for m in v):
        sheet = out.texture(png_bytes(shape.sheet), kind.name)
    dress = dressing(out, kind, kind.name, sheet, Finish(rough))
    for v, levels in enumerate(shape.levels):
        meshes = [out.meshes(f"variant {v} level {k}", dress(m)) for k, m in enumerate(levels)]
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
            "finish": [[f.rough, f.metal, f.glass] for f in kind.finish],
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
        shapes = {"summer": KindShape(levels, sheet, tuple(facts["far_m"]))}
        for m in (m for row in levels for m in row):
            _sound(m)
    except Exception as e:
        why = str(e)[:80] if type(e) is ValueError else "its parts do not fit together"
        raise SceneError(
            f"The model of a kind is damaged: {why}.",
            "kind",
            "Bring its file in again.",
        ) from None

    def make(look: str) -> KindShape:
        if look not in shapes:
            whole = shapes["summer"]
            shapes[look] = KindShape(
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
        finish=told["finish"],
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
        "finish": tuple(
            Finish(*(float(np.clip(v, 0, 1)) for v in (rough, metal, glass)))
            for rough, metal, glass in facts.get("finish", [])
        ),
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
