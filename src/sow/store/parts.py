"""Parts of scenes kept in the cabinet's own drawer."""

from .models import PartRow, database
from .scenes import Missing


def keep(part: str, name: str, document: dict, told: dict | None = None) -> int:
    """Keeps a part in the own drawer, with what is told of it; gives its number."""
    return PartRow.create(part=part, name=name[:80], document=document, told=told or {}).id


def of(part: str) -> list[PartRow]:
    """All of one sort, oldest first: "kind", "favourite", "mix", "drawer", or a part of a scene."""
    return list(PartRow.select().where(PartRow.part == part).order_by(PartRow.id))


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
        PartRow.delete().where(
            (PartRow.part == "favourite") & (PartRow.name == kind[:80])
        ).execute()
        if on:
            PartRow.create(part="favourite", name=kind[:80], document={"kind": kind})


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
        for p in PartRow.select(PartRow.id, PartRow.part, PartRow.name, PartRow.made, PartRow.told)
        .where(PartRow.part.not_in(("kind", "favourite", "mix", "drawer")))
        .order_by(PartRow.part, PartRow.name)
    ]


def get(part_id: int) -> PartRow:
    """A part by its number. Raises Missing."""
    found = PartRow.get_or_none(PartRow.id == part_id)
    if found is None:
        raise Missing("such part in the drawer")
    return found


def drop(part_id: int, sort: str | None = None) -> None:
    """Takes a part out, of that sort where one is named. Raises Missing."""
    chosen = PartRow.id == part_id
    if sort is not None:
        chosen &= PartRow.part == sort
    if not PartRow.delete().where(chosen).execute():
        raise Missing(f"such {sort or 'part'} in the drawer")
