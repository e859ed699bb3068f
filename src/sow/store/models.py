"""The tables."""

import datetime

from peewee import (
    SQL,
    AutoField,
    BigIntegerField,
    BlobField,
    CharField,
    DatabaseProxy,
    DateTimeField,
    ForeignKeyField,
    IntegerField,
    Model,
    TextField,
)
from playhouse.postgres_ext import BinaryJSONField

database = DatabaseProxy()


def now() -> datetime.datetime:
    """The time now, in UTC."""
    return datetime.datetime.now(datetime.UTC).replace(tzinfo=None)


class Table(Model):
    class Meta:
        database = database
        legacy_table_names = False


class SceneRow(Table):
    """A scene: `head` is the revision shown, `tip` the newest of its line (redo goes towards
    it).
    """

    id = AutoField()
    name = CharField(80)
    head = BigIntegerField(null=True)
    tip = BigIntegerField(null=True)
    sample = CharField(40, null=True, unique=True)
    made = DateTimeField(default=now)

    class Meta:
        table_name = "scene"


class Revision(Table):
    """One state of a scene's document; never changed once written."""

    id = AutoField()
    scene = ForeignKeyField(SceneRow, index=True, on_delete="CASCADE")
    parent = BigIntegerField(null=True)
    label = CharField(120)
    snapshot = CharField(80, null=True)
    note = TextField(default="")
    document = BinaryJSONField(index=False)
    made = DateTimeField(default=now)


class Raster(Table):
    """A raster under the hash of its content; `tiles` lists the hashes of its tiles, row by row."""

    hash = CharField(64, primary_key=True)
    name = CharField(200)
    rows = IntegerField()
    columns = IntegerField()
    dtype = CharField(10)
    tiles = BinaryJSONField(index=False)
    made = DateTimeField(default=now)


class TileRow(Table):
    """256 x 256 posts, differences and then zstd; kept once however many rasters hold it."""

    hash = CharField(64, primary_key=True)
    data = BlobField()

    class Meta:
        table_name = "tile"


class Chunk(Table):
    """A part of a stroke under way, kept as it came; the whole stroke becomes one revision when it
    ends.
    """

    scene = ForeignKeyField(SceneRow, on_delete="CASCADE")
    session = CharField(40)
    seq = IntegerField()
    base = BigIntegerField()
    entry = CharField(64)
    brush = BinaryJSONField(index=False)
    points = BinaryJSONField(index=False)
    aside = TextField(
        null=True
    )  # why it could not be applied; it stays until it can, or is dropped
    made = DateTimeField(default=now)

    class Meta:
        table_name = "chunk"
        indexes = ((("scene", "session", "seq"), True),)


class PartRow(Table):
    """A part of a scene in the cabinet's own drawer, to be used in other scenes; `document` is a
    scene that holds that part alone.
    """

    id = AutoField()
    part = CharField(20)
    name = CharField(80)
    document = BinaryJSONField(index=False)
    # its note, source and picture; rows of an earlier Sow, as in its backups, have none
    told = BinaryJSONField(index=False, default=dict, constraints=[SQL("DEFAULT '{}'")])
    made = DateTimeField(default=now)

    class Meta:
        table_name = "part"


class Migration(Table):
    number = IntegerField(primary_key=True)
    made = DateTimeField(default=now)
