"""How the surfaces of a kind shine, as materials of a glTF file."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from ..cabinet.kind import Finish, Kind
from ..cabinet.mesh import Mesh
from .glb import Glb

Dress = Callable[[Mesh], list[dict]]
CLEAR = 0.4  # opacity under which a sheet's texels are cut out


def finished_look(out: Glb, finish: Finish) -> dict[str, Any]:
    """The values of a material that a finish sets, its extensions named in the file."""
    look: dict[str, Any] = {
        "pbrMetallicRoughness": {
            "metallicFactor": round(finish.metal, 4),
            "roughnessFactor": round(finish.rough, 4),
        }
    }
    if finish.glass:
        out.uses("KHR_materials_transmission")
        transmission = {"transmissionFactor": round(finish.glass, 4)}
        look["extensions"] = {"KHR_materials_transmission": transmission}
    return look


def dressing(
    out: Glb,
    kind: Kind,
    name: str,
    sheet: int | None,
    usual: Finish,
    factor: list[float] | None = None,
) -> Dress:
    """What makes primitives of the kind's meshes: a material for each of its surfaces, twice where
    part of it lies on the kind's picture (`sheet` is that texture). A surface of no finish of its
    own has the `usual` one; `factor` tints all of them.
    """

    def pair(label: str, finish: Finish) -> tuple[int, int | None]:
        look = finished_look(out, finish)
        if factor is not None:
            look["pbrMetallicRoughness"]["baseColorFactor"] = factor
        plain = out.material(name=label, doubleSided=True, **look)
        if sheet is None:
            return plain, None
        pictured = {**look["pbrMetallicRoughness"], "baseColorTexture": {"index": sheet}}
        return plain, out.material(
            name=f"{label} sheet",
            doubleSided=True,
            alphaMode="MASK",
            alphaCutoff=CLEAR,
            **{**look, "pbrMetallicRoughness": pictured},
        )

    if not kind.finish:
        whole = pair(name, usual)
        return lambda mesh: out.dress(mesh, *whole)
    pairs = [pair(f"{name}: {s}", f) for s, f in zip(kind.surfaces, kind.finish)]
    rest = pair(name, usual)

    def dress(mesh: Mesh) -> list[dict]:
        if mesh.surface is None:
            return out.dress(mesh, *rest)
        of = mesh.surface[mesh.faces[:, 0]].astype(int)
        made = []
        for number in np.unique(of):
            part = replace(mesh, faces=mesh.faces[of == number])
            materials = pairs[number] if 0 <= number < len(pairs) else rest
            made += out.dress(part, *materials)
        return made

    return dress
