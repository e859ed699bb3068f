"""The Flask application: every route of Sow's API, and the page."""

import math
import os
from pathlib import Path
from urllib.parse import unquote

import numpy as np
from flask import Flask, Response, request, send_file, send_from_directory

from ..core.cabinet import lands
from ..core.errors import SceneError
from ..core.formats.elevation import guess_raw, read_elevation
from ..core.formats.lines import read_contours
from ..core.marks.zones import zones
from ..core.formats.section import section_csv, section_svg
from ..core.planting.sowing import ASK
from ..core.scene import read_scene
from ..core.scene import schema as scene_schema
from ..core.survey.isoline import isoline_at
from ..core.water.hollow import hollow_at
from ..core.survey.reality import reality
from ..core.survey.sheets import sheets
from ..core.survey.transect import transect
from ..core.where import stage_of
from ..store import rasters, scenes
from . import builds, cabinet, ground, jobs, packages, planting, strokes, supply  # noqa: F401
from .api import IMMUTABLE, install, openapi, problem, route
from .history import as_state
from .live import announce, listen
from .shapes import (
    Borrow,
    BorrowedLand,
    BuildOrder,
    ContourLine,
    Edit,
    HandOver,
    HandOverForecast,
    HollowAnswer,
    HollowOrder,
    Job,
    IsolineAnswer,
    IsolineOrder,
    LandLine,
    Manifest,
    MaskOrder,
    MaskPicture,
    MeasureLine,
    NewScene,
    ProofOrder,
    RasterInfo,
    RawGuess,
    SceneLine,
    SceneState,
    StrokeChunk,
    StrokeEnd,
    SurveyAnswer,
    SurveyOrder,
    TransectAnswer,
    TransectOrder,
    ZoneLine,
)

MOST_UPLOAD = 512 << 20
PAGE = Path(__file__).resolve().parents[3] / "web" / "dist"


@route("GET", "/api/health")
def health():
    """Whether page, store and core are there, and which server this is (the number of its process)."""
    scenes.database.execute_sql("SELECT 1")
    return {"ok": True, "pid": os.getppid()}


@route("GET", "/api/openapi.json")
def openapi_description():
    """This description."""
    return openapi()


@route("GET", "/api/schema")
def schema():
    """JSON Schema of a scene; the page makes its panels from it."""
    return {
        "scene": scene_schema(),
        "stages": stage_of,
        "sheets": [
            {"kind": x.kind, "label": x.label, "unit": x.unit, "help": x.help}
            for x in sheets.values()
        ],
    }


@route("GET", "/api/lands", answer=list[LandLine])
def list_lands():
    """The ready-made lands."""
    return [
        LandLine(name=x.name, label=x.label, note=x.note, width_m=x.width_m, relief_m=x.relief_m)
        for x in lands.listed()
    ]


@route("GET", "/api/lands/<name>")
def get_land(name):
    """A ready-made land as a scene document."""
    return lands.document(name).model_dump(mode="json")


@route("GET", "/api/lands/<name>.png")
def land_picture(name):
    """A small shaded picture of a ready-made land."""
    document = lands.document(name)
    return cabinet.fixed(
        builds.WORK.once(
            f"land picture {name}",
            lambda: builds.proof(document, ProofOrder(document={}, width_px=160, fine=True)),
        ),
        "image/png",
    )


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

    Strokes that a break cut off are made whole first, as revisions of their own.
    """
    strokes.recover(scene)
    return as_state(scenes.state(scene))


@route("DELETE", "/api/scenes/<int:scene>")
def delete_scene(scene):
    """A scene with all its history."""
    scenes.delete(scene)
    return {"deleted": scene}


@route("POST", "/api/scenes/<int:scene>/edits", body=Edit, answer=SceneState)
def edit_scene(scene, body):
    """One edit: checked, forecast and kept as a new revision, or refused whole."""
    document = read_scene(body.document)
    upper = sum(s.density / 100 * document.plot.area_m2 for s in document.planting if s.on)
    if upper > ASK:
        build = builds.Build(document, document.plot.draft_grid(), builds.WORK, builds.Stored())
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


@route("POST", "/api/scenes/<int:scene>/strokes/<session>", body=StrokeChunk)
def stroke_chunk(scene, session, body):
    """A part of a stroke: kept, then answered with row, column, rows, columns (uint32) and the
    heights (float32) that it changed.
    """
    return Response(
        strokes.take(scene, session[:40], body), content_type="application/octet-stream"
    )


@route("POST", "/api/scenes/<int:scene>/strokes/<session>/end", body=StrokeEnd, answer=SceneState)
def stroke_end(scene, session, body):
    """The stroke is done: it becomes one revision."""
    state = strokes.end(scene, session[:40], body.label)
    announce(scene, "revision", {"revision": state.revision})
    return as_state(state)


@route("POST", "/api/scenes/<int:scene>/masks", body=MaskOrder, answer=RasterInfo)
def fill_mask(scene, body):
    """A mask filled by a where-rule or joined with another, kept as a raster for the document to
    name.
    """
    row = strokes.filled(builds.document_of(scene, body), body)
    return RasterInfo(
        raster=row.hash,
        name=row.name,
        rows=row.rows,
        columns=row.columns,
        dtype="uint8",
        lowest=0,
        highest=255,
    )


@route("POST", "/api/scenes/<int:scene>/mask-pictures/<mark>", body=BuildOrder, answer=MaskPicture)
def mask_picture(scene, mark, body):
    """A mask as conditions see it, on the view grid."""
    return builds.mask_picture(builds.document_of(scene, body), mark)


@route("POST", "/api/zones", answer=list[ZoneLine])
def read_zones():
    """The colours of a zone map with their masks; the body is the picture, ?tolerance= how far
    colours of one zone may differ.
    """
    try:
        tolerance = float(request.args.get("tolerance", 12))
    except ValueError:
        raise SceneError("The tolerance is a number.", "tolerance", "Give 1 to 60.") from None
    found = zones(request.get_data(cache=False), float(np.clip(tolerance, 1, 60)))
    return [
        ZoneLine(
            colour="#%02x%02x%02x" % z.colour,
            share=round(z.share, 5),
            raster=rasters.keep(z.mask, "zone").hash,
        )
        for z in found
    ]


@route("POST", "/api/scenes/<int:scene>/isolines", body=IsolineOrder, answer=IsolineAnswer)
def isoline_here(scene, body):
    """The contour through a place of the finished land, as points in m."""
    build = builds.draw_up(builds.document_of(scene, body))
    with builds.COMPUTING:
        heights = build.heights
    level, points = isoline_at(heights, build.grid, body.east, body.north)
    return IsolineAnswer(height_m=level, points=points.round(2).tolist())


@route("POST", "/api/scenes/<int:scene>/hollow", body=HollowOrder, answer=HollowAnswer)
def hollow_here(scene, body):
    """The hollow that holds a place of the finished land: its floor and the rim where it runs over."""
    build = builds.draw_up(builds.document_of(scene, body))
    with builds.COMPUTING:
        floor, rim = hollow_at(
            build.heights,
            build.grid,
            body.east,
            body.north,
            -math.inf if body.above is None else body.above,
        )
    return HollowAnswer(floor_m=floor, rim_m=rim)


@route("POST", "/api/rasters", answer=RasterInfo)
def new_raster():
    """Keeps a heightmap or mask; the body is the file, the header X-Name its name. Raw posts need
    ?columns=&rows=&type=&order=.
    """
    name = unquote(request.headers.get("X-Name", "heightmap"))[:200]
    raw = (
        {k: request.args.get(k) for k in ("columns", "rows", "type", "order")}
        if "columns" in request.args
        else None
    )
    if raw and not (raw["columns"].isdigit() and str(raw["rows"]).isdigit()):
        raise SceneError("Columns and rows are whole numbers.", "columns", "Give both.")
    found = read_elevation(request.get_data(cache=False), name, raw)
    row = rasters.keep(found.values, name)
    return RasterInfo(
        raster=row.hash,
        name=row.name,
        rows=row.rows,
        columns=row.columns,
        dtype=str(found.values.dtype),
        spacing_m=found.spacing_m,
        filled=found.filled,
        lowest=float(found.values.min()),
        highest=float(found.values.max()),
    )


@route("GET", "/api/rasters/<name>", answer=RasterInfo)
def raster_facts(name):
    """What is known of a kept raster."""
    values = builds.Stored().load(name)
    return RasterInfo(
        raster=name,
        name="",
        rows=values.shape[0],
        columns=values.shape[1],
        dtype=str(values.dtype),
        lowest=float(values.min()),
        highest=float(values.max()),
    )


@route("POST", "/api/raw-guesses", answer=RawGuess)
def guess_raw_layout():
    """A likely layout of a file of raw posts; columns and rows are 0 when its size fits no square."""
    return RawGuess(**guess_raw(request.get_data(cache=False)))


@route("POST", "/api/scenes/<int:scene>/contours", answer=list[ContourLine])
def read_contour_file(scene):
    """Contours of a GeoJSON or SVG, in metres on this scene's plot; the body is the file."""
    name = unquote(request.headers.get("X-Name", "contours"))[:200]
    return read_contours(request.get_data(cache=False), name, builds.document_of(scene).plot)


@route("POST", "/api/scenes/<int:scene>/lines", answer=list[ContourLine])
def read_line_file(scene):
    """Lines of a GeoJSON or SVG, in metres on this scene's plot, with or without heights; the body
    is the file.
    """
    name = unquote(request.headers.get("X-Name", "lines"))[:200]
    return read_contours(
        request.get_data(cache=False), name, builds.document_of(scene).plot, heights=False
    )


@route("POST", "/api/scenes/<int:scene>/borrowed", body=Borrow, answer=BorrowedLand)
def borrow_land(scene, body):
    """Another scene's finished land at its head, kept as a raster for this scene to use."""
    if body.source == scene:
        raise SceneError("A scene can't take its own land.", "source", "Choose another scene.")
    state = scenes.state(body.source)
    document = read_scene(state.document)
    build = builds.Build(
        document, document.plot.grid(min(document.plot.posts, 1025)), builds.WORK, builds.Stored()
    )
    row = rasters.keep(build.heights, f"land of {document.name}")
    return BorrowedLand(
        raster=row.hash,
        name=document.name,
        width_m=build.grid.width_m,
        depth_m=build.grid.depth_m,
        source=f"{document.name}, revision {state.revision}",
    )


@route("POST", "/api/scenes/<int:scene>/surveys", body=SurveyOrder, answer=SurveyAnswer)
def survey_scene(scene, body):
    """One sheet of the survey over the scene, or over a document that is not kept yet."""
    return builds.survey(builds.document_of(scene, body), body)


@route("POST", "/api/scenes/<int:scene>/reality", body=BuildOrder, answer=list[MeasureLine])
def check_reality(scene, body):
    """How like real land this land is, measure by measure."""
    build = builds.draw_up(builds.document_of(scene, body))
    found = reality(build.heights, build.grid.spacing)
    return [
        MeasureLine(**{**vars(m), "value": m.value if np.isfinite(m.value) else None}, fits=m.fits)
        for m in found
    ]


@route("POST", "/api/scenes/<int:scene>/proofs", body=ProofOrder)
def draw_proof(scene, body):
    """A small picture (PNG) of a document: one of a proof sheet."""
    return Response(builds.proof(read_scene(body.document), body), content_type="image/png")


def _section(scene, body):
    return transect(
        builds.draw_up(builds.document_of(scene, body)),
        tuple(body.line[:2]),
        tuple(body.line[2:]),
        body.samples,
        body.reach_m,
    )


@route("POST", "/api/scenes/<int:scene>/transects", body=TransectOrder, answer=TransectAnswer)
def cut_transect(scene, body):
    """A cross-section along a line."""
    t = _section(scene, body)
    listed = lambda v, digits=3: [round(float(x), digits) for x in v]
    return TransectAnswer(
        length=float(t.along[-1]),
        east=listed(t.east),
        north=listed(t.north),
        height=listed(t.height),
        slope=listed(t.slope, 2),
        water=[None if np.isnan(x) else round(float(x), 3) for x in t.water],
        names=t.names,
        most=t.shares.argmax(0).tolist() if len(t.shares) else [-1] * len(t.along),
        plants=[
            {"along": a, "foot": f, "height": h, "kind": k, "off": o} for a, f, h, k, o in t.plants
        ],
    )


@route("POST", "/api/scenes/<int:scene>/transects.csv", body=TransectOrder)
def transect_csv(scene, body):
    """A cross-section as CSV."""
    return Response(section_csv(_section(scene, body)), content_type="text/csv; charset=utf-8")


@route("POST", "/api/scenes/<int:scene>/transects.svg", body=TransectOrder)
def transect_svg(scene, body):
    """A cross-section as a drawing to scale."""
    document = builds.document_of(scene, body)
    return Response(
        section_svg(
            _section(scene, body),
            builds.draw_up(document).means(),
            body.times,
            f"{document.name}: transect",
        ),
        content_type="image/svg+xml",
    )


@route("POST", "/api/scenes/<int:scene>/builds", body=BuildOrder, answer=Manifest)
def build_scene(scene, body):
    """Builds the head, or a document that is not kept yet, and tells where its products are."""
    return builds.order(scene, body.client, builds.document_of(scene, body), body.grid == "draft")


@route("DELETE", "/api/scenes/<int:scene>/builds/<client>")
def stop_build(scene, client):
    """Stops the build under way for this page."""
    builds.stop(scene, client)
    return {"stopped": True}


@route("GET", "/api/products/<key>")
def get_product(key):
    """A product's bytes; its key is the hash of all that it depends on."""
    if request.headers.get("If-None-Match", "").strip('"') == key:
        return Response(status=304)
    data = builds.product(key)
    if data is None:
        return problem(410, "Gone", "This product has left the cache.", advice="Build again.")
    kind = "image/png" if data[:4] == b"\x89PNG" else "application/octet-stream"
    return Response(
        data, content_type=kind, headers={"Cache-Control": IMMUTABLE, "ETag": f'"{key}"'}
    )


@route("GET", "/api/scenes/<int:scene>/events")
def events(scene):
    """The live channel (server-sent events)."""
    return Response(
        listen(scene),
        content_type="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )


@route("POST", "/api/scenes/<int:scene>/hand-overs", body=HandOver, answer=Job)
def hand_over(scene, body):
    """Starts to grow the scene into files."""
    return jobs.start(scene, builds.document_of(scene), body)


@route(
    "POST", "/api/scenes/<int:scene>/hand-over-forecasts", body=HandOver, answer=HandOverForecast
)
def forecast_hand_over(scene, body):
    """What a hand-over will make: megabytes and seconds, before it is made."""
    document = builds.document_of(scene)
    land, rest = builds.hand_over_seconds(document, body)
    grid = document.plot.grid(body.posts)
    megabytes, stand = builds.hand_over_megabytes(document, body)
    return HandOverForecast(
        megabytes=round(megabytes, 1),
        seconds=round(land + rest * jobs.pace["rest"], 1),
        plants=stand,
        triangles=2 * (grid.nx - 1) * (grid.ny - 1),
    )


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


def create_app(database_url: str) -> Flask:
    """The application on a store.

    Connections are opened for each request and given back after it.
    """
    scenes.open_store(database_url)
    app = Flask("sow", static_folder=None)
    app.json.sort_keys = False  # a panel shows settings in the order of their model
    app.config["MAX_CONTENT_LENGTH"] = MOST_UPLOAD
    app.config["HOSTS"] = tuple(filter(None, os.environ.get("SOW_HOSTS", "").split(",")))

    @app.before_request
    def connect():
        if request.path.startswith("/api/") and not request.path.endswith("/events"):
            scenes.database.connect(reuse_if_open=True)

    @app.teardown_request
    def give_back(error):
        if not scenes.database.is_closed():
            scenes.database.close()

    install(app)

    @app.get("/", defaults={"path": "index.html"})
    @app.get("/<path:path>")
    def page(path):
        if path.startswith("api/"):
            return problem(404, "Not here", f"There is no {path}.")
        return send_from_directory(
            PAGE, path, max_age=31536000 if path.startswith("assets/") else 0
        )

    return app
