"""Parts of scenes kept in the cabinet's own drawer."""
from .models import Part
from .scenes import Missing


def keep(part: str, name: str, document: dict) -> int:
    return Part.create(part=part, name=name[:80], document=document).id


def listed() -> list[dict]:
    return [{"id": p.id, "part": p.part, "name": p.name, "made": p.made.isoformat() + "Z"} for p in Part.select(Part.id, Part.part, Part.name, Part.made).order_by(Part.part, Part.name)]


def get(part_id: int) -> Part:
    found = Part.get_or_none(Part.id == part_id)
    if found is None:
        raise Missing("such part in the drawer")
    return found


def drop(part_id: int) -> None:
    if not Part.delete().where(Part.id == part_id).execute():
        raise Missing("such part in the drawer")
