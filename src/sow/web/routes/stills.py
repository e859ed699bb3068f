"""Routes: stills."""

import io
import zipfile

from flask import Response, send_file

from ...core.errors import SceneError
from ...core.formats.package import write_package
from ...core.picture.order import NOISE, PASSES, PROJECTIONS, SIZES, Order, checked
from ...core.picture.prepared import focus_in
from ...core.picture.wrap import CONVENTIONS
from ...core.shots.shot import field_of_view, opening_m, sharp_between
from ...jobs import Job
from ...stills.order import WORKS, ordered, so_far
from ...store import scenes
from ..api import route
from ..jobs import drop_all_of, queue
from ..shapes.stills import (
    LensLine,
    LensOrder,
    NewStill,
    StillChoices,
    StillForecast,
    StillLine,
    StillWish,
)
from ..stills import forecast, line_of, renderer_there
from ..working import Stored, document_of, draw_up

LACKING = (
    "Stills need the renderer Mitsuba, which is not installed here; all else works. Run ./sow demo "
    "once with a network."
)


def _known(name: str) -> Job:
    found = queue().shelf.get(name, *WORKS)
    if found is None:
        raise scenes.Missing("such still")
    return found


@route("GET", "/api/still-choices", answer=StillChoices)
def still_choices():
    """Sizes, qualities, projections and names that a still may be ordered with."""
    return StillChoices(
        sizes=SIZES,
        qualities=NOISE,
        passes=PASSES,
        projections=list(PROJECTIONS),
        names=CONVENTIONS,
        lacking="" if renderer_there() else LACKING,
    )


@route("POST", "/api/scenes/<int:scene>/stills", body=NewStill, answer=StillLine)
def new_still(scene, body):
    """Orders a still of a shot of the scene as it is now; it is taken by a process of its own."""
    if not renderer_there():
        raise SceneError(LACKING.split(". ")[0] + ".", "", LACKING.split(". ")[1])
    document = document_of(scene, body)
    write = lambda file: write_package(document, Stored(), file)
    name = body.shot.name or "still"
    job = ordered(queue().shelf, scene, name, body.shot, body.order, write)
    queue().look()
    return line_of(job)


@route("POST", "/api/still-forecasts", body=Order, answer=StillForecast)
def still_forecast(body):
    """What a still will take, before it is ordered."""
    order = checked(body)
    return StillForecast(
        seconds=round(forecast(order), 1),
        width_px=order.width_px,
        height_px=order.height_px,
        passes=order.passes,
        frames=len(order.clip.times) if order.clip else 1,
    )


@route("GET", "/api/scenes/<int:scene>/stills", answer=list[StillLine])
def list_stills(scene):
    """The stills of a scene, in the order in which they were asked for."""
    scenes.state(scene)
    return [line_of(job) for job in queue().shelf.of(scene, *WORKS)]


@route("GET", "/api/stills/<still>", answer=StillLine)
def get_still(still):
    """How far a still is."""
    return line_of(_known(still))


@route("POST", "/api/stills/<still>/wishes", body=StillWish, answer=StillLine)
def wish_still(still, body):
    """Pauses a still, lets it go on, or stops it; what it has gathered is kept."""
    job = _known(still)
    queue().wished(job, body.wish)
    return line_of(job)


@route("DELETE", "/api/stills/<still>")
def drop_still(still):
    """Takes a still away with its files."""
    queue().drop(_known(still))
    return {"deleted": still}


@route("DELETE", "/api/scenes/<int:scene>/stills")
def drop_stills(scene):
    """Takes every still of a scene away."""
    return {"deleted": drop_all_of(scene, *WORKS)}


@route("GET", "/api/stills/<still>/so-far.jpg")
def still_so_far(still):
    """Its picture so far, small."""
    path = so_far(_known(still))
    if not path.exists():
        raise scenes.Missing("a picture of this still yet")
    return send_file(path, "image/jpeg", max_age=0)


@route("GET", "/api/stills/<still>/files/<name>")
def still_file(still, name):
    """One of its finished files."""
    job = _known(still)
    if name not in job.state.files:
        raise scenes.Missing("such file of this still")
    return send_file(job.files / name, max_age=0)


@route("GET", "/api/stills/<still>/files.zip")
def still_files(still):
    """All its finished files."""
    job = _known(still)
    if not job.state.files:
        raise scenes.Missing("a file of this still yet")
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for name in job.state.files:
            archive.write(job.files / name, name)
    stem = job.state.files[-1].rsplit(".", 1)[0]
    return Response(
        out.getvalue(),
        content_type="application/zip",
        headers={"Content-Disposition": f'attachment; filename="{stem}.zip"'},
    )


@route("POST", "/api/scenes/<int:scene>/lenses", body=LensOrder, answer=LensLine)
def lens(scene, body):
    """What a shot's lens sees, and between which distances it is sharp."""
    shot = body.shot
    focus = shot.focus_m
    if shot.focus_by == "place":
        focus = focus_in(draw_up(document_of(scene, body), draft=True), shot)
    across, up = field_of_view(shot)
    near, far = sharp_between(shot, focus)
    return LensLine(
        across_deg=round(across, 1),
        up_deg=round(up, 1),
        focus_m=round(focus, 2),
        sharp_from_m=round(near, 2),
        sharp_to_m=None if far == float("inf") else round(far, 2),
        opening_mm=round(2000 * opening_m(shot), 2),
    )
