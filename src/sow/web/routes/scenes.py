"""Routes: scenes and their edits."""

from ...core.build import COMPUTING, Build
from ...core.formats.package import placed
from ...core.inward.window import window_of
from ...core.planting.density import ASK
from ...core.scene import read_scene
from ...store import rasters, scenes
from .. import strokes
from ..api import problem, route
from ..jobs import drop_all_of
from ..live import announce
from ..shapes.scenes import Edit, NewScene, SceneLine, SceneState, WindowOrder
from ..states import as_state
from ..waiting import still_wanted
from ..working import WORK, Stored


@route("GET", "/api/scenes", answer=list[SceneLine])
def list_scenes():
    """Every scene, newest edit first."""
    return scenes.listed()


@route("POST", "/api/scenes", body=NewScene, answer=SceneState)
def new_scene(body):
    """A new scene from a document."""
    return as_state(scenes.create(body.document.model_dump(mode="json")))


@route("GET", "/api/scenes/<int:scene>", answer=SceneState)
def get_scene(scene):
    """A scene at its head.

    Strokes that a break cut off are made whole first, as revisions of their own; those that cannot
    be applied are told.
    """
    aside = strokes.recover(scene)
    return as_state(scenes.state(scene), aside)


@route("POST", "/api/scenes/<int:scene>/windows", body=WindowOrder, answer=SceneState)
def open_window(scene, body):
    """A new scene: a window of this one's land with as many posts as are wished for."""
    document = read_scene(scenes.state(scene).document)
    with COMPUTING:
        place = body.east_m, body.north_m, body.side_m, body.spacing_m
        package = window_of(document, Stored(), *place, check=still_wanted())
    made = placed(package, lambda values, name: rasters.keep(values, name).hash)
    label = f"A window of {document.name}"
    return as_state(scenes.create(made.model_dump(mode="json"), label[:120]))


@route("DELETE", "/api/scenes/<int:scene>")
def delete_scene(scene):
    """A scene with all its history and its stills."""
    scenes.delete(scene)
    drop_all_of(scene)
    return {"deleted": scene}


@route("POST", "/api/scenes/<int:scene>/edits", body=Edit, answer=SceneState)
def edit_scene(scene, body):
    """One edit: checked, forecast and kept as a new revision, or refused whole."""
    document = read_scene(body.document)
    upper = sum(s.density / 100 * document.plot.area_m2 for s in document.planting if s.on)
    if upper > ASK:
        build = Build(document, document.plot.draft_grid(), WORK, Stored())
        total = sum(build.forecasts())
        if total > ASK and not body.accept_plants:
            return problem(
                409,
                "Many plants",
                f"The scene will hold {total:,.0f} plants.",
                "planting",
                "Say yes to go on; it will take long to build.",
            )
    state = scenes.edit(scene, body.base, document.model_dump(mode="json"), body.label)
    announce(scene, "revision", {"revision": state.revision})
    return as_state(state)
