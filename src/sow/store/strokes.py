"""Strokes under way: kept chunk by chunk as they come, so that a crash loses only what was never
acknowledged.
"""

from dataclasses import dataclass

from peewee import fn

from .models import Chunk, database
from .scenes import StoredScene, _locked, put_on


class OutOfOrder(Exception):
    """A part of a stroke that does not follow on those that were kept; the text says how."""


@dataclass
class UnderWay:
    """A stroke that was not ended: what it was begun on, its brush, its points in order, the number
    of the part awaited next, and, when it could not be applied, why.
    """

    base: int
    entry: str
    brush: dict
    points: list
    next: int = 0
    aside: str | None = None


def keep_chunk(
    scene: int, session: str, seq: int, base: int, entry: str, brush: dict, points: list
) -> bool:
    """Keeps a part of a stroke; acknowledged once this returns. False when it was kept already.

    Raises OutOfOrder, and keeps nothing, when a part before it is missing, another part has its
    number, or the stroke was begun on something else.
    """
    mine = (Chunk.scene == scene) & (Chunk.session == session)
    with database.atomic():
        _locked(scene)
        same = Chunk.get_or_none(mine & (Chunk.seq == seq))
        if same is not None:
            if same.points != points:
                raise OutOfOrder(f"Part {seq} of this stroke was kept already, and was another.")
            return False
        awaited = Chunk.select(fn.max(Chunk.seq)).where(mine).scalar()
        awaited = 0 if awaited is None else awaited + 1
        if seq != awaited:
            raise OutOfOrder(f"Part {seq} of this stroke came before part {awaited}.")
        first = Chunk.get_or_none(mine & (Chunk.seq == 0))
        if first is not None and (first.base, first.entry, first.brush) != (base, entry, brush):
            raise OutOfOrder("This stroke was begun with another brush, or on something else.")
        Chunk.create(
            scene=scene,
            session=session,
            seq=seq,
            base=base,
            entry=entry,
            brush=brush,
            points=points,
        )
        return True


def under_way(scene: int, session: str | None = None) -> dict[str, UnderWay]:
    """Strokes that were not ended, by session, those set aside too."""
    rows = Chunk.select().where(Chunk.scene == scene).order_by(Chunk.session, Chunk.seq)
    if session is not None:
        rows = rows.where(Chunk.session == session)
    out: dict[str, UnderWay] = {}
    for c in rows:
        stroke = out.setdefault(c.session, UnderWay(c.base, c.entry, c.brush, [], aside=c.aside))
        stroke.points += c.points
        stroke.next = c.seq + 1
    return out


def end(scene: int, session: str, document: dict, label: str, base: int) -> StoredScene:
    """The stroke becomes one revision, and its chunks go, in one transaction.

    Raises Stale when another edit came first.
    """
    with database.atomic():
        state = put_on(_locked(scene), base, document, label)
        drop(scene, session)
        return state


def set_aside(scene: int, session: str, why: str) -> None:
    """Keeps a stroke that cannot be applied, with the reason."""
    mine = (Chunk.scene == scene) & (Chunk.session == session)
    Chunk.update(aside=why[:400]).where(mine).execute()


def drop(scene: int, session: str) -> int:
    """Takes the chunks of a stroke away; gives how many there were."""
    return Chunk.delete().where((Chunk.scene == scene) & (Chunk.session == session)).execute()
