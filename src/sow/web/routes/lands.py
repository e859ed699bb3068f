"""Routes: ready-made lands, and land of another scene."""

from ...core.build import Build
from ...core.cabinet import lands
from ...core.errors import SceneError
from ...core.scene import Scene, read_scene
from ...store import rasters, scenes
from ..api import route
from ..kinds import fixed
from ..shapes.files import Borrow, BorrowedLand, LandLine
from ..working import WORK, Stored


@route("GET", "/api/lands", answer=list[LandLine])
def list_lands():
    """The ready-made lands."""
    return [
        LandLine(name=x.name, label=x.label, note=x.note, width_m=x.width_m, relief_m=x.relief_m)
        for x in lands.listed()
    ]


@route("GET", "/api/lands/<name>", answer=Scene)
def get_land(name):
    """A ready-made land as a scene document."""
    return read_scene(lands.text(name)).model_dump(mode="json")


@route("GET", "/api/lands/<name>.jpg")
def land_picture(name):
    """The picture of a ready-made land."""
    return fixed(lands.picture_path(name).read_bytes(), "image/jpeg")


@route("POST", "/api/scenes/<int:scene>/borrowed", body=Borrow, answer=BorrowedLand)
def borrow_land(scene, body):
    """Another scene's finished land at its head, kept as a raster for this scene to use."""
    if body.source == scene:
        raise SceneError("A scene can't take its own land.", "source", "Choose another scene.")
    state = scenes.state(body.source)
    document = read_scene(state.document)
    build = Build(document, document.plot.grid(min(document.plot.posts, 1025)), WORK, Stored())
    row = rasters.keep(build.heights, f"land of {document.name}")
    return BorrowedLand(
        raster=row.hash,
        name=document.name,
        width_m=build.grid.width_m,
        depth_m=build.grid.depth_m,
        source=f"{document.name}, revision {state.revision}",
    )
