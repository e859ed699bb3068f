"""What the conditions of a scene refer to, what of it is missing, and circles among them."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any


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


def _wheres(scene: Any) -> Iterator[tuple[str, Any, Any]]:
    for name, entries in (
        ("land", scene.land),
        ("beyond.land", scene.beyond.land),
        ("ground", scene.ground),
        ("beyond.ground", scene.beyond.ground),
        ("planting", scene.planting),
        ("marks", scene.marks),
    ):
        for i, entry in enumerate(entries):
            for k, c in enumerate(getattr(entry, "where", [])):
                yield f"{name}.{i}.where.{k}", entry, c
            for j, part in enumerate(getattr(entry, "mix", [])):
                for k, c in enumerate(part.where):
                    yield f"{name}.{i}.mix.{j}.where.{k}", entry, c
            for j, stroke in enumerate(getattr(entry, "strokes", [])):
                for k, c in enumerate(stroke.where):
                    yield f"{name}.{i}.strokes.{j}.where.{k}", entry, c


def references(scene: Any) -> list[Reference]:
    """Every id that a condition names, from its fields' own schema (`mark` or `entry`)."""
    out = []
    for path, entry, c in _wheres(scene):
        for name, f in type(c).model_fields.items():
            sow = (f.json_schema_extra or {}).get("sow", {})
            kind = "marks" if "mark" in sow else sow.get("entry")
            value = getattr(c, name)
            if kind and (value or "none" not in sow):
                out.append(Reference(path, entry.name, entry.id, name, kind, value))
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
