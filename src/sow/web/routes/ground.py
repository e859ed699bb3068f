"""ground"""

import hashlib

import numpy as np
from flask import Response, request
from pydantic import Field

from ...core.build import COMPUTING
from ...core.build.site import site_on
from ...core.cache import key_of
from ...core.document.text import plain_text
from ...core.errors import SceneError
from ...core.formats.texture import role_of
from ...core.judge.texture_nearness import Near, nearness
from ...core.judge.why import Verdict, reasons
from ...core.surface.match import matched
from ...core.surface.presets import clothes, presets
from ...core.where import Absent, answered, joined, settled
from ...sandbox import read
from ...store import rasters, scenes
from ..api import IMMUTABLE, route
from ..shapes.builds import GridShape
from ..shapes.marks import IsolineOrder
from ..shapes.shape import ApiModel, DocumentOrder, shape_of
from ..working import Stored, document_of, draw_up, product_key


class PresetLine(ApiModel):
    name: str
    label: str
    help: str


class PresetAnswer(ApiModel):
    materials: list[dict]
    told: list[str] = Field(description="The bands that were set from the land, in its units.")


class WhereOrder(DocumentOrder):
    list: str = Field(pattern="^(land|ground|planting)$")
    index: int = Field(ge=0)
    condition: int | None = Field(None, description="Only this one; all together when not given.")


class ConditionLine(ApiModel):
    index: int
    share: float | None = Field(description="Of the plot, by itself; none when it is absent.")
    low: float | None = None
    high: float | None = None
    absent: str = ""


class WhereAnswer(ApiModel):
    key: str
    grid: GridShape
    share: float
    conditions: list[ConditionLine]


VerdictLine = shape_of(Verdict, "VerdictLine")


class ReasonLine(ApiModel):
    list: str
    index: int
    id: str
    share: float
    wanted: float
    verdicts: list[VerdictLine]  # type: ignore[valid-type]
    decides: int | None
    note: str


class TextureAnswer(ApiModel):
    texture: str
    name: str
    told: list[str]
    seam: float = Field(
        description="The step over the edges beside those within: above about 1.6 the repeat shows."
    )


class MatchOrder(DocumentOrder):
    material: str
    towards: str = Field(pattern="^(plants|material|place)$")
    other: str = ""
    east: float = 0
    north: float = 0
    amount: float = Field(100, ge=0, le=100)


class MatchAnswer(ApiModel):
    hue: float
    saturation: float
    bright: float


class NearOrder(DocumentOrder):
    wide_px: int = Field(1920, ge=64, le=16384)


NearnessLine = shape_of(Near, "NearnessLine")


@route("GET", "/api/ground-presets", answer=list[PresetLine])
def ground_presets():
    """Ready sets of materials."""
    return [PresetLine(name=p.name, label=p.label, help=p.help) for p in presets.values()]


@route(
    "POST", "/api/scenes/<int:scene>/ground-presets/<name>", body=DocumentOrder, answer=PresetAnswer
)
def ground_preset(scene, name, body):
    """A set of materials with its bands set from this land."""
    if name not in presets:
        raise scenes.Missing(f"“{name}” among the ground presets")
    build = draw_up(document_of(scene, body))
    with COMPUTING:
        materials, told = clothes(name, build.site("water"))
    return PresetAnswer(materials=materials, told=told)


@route("POST", "/api/scenes/<int:scene>/where", body=WhereOrder, answer=WhereAnswer)
def where_holds(scene, body):
    """Where the conditions of one entry hold on the view grid, as bytes 0 to 255, their share, and
    each one's own.
    """
    document = document_of(scene, body)
    entries = getattr(document, body.list)
    if body.index >= len(entries):
        raise SceneError("There is no such entry.", body.list, "Choose one of the key.")
    build = draw_up(document)
    where = entries[body.index].where
    path = f"{body.list}.{body.index}.where"
    with COMPUTING:
        if body.list == "land":
            under = build.land_step(body.index)
            site = site_on(
                build,
                under.heights,
                build.grid,
                "land",
                maps=under.maps,
                before=entries[body.index].id,
            )
        else:
            site = build.site(body.list)
        lines, total = [], None
        for k, item in enumerate(where):
            if not item.on:
                continue
            try:
                answer = answered(where, k, site, path)
                band = settled(item, where[:k], site, path)
            except Absent as e:
                lines.append(ConditionLine(index=k, share=None, absent=e.message))
                continue
            found = getattr(item, "take", "band") != "band"
            lines.append(
                ConditionLine(
                    index=k,
                    share=float(answer.mean(dtype=np.float64)),
                    low=band.low if found and item.take == "highest" else None,
                    high=band.high if found and item.take == "lowest" else None,
                )
            )
            if body.condition is None or body.condition == k:
                total = joined(total, answer, item.join if body.condition is None else "all")
        values = np.ones(build.grid.shape, np.float32) if total is None else total
    data = np.rint(np.clip(values, 0, 1) * 255).astype(np.uint8)
    key = key_of("where", hashlib.sha256(data.tobytes()).hexdigest())
    return WhereAnswer(
        key=product_key(key, lambda: data.tobytes()),
        grid=GridShape(nx=build.grid.nx, ny=build.grid.ny, spacing=build.grid.spacing),
        share=float(values.mean(dtype=np.float64)),
        conditions=lines,
    )


@route("POST", "/api/scenes/<int:scene>/why", body=IsolineOrder, answer=list[ReasonLine])
def why_here(scene, body):
    """What each material and each sowing finds at a place."""
    build = draw_up(document_of(scene, body))
    with COMPUTING:
        found = reasons(build, body.east, body.north)
    return [
        ReasonLine(**{**vars(r), "verdicts": [VerdictLine(**vars(v)) for v in r.verdicts]})
        for r in found
    ]


@route("POST", "/api/textures", answer=TextureAnswer, query=("mend",))
def new_texture():
    """Keeps a texture set.

    Files as a form; each one's role (colour, height, normal, roughness, packed) is its field, or
    `auto`, which reads the role from the file's name. ?mend=1 makes the edges meet.
    """
    files, name = {}, ""
    for field, file in request.files.items(multi=True):
        role = role_of(file.filename or "") if field == "auto" else field
        if role in files:
            raise SceneError(
                f"Two files hold the {role}.", role, "Give one for each part of the set."
            )
        files[role] = file.read()
        name = file.filename if role == "colour" or not name else name
    found = read("texture", files, mend=request.args.get("mend") == "1")
    return TextureAnswer(
        texture=rasters.keep(found["sheet"], f"texture: {name}").hash,
        name=plain_text(name or "").rsplit(".", 1)[0][:80] or "texture",
        told=found["told"],
        seam=round(found["seam"], 3),
    )


class PictureAnswer(ApiModel):
    picture: str
    columns: int
    rows: int


@route("POST", "/api/ground-pictures", answer=PictureAnswer)
def new_ground_picture():
    """Keeps a picture of a whole ground: files as a form, the colour and, if given, the relief;
    which is which is read from their names unless the field says colour or height.
    """
    files = {}
    for field, file in request.files.items(multi=True):
        role = role_of(file.filename or "") if field == "auto" else field
        files["height" if role == "height" else "colour"] = file.read()
    if "colour" not in files:
        raise SceneError(
            "There is no picture of the colour.",
            "picture",
            "Give one whose name does not say height.",
        )
    sheet = read("ground_picture", files)["sheet"]
    return PictureAnswer(
        picture=rasters.keep(sheet, "ground picture").hash,
        columns=sheet.shape[1] // 4,
        rows=sheet.shape[0],
    )


@route("GET", "/api/ground-pictures/<name>")
def kept_ground_picture(name):
    """Columns and rows (two uint32), then sRGB and relief bytes, row 0 north."""
    sheet = Stored().load(name)
    return Response(
        np.array([sheet.shape[1] // 4, sheet.shape[0]], "<u4").tobytes() + sheet.tobytes(),
        content_type="application/octet-stream",
        headers={"Cache-Control": IMMUTABLE},
    )


@route("POST", "/api/scenes/<int:scene>/match", body=MatchOrder, answer=MatchAnswer)
def match_colour(scene, body):
    """Hue, saturation and lightness that pull a material towards the plants, another material or
    the ground of a place.
    """
    document = document_of(scene, body)
    m = next((m for m in document.ground if m.id == body.material), None)
    if m is None:
        raise SceneError("There is no such material.", "material", "Choose one of the ground.")
    build = draw_up(document)
    with COMPUTING:
        means = build.means()
        if body.towards == "material":
            at = next((i for i, o in enumerate(document.ground) if o.id == body.other), None)
            if at is None:
                raise SceneError(
                    "There is no such material.", "other", "Choose another of the ground."
                )
            target = means[at]
        elif body.towards == "plants":
            cover = build.plant_cover()
            share = build.ground()[document.ground.index(m)] * cover[..., 3]
            if share.sum() < 1e-3:
                raise SceneError(
                    "No plants grow on this material.",
                    "towards",
                    "Match another material or a place.",
                )
            target = (cover[..., :3] * share[..., None]).sum((0, 1)) / share.sum()
        else:
            r, c = (
                int(np.clip(round(float(v)), 0, n - 1))
                for v, n in (
                    (build.grid.rows_of(body.north), build.grid.ny),
                    (build.grid.cols_of(body.east), build.grid.nx),
                )
            )
            cover = build.plant_cover()[r, c]
            target = (build.ground()[:, r, c][:, None] * np.array(means)).sum(0)
            target = target + cover[3] * (cover[:3] - target)
        return MatchAnswer(**matched(m, build.ground_of(m).mean(), target, body.amount / 100))


@route("POST", "/api/scenes/<int:scene>/nearness", body=NearOrder, answer=list[NearnessLine])  # type: ignore[valid-type]
def texture_nearness(scene, body):
    """For each material how near the shots come, what that needs and costs."""
    build = draw_up(document_of(scene, body))
    with COMPUTING:
        return [NearnessLine(**vars(n)) for n in nearness(build, body.wide_px)]
