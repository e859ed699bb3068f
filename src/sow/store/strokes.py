"""Strokes under way: kept chunk by chunk as they come, so that a crash loses only what was never
acknowledged.
"""

from .models import Chunk, database
from .scenes import State, _locked, put_on


def keep_chunk(
    scene: int, session: str, seq: int, base: int, entry: str, brush: dict, points: list
) -> None:
    """Acknowledged once this returns. A chunk that came already is not kept twice."""
    with database.atomic():
        _locked(scene)
        Chunk.insert(
            scene=scene,
            session=session,
            seq=seq,
            base=base,
            entry=entry,
            brush=brush,
            points=points,
        ).on_conflict_ignore().execute()


def under_way(scene: int, session: str | None = None) -> dict[str, dict]:
    """Strokes that were not ended, by session: base, entry, brush, points in order, and the next
    number awaited.
    """
    rows = Chunk.select().where(Chunk.scene == scene).order_by(Chunk.session, Chunk.seq)
    if session:
        rows = rows.where(Chunk.session == session)
    out: dict[str, dict] = {}
    for c in rows:
        s = out.setdefault(
            c.session, {"base": c.base, "entry": c.entry, "brush": c.brush, "points": [], "next": 0}
        )
        s["points"] += c.points
        s["next"] = c.seq + 1
    return out


def end(scene: int, session: str, document: dict, label: str, base: int) -> State:
    """The stroke becomes one revision, and its chunks go, in one transaction.

    Raises Stale when another edit came first.
    """
    with database.atomic():
        state = put_on(_locked(scene), base, document, label)
        Chunk.delete().where((Chunk.scene == scene) & (Chunk.session == session)).execute()
        return state


def drop(scene: int, session: str) -> None:
    """The chunks of a stroke that is given up."""
    Chunk.delete().where((Chunk.scene == scene) & (Chunk.session == session)).execute()
