"""Numbered changes to the tables, applied once each at start."""
from .models import Chunk, Migration, Raster, Revision, SceneRow, Tile, database


def _first():
    database.create_tables([SceneRow, Revision, Raster, Tile])


def _strokes_under_way():
    database.create_tables([Chunk])


MIGRATIONS = [_first, _strokes_under_way]


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
