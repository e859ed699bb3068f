"""packages"""

import io

from flask import Response, request

from ...core import parts
from ...core.document.text import file_stem
from ...core.errors import SceneError
from ...core.formats.package import Package, placed, write_package
from ...core.scene import read_scene
from ...store import parts as kept_parts
from ...store import rasters, scenes
from ...wall import read
from ..api import route, told_name
from ..shapes.history import NewPart, PartLine, TakePart
from ..shapes.scenes import BroughtIn, SceneState
from ..states import as_state
from ..working import Stored


@route("GET", "/api/scenes/<int:scene>/scene.zip")
def scene_zip(scene):
    """The scene itself: scene.json, its rasters and a manifest; it can be read back, and `./sow
    grow` takes it.
    """
    document = read_scene(scenes.state(scene).document)
    out = io.BytesIO()
    write_package(document, Stored(), out)
    name = file_stem(document.name)
    return Response(
        out.getvalue(),
        content_type="application/zip",
        headers={"Content-Disposition": f'attachment; filename="{name}.zip"'},
    )


@route("POST", "/api/packages", answer=BroughtIn)
def read_scene_file():
    """A new scene from a file in any form that is read: a scene's own zip, a GLB, a USD, a zip of
    tiles; the body is the file, its name stands in X-Name. With `?measured=1` it is told from what
    stands in the file, although the scene that it was written from travels along.
    """
    name = told_name("the file", 120)
    measured = request.args.get("measured") == "1"
    told = read("scene_file", {name: request.get_data(cache=False)}, measured=measured)
    package = Package(told["document"], told["rasters"])
    found = placed(package, lambda values, name: rasters.keep(values, name).hash)
    state = as_state(scenes.create(found.model_dump(mode="json"), "Brought in"))
    return BroughtIn(scene=state, taken=told["taken"], left=told["left"])


@route("POST", "/api/scenes/<int:scene>/duplicates", answer=SceneState)
def duplicate_scene(scene):
    """A second scene that begins as this one is now."""
    document = scenes.state(scene).document
    return as_state(
        scenes.create(
            {**document, "name": f"{document['name'][:74]}, copy"},
            f"Copy of {document['name']}"[:120],
        )
    )


@route("GET", "/api/parts", answer=list[PartLine])
def list_parts():
    """The own drawer: parts of scenes that were put there."""
    return kept_parts.listed()


@route("POST", "/api/parts", body=NewPart)
def new_part(body):
    """Puts a part of a scene into the own drawer."""
    source = read_scene(scenes.state(body.scene).document)
    if body.part not in parts.PARTS:
        raise SceneError(
            f"There is no part '{body.part}'.", "part", f"Parts: {', '.join(parts.PARTS)}."
        )
    return {"id": kept_parts.keep(body.part, body.name, parts.alone(source, body.part))}


@route("DELETE", "/api/parts/<int:part>")
def delete_part(part):
    """Takes a part out of the drawer."""
    kept_parts.drop(part)
    return {"deleted": part}


@route("POST", "/api/scenes/<int:scene>/taken", body=TakePart)
def take_part(scene, body):
    """A document for this scene with one part taken from a drawer, another scene or an older
    version; it is not kept yet.
    """
    now = (
        read_scene(body.document)
        if body.document is not None
        else read_scene(scenes.state(scene).document)
    )
    if body.drawer is not None:
        found = kept_parts.get(body.drawer)
        source = read_scene(found.document)
        part = found.part
        same = False
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
