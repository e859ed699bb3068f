"""Routes: handing over."""

from flask import send_file

from ...core.build import COMPUTING, Build
from ...core.cache import key_of
from ...core.formats.exporter import Preview, exporters
from ...core.formats.raster import png_bytes
from ...core.scene import read_scene
from ...jobs import Job
from ...store import scenes
from ..api import route
from ..forecasts import hand_over_megabytes, hand_over_seconds
from ..hand_overs import HAND_OVER, ZIP, line_of, order_hand_over, pace
from ..jobs import queue
from ..kinds import fixed
from ..shapes.files import HandOver, HandOverForecast, HandOverLine
from ..working import BYTES, WORK, Stored, document_of


@route("POST", "/api/scenes/<int:scene>/hand-overs", body=HandOver, answer=HandOverLine)
def hand_over(scene, body):
    """Starts to grow the scene into files."""
    return line_of(order_hand_over(scene, document_of(scene), body))


@route(
    "POST", "/api/scenes/<int:scene>/hand-over-forecasts", body=HandOver, answer=HandOverForecast
)
def forecast_hand_over(scene, body):
    """What a hand-over will make: megabytes and seconds, before it is made."""
    document = document_of(scene)
    land, rest = hand_over_seconds(document, body)
    grid = document.plot.grid(body.posts)
    megabytes, stand = hand_over_megabytes(document, body)
    return HandOverForecast(
        megabytes=round(megabytes, 1),
        seconds=round(land + rest * pace["rest"], 1),
        plants=stand,
        triangles=2 * (grid.nx - 1) * (grid.ny - 1),
    )


@route("GET", "/api/scenes/<int:scene>/exporters/<name>.png")
def exporter_picture(scene, name):
    """A small picture of what an exporter writes of the scene as it is kept."""
    found = exporters.get(name)
    return _drawn(scene, name, found and found.preview)


@route("GET", "/api/scenes/<int:scene>/exporters/<name>/<tick>.png")
def tick_picture(scene, name, tick):
    """The same of one option of an exporter."""
    found = exporters.get(name)
    return _drawn(scene, f"{name}: {tick}", found and found.ticks.get(tick))


def _drawn(scene: int, name: str, preview: Preview | None):
    if preview is None:
        raise scenes.Missing(f"a picture of the files “{name}”")
    document = read_scene(scenes.state(scene).document)
    build = Build(document, document.plot.draft_grid(), WORK, Stored())
    key = key_of("preview", name, build.content_key())

    def draw():
        with COMPUTING:
            return png_bytes(preview(build))

    return fixed(BYTES.once(key, draw), "image/png")


@route("GET", "/api/scenes/<int:scene>/hand-overs", answer=list[HandOverLine])
def list_hand_overs(scene):
    """The hand-overs of a scene, in the order in which they were asked for."""
    return [line_of(job) for job in queue().shelf.of(scene, HAND_OVER)]


def _known(name: str) -> Job:
    found = queue().shelf.get(name, HAND_OVER)
    if found is None:
        raise scenes.Missing("such hand-over")
    return found


@route("GET", "/api/hand-overs/<job>", answer=HandOverLine)
def get_hand_over(job):
    """How far a hand-over is."""
    return line_of(_known(job))


@route("DELETE", "/api/hand-overs/<job>")
def stop_hand_over(job):
    """Stops a hand-over."""
    queue().wished(_known(job), "stop")
    return {"stopped": True}


@route("GET", "/api/hand-overs/<job>/files.zip")
def hand_over_files(job):
    """The grown files."""
    path = _known(job).files / ZIP
    if not path.exists():
        raise scenes.Missing("such hand-over")
    return send_file(path, "application/zip", as_attachment=True, download_name=ZIP)
