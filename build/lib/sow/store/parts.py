"""Parts of scenes kept in the cabinet's own drawer."""

from .models import Part, database
from .scenes import Missing


def keep(part: str, name: str, document: dict, told: dict | None = None) -> int:
    """Keeps a part in the own drawer, with what is told of it; gives its number."""
    return Part.create(part=part, name=name[:80], document=document, told=told or {}).id


def of(part: str) -> list[Part]:
    """All of one sort, oldest first: "kind", "favourite", "mix", "drawer", or a part of a scene."""
    return list(Part.select().where(Part.part == part).order_by(Part.id))


def change(part_id: int, sort: str, name: str, document: dict) -> int:
    """Replaces a part by another of its sort. Raises Missing when it is none of that sort."""
    found = get(part_id)
    if found.part != sort:
        raise Missing(f"such {sort} in the drawer")
    found.name, found.document = name[:80], document
    found.save()
    return found.id


def star(kind: str, on: bool) -> None:
    """A favourite has its kind for a name."""
    with database.atomic():
        Part.delete().where((Part.part == "favourite") & (Part.name == kind[:80])).execute()
        if on:
            Part.create(part="favourite", name=kind[:80], document={"kind": kind})


def listed() -> list[dict]:
    """Parts of scenes; kinds, favourites and mixes have drawers of their own."""
    return [
        {
            "id": p.id,
            "part": p.part,
            "name": p.name,
            "made": p.made.isoformat() + "Z",
            **p.told,
        }
        for p in Part.select(Part.id, Part.part, Part.name, Part.made, Part.told)
        .where(Part.part.not_in(("kind", "favourite", "mix", "drawer")))
        .order_by(Part.part, Part.name)
    ]


def get(part_id: int) -> Part:
    """A part by its number. Raises Missing."""
    found = Part.get_or_none(Part.id == part_id)
    if found is None:
        raise Missing("such part in the drawer")
    return found


def drop(part_id: int, sort: str | None = None) -> None:
    """Takes a part out, of that sort where one is named. Raises Missing."""
    chosen = Part.id == part_id
    if sort is not None:
        chosen &= Part.part == sort
    if not Part.delete().where(chosen).execute():
        raise Missing(f"such {sort or 'part'} in the drawer")
