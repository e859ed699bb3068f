"""What the parts of a scene refer to, by their fields' own schema; what of it is missing, and
circles among conditions.
"""

import functools
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel

RASTERS = "rasters"
OWN_KIND = "own-"  # begins the name of a kind that was brought in; its raster follows
AS_RASTERS = ("file", "raster", "texture", "picture")  # facts of fields that name a raster


@dataclass(frozen=True)
class Named:
    """What one field names: the list of the scene and the id in it, or "rasters" and a raster's
    name. `path` leads to the field; `none` is true where it may be empty.
    """

    path: str
    field: str
    list: str
    id: str
    none: bool


@functools.cache
def _naming(model: type[BaseModel]) -> tuple[list[tuple[str, str, bool]], list[str]]:
    """Fields of a model that name something (with the list that they name, and whether they may be
    empty), and those that may hold models of their own.
    """
    names: list[tuple[str, str, bool]] = []
    holds: list[str] = []
    for name, info in model.model_fields.items():
        extra = info.json_schema_extra
        facts: Any = extra.get("sow", {}) if isinstance(extra, dict) else {}
        if "mark" in facts:
            names.append((name, "marks", "none" in facts))
        elif facts.get("entry"):
            names.append((name, facts["entry"], "none" in facts))
        elif any(fact in facts for fact in AS_RASTERS):
            names.append((name, RASTERS, True))
        elif facts.get("drawer") == "kind":
            names.append((name, OWN_KIND, True))
        elif info.annotation not in (str, float, int, bool):
            holds.append(name)
    return names, holds


def named_in(value: Any, path: str = "", aside: Collection[str] = ()) -> Iterator[Named]:
    """Everything that a model, or the models within it, name; the fields `aside` are left out."""
    if isinstance(value, (list, tuple)):
        for i, item in enumerate(value):
            yield from named_in(item, f"{path}{i}.")
        return
    if not isinstance(value, BaseModel):
        return
    names, holds = _naming(type(value))
    for name, list_, none in names:
        id_ = getattr(value, name)
        if name in aside or not isinstance(id_, str):
            continue
        if list_ != OWN_KIND:
            yield Named(f"{path}{name}", name, list_, id_, none)
        elif id_.startswith(OWN_KIND):
            yield Named(f"{path}{name}", name, RASTERS, id_.removeprefix(OWN_KIND), none)
    for name in holds:
        if name not in aside:
            yield from named_in(getattr(value, name), f"{path}{name}.")


@dataclass(frozen=True)
class Reference:
    """One condition's reference: where it stands in the document, whose it is, its field, and the
    list and id that it names.
    """

    path: str
    owner: str
    owner_id: str
    field: str
    list: str
    id: str


def references(scene: Any) -> list[Reference]:
    """Every id that a condition names."""
    out = []
    for name, entries in (
        ("land", scene.land),
        ("beyond.land", scene.beyond.land),
        ("ground", scene.ground),
        ("beyond.ground", scene.beyond.ground),
        ("planting", scene.planting),
        ("marks", scene.marks),
    ):
        for i, entry in enumerate(entries):
            for n in named_in(entry, f"{name}.{i}."):
                way = n.path.split(".")
                if "where" not in way or n.list == RASTERS or (n.none and not n.id):
                    continue
                place = n.path.rpartition(".")[0]
                out.append(Reference(place, entry.name, entry.id, n.field, n.list, n.id))
    return out


def missing(scene: Any) -> list[tuple[Reference, str]]:
    """References to what is not in the scene, each with a sentence.

    Such a condition asks nothing until it is mended.
    """
    ids = {
        "marks": {m.id for m in scene.marks},
        "land": {e.id for e in [*scene.land, *scene.beyond.land]},
        "ground": {m.id for m in [*scene.ground, *scene.beyond.ground]},
        "planting": {s.id for s in scene.planting},
        "pieces": {p.id for p in scene.pieces},
        "shots": {s.id for s in scene.shots},
    }
    words = {
        "marks": "mark",
        "land": "landform",
        "ground": "material",
        "planting": "sowing",
        "pieces": "piece",
        "shots": "shot",
    }
    return [
        (
            r,
            f"A condition of “{r.owner}” names "
            + (f"a {words[r.list]} that is gone" if r.id else f"no {words[r.list]} yet")
            + "; it asks nothing until one is chosen.",
        )
        for r in references(scene)
        if r.id not in ids.get(r.list, {r.id})
    ]


def circle(scene: Any) -> list[str] | None:
    """The names along a circle of materials or of sowings that look at one another, first and last
    the same; or, where one looks at a later one, the two names. None when all look back.
    """
    for name, entries in (
        ("ground", scene.ground),
        ("ground", scene.beyond.ground),
        ("planting", scene.planting),
    ):
        order = {e.id: i for i, e in enumerate(entries)}
        sees: dict[str, list[str]] = {}
        for r in references(scene):
            if r.list == name and r.owner_id in order and r.id in order:
                sees.setdefault(r.owner_id, []).append(r.id)
        names = {e.id: e.name for e in entries}
        for start in order:
            way, seen = [(start, [start])], set()
            while way:
                at, path = way.pop()
                for next_ in sees.get(at, []):
                    if next_ == start:
                        return [names[i] for i in [*path, start]]
                    if next_ not in seen:
                        seen.add(next_)
                        way.append((next_, [*path, next_]))
        for owner, found in sees.items():
            for other in found:
                if order[other] > order[owner]:
                    return [names[owner], names[other]]
    return None
