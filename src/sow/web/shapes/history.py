"""The history of a scene: steps, snapshots, differences, parts taken over."""

from typing import Literal

from pydantic import Field

from .shape import ApiModel


class GoTo(ApiModel):
    revision: int


class Snapshot(ApiModel):
    revision: int
    name: str = Field(max_length=80)
    note: str = Field("", max_length=2000)


class HistoryStep(ApiModel):
    id: int
    parent: int | None
    label: str
    snapshot: str | None
    note: str
    made: str
    current: bool = Field(
        description="On the way from the first step to the newest of the course that is followed."
    )


class UsageAnswer(ApiModel):
    revisions: int
    snapshots: int
    documents: int = Field(description="Bytes of the documents.")
    rasters: int = Field(description="Bytes of the rasters that they refer to.")
    database: int = Field(description="Bytes of the whole store, all scenes.")


class Prune(ApiModel):
    keep: int = Field(ge=1, le=100000, description="How many of the newest steps stay.")


class CompareOrder(ApiModel):
    a: int
    b: int


class PartDifference(ApiModel):
    part: str
    added: list[str]
    removed: list[str]
    changed: list[str]


class PartLine(ApiModel):
    id: int = Field(description="Its number in the own drawer; 0 in the shared one.")
    file: str = Field("", description="Its name in the shared drawer.")
    part: str
    name: str
    made: str
    note: str = ""
    source: str = Field("", description="The scene that it was taken from.")
    picture: str = Field("", description="A small JPEG as base64.")


class NewPart(ApiModel):
    scene: int
    part: str
    name: str = Field(min_length=1, max_length=80)
    note: str = Field("", max_length=400)
    picture: str = Field("", max_length=300_000, description="A small JPEG as base64.")
    drawer: Literal["own", "shared"] = "own"


class TakePart(ApiModel):
    document: dict | None = None
    drawer: int | None = Field(
        None, description="A part of the own drawer; else a scene or a revision."
    )
    file: str = Field("", max_length=120, description="A part of the shared drawer, by its name.")
    scene: int | None = None
    revision: int | None = None
    part: str = ""
    add: bool = Field(
        False,
        description="Its entries come after those that are there; else they take their place.",
    )
