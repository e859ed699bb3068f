"""A part of a scene as one file: a scene's own zip with what is told of the part beside it, and a
small picture.
"""

import io
import json
import zipfile
from dataclasses import dataclass
from typing import BinaryIO

from pydantic import Field, ValidationError

from ..build import Rasters
from ..document.entry import Strict
from ..errors import SceneError
from ..parts import PARTS
from ..scene import Scene
from .package import Package, refuse_unsafe, unpack, write_package

FORMAT = "sow-part-1"
TOLD, PICTURE = "part.json", "picture.jpg"
MOST_PICTURE = 200_000  # bytes
MOST_TOLD = 20_000


class PartTold(Strict):
    """What is told of a part: which part it is, its name, a note, and where it comes from."""

    format: str = Field(FORMAT, pattern="^sow-part-1$")
    part: str = Field(max_length=20)
    name: str = Field(min_length=1, max_length=80)
    note: str = Field("", max_length=400)
    source: str = Field("", max_length=120)


@dataclass(frozen=True)
class PartFile:
    """A part that was read: what is told of it, its picture (JPEG, or empty), the scene that holds
    it alone.
    """

    told: PartTold
    picture: bytes
    package: Package


def checked_picture(data: bytes) -> bytes:
    """The picture of a part, if it is a JPEG of a sensible size. Raises SceneError."""
    if data and (data[:3] != b"\xff\xd8\xff" or len(data) > MOST_PICTURE):
        raise SceneError(
            "The picture of the part is no small JPEG.", "picture", "Keep it without a picture."
        )
    return data


def write_part(told: PartTold, picture: bytes, scene: Scene, rasters: Rasters, out: BinaryIO):
    """Writes the part's zip: `scene` holds the part alone (`parts.alone`)."""
    beside = {TOLD: json.dumps(told.model_dump(), indent=1).encode()}
    if picture:
        beside[PICTURE] = checked_picture(picture)
    write_package(scene, rasters, out, beside)


def told_of(archive: zipfile.ZipFile) -> tuple[PartTold, bytes]:
    """What a part's zip tells of it, and its picture, without unpacking the scene. Raises
    SceneError.
    """
    refuse_unsafe(archive)
    try:
        if archive.getinfo(TOLD).file_size > MOST_TOLD:
            raise ValueError("what it tells is too long")
        told = PartTold.model_validate_json(archive.read(TOLD))
        if told.part not in PARTS:
            raise ValueError(f"there is no part “{told.part}”")
        picture = b""
        if PICTURE in archive.namelist() and archive.getinfo(PICTURE).file_size <= MOST_PICTURE:
            picture = checked_picture(archive.read(PICTURE))
    except (KeyError, ValidationError, ValueError, zipfile.BadZipFile, OSError) as e:
        raise SceneError(
            f"This is no part of a scene: {str(e).splitlines()[0]}",
            "",
            "Give the .part.zip that Sow wrote from a drawer.",
        ) from None
    return told, picture


def read_part(data: bytes) -> PartFile:
    """A part from its zip, checked whole. Raises SceneError."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            told, picture = told_of(archive)
    except (zipfile.BadZipFile, NotImplementedError, ValueError):
        raise SceneError(
            "This is not a zip.", "", "Give the .part.zip that Sow wrote from a drawer."
        ) from None
    return PartFile(told, picture, unpack(data))
