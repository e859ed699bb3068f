"""What history costs on the disk, and how it is made smaller."""

import datetime
from dataclasses import dataclass

from .models import Raster, Revision, SceneRow, database, now
from .scenes import Missing, _locked

HASH = "[0-9a-f]{64}"
GRACE = datetime.timedelta(
    hours=1
)  # a raster that came this lately may belong to an edit that is still on its way


@dataclass
class Usage:
    """Bytes as they lie in the store."""

    revisions: int
    snapshots: int
    documents: int
    rasters: int
    database: int


def usage(scene_id: int) -> Usage:
    """What one scene's history holds; tiles shared with other scenes count for each of them."""
    if not SceneRow.get_or_none(SceneRow.id == scene_id):
        raise Missing(scene_id)
    count, named, documents = database.execute_sql(
        "SELECT count(*), count(snapshot), coalesce(sum(pg_column_size(document)), 0) FROM "
        "revision WHERE scene_id = %s",
        (scene_id,),
    ).fetchone()
    rasters = database.execute_sql(
        f"""WITH used AS (
            SELECT DISTINCT (regexp_matches(document::text, '{HASH}', 'g'))[1] AS hash
            FROM revision WHERE scene_id = %s
        ), parts AS (
            SELECT DISTINCT jsonb_array_elements_text(tiles) AS hash
            FROM raster WHERE hash IN (SELECT hash FROM used)
        )
        SELECT coalesce(sum(octet_length(data)), 0)
        FROM tile WHERE hash IN (SELECT hash FROM parts)""",
        (scene_id,),
    ).fetchone()[0]
    return Usage(
        count,
        named,
        int(documents),
        int(rasters),
        database.execute_sql("SELECT pg_database_size(current_database())").fetchone()[0],
    )


def prune(scene_id: int, keep: int) -> int:
    """Takes away all but the newest `keep` revisions, the snapshots, the head and the tip; gives
    how many went.

    A revision whose parent goes is hung on the nearest older one that stays, so undo still leads
    through what is left. Rasters and tiles that nothing refers to any more go too.
    """
    with database.atomic():
        row = _locked(scene_id)
        parents: dict[int, int | None] = {}
        stay = {r for r in (row.head, row.tip) if r is not None}
        for r in (
            Revision.select(Revision.id, Revision.parent, Revision.snapshot)
            .where(Revision.scene == scene_id)
            .order_by(Revision.id)
        ):
            parents[r.id] = r.parent
            if r.snapshot:
                stay.add(r.id)
        stay.update(sorted(parents)[-max(keep, 1) :])
        found: dict[int, int | None] = {}

        def nearest(
            revision,
        ):  # parents are older than their children, so each is settled before it is asked for
            return revision if revision is None or revision in stay else found[revision]

        for revision in sorted(parents):
            found[revision] = nearest(parents[revision])
        for revision in stay:
            if found[revision] != parents[revision]:
                Revision.update(parent=found[revision]).where(Revision.id == revision).execute()
        gone = [r for r in parents if r not in stay]
        for i in range(0, len(gone), 1000):
            Revision.delete().where(Revision.id << gone[i : i + 1000]).execute()
    sweep()
    return len(gone)


def sweep() -> int:
    """Deletes rasters that no document, part or stroke under way refers to, and tiles of no raster;
    gives the number of rasters.
    """
    with database.atomic():
        used = {
            r[0]
            for table, column in (
                ("revision", "document"),
                ("part", "document"),
                ("chunk", "brush"),
            )
            for r in database.execute_sql(
                f"SELECT DISTINCT (regexp_matches({column}::text, '{HASH}', 'g'))[1] FROM {table}"
            ).fetchall()
        }
        old = [
            r.hash
            for r in Raster.select(Raster.hash).where(Raster.made < now() - GRACE)
            if r.hash not in used
        ]
        for i in range(0, len(old), 500):
            Raster.delete().where(Raster.hash << old[i : i + 500]).execute()
        if old:
            database.execute_sql(
                "DELETE FROM tile WHERE NOT EXISTS (SELECT 1 FROM (SELECT DISTINCT "
                "jsonb_array_elements_text(tiles) AS hash FROM raster) kept WHERE "
                "kept.hash = tile.hash)"
            )
    return len(old)
