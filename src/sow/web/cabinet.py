"""Routes of the cabinet: its kinds with their pictures and shapes, own kinds brought in,
favourites, grounds and heightmaps.
"""

import json
import struct

import numpy as np
from flask import Response, request
from pydantic import Field

from ..core.build import COMPUTING
from ..core.cabinet import grounds, heightmaps, kind_of, kinds, own_ground, own_kind
from ..core.cabinet.draw import picture
from ..core.cabinet.kind import GONE, Kind
from ..core.cabinet.mesh import turned
from ..core.errors import SceneError
from ..core.formats.glb import as_raster, from_raster, kind_glb, kind_of_glb
from ..core.formats.model import read_model
from ..core.formats.ownkind import OwnKind, facts_of, made, model_glb
from ..core.formats.raster import png_bytes
from ..core.planting.nearness import KindNear, kind_nearness
from ..core.shots.sketch import from_above
from ..store import parts as kept_parts
from ..store import rasters, scenes
from . import builds
from .api import route
from .ground import NearOrder
from .shapes import Shape, shape_of

FRAMES, FRAME_PX = 16, 150


class KindLine(Shape):
    name: str
    label: str
    family: str
    height_m: float
    reach_m: float
    variants: int
    colour: list[float]
    looks: list[str]
    tags: str
    surfaces: list[str] = Field(default_factory=list, description="Of a model brought in.")
    part: int | None = Field(None, description="Its number in the own drawer.")
    favourite: bool = False
    gone: bool = Field(
        False, description="Its model is not in the store: a bare stake stands for it."
    )


class UsedLine(Shape):
    scene: int
    name: str
    where: list[str] = Field(description="Sowings, and “by hand” with the number of pieces.")


class KindFacts(Shape):
    kind: KindLine
    triangles: list[int] = Field(description="Of each level, near to far, of the first variant.")
    far_m: list[float]
    used: list[UsedLine]
    settings: dict | None = Field(None, description="Of a model brought in, to change it.")
    source: str = ""
    told: list[str] = []


class ModelAnswer(Shape):
    source: str
    name: str
    triangles: int
    size: list[float] = Field(description="In the file's own units and axes.")
    surfaces: list[str]
    cut: list[bool]
    told: list[str]
    settings: dict


class KindOrder(Shape):
    settings: OwnKind
    part: int | None = Field(None, description="The own kind that this one replaces.")


class KindAnswer(Shape):
    kind: KindLine
    told: list[str]


class FavouriteOrder(Shape):
    kind: str
    on: bool


class DrawerOrder(Shape):
    name: str = Field(min_length=1, max_length=40)
    kinds: list[str] = Field(default_factory=list, max_length=500)
    part: int | None = Field(None, description="The drawer that is changed; none: a new one.")


class DrawerLine(Shape):
    id: int
    name: str
    kinds: list[str]


KindNearLine = shape_of(KindNear, "KindNearLine")


def fixed(data: bytes, kind: str) -> Response:
    return Response(data, content_type=kind, headers={"Cache-Control": "private, max-age=3600"})


def _known(drawer: dict, name: str):
    if name not in drawer:
        raise scenes.Missing(f"“{name}” in the cabinet")
    return drawer[name]


def kind_named(name: str) -> Kind:
    """A kind of the cabinet, or one brought in, from the store.

    Its name may carry a look and a tint.
    """
    base = name.split("~")[0]
    if base.startswith("own-"):
        return own_kind(
            base,
            lambda: kind_of_glb(from_raster(builds.Stored().load(base.removeprefix("own-"))), base),
        )
    _known(kinds, base)
    return kind_of(base)


def line_of(k: Kind, part: int | None = None, favourites: set = frozenset()) -> KindLine:
    return KindLine(
        name=k.name,
        label=k.label,
        family=k.family,
        height_m=k.height_m,
        reach_m=k.reach_m,
        variants=len(k.variants),
        colour=list(k.colour),
        looks=list(k.looks),
        tags=k.tags if k.tags != GONE else "",
        surfaces=list(k.surfaces),
        part=part,
        favourite=k.name in favourites,
        gone=k.tags == GONE,
    )


@route("GET", "/api/cabinet")
def cabinet():
    """What the drawers of the cabinet hold, own kinds among them."""
    starred = {p.name for p in kept_parts.of("favourite")}
    own = [(p.id, kind_named(p.document["kind"])) for p in kept_parts.of("kind")]
    return {
        "kinds": [line_of(k, None, starred).model_dump() for k in kinds.values()]
        + [line_of(k, i, starred).model_dump() for i, k in own],
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
        "drawers": [
            DrawerLine(id=p.id, name=p.name, kinds=p.document["kinds"]).model_dump()
            for p in kept_parts.of("drawer")
        ],
    }


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


def _used(name: str) -> list[UsedLine]:
    """The scenes whose head uses a kind."""
    out = []
    for scene, title, document in scenes.heads_with(name):
        where = [
            s["name"]
            for s in document.get("planting", [])
            if any(p["kind"] == name for p in s["mix"])
        ]
        pieces = sum(p["kind"] == name for p in document.get("pieces", []))
        if where or pieces:
            out.append(
                UsedLine(
                    scene=scene, name=title, where=where + ([f"{pieces} by hand"] if pieces else [])
                )
            )
    return out


@route("GET", "/api/cabinet/kinds/<name>.png")
def kind_picture(name):
    """A small picture of a kind."""
    shape = kind_named(name).shape(request.args.get("look", "summer"))
    mesh = shape.levels[0][0]
    side = max(
        2.08 * float(np.abs(mesh.positions[:, :2]).max()), 1.04 * float(mesh.positions[:, 2].max())
    )
    drawn = picture(mesh, shape.sheet, 96, side, side)
    top = int(np.argmax(drawn[..., 3].any(axis=1)))
    return fixed(png_bytes(drawn[min(top, 60) :]), "image/png")


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

    return fixed(builds.BYTES.once(f"turning {k.name} {k.look(look)}", draw), "image/png")


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
    return Response(
        kind_glb(k, request.args.get("look", "summer")),
        content_type="model/gltf-binary",
        headers={
            "Content-Disposition": f'attachment; filename="{k.label.lower().replace(" ", "-")}.glb"'
        },
    )


@route("GET", "/api/cabinet/kinds/<name>/shape")
def kind_shape(name):
    """A kind's meshes: uint32 length of a JSON head, the head, then the arrays it lists."""
    k = kind_named(name)
    shape = k.shape(request.args.get("look", "summer"))
    head = {
        "far_m": shape.far_m,
        "family": k.family,
        "height_m": k.height_m,
        "reach_m": k.reach_m,
        "levels": [],
    }
    parts = []
    at = 0
    leafy = 0.0 if k.family in ("stone", "figure", "thing", "wood") else 1.0
    for variant in shape.levels:
        row = []
        for mesh in variant:
            entry = {"vertices": len(mesh.positions), "indices": int(mesh.faces.size), "at": at}
            leaf = (
                np.full(len(mesh.positions), leafy, np.float32) if mesh.leaf is None else mesh.leaf
            )
            for values in (
                mesh.positions,
                mesh.normals,
                mesh.uv,
                mesh.colour,
                np.float32(leaf),
                np.uint32(mesh.faces),
            ):
                parts.append(np.ascontiguousarray(values).tobytes())
                at += len(parts[-1])
            row.append(entry)
        head["levels"].append(row)
    text = json.dumps(head).encode()
    text += b" " * (-len(text) % 4)
    return fixed(struct.pack("<I", len(text)) + text + b"".join(parts), "application/octet-stream")


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


def keep_model(name: str, files: dict[str, bytes]) -> ModelAnswer:
    model = read_model(files[name], name, {n: d for n, d in files.items() if n != name})
    data = model_glb(model)
    facts = facts_of(
        read_model(data, "model.glb")
    )  # as it will be read from the store, with its surfaces in that order
    facts["told"] = model.told + facts["told"]
    stem = name.replace("\\", "/").split("/")[-1].rsplit(".", 1)[0][:60] or "Own kind"
    facts["settings"]["label"] = (
        stem.replace("_", " ").replace("-", " ").strip().capitalize()[:60] or "Own kind"
    )
    return ModelAnswer(
        source=rasters.keep(as_raster(data), f"model: {name}").hash, name=stem, **facts
    )


@route("POST", "/api/models/<source>/kinds", body=KindOrder, answer=KindAnswer)
def new_kind(source, body):
    """Makes a kept model a kind, or makes it anew with other settings, and puts it into the own
    drawer.
    """
    return keep_kind(source, body.settings, body.part)


def keep_kind(source: str, settings: OwnKind, part: int | None = None) -> KindAnswer:
    model = read_model(from_raster(builds.Stored().load(source)), "model.glb")
    data, told = made(model, settings)
    name = "own-" + rasters.keep(as_raster(data), f"kind: {settings.label}").hash
    document = {"kind": name, "source": source, "settings": settings.model_dump(), "told": told}
    number = (
        kept_parts.change(part, settings.label, document)
        if part is not None
        else kept_parts.keep("kind", settings.label, document)
    )
    return KindAnswer(kind=line_of(kind_named(name), number), told=told)


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
        kept_parts.change(body.part, body.name, {"kinds": kinds_})
        if body.part is not None
        else kept_parts.keep("drawer", body.name, {"kinds": kinds_})
    )
    return DrawerLine(id=number, name=body.name, kinds=kinds_)


@route("POST", "/api/scenes/<int:scene>/kinds-near", body=NearOrder, answer=list[KindNearLine])
def kinds_near(scene, body):
    """For each kind of the scene how near the shots come, which level that calls for, and what it
    costs.
    """
    build = builds.draw_up(builds.document_of(scene, body))
    with COMPUTING:
        return [KindNearLine(**vars(n)) for n in kind_nearness(build, body.wide_px)]


@route("GET", "/api/cabinet/grounds/<name>.png")
def ground_picture(name):
    """A small picture of a ground."""
    return fixed(png_bytes(_known(grounds, name).maps()[0][::4, ::4, :3]), "image/png")


@route("GET", "/api/cabinet/grounds/<name>/maps")
def ground_maps(name):
    """Colour with height, then detail: two RGBA pictures of 512 x 512, raw."""
    return fixed(_drawn_ground(_known(grounds, name)), "application/octet-stream")


def _drawn_ground(ground) -> bytes:
    """The two pictures as the view draws them: in the first the height stands as its rank."""
    colour, detail = ground.maps()
    return np.dstack([colour[..., :3], ground.ranks()]).tobytes() + detail.tobytes()


@route("GET", "/api/textures/<name>/maps")
def own_texture(name):
    """A texture set that was brought in, as the cabinet's grounds are given."""
    return fixed(
        _drawn_ground(own_ground(name, lambda: builds.Stored().load(name))),
        "application/octet-stream",
    )


@route("GET", "/api/cabinet/heightmaps/<name>.png")
def heightmap_picture(name):
    """A small shaded picture of a ready heightmap."""
    _known(heightmaps.LABELS, name)
    return fixed(
        png_bytes(from_above(heightmaps.ready(name) * np.float32(170), 2.0, size=96)), "image/png"
    )
