"""history"""

from flask import Response, request

from ...core.scene import Scene, read_scene
from ...store import disk, scenes
from ..api import IMMUTABLE, route
from ..pictures import history_picture
from ..shapes.history import CompareOrder, GoTo, HistoryStep, Prune, Snapshot, UsageAnswer
from ..shapes.scenes import SceneState
from ..shapes.surveys import CompareAnswer
from ..states import as_state
from ..surveys import compared


@route("POST", "/api/scenes/<int:scene>/undo", answer=SceneState)
def undo_scene(scene):
    """One step back."""
    return as_state(scenes.undo(scene))


@route("POST", "/api/scenes/<int:scene>/redo", answer=SceneState)
def redo_scene(scene):
    """One step forward again."""
    return as_state(scenes.redo(scene))


@route("POST", "/api/scenes/<int:scene>/go-to", body=GoTo, answer=SceneState)
def go_to(scene, body):
    """Any revision becomes the head."""
    return as_state(scenes.go_to(scene, body.revision))


@route("POST", "/api/scenes/<int:scene>/snapshots", body=Snapshot)
def snapshot(scene, body):
    """Names a revision; without a name it is no snapshot any more."""
    scenes.snapshot(scene, body.revision, body.name, body.note)
    return {"kept": body.name}


@route(
    "GET",
    "/api/scenes/<int:scene>/history",
    answer=list[HistoryStep],
    query=("before", "snapshots"),
)
def history(scene):
    """Revisions, newest first; ?before= goes on from one, ?snapshots=1 gives only those with a
    name.
    """
    before = request.args.get("before", "")
    return scenes.history(
        scene,
        before=int(before) if before.isdigit() else None,
        snapshots=request.args.get("snapshots") == "1",
    )


@route("GET", "/api/scenes/<int:scene>/revisions/<int:revision>", answer=Scene)
def get_revision(scene, revision):
    """The document of one revision."""
    return scenes.document(scene, revision)


@route("GET", "/api/scenes/<int:scene>/revisions/<int:revision>.png")
def revision_picture(scene, revision):
    """A small picture of one revision, from above."""
    data = history_picture(read_scene(scenes.document(scene, revision)))
    return Response(data, content_type="image/png", headers={"Cache-Control": IMMUTABLE})


@route("POST", "/api/scenes/<int:scene>/comparisons", body=CompareOrder, answer=CompareAnswer)
def compare_revisions(scene, body):
    """What differs between two revisions: entries, plants, and heights in metres as a raster."""
    return compared(
        read_scene(scenes.document(scene, body.a)), read_scene(scenes.document(scene, body.b))
    )


@route("GET", "/api/scenes/<int:scene>/usage", answer=UsageAnswer)
def history_usage(scene):
    """What this scene's history takes on the disk."""
    return UsageAnswer(**vars(disk.usage(scene)))


@route("POST", "/api/scenes/<int:scene>/prunings", body=Prune, answer=UsageAnswer)
def prune_history(scene, body):
    """Takes older steps away; snapshots, the newest steps and where one stands stay."""
    disk.prune(scene, body.keep)
    return UsageAnswer(**vars(disk.usage(scene)))
