"""A kind of the cabinet as files: its levels, its nearest build, its sheet, its measures."""

import json
from pathlib import Path

import numpy as np

from ..cabinet import kind_of
from ..cabinet.kind import Kind, srgb_bytes
from ..cabinet.measures import MEASURES, measured
from ..errors import SceneError
from ..picture.kind_sheet import TURNS, kind_sheet, sheet_png
from .glb import Glb
from .kind_glb import kind_glb
from .raster import png_bytes

REPEATS = 10497  # glTF's sampler that lays a picture side by side


def nearest_glb(kind: Kind, variant: int = 0, look: str = "summer") -> bytes:
    """A kind as stills see it near, leaf by leaf, with a material for each of its stuffs. Raises
    SceneError for a kind that has no such build.
    """
    if kind.nearest is None:
        raise SceneError(f"{kind.label} is not built leaf by leaf.", "kind")
    out = Glb()
    out.doc["scenes"][0]["name"] = kind.label
    out.doc["samplers"][0] |= {"wrapS": REPEATS, "wrapT": REPEATS}
    primitives = []
    for k, part in enumerate(kind.parts(variant, look)):
        mesh = part.mesh
        facts: dict = {"metallicFactor": 0, "roughnessFactor": part.rough}
        if part.picture is not None:
            png = png_bytes(srgb_bytes(part.picture))
            facts["baseColorTexture"] = {"index": out.texture(png, f"{kind.name} {k}")}
        material = out.material(
            name=f"{kind.name} {k}", pbrMetallicRoughness=facts, doubleSided=True
        )
        pictured = part.picture is not None
        primitives.append(
            out.primitive(
                mesh.positions,
                mesh.normals,
                mesh.uv if pictured else None,
                None if pictured else mesh.colour,
                mesh.faces,
                material,
            )
        )
    out.node(name=kind.name, mesh=out.meshes(kind.name, primitives))
    return out.data()


def told_of(kind: Kind) -> dict:
    """Triangles of a kind's levels, and its measures beside those in nature."""
    shape = kind.shape()
    told: dict = {"label": kind.label, "triangles": [len(m.faces) for m in shape.levels[0]]}
    if kind.nearest is not None:
        told["triangles_nearest"] = int(sum(len(p.mesh.faces) for p in kind.parts(0)))
    if kind.name in MEASURES:
        told["source"] = MEASURES[kind.name].source
        told["measures"] = [
            {
                "name": m.name,
                "grown_m": round(m.grown, 4),
                "in_nature_m": list(m.range),
                "outside_by": round(m.off, 3),
            }
            for m in measured(kind)
        ]
    return told


def write_kind(
    name: str, out: Path, look: str = "summer", px: int = 360, turns: int = TURNS
) -> list[str]:
    """Writes a kind's files into a folder and gives their names; its sheet shows it at so many
    turns, each `px` wide. Raises SceneError when there is no such kind.
    """
    kind = kind_of(name)
    files: dict[str, bytes] = {f"{name}.glb": kind_glb(kind, kind.look(look))}
    if kind.nearest is not None:
        files[f"{name}-nearest.glb"] = nearest_glb(kind, 0, look)
    files[f"{name}.png"] = sheet_png(np.ascontiguousarray(kind_sheet(name, look, px, turns)))
    files[f"{name}.json"] = (json.dumps(told_of(kind), indent=1) + "\n").encode()
    out.mkdir(parents=True, exist_ok=True)
    for file, data in files.items():
        (out / file).write_bytes(data)
    return list(files)
