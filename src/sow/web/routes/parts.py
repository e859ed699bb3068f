"""Parts of scenes: the own and the shared drawer, and taking one into a scene."""

import base64
import binascii
import io
import zipfile
from datetime import UTC, datetime

from flask import Response, request

from ...core import parts
from ...core.document.text import file_stem
from ...core.errors import SceneError
from ...core.formats.package import Package, placed
from ...core.formats.partfile import PartTold, checked_picture, told_of, write_part
from ...core.scene import Scene, read_scene
from ...sandbox import read
from ...store import parts as kept_parts
from ...store import rasters, scenes, shared
from ..api import route, told_name
from ..shapes.history import NewPart, PartLine, TakePart
from ..working import Stored

JPEG = "data:image/jpeg;base64,"


def _picture(text: str) -> bytes:
    try:
        data = base64.b64decode(text.removeprefix(JPEG), validate=True)
    except (binascii.Error, ValueError):
        raise SceneError(
            "The picture of the part cannot be read.", "picture", "Keep it without a picture."
        ) from None
    return checked_picture(data)


def _shared_lines() -> list[PartLine]:
    """Parts in the shared drawer; a file that cannot be read is passed over."""
    out = []
    for own, file in shared.files(shared.PART):
        try:
            with zipfile.ZipFile(file) as archive:
                told, picture = told_of(archive)
            made = datetime.fromtimestamp(file.stat().st_mtime, UTC).replace(tzinfo=None)
        except (SceneError, OSError, ValueError, NotImplementedError, zipfile.BadZipFile):
            continue
        line = told.model_dump(exclude={"format"})
        line |= {"made": made.isoformat() + "Z", "picture": base64.b64encode(picture).decode()}
        out.append(PartLine(id=0, file=own, **line))
    return out


@route("GET", "/api/parts", answer=list[PartLine])
def list_parts():
    """Parts of scenes in the own drawer, then those in the shared one."""
    return [PartLine(**line) for line in kept_parts.listed()] + _shared_lines()


@route("POST", "/api/parts", body=NewPart)
def new_part(body):
    """Puts a part of a scene into a drawer, with a picture, a note and its source."""
    source = read_scene(scenes.state(body.scene).document)
    if body.part not in parts.PARTS:
        raise SceneError(
            f"There is no part '{body.part}'.", "part", f"Parts: {', '.join(parts.PARTS)}."
        )
    picture = _picture(body.picture)
    told = PartTold(part=body.part, name=body.name, note=body.note, source=source.name[:120])
    document = parts.alone(source, body.part)
    if body.drawer == "own":
        return {"id": kept_parts.keep(told.part, told.name, document, _beside(told, picture))}
    data = _part_zip(told, picture, read_scene(document))
    return {"file": shared.put(told.name, data, shared.PART)}


def _beside(told: PartTold, picture: bytes) -> dict:
    """What the own drawer keeps of a part beside its scene."""
    text = base64.b64encode(picture).decode()
    return {"note": told.note, "source": told.source, "picture": text}


def _part_zip(told: PartTold, picture: bytes, scene: Scene) -> bytes:
    out = io.BytesIO()
    write_part(told, picture, scene, Stored(), out)
    return out.getvalue()


@route("GET", "/api/parts/<int:part>/part.zip")
def part_file(part):
    """A part of the own drawer as a file, for others."""
    found = kept_parts.get(part)
    if found.part not in parts.PARTS:
        raise scenes.Missing("such part in the drawer")
    kept = {"note": "", "source": "", "picture": "", **found.told}
    told = PartTold(part=found.part, name=found.name, note=kept["note"], source=kept["source"])
    data = _part_zip(told, _picture(kept["picture"]), read_scene(found.document))
    name = file_stem(found.name)
    return Response(
        data,
        content_type="application/zip",
        headers={"Content-Disposition": f'attachment; filename="{name}.part.zip"'},
    )


@route("POST", "/api/part-files", answer=PartLine)
def read_part_file():
    """A part from a file into the own drawer; the body is the file, its name stands in X-Name."""
    name = told_name("the file", 120)
    told, picture, scene = _read(name, request.get_data(cache=False))
    number = kept_parts.keep(
        told.part, told.name, scene.model_dump(mode="json"), _beside(told, picture)
    )
    return next(PartLine(**line) for line in kept_parts.listed() if line["id"] == number)


def _read(name: str, data: bytes) -> tuple[PartTold, bytes, Scene]:
    """A part's file, read in the sandbox; its rasters are kept."""
    found = read("part", {name: data})
    package = Package(found["document"], found["rasters"])
    scene = placed(package, lambda values, name: rasters.keep(values, name).hash)
    return PartTold(**found["told"]), found["picture"], scene


@route("DELETE", "/api/parts/<int:part>")
def delete_part(part):
    """Takes a part out of the own drawer."""
    kept_parts.drop(part)
    return {"deleted": part}


@route("DELETE", "/api/shared-parts/<file>")
def delete_shared_part(file):
    """Takes a part out of the shared drawer."""
    shared.file_of(file, shared.PART).unlink()
    return {"deleted": file}


@route("POST", "/api/scenes/<int:scene>/taken", body=TakePart, answer=Scene)
def take_part(scene, body):
    """A document for this scene with one part taken from a drawer, another scene or an older
    version; it is not kept yet.
    """
    now = read_scene(body.document if body.document is not None else scenes.state(scene).document)
    same = False
    if body.file:
        file = shared.file_of(body.file, shared.PART)
        told, _, source = _read(file.name, file.read_bytes())
        part = told.part
    elif body.drawer is not None:
        found = kept_parts.get(body.drawer)
        source = read_scene(found.document)
        part = found.part
    else:
        other = scene if body.scene is None else body.scene
        source = read_scene(
            scenes.document(other, body.revision)
            if body.revision is not None
            else scenes.state(other).document
        )
        part = body.part
        same = other == scene
    return parts.taken(now, source, part, body.add, same).model_dump(mode="json")
