"""Numbered changes to the tables, applied once each at start."""

from .models import Chunk, Migration, PartRow, Raster, Revision, SceneRow, TileRow, database


def _first():
    database.create_tables([SceneRow, Revision, Raster, TileRow])


def _strokes_under_way():
    database.create_tables([Chunk])


def _notes_parts_and_ages():
    # the tables of a new database have these columns already
    database.execute_sql(
        "ALTER TABLE revision ADD COLUMN IF NOT EXISTS note TEXT NOT NULL DEFAULT ''"
    )
    database.execute_sql(
        "ALTER TABLE raster ADD COLUMN IF NOT EXISTS made TIMESTAMP NOT NULL DEFAULT now()"
    )
    database.create_tables([PartRow])


def _strokes_set_aside():
    database.execute_sql("ALTER TABLE chunk ADD COLUMN IF NOT EXISTS aside TEXT")


def _parts_told():
    database.execute_sql(
        "ALTER TABLE part ADD COLUMN IF NOT EXISTS told JSONB NOT NULL DEFAULT '{}'"
    )


MIGRATIONS = [
    _first,
    _strokes_under_way,
    _notes_parts_and_ages,
    _strokes_set_aside,
    _parts_told,
]


def migrate() -> None:
    """Applies what is missing, one transaction each; a lock keeps two starters apart."""
    with database.atomic():
        database.execute_sql("SELECT pg_advisory_xact_lock(7309)")
        database.create_tables([Migration])
    for number, change in enumerate(MIGRATIONS, 1):
        with database.atomic():
            database.execute_sql("SELECT pg_advisory_xact_lock(7309)")
            if not Migration.get_or_none(Migration.number == number):
                change()
                Migration.create(number=number)
