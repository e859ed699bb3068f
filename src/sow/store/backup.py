"""The whole store as one file: scenes with their histories, rasters, drawers, strokes under way.

A zip: `manifest.json` with the format and, of each table, its rows and their SHA-256; a file of
JSON lines for each table; `tile.bin`, in which each tile is its hash (32 bytes), its length (4
bytes, little endian) and its bytes; and what lies beside the database under `beside/`. Nothing in
it depends on a version of PostgreSQL.
"""

import hashlib
import json
import os
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from peewee import AutoField, Model

from .models import Chunk, PartRow, Raster, Revision, SceneRow, TileRow, database

FORMAT = "sow-backup-1"
TABLES: dict[str, type[Model]] = {
    "scene": SceneRow,
    "revision": Revision,
    "raster": Raster,
    "chunk": Chunk,
    "part": PartRow,
}
TILES = "tile.bin"
AT_ONCE = 500
MOST_TILE = 16 << 20


class BackupError(RuntimeError):
    """A backup that cannot be made or read; the text says what to do."""


@dataclass
class BackupReport:
    """What a backup holds: rows by table, tiles among them, and the bytes of its file."""

    rows: dict[str, int]
    bytes: int


class _Hashed:
    """Counts and hashes what is written through it."""

    def __init__(self, out: IO[bytes]):
        self.out = out
        self.sum = hashlib.sha256()
        self.rows = 0

    def row(self, data: bytes) -> None:
        self.out.write(data)
        self.sum.update(data)
        self.rows += 1


def _rows_of(table: type[Model]) -> Iterator[bytes]:
    """Each row of a table as a line of JSON, written by the database itself, by a cursor so that no
    table is held in memory whole.
    """
    name = table._meta.table_name
    order = ", ".join(f'"{c}"' for c in _key_of(table))
    with database.connection().cursor(name=f"backup_{name}", withhold=True) as cursor:
        cursor.itersize = AT_ONCE
        cursor.execute(f'SELECT row_to_json(r)::text FROM "{name}" r ORDER BY {order}')
        for (text,) in cursor:
            yield text.encode() + b"\n"


def _tiles_of() -> Iterator[bytes]:
    """Each tile as its hash, its length and its bytes."""
    with database.connection().cursor(name="backup_tile", withhold=True) as cursor:
        cursor.itersize = AT_ONCE
        cursor.execute("SELECT hash, data FROM tile ORDER BY hash")
        for key, data in cursor:
            yield bytes.fromhex(key) + len(data).to_bytes(4, "little") + bytes(data)


def _write(archive: zipfile.ZipFile, beside: dict[str, Path]) -> dict[str, Any]:
    """Everything but the manifest, as the database is at one moment; gives what it tells."""
    tables = {}
    with database.atomic():
        database.execute_sql("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY")
        for name, table in TABLES.items():
            with archive.open(f"{name}.jsonl", "w", force_zip64=True) as out:
                hashed = _Hashed(out)
                for line in _rows_of(table):
                    hashed.row(line)
            tables[name] = {"rows": hashed.rows, "sha256": hashed.sum.hexdigest()}
        stored = zipfile.ZipInfo(TILES)
        stored.compress_type = zipfile.ZIP_STORED  # tiles are compressed already
        with archive.open(stored, "w", force_zip64=True) as out:
            hashed = _Hashed(out)
            for record in _tiles_of():
                hashed.row(record)
        tables["tile"] = {"rows": hashed.rows, "sha256": hashed.sum.hexdigest()}
    held = {}
    for name, path in beside.items():
        data = path.read_bytes()
        archive.writestr(f"beside/{name}", data)
        held[name] = hashlib.sha256(data).hexdigest()
    return {"format": FORMAT, "tables": tables, "beside": held}


def _key_of(table: type[Model]) -> list[str]:
    if table is Chunk:
        return ["scene_id", "session", "seq"]
    return ["hash"] if table is Raster else ["id"]


def write_backup(path: Path, beside: dict[str, Path]) -> BackupReport:
    """Writes all that is kept to a file, and reads it back before it takes its name.

    Args:
        path: where it shall lie; a file of that name is replaced only by a whole one.
        beside: files that belong to it though they lie outside the database, by their name in it.

    Raises BackupError, OSError.
    """
    part = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        with open(part, "xb", opener=lambda p, f: os.open(p, f, 0o600)) as file:
            with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive:
                manifest = _write(archive, beside)
                archive.writestr("manifest.json", json.dumps(manifest, indent=1))
            file.flush()
            os.fsync(file.fileno())
        with zipfile.ZipFile(part) as archive:
            _check(archive)
        size = part.stat().st_size
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
    return BackupReport({name: t["rows"] for name, t in manifest["tables"].items()}, size)


def _exactly(source: IO[bytes], size: int) -> bytes:
    data = source.read(size)
    if len(data) != size:
        raise BackupError("The backup is damaged: its tiles are cut short.")
    return data


def _tiles(archive: zipfile.ZipFile) -> Iterator[tuple[str, bytes, bytes]]:
    """Hash, bytes and the whole record of each tile."""
    with archive.open(TILES) as source:
        while head := source.read(36):
            size = int.from_bytes(head[32:], "little")
            if len(head) != 36 or size > MOST_TILE:
                raise BackupError("The backup is damaged: its tiles are not laid out as they were.")
            data = _exactly(source, size)
            yield head[:32].hex(), data, head + data


def _lines(archive: zipfile.ZipFile, name: str) -> Iterator[bytes]:
    with archive.open(f"{name}.jsonl") as source:
        yield from source


def _check(archive: zipfile.ZipFile) -> dict:
    """The manifest of a backup whose every row is as it was written. Raises BackupError."""
    try:
        manifest = json.loads(archive.read("manifest.json"))
        if manifest.get("format") != FORMAT:
            raise BackupError(
                f"This is a backup of the format “{manifest.get('format')}”; this Sow reads "
                f"{FORMAT}. Bring Sow up to date."
            )
        for name, told in manifest["tables"].items():
            records: Iterator[bytes] = (
                (record for _, _, record in _tiles(archive))
                if name == "tile"
                else _lines(archive, name)
            )
            found = hashlib.sha256()
            rows = 0
            for record in records:
                found.update(record)
                rows += 1
            if (rows, found.hexdigest()) != (told["rows"], told["sha256"]):
                raise BackupError(f"The backup is damaged: its {name}s are not as they were kept.")
        for name, told in manifest["beside"].items():
            if hashlib.sha256(archive.read(f"beside/{name}")).hexdigest() != told:
                raise BackupError(f"The backup is damaged: “{name}” is not as it was kept.")
        if set(manifest["tables"]) != {*TABLES, "tile"}:
            raise BackupError("The backup is damaged: a table is missing.")
    except (KeyError, ValueError, TypeError, AttributeError, zipfile.BadZipFile, OSError) as e:
        raise BackupError(f"The backup is damaged: {e}.") from None
    return manifest


def read_backup(path: Path, put: Callable[[str, bytes], None]) -> BackupReport:
    """Brings all of a backup into a store that holds nothing yet, in one transaction.

    Args:
        path: the backup.
        put: takes each file that lay beside the database, by its name.

    Raises BackupError when it is no backup, is damaged, or the store holds something; then nothing
    was changed.
    """
    try:
        archive = zipfile.ZipFile(path)
    except (OSError, zipfile.BadZipFile) as e:
        raise BackupError(f"{path} is no backup that can be read: {e}.") from None
    with archive:
        manifest = _check(archive)
        with database.atomic():
            every: dict[str, type[Model]] = {**TABLES, "tile": TileRow}
            for name, table in every.items():
                if table.select().limit(1).count():
                    raise BackupError(
                        f"This store holds {name}s already; a backup is restored into an empty one "
                        "only, so that nothing is overwritten. Name another data folder: "
                        "SOW_DATA=/a/new/folder ./sow restore FILE"
                    )
            for part in _some((h, data) for h, data, _ in _tiles(archive)):
                TileRow.insert_many([{"hash": h, "data": data} for h, data in part]).execute()
            for name, table in TABLES.items():
                for lines in _some(_lines(archive, name)):
                    _put(table, lines)
                _count_on(table)
        for name in manifest["beside"]:
            put(name, archive.read(f"beside/{name}"))
    return BackupReport(
        {name: t["rows"] for name, t in manifest["tables"].items()}, Path(path).stat().st_size
    )


def _some(rows: Iterator[Any]) -> Iterator[list]:
    held = []
    for row in rows:
        held.append(row)
        if len(held) >= AT_ONCE:
            yield held
            held = []
    if held:
        yield held


def _put(table: type[Model], lines: list[bytes]) -> None:
    """Inserts rows; columns that a backup does not have yet keep their first value, those that this
    Sow does not know are left out.
    """
    known = {f.column_name for f in table._meta.sorted_fields}
    columns = ", ".join(f'"{c}"' for c in json.loads(lines[0]) if c in known)
    name = table._meta.table_name
    database.execute_sql(
        f'INSERT INTO "{name}" ({columns}) SELECT {columns} FROM '
        f'json_populate_recordset(NULL::"{name}", %s::json)',
        ((b"[" + b",".join(lines) + b"]").decode(),),
    )


def _count_on(table: type[Model]) -> None:
    """New rows get numbers after those that were brought in."""
    key = table._meta.primary_key
    if isinstance(key, AutoField):
        database.execute_sql(
            f"SELECT setval(pg_get_serial_sequence('{table._meta.table_name}', "
            f"'{key.column_name}'), coalesce((SELECT max({key.column_name}) FROM "
            f'"{table._meta.table_name}"), 0) + 1, false)'
        )
