"""packages"""

import io

from flask import Response, request

from ...core.document.text import file_stem
from ...core.formats.package import Package, placed, write_package
from ...core.scene import read_scene
from ...sandbox import read
from ...store import rasters, scenes
from ..api import route, told_name
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


@route("POST", "/api/packages", answer=BroughtIn, query=("measured",))
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
