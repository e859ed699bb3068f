"""Scenes and their history.

One edit is one transaction and one revision; nothing is overwritten.
"""

import json
from dataclasses import dataclass
from typing import Any

from playhouse.db_url import connect
from playhouse.pool import PooledPostgresqlDatabase

from .migrations import migrate
from .models import Revision, SceneRow, database


class Missing(KeyError):
    """No such scene or revision."""


class Stale(Exception):
    """The edit was made on a revision that is no longer the head."""


def open_store(url: str) -> None:
    """Connects the tables to the database at `url` and brings them up to date."""
    parts = connect(url, unquote_password=True)
    pool = PooledPostgresqlDatabase(
        parts.database, max_connections=24, stale_timeout=60, timeout=10, **parts.connect_params
    )
    database.initialize(pool)
    with database.connection_context():
        migrate()
    pool.close_all()  # no connection is carried over a fork


@dataclass
class StoredScene:
    """What a page needs to know of a scene."""

    id: int
    name: str
    revision: int
    document: dict
    label: str
    kept: str
    undo: str | None
    redo: str | None
    steps: int

    @staticmethod
    def of(row: SceneRow) -> "StoredScene":
        """The state at a revision."""
        head = Revision.get_by_id(row.head)
        after = _after(row)
        return StoredScene(
            row.id,
            row.name,
            head.id,
            head.document,
            head.label,
            head.made.isoformat() + "Z",
            head.label if head.parent else None,
            after.label if after else None,
            Revision.select().where(Revision.scene == row.id).count(),
        )


def _after(row: SceneRow) -> Revision | None:
    """The revision that redo goes to: on the way from the head to the tip."""
    if row.tip == row.head:
        return None
    found = Revision.raw(
        """WITH RECURSIVE up AS (SELECT * FROM revision WHERE id = %s UNION ALL
        SELECT r.* FROM revision r JOIN up ON r.id = up.parent WHERE r.id > %s)
        SELECT * FROM up WHERE parent = %s LIMIT 1""",
        row.tip,
        row.head,
        row.head,
    )
    return next(iter(found), None)


def _locked(scene_id: int) -> SceneRow:
    row = SceneRow.select().where(SceneRow.id == scene_id).for_update().first()
    if row is None:
        raise Missing(scene_id)
    return row


def create(document: dict, label: str = "New scene", sample: str | None = None) -> StoredScene:
    """A new scene with its first revision; gives its state."""
    with database.atomic():
        row = SceneRow.create(name=document["name"], sample=sample)
        first = Revision.create(scene=row, label=label, document=document)
        row.head = row.tip = first.id
        row.save()
        return StoredScene.of(row)


def heads_with(text: str) -> list[tuple[int, str, dict]]:
    """Number, name and document of the scenes whose head holds a text."""
    rows = database.execute_sql(
        "SELECT s.id, s.name, r.document FROM scene s JOIN revision r ON r.id = s.head "
        "WHERE position(%s in r.document::text) > 0 ORDER BY s.name",
        (f'"{text}"',),
    ).fetchall()
    return [
        (i, name, document if isinstance(document, dict) else json.loads(document))
        for i, name, document in rows
    ]


def listed() -> list[dict]:
    """Every scene, newest edit first."""
    rows: Any = (
        SceneRow.select(SceneRow, Revision.made.alias("kept"))
        .join(Revision, on=(Revision.id == SceneRow.head))
        .order_by(Revision.made.desc())
        .dicts()
    )
    return [
        {
            "id": r["id"],
            "name": r["name"],
            "kept": r["kept"].isoformat() + "Z",
            "sample": r["sample"],
        }
        for r in rows
    ]


def state(scene_id: int) -> StoredScene:
    """A scene at its head. Raises Missing."""
    row = SceneRow.get_or_none(SceneRow.id == scene_id)
    if row is None:
        raise Missing(scene_id)
    return StoredScene.of(row)


def put_on(row: SceneRow, base: int, document: dict, label: str) -> StoredScene:
    """A new revision on `base`, which must be the head of this locked row.

    Raises Stale when another edit came first.
    """
    if row.head != base:
        raise Stale(row.head)
    new = Revision.create(scene=row, parent=row.head, label=label[:120], document=document)
    row.head = row.tip = new.id
    row.name = document["name"]
    row.save()
    return StoredScene.of(row)


def edit(scene_id: int, base: int, document: dict, label: str) -> StoredScene:
    """A new revision on `base`, which must be the head.

    Raises Stale when another edit came first.
    """
    with database.atomic():
        return put_on(_locked(scene_id), base, document, label)


def _go(scene_id: int, choose) -> StoredScene:
    with database.atomic():
        row = _locked(scene_id)
        target = choose(row)
        if target is not None:
            row.head = target.id
            row.name = target.document["name"]
            row.save()
        return StoredScene.of(row)


def undo(scene_id: int) -> StoredScene:
    """The head moves to its parent; at the first revision it stays."""
    return _go(
        scene_id,
        lambda row: Revision.get_or_none(Revision.id == Revision.get_by_id(row.head).parent),
    )


def redo(scene_id: int) -> StoredScene:
    """The next revision becomes the head. Raises Missing."""
    return _go(scene_id, _after)


def go_to(scene_id: int, revision: int) -> StoredScene:
    """Any revision of the scene becomes the head; the line to it becomes the one that redo
    follows.
    """

    def choose(row):
        target = Revision.get_or_none((Revision.id == revision) & (Revision.scene == row.id))
        if target is None:
            raise Missing(revision)
        on_line = database.execute_sql(
            """WITH RECURSIVE up AS (SELECT id, parent FROM revision WHERE id = %s UNION ALL
            SELECT r.id, r.parent FROM revision r JOIN up ON r.id = up.parent WHERE r.id >= %s)
            SELECT 1 FROM up WHERE id = %s""",
            (row.tip, target.id, target.id),
        ).fetchone()
        if not on_line:
            row.tip = target.id
        return target

    return _go(scene_id, choose)


def document(scene_id: int, revision: int) -> dict:
    """The document of one revision."""
    row = Revision.get_or_none((Revision.id == revision) & (Revision.scene == scene_id))
    if row is None:
        raise Missing(f"revision {revision}")
    return row.document


def snapshot(scene_id: int, revision: int, name: str, note: str = "") -> None:
    """Gives a revision a name to find it by, and a note; an empty name takes both away."""
    done = (
        Revision.update(snapshot=name[:80] or None, note=note[:2000])
        .where((Revision.id == revision) & (Revision.scene == scene_id))
        .execute()
    )
    if not done:
        raise Missing(revision)


def history(
    scene_id: int, most: int = 60, before: int | None = None, snapshots: bool = False
) -> list[dict]:
    """Revisions, newest first, older than `before`; `current` are those on the way from the first
    revision to the tip.
    """
    row = SceneRow.get_or_none(SceneRow.id == scene_id)
    if row is None:
        raise Missing(scene_id)
    rows = (
        Revision.select(
            Revision.id,
            Revision.parent,
            Revision.label,
            Revision.snapshot,
            Revision.note,
            Revision.made,
        )
        .where(Revision.scene == scene_id)
        .order_by(Revision.id.desc())
        .limit(most)
    )
    if before is not None:
        rows = rows.where(Revision.id < before)
    if snapshots:
        rows = rows.where(Revision.snapshot.is_null(False))
    listed = list(rows)
    line: set[int] = set()
    if listed:
        line = {
            r[0]
            for r in database.execute_sql(
                """WITH RECURSIVE up AS (SELECT id, parent FROM revision WHERE id = %s UNION ALL
            SELECT r.id, r.parent FROM revision r JOIN up ON r.id = up.parent WHERE r.id >= %s)
            SELECT id FROM up""",
                (row.tip, listed[-1].id),
            ).fetchall()
        }
    return [
        {
            "id": r.id,
            "parent": r.parent,
            "label": r.label,
            "snapshot": r.snapshot,
            "note": r.note,
            "made": r.made.isoformat() + "Z",
            "current": r.id in line,
        }
        for r in listed
    ]


def delete(scene_id: int) -> None:
    """Deletes a scene with all its history. Raises Missing."""
    with database.atomic():
        if not SceneRow.delete().where(SceneRow.id == scene_id).execute():
            raise Missing(scene_id)
