"""Routes: strokes by hand."""

from flask import Response

from ...store import scenes
from ...store import strokes as kept
from .. import strokes
from ..api import route
from ..live import announce
from ..shapes.marks import StrokeChunk, StrokeEnd
from ..shapes.scenes import SceneState
from ..states import as_state


@route("POST", "/api/scenes/<int:scene>/strokes/<session>", body=StrokeChunk)
def stroke_chunk(scene, session, body):
    """A part of a stroke: kept, then answered with row, column, rows, columns (uint32) and the
    heights (float32) that it changed.
    """
    return Response(
        strokes.take(scene, session[:40], body), content_type="application/octet-stream"
    )


@route("DELETE", "/api/scenes/<int:scene>/strokes/<session>")
def drop_stroke(scene, session):
    """Throws away a stroke that was set aside because it could not be applied."""
    if not kept.drop(scene, session[:40]):
        raise scenes.Missing("such stroke")
    return {"deleted": session}


@route("POST", "/api/scenes/<int:scene>/strokes/<session>/end", body=StrokeEnd, answer=SceneState)
def stroke_end(scene, session, body):
    """The stroke is done: it becomes one revision."""
    state = strokes.end(scene, session[:40], body.label)
    announce(scene, "revision", {"revision": state.revision})
    return as_state(state)
