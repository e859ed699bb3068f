"""Routes: the light of a scene, the sun's way, the film."""

import cv2
import numpy as np
from flask import Response, request
from pydantic import ValidationError

from ...core.air.card_pictures import PICTURES
from ...core.air.clouds import unheard
from ...core.air.harmonics import unfolded
from ...core.air.light import Light, sun_angles
from ...core.air.light_of import DRAFT_ROWS, REST_ROWS, Daylight, daylight, panorama_of
from ...core.air.panorama import RECIPES, as_raster
from ...core.air.ready import lights
from ...core.air.sun import moment_of, sun_through_day
from ...core.air.tries import MODES, around, differing
from ...core.build import COMPUTING
from ...core.cache import key_of
from ...core.document.text import file_stem
from ...core.errors import SceneError
from ...core.formats.cdl import cdl_text
from ...core.formats.cube import cube_text
from ...core.picture.film import table
from ...core.picture.grade.base import steps_of
from ...core.picture.grade.tables import as_raster as lut_raster
from ...core.picture.grade.tries import tries
from ...core.plot import Grid
from ...core.scene import checked_steps
from ...core.survey.sight import horizon
from ...sandbox import read
from ...store import rasters, scenes
from ..api import route, told_name
from ..live import announce
from ..shapes.catalogue import NamedItem
from ..shapes.light import (
    FilmOrder,
    GradeTriesOrder,
    GradeTryLine,
    HazeLine,
    Horizon,
    HorizonOrder,
    KeptPicture,
    LightLine,
    LightOrder,
    LightTold,
    LightTriesOrder,
    LightTry,
    SunHour,
    SunPath,
    SunPathOrder,
)
from ..working import BYTES, WORK, Stored, document_of, product_field, product_key, raw_bytes

ROWS = {"draft": DRAFT_ROWS, "rest": REST_ROWS}


def _light(values: dict) -> Light:
    try:
        return Light.model_validate(values)
    except ValidationError as e:
        first = e.errors(include_input=False, include_url=False)[0]
        path = "light." + ".".join(map(str, first["loc"]))
        raise SceneError(first["msg"], path, "See ./sow schema for what is allowed.") from None


def _halves(picture: np.ndarray) -> bytes:
    """A picture of light as RGBA half floats."""
    out = np.ones(picture.shape[:2] + (4,), "<f2")
    out[..., :3] = np.clip(picture, 0, 60000)
    return raw_bytes(out)


def _tone_and_shade(lit: Daylight) -> bytes:
    """The tone of haze and the shade of clouds as one picture, since shaders may ask of few."""
    side = lit.shade.shape[0]
    out = np.empty((side, side, 4), "<f2")
    out[..., :3] = np.clip(unfolded(lit.tone, side), 0, 60000)
    out[..., 3] = lit.shade
    return raw_bytes(out)


@route("POST", "/api/lights", body=LightOrder, answer=LightLine)
def make_light(body):
    """The light of a scene, as the core computes it for all that shows it."""
    light = _light(body.light)
    rows = ROWS[body.stage]
    ground = np.array(body.ground)
    tell = unheard
    if body.scene is not None and body.stage == "rest":
        told = {"step": "the sky"}
        tell = lambda share: announce(body.scene, "progress", {**told, "share": share})
    try:
        with COMPUTING:
            picture = panorama_of(light, Stored().load)
            lit = daylight(light, ground, body.lowest, body.side_m, WORK, rows, picture, tell)
    finally:
        if tell is not unheard:
            announce(body.scene, "progress", {"step": "", "share": 1})
    return _line(lit)


def _line(lit: Daylight) -> LightLine:
    listed = lambda values: np.asarray(values, float).tolist()
    told = lit.light.model_dump(exclude={"exposure", "white_k"})
    key = key_of(told, lit.sun.tolist(), lit.unit_kcd, lit.sky.shape, lit.haze.base_m, lit.shade_m)
    bearing, height = sun_angles(lit.light)
    return LightLine(
        sun=listed(lit.sun),
        bearing=bearing,
        height=height,
        sunlight=listed(lit.sunlight),
        numbers=listed(lit.numbers),
        haze=HazeLine(**{**vars(lit.haze), "air": listed(lit.haze.air)}),
        rows=lit.sky.shape[0],
        sky=product_key(key_of("sky", key), lambda: _halves(lit.sky)),
        tone=product_key(key_of("tone and shade", key), lambda: _tone_and_shade(lit)),
        shaded=listed(lit.shaded),
        shade_m=lit.shade_m,
        unit_kcd=lit.unit_kcd,
        exposure=listed(lit.exposure),
        sun_size=lit.light.sun_size,
        shafts=lit.light.shafts / 100,
    )


@route("POST", "/api/sun-paths", body=SunPathOrder, answer=SunPath)
def sun_path(body):
    """The sun's way over the day and place that a light names."""
    light = _light(body.light)
    when = moment_of(light.moment, "light.moment")
    bearing, height = sun_angles(light)
    hours = sun_through_day(light.latitude, light.longitude, light.moment)
    return SunPath(
        day=when.date().isoformat(),
        bearing=bearing,
        height=height,
        hours=[SunHour(hour=h, bearing=b, height=up) for h, b, up in hours],
    )


@route("POST", "/api/panoramas", answer=KeptPicture)
def new_panorama():
    """Keeps a panorama sky; the body is the file, the header X-Name its name."""
    name = told_name("panorama")
    found = read("panorama", {name: request.get_data(cache=False)})
    row = rasters.keep(as_raster(found["light"]), name)
    return KeptPicture(raster=row.hash, name=row.name, told=found["told"])


@route("POST", "/api/luts", answer=KeptPicture)
def new_lut():
    """Keeps a look-up table; the body is the file, the header X-Name its name."""
    name = told_name("lut.cube")
    row = rasters.keep(
        lut_raster(read("lut", {name: request.get_data(cache=False)})["table"]), name
    )
    return KeptPicture(raster=row.hash, name=row.name, told=[])


@route("POST", "/api/cards", answer=KeptPicture)
def new_card():
    """Keeps a card's picture; the body is the file, the header X-Name its name."""
    name = told_name("card")
    row = rasters.keep(read("card", {name: request.get_data(cache=False)})["sheet"], name)
    return KeptPicture(raster=row.hash, name=row.name, told=[])


@route("GET", "/api/cards/<raster>.jpg")
def card_picture(raster):
    """A kept picture, its transparency over grey."""
    sheet = Stored().load(raster)
    if sheet.dtype != np.uint8 or sheet.shape[1] % 4:
        raise scenes.Missing("such picture")
    own = sheet.reshape(sheet.shape[0], -1, 4)
    cover = own[..., 3:] / 255.0
    shown = np.rint(own[..., :3] * cover + 128 * (1 - cover)).astype(np.uint8)
    data = cv2.imencode(".jpg", shown[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 90])[1].tobytes()
    return Response(data, content_type="image/jpeg", headers={"Cache-Control": "max-age=31536000"})


@route("GET", "/api/cards", answer=list[NamedItem])
def ready_cards():
    """The cards that ship."""
    return [NamedItem(name=name, label=found.label) for name, found in PICTURES.items()]


@route("GET", "/api/panoramas", answer=list[NamedItem])
def ready_panoramas():
    """The panoramas that ship."""
    return [NamedItem(name=name, label=label) for name, (label, _) in RECIPES.items()]


@route("POST", "/api/light-tries", body=LightTriesOrder, answer=list[LightTry])
def light_tries(body):
    """Lights to try against one another on a proof sheet."""
    light = _light(body.light)
    found = around(light, body.spread, body.turn) if body.mode == "around" else None
    found = found or MODES[body.mode](light)
    return [LightTry(label=x.label, values=x.values) for x in found]


@route("POST", "/api/lights-told", body=SunPathOrder, answer=LightTold)
def light_told(body):
    """What a light was made from and in what it differs from it."""
    light = _light(body.light)
    label = lights[light.ready].label if light.ready in lights else ""
    return LightTold(label=label, differs=differing(light))


@route("POST", "/api/horizons", body=HorizonOrder, answer=Horizon)
def draw_horizon(body):
    """The land's skyline around a place of a field of heights."""
    heights = product_field(body.key, body.ny, body.nx)
    grid = Grid(body.nx, body.ny, body.spacing)
    return Horizon(heights=horizon(heights, grid, body.east, body.north, body.eye_m).tolist())


@route("POST", "/api/films", body=FilmOrder)
def film(body):
    """A film with the steps of grading that act pixel by pixel, as a table: RGBA bytes of a cube,
    blue outermost; its axes are log2 of the light about middle grey, from -10 to 6.5 stops.
    """
    grade = [e.with_rasters(Stored().load) for e in checked_steps(body.grade)]
    key = key_of("film", body.film, body.exposure, [e.model_dump() for e in grade])
    made = BYTES.once(key, lambda: table(body.film, grade, body.exposure).tobytes())
    return Response(made, content_type="application/octet-stream")


@route(
    "POST", "/api/scenes/<int:scene>/grade-tries", body=GradeTriesOrder, answer=list[GradeTryLine]
)
def grade_tries(scene, body):
    """Grades of a shot to try against one another on a proof sheet."""
    document = document_of(scene, body)
    shot = next((s for s in document.shots if s.id == body.shot), None)
    if shot is None:
        raise SceneError(f"There is no shot '{body.shot}'.", "shot", "Keep a view as a shot first.")
    others = [e.model_dump() for e in document.grade if e.shot != shot.id]
    own = [e.model_dump() for e in document.grade if e.shot == shot.id]
    return [
        GradeTryLine(label=t.label, film=t.film, exposure=t.exposure, grade=[*others, *t.steps])
        for t in tries(body.mode, shot.id, shot.film, shot.exposure, own)
    ]


@route("GET", "/api/scenes/<int:scene>/shots/<shot>/grade.cube")
def grade_cube(scene, shot):
    """A shot's film and grade as a .cube, from ACEScct to sRGB."""
    return _grade_file(scene, shot, "cube")


@route("GET", "/api/scenes/<int:scene>/shots/<shot>/grade.cdl")
def grade_cdl(scene, shot):
    """A shot's grade as a colour decision list, to be taken on ACEScct."""
    return _grade_file(scene, shot, "cdl")


def _grade_file(scene: int, shot: str, ending: str) -> Response:
    document = document_of(scene)
    found = next((s for s in document.shots if s.id == shot), None)
    if found is None:
        raise scenes.Missing("such shot")
    grade = steps_of(document.grade, shot, Stored().load)
    title = f"{document.name}: {found.name}"
    if ending == "cube":
        text = cube_text(found.film, grade, found.exposure, title)
    else:
        text = cdl_text(grade, found.exposure, title)
    name = file_stem(f"{document.name} {found.name}")
    return Response(
        text,
        content_type="text/plain; charset=utf-8" if ending == "cube" else "application/xml",
        headers={"Content-Disposition": f'attachment; filename="{name}.{ending}"'},
    )
