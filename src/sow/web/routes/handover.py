"""Routes: handing over."""

from flask import send_file

from ...core.build import COMPUTING, Build
from ...core.cache import key_of
from ...core.formats.exporter import Preview, exporters
from ...core.formats.raster import png_bytes
from ...core.scene import read_scene
from ...store import scenes
from .. import jobs
from ..api import route
from ..forecasts import hand_over_megabytes, hand_over_seconds
from ..kinds import fixed
from ..shapes.files import HandOver, HandOverForecast, Job
from ..working import BYTES, WORK, Stored, document_of


@route("POST", "/api/scenes/<int:scene>/hand-overs", body=HandOver, answer=Job)
def hand_over(scene, body):
    """Starts to grow the scene into files."""
    return jobs.start(scene, document_of(scene), body)


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
        seconds=round(land + rest * jobs.pace["rest"], 1),
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


@route("GET", "/api/hand-overs/<job>", answer=Job)
def get_hand_over(job):
    """How far a hand-over is."""
    found = jobs.get(job)
    if found is None:
        raise scenes.Missing("such hand-over")
    return found


@route("DELETE", "/api/hand-overs/<job>")
def stop_hand_over(job):
    """Stops a hand-over."""
    jobs.stop(job)
    return {"stopped": True}


@route("GET", "/api/hand-overs/<job>/files.zip")
def hand_over_files(job):
    """The grown files."""
    if jobs.get(job) is None or not jobs.file_of(job).exists():
        raise scenes.Missing("such hand-over")
    return send_file(
        jobs.file_of(job), "application/zip", as_attachment=True, download_name="sow-files.zip"
    )
