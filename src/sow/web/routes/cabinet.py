"""Routes: the cabinet of kinds."""

import json
import struct
from collections.abc import Callable

import numpy as np
from flask import Response, request
from pydantic import Field

from ...core.build import COMPUTING
from ...core.cabinet import grounds, heightmaps, kinds
from ...core.cabinet.draw import picture
from ...core.cabinet.kind import Kind
from ...core.cabinet.mesh import Mesh, turned
from ...core.cabinet.portrait import portrait
from ...core.document.text import file_stem
from ...core.errors import SceneError
from ...core.formats.kind_glb import kind_glb
from ...core.formats.raster import png_bytes
from ...core.judge.kind_nearness import KindNear, kind_nearness
from ...store import parts as kept_parts
from ...store import scenes
from ...store.models import PartRow
from ..api import route
from ..kinds import (
    ExhibitOrder,
    KindAnswer,
    KindFacts,
    KindLine,
    KindOrder,
    ModelAnswer,
    _used,
    fixed,
    keep_exhibit,
    keep_kind,
    keep_model,
    kind_named,
    line_of,
)
from ..shapes.catalogue import NamedItem
from ..shapes.shape import ApiModel, shape_of
from ..working import BYTES, document_of, draw_up
from .ground import NearOrder

FRAMES, FRAME_PX = 16, 150


class FavouriteOrder(ApiModel):
    kind: str
    on: bool


class DrawerOrder(ApiModel):
    name: str = Field(min_length=1, max_length=40)
    kinds: list[str] = Field(default_factory=list, max_length=500)
    part: int | None = Field(None, description="The drawer that is changed; none: a new one.")


class DrawerLine(ApiModel):
    id: int
    name: str
    kinds: list[str]


class CabinetGround(ApiModel):
    name: str
    label: str
    directed: bool
    family: str
    grown: bool


class Cabinet(ApiModel):
    kinds: list[KindLine]
    grounds: list[CabinetGround]
    heightmaps: list[NamedItem]
    drawers: list[DrawerLine]
    left_out: list[str] = Field(description="What could not be shown, in words.")


KindNearLine = shape_of(KindNear, "KindNearLine")


@route("GET", "/api/cabinet", answer=Cabinet)
def cabinet():
    """What the drawers of the cabinet hold, own kinds among them."""
    starred = {p.name for p in kept_parts.of("favourite")}
    left_out: list[str] = []
    own = _each_kept("kind", left_out, lambda p: line_of(_own_kind(p), p.id, starred))
    drawers = _each_kept("drawer", left_out, _drawer)
    return {
        "kinds": [line_of(k, None, starred).model_dump() for k in kinds.values()] + own,
        "grounds": [
            {
                "name": g.name,
                "label": g.label,
                "directed": g.directed,
                "family": g.family,
                "grown": g.grown,
            }
            for g in grounds.values()
        ],
        "heightmaps": [{"name": name, "label": label} for name, label in heightmaps.LABELS.items()],
        "drawers": drawers,
        "left_out": left_out,
    }


def _own_kind(part: PartRow) -> Kind:
    return kind_named(part.document["kind"])


def _drawer(part: PartRow) -> DrawerLine:
    return DrawerLine(id=part.id, name=part.name, kinds=part.document["kinds"])


def _each_kept(sort: str, left_out: list[str], line: Callable[[PartRow], ApiModel]) -> list[dict]:
    """The parts of one sort as lines; one that cannot be shown is named in `left_out`, so that no
    part keeps the others from being seen.
    """
    out = []
    for part in kept_parts.of(sort):
        try:
            out.append(line(part).model_dump())
        except (SceneError, scenes.Missing, ValueError, KeyError, TypeError, AttributeError) as e:
            left_out.append(f"{sort} “{part.name}” ({e!s:.160})")
    return out


@route("GET", "/api/cabinet/kinds/<name>", answer=KindFacts)
def kind_facts(name):
    """What is known of a kind: triangles of its levels, where it is used, and how a model brought
    in was made.
    """
    k = kind_named(name)
    shape = k.shape()
    own = next((p for p in kept_parts.of("kind") if p.document["kind"] == k.name), None)
    starred = {p.name for p in kept_parts.of("favourite")}
    return KindFacts(
        kind=line_of(k, own.id if own else None, starred),
        triangles=[len(m.faces) for m in shape.levels[0]],
        far_m=list(shape.far_m),
        used=_used(k.name),
        settings=own.document["settings"] if own else None,
        source=own.document["source"] if own else "",
        told=own.document.get("told", []) if own else [],
    )


@route("GET", "/api/cabinet/kinds/<name>.png")
def kind_picture(name):
    """A small picture of a kind."""
    drawn = portrait(kind_named(name), request.args.get("look", "summer"))
    return fixed(png_bytes(drawn), "image/png")


@route("GET", "/api/cabinet/kinds/<name>/turning.png")
def kind_turning(name):
    """A kind seen from all sides: 16 pictures side by side, a whole turn."""
    k, look = kind_named(name), request.args.get("look", "summer")

    def draw():
        shape = k.shape(look)
        mesh = shape.levels[0][0]
        side = max(
            2.08 * float(np.hypot(mesh.positions[:, 0], mesh.positions[:, 1]).max()),
            1.04 * float(mesh.positions[:, 2].max()),
        )
        return png_bytes(
            np.hstack(
                [
                    picture(
                        mesh.moved(turned(2 * np.pi * f / FRAMES)),
                        shape.sheet,
                        FRAME_PX,
                        side,
                        side,
                        over=2,
                    )
                    for f in range(FRAMES)
                ]
            )
        )

    return fixed(BYTES.once(f"turning {k.name} {k.look(look)}", draw), "image/png")


@route("GET", "/api/cabinet/kinds/<name>/sheet.png")
def kind_sheet(name):
    """A kind's sheet of leaves, bark and far cards."""
    return fixed(
        png_bytes(kind_named(name).shape(request.args.get("look", "summer")).sheet), "image/png"
    )


@route("GET", "/api/cabinet/kinds/<name>/kind.glb")
def kind_file(name):
    """A kind as GLB with its variants and levels."""
    k = kind_named(name)
    stem = file_stem(k.label.lower(), "kind")
    return Response(
        kind_glb(k, request.args.get("look", "summer")),
        content_type="model/gltf-binary",
        headers={"Content-Disposition": f'attachment; filename="{stem}.glb"'},
    )


@route("GET", "/api/cabinet/kinds/<name>/shape", query=("look",))
def kind_shape(name):
    """A kind's meshes: uint32 length of a JSON head, the head, then the arrays it lists.

    Where it is `finished` each vertex tells how rough, metallic and clear it is.
    """
    k = kind_named(name)
    shape = k.shape(request.args.get("look", "summer"))
    head: dict = {
        "far_m": shape.far_m,
        "family": k.family,
        "height_m": k.height_m,
        "reach_m": k.reach_m,
        "finished": bool(k.finish),
    }
    parts: list[bytes] = []
    at = 0

    def laid(mesh: Mesh) -> dict[str, int]:
        nonlocal at
        place = {"vertices": len(mesh.positions), "indices": int(mesh.faces.size), "at": at}
        for values in _arrays(k, mesh):
            parts.append(np.ascontiguousarray(values).tobytes())
            at += len(parts[-1])
        return place

    head["levels"] = [[laid(mesh) for mesh in variant] for variant in shape.levels]
    head["casts"] = [laid(mesh) for mesh in shape.casts]
    text = json.dumps(head).encode()
    text += b" " * (-len(text) % 4)
    return fixed(struct.pack("<I", len(text)) + text + b"".join(parts), "application/octet-stream")


def _arrays(kind: Kind, mesh: Mesh) -> list[np.ndarray]:
    """What the view takes of a mesh, in its order."""
    count = len(mesh.positions)
    leafy = 0.0 if kind.family in ("stone", "figure", "thing", "wood") else 1.0
    leaf = np.full(count, leafy) if mesh.leaf is None else mesh.leaf
    arrays = [mesh.positions, mesh.normals, mesh.uv, mesh.colour, leaf.astype(np.float32)]
    if kind.finish:
        table = np.array([(f.rough, f.metal, f.glass) for f in kind.finish], np.float32)
        which = np.zeros(count) if mesh.surface is None else mesh.surface
        arrays.append(table[np.clip(np.rint(which).astype(int), 0, len(table) - 1)])
    return [*arrays, mesh.faces.astype(np.uint32)]


@route("POST", "/api/models", answer=ModelAnswer)
def new_model():
    """Keeps a model to be made a kind.

    Files as a form: one .glb, or one .obj with its .mtl and pictures.
    """
    files = {f.filename or "model": f.read() for _, f in request.files.items(multi=True)}
    name = next((n for n in files if n.lower().endswith((".glb", ".obj"))), next(iter(files), ""))
    if not name:
        raise SceneError(
            "No file was given.", "model", "Give a .glb, or an .obj with its .mtl and pictures."
        )
    return keep_model(name, files)


@route("POST", "/api/models/<source>/kinds", body=KindOrder, answer=KindAnswer)
def new_kind(source, body):
    """Makes a kept model a kind, or makes it anew with other settings, and puts it into the own
    drawer.
    """
    return keep_kind(source, body.settings, body.part)


@route("POST", "/api/exhibits", body=ExhibitOrder, answer=KindAnswer)
def new_exhibit(body):
    """A scene, or a part of one, cut out as a model: a kind that stands in other scenes."""
    return keep_exhibit(body)


@route("POST", "/api/favourites", body=FavouriteOrder)
def favourite(body):
    """Marks a kind as a favourite, or no longer."""
    kept_parts.star(body.kind, body.on)
    return {"kind": body.kind, "on": body.on}


@route("POST", "/api/drawers", body=DrawerOrder, answer=DrawerLine)
def keep_drawer(body):
    """A drawer of one's own with the kinds that lie in it; it is taken away as other parts are."""
    kinds_ = list(dict.fromkeys(kind_named(k).name for k in body.kinds))
    number = (
        kept_parts.change(body.part, "drawer", body.name, {"kinds": kinds_})
        if body.part is not None
        else kept_parts.keep("drawer", body.name, {"kinds": kinds_})
    )
    return DrawerLine(id=number, name=body.name, kinds=kinds_)


@route("POST", "/api/scenes/<int:scene>/kinds-near", body=NearOrder, answer=list[KindNearLine])  # type: ignore[valid-type]
def kinds_near(scene, body):
    """For each kind of the scene how near the shots come, which level that calls for, and what it
    costs.
    """
    build = draw_up(document_of(scene, body))
    with COMPUTING:
        return [KindNearLine(**vars(n)) for n in kind_nearness(build, body.wide_px)]
