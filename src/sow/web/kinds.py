"""Kinds of the cabinet and own ones, as the page gets them."""

from collections.abc import Set

import numpy as np
from flask import Response
from pydantic import Field

from ..core.build import Build
from ..core.cabinet import kind_of, kinds, own_kind
from ..core.cabinet.dressed import Dressed
from ..core.cabinet.kind import GONE, MARK, Kind
from ..core.document.text import Name, plain_text
from ..core.formats.exhibit import Exhibit, exhibit
from ..core.formats.glb import as_raster, from_raster
from ..core.formats.kind_glb import kind_of_glb
from ..core.formats.ownkind import OwnKind, OwnSurface, model_glb
from ..core.scene import read_scene
from ..sandbox import read
from ..store import parts as kept_parts
from ..store import rasters, scenes
from .shapes.shape import ApiModel
from .working import WORK, Stored


class KindLine(ApiModel):
    name: str
    label: str
    family: str
    height_m: float
    reach_m: float
    variants: int
    colour: list[float]
    looks: list[str]
    tags: str
    surfaces: list[str] = Field([], description="Of a model brought in.")
    part: int | None = Field(None, description="Its number in the own drawer.")
    favourite: bool = False
    gone: bool = Field(
        False, description="Its model is not in the store: a bare stake stands for it."
    )


class UsedLine(ApiModel):
    scene: int
    name: str
    where: list[str] = Field(description="Sowings, and “by hand” with the number of pieces.")


class KindFacts(ApiModel):
    kind: KindLine
    triangles: list[int] = Field(description="Of each level, near to far, of the first variant.")
    far_m: list[float]
    used: list[UsedLine]
    settings: dict | None = Field(None, description="Of a model brought in, to change it.")
    source: str = ""
    told: list[str] = []


class ModelAnswer(ApiModel):
    source: str
    name: str
    triangles: int
    size: list[float] = Field(description="In the file's own units and axes.")
    surfaces: list[str]
    cut: list[bool]
    told: list[str]
    settings: dict


class KindOrder(ApiModel):
    settings: OwnKind
    part: int | None = Field(None, description="The own kind that this one replaces.")


class KindAnswer(ApiModel):
    kind: KindLine
    told: list[str]


class ExhibitOrder(ApiModel):
    """Another scene, or an older version of it, as a model that stands in this one."""

    scene: int
    revision: int | None = None
    label: Name = Field(min_length=1, max_length=60)
    cut: Exhibit
    wide_m: float = Field(1.2, ge=0.05, le=5000, description="As wide as it stands.")


def keep_exhibit(order: ExhibitOrder) -> KindAnswer:
    """Makes an exhibit of a scene and puts it into the own drawer as a kind. It shows the scene as
    it was at that version, whatever becomes of it. Raises SceneError.
    """
    document = (
        scenes.state(order.scene).document
        if order.revision is None
        else scenes.document(order.scene, order.revision)
    )
    scene = read_scene(document)
    build = Build(scene, scene.plot.view_grid(), WORK, Stored())
    model = exhibit(build, order.cut)
    name = f"exhibit: {scene.name}"
    source = rasters.keep(as_raster(model_glb(model)), name).hash
    ground = model.parts[0].positions
    across = float(np.ptp(ground[:, :2], axis=0).max())
    settings = OwnKind(
        label=order.label,
        family="thing",
        tags=f"exhibit {scene.name}"[:120],
        up="z",
        scale=order.wide_m / across,
        origin="kept",
        most_triangles=400_000,
        surfaces=[OwnSurface() for _ in model.surfaces],
    )
    return keep_kind(source, settings)


def fixed(data: bytes, kind: str) -> Response:
    """An answer that never changes under its address."""
    return Response(data, content_type=kind, headers={"Cache-Control": "private, max-age=3600"})


def _known(drawer: dict, name: str):
    if name not in drawer:
        raise scenes.Missing(f"“{name}” in the cabinet")
    return drawer[name]


def kind_named(name: str) -> Kind:
    """A kind of the cabinet, or one brought in, from the store.

    Its name may carry a look and a tint.
    """
    base = Dressed.read(name).kind
    plain = base.split(MARK)[0]
    if plain.startswith("own-"):
        own_kind(
            plain,
            lambda: kind_of_glb(from_raster(Stored().load(plain.removeprefix("own-"))), plain),
        )
        return kind_of(base)
    _known(kinds, plain)
    return kind_of(base)


def line_of(k: Kind, part: int | None = None, favourites: Set[str] = frozenset()) -> KindLine:
    """A kind as the cabinet lists it."""
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


def keep_model(name: str, files: dict[str, bytes]) -> ModelAnswer:
    """Reads a model from files and keeps it; gives what was found. Raises SceneError."""
    found = read("model", files, name=name)
    facts = found["facts"]
    stem = plain_text(name.replace("\\", "/").split("/")[-1].rsplit(".", 1)[0])[:60] or "Own kind"
    facts["settings"]["label"] = (
        stem.replace("_", " ").replace("-", " ").strip().capitalize()[:60] or "Own kind"
    )
    return ModelAnswer(
        source=rasters.keep(as_raster(found["glb"]), f"model: {name}").hash, name=stem, **facts
    )


def keep_kind(source: str, settings: OwnKind, part: int | None = None) -> KindAnswer:
    """Makes a kind of a kept model by its settings. Raises SceneError."""
    kept = {"model.glb": from_raster(Stored().load(source))}
    found = read("kind", kept, settings=settings.model_dump())
    told = found["told"]
    name = "own-" + rasters.keep(as_raster(found["glb"]), f"kind: {settings.label}").hash
    document = {"kind": name, "source": source, "settings": settings.model_dump(), "told": told}
    number = (
        kept_parts.change(part, "kind", settings.label, document)
        if part is not None
        else kept_parts.keep("kind", settings.label, document)
    )
    return KindAnswer(kind=line_of(kind_named(name), number), told=told)
