"""A model brought in, made a kind of the cabinet: set upright at true size on its foot, its
pictures gathered on one sheet, levels by simplification.
"""

import math
from dataclasses import replace
from typing import Literal

import cv2
import numpy as np
from pydantic import BaseModel, ConfigDict, Field, field_validator

from ..cabinet import grounds, known
from ..cabinet.draw import add_cards, empty_sheet, picture
from ..cabinet.family import families
from ..cabinet.kind import Finish, Kind, KindShape, linear
from ..cabinet.mesh import Mesh, far_card, smooth_normals
from ..document.text import Name
from ..errors import SceneError
from .finish import finished_look
from .glb import Glb
from .kind_glb import kind_glb
from .model import Model, ModelPart, ModelSurface
from .raster import png_bytes
from .simplified import simplified

DULL = 0.7  # roughness from which on a surface shines no more than what grows
SIDE = 512  # of the sheet's half that holds pictures


class OwnSurface(BaseModel):
    """What is changed of one surface of a model."""

    model_config = ConfigDict(extra="forbid")
    tint: str = Field("#ffffff", pattern=r"^#[0-9a-fA-F]{6}$")
    bright: float = Field(100, ge=10, le=400)
    light: float = Field(0, ge=0, le=100, description="Light that comes through, %.")
    cut: bool | None = Field(None, description="Clear parts are cut out; none: as in the file.")
    rough: float | None = Field(None, ge=1, le=100, description="%; none: as in the file.")
    metal: float | None = Field(None, ge=0, le=100, description="%; none: as in the file.")
    glass: float | None = Field(
        None, ge=0, le=100, description="Light straight through, as of a pane, %; as in the file."
    )
    ground: str = Field("", max_length=60, description="A ground laid in its picture's place.")
    ground_m: float = Field(2, ge=0.05, le=50, description="Its repeat, m.")

    @field_validator("ground")
    @classmethod
    def _known_ground(cls, name):
        return known("ground", name) if name else name

    def finish(self, own: Finish) -> Finish:
        """How the surface shines: as it is set, else as the file has it."""
        percent = lambda value, usual: usual if value is None else value / 100
        return Finish(
            percent(self.rough, own.rough),
            percent(self.metal, own.metal),
            percent(self.glass, own.glass),
        )


class OwnKind(BaseModel):
    """How a model becomes a kind."""

    model_config = ConfigDict(extra="forbid")
    label: Name = Field("Own kind", min_length=1, max_length=60)
    family: str = "thing"
    tags: str = Field("", max_length=120)
    up: Literal["x", "y", "z"] = "y"
    scale: float = Field(1, gt=0, le=10000, description="Metres of one unit of the file.")
    height_m: float = Field(0, ge=0, le=400, description="0: as the scale gives it.")
    origin: Literal["foot", "kept"] = "foot"
    most_triangles: int = Field(40_000, ge=12, le=400_000)
    surfaces: list[OwnSurface] = Field(default_factory=list, max_length=64)

    @field_validator("family")
    @classmethod
    def _known_family(cls, name):
        if name not in families:
            raise ValueError(f"there is no family '{name}'; there are: {', '.join(families)}")
        return name


def model_glb(model: Model) -> bytes:
    """A model as one GLB with everything in it, in the axes that it came in; it is read back by
    `read_model`.
    """
    out, materials = Glb(), []
    for s in model.surfaces:
        finish = finished_look(out, s.finish)
        look = finish["pbrMetallicRoughness"]
        look["baseColorFactor"] = [*s.colour, 1.0]
        if s.picture is not None:
            look["baseColorTexture"] = {"index": out.texture(png_bytes(s.picture), s.name)}
        materials.append(
            out.material(
                name=s.name,
                doubleSided=True,
                **finish,
                **({"alphaMode": "MASK", "alphaCutoff": 0.4} if s.cut else {}),
            )
        )
    as_file = lambda v: np.stack(
        [v[:, 0], -v[:, 2], v[:, 1]], 1
    )  # `primitive` turns east, north, up to the file's axes; these are in them already
    for i, p in enumerate(model.parts):
        normals = smooth_normals(p.positions.astype(np.float32), p.faces)
        primitive = out.primitive(
            as_file(p.positions), as_file(normals), p.uv, p.colour, p.faces, materials[p.surface]
        )
        out.node(name=f"part {i:04}", mesh=out.meshes(f"part {i:04}", [primitive]))
    return out.data()


def _guessed(surface: ModelSurface) -> OwnSurface:
    """The settings of a surface as its file has it."""
    finish = surface.finish
    return OwnSurface(
        light=50 if surface.cut else 0,
        rough=max(1, round(finish.rough * 100)),
        metal=round(finish.metal * 100),
        glass=round(finish.glass * 100),
    )


def facts_of(model: Model) -> dict:
    """What the page shows of a model before it is made: its size in the file's units, triangles,
    surfaces, what was noticed, and a guess of the settings.
    """
    low, high = model.box()
    size = high - low
    told = list(model.told)
    scale = 1.0
    tall = float(size.max())
    if tall > 250:
        scale = 0.01
        told.append(f"It is {tall:,.0f} units large; taken for centimetres.")
    elif tall < 0.02:
        scale = 100.0
        told.append(
            f"It is only {tall:.3g} units large; taken a hundred times larger. Give its height."
        )
    up = "z" if size[2] > 2.2 * size[1] and low[1] < -0.3 * size[1] else "y"
    if up == "z":
        told.append("It seems to lie: its longest side is z, so z is taken for upright.")
    foot = low[{"y": 1, "z": 2}[up]]
    if abs(foot) > 0.02 * tall:
        told.append("Its origin is not at its foot; it is set on its foot.")
    leafy = [s.cut for s in model.surfaces]
    guess = OwnKind(
        family="shrub" if any(leafy) else "thing",
        up=up,
        scale=scale,
        surfaces=[_guessed(s) for s in model.surfaces],
    )
    return {
        "triangles": model.triangles,
        "size": [float(v) for v in size],
        "surfaces": [s.name for s in model.surfaces],
        "cut": [s.cut for s in model.surfaces],
        "told": told,
        "settings": guess.model_dump(),
    }


def _upright(points: np.ndarray, up: str) -> np.ndarray:
    """The file's axes to east, north, up."""
    if up == "z":
        return points
    return (
        np.stack([points[:, 0], -points[:, 2], points[:, 1]], 1)
        if up == "y"
        else np.stack([-points[:, 1], points[:, 2], points[:, 0]], 1)
    )


def _sheet(
    model: Model, changed: list[OwnSurface], told: list[str]
) -> tuple[np.ndarray, list[tuple[int, int, int, int] | None], list[int]]:
    """The sheet with each surface's picture in a cell of its left half, the cells (x, y, side of
    the cell, side of one repeat) and how often each repeats.
    """
    sheet = empty_sheet()
    pictured = [i for i, s in enumerate(model.surfaces) if s.picture is not None]
    cells: list = [None] * len(model.surfaces)
    repeats = [1] * len(model.surfaces)
    across = max(1, math.ceil(math.sqrt(len(pictured))))
    side = SIDE // across
    for k, i in enumerate(pictured):
        uvs = [p.uv for p in model.parts if p.surface == i and p.uv is not None]
        reach = max((float(np.ptp(uv, axis=0).max()) for uv in uvs), default=1.0)
        repeats[i] = min(4, max(1, math.ceil(reach - 1e-3)))
        if reach > 4.001:
            told.append(
                f"The picture of “{model.surfaces[i].name}” repeats {reach:.0f} times; it "
                "is laid larger, 4 times."
            )
        one = max(8, side // repeats[i])
        picture = np.asarray(model.surfaces[i].picture)
        small = cv2.resize(picture, (one, one), interpolation=cv2.INTER_AREA)
        if not (changed[i].cut if changed[i].cut is not None else model.surfaces[i].cut):
            small[..., 3] = 255
        tiled = np.tile(small, (repeats[i], repeats[i], 1))[:side, :side]
        x, y = side * (k % across), side * (k // across)
        sheet[y : y + tiled.shape[0], x : x + tiled.shape[1]] = tiled
        cells[i] = (x, y, tiled.shape[1], one)
    return sheet, cells, repeats


def _meshes(model: Model, settings: OwnKind, cells, repeats) -> list[Mesh]:
    """Each part in m, upright, with its place in the sheet."""
    out = []
    for p in model.parts:
        s, own = model.surfaces[p.surface], settings.surfaces[p.surface]
        tint = (
            linear(np.array([int(own.tint[i : i + 2], 16) for i in (1, 3, 5)], np.uint8))
            * own.bright
            / 100
        )
        colour = np.asarray(s.colour, float) * tint * (1 if p.colour is None else p.colour)
        places = _upright(p.positions, settings.up) * settings.scale
        uv = None
        if cells[p.surface] is not None and p.uv is not None:
            x, y, side, one = cells[p.surface]
            faces_uv = p.uv[p.faces]
            low = np.floor(p.uv.min(0) + 1e-4)
            fit = max(
                1.0, float(np.ptp(faces_uv.reshape(-1, 2), axis=0).max()) / repeats[p.surface]
            )
            inside = np.clip((p.uv - low) / fit * one, 0.5, side - 0.5)
            uv = (inside + (x, y)) / (2 * SIDE, SIDE)
        mesh = Mesh.of(places, p.faces, np.broadcast_to(colour, (len(places), 3)), None, uv)
        mesh.leaf = np.full(len(places), own.light / 100, np.float32)
        mesh.surface = np.full(len(places), p.surface, np.float32)
        out.append(mesh)
    return out


def _feet(mesh: Mesh, height: float) -> tuple[tuple[float, float, float], ...]:
    """Discs that cover what stands on the ground, along the longer side."""
    low = mesh.positions[mesh.positions[:, 2] < 0.12 * height][:, :2]
    (x0, y0), (x1, y1) = low.min(0), low.max(0)
    wide, deep = float(x1 - x0), float(y1 - y0)
    r = max(min(wide, deep) / 2, 0.02)
    n = min(12, max(1, math.ceil(max(wide, deep) / (2 * r) * 1.2)))
    line = np.linspace(-1, 1, n) * max(max(wide, deep) / 2 - r, 0) if n > 1 else np.zeros(1)
    cx, cy = float(x0 + x1) / 2, float(y0 + y1) / 2
    return tuple((cx + t, cy, r) if wide >= deep else (cx, cy + t, r) for t in map(float, line))


def _not_grown(look: str) -> KindShape:
    raise NotImplementedError("a kind of a file brings its shape with it")


def _finishes(model: Model, settings: OwnKind) -> tuple[Finish, ...]:
    """The finish of each surface; none at all where every one is as dull as what grows."""
    found = tuple(own.finish(s.finish) for own, s in zip(settings.surfaces, model.surfaces))
    dull = all(f.rough >= DULL and not f.metal and not f.glass for f in found)
    return () if dull else found


def _exchanged(model: Model, asked: list[OwnSurface], scale: float) -> Model:
    """The model with grounds of the cabinet in place of its own pictures, where they are asked for;
    they are laid over its faces from three sides. A unit of the file is `scale` m.
    """
    surfaces = list(model.surfaces)
    parts = list(model.parts)
    for i, own in enumerate(asked):
        if not own.ground:
            continue
        picture = grounds[own.ground].maps()[0].copy()
        picture[..., 3] = 255
        surfaces[i] = replace(surfaces[i], picture=picture, colour=(1.0, 1.0, 1.0), cut=False)
        parts = [_boxed(p, own.ground_m / scale) if p.surface == i else p for p in parts]
    return replace(model, parts=parts, surfaces=surfaces)


def _boxed(part: ModelPart, repeat: float) -> ModelPart:
    """A part whose uv lie over it from the side that each of its faces looks to; `repeat` is in the
    units of the file.
    """
    corners = part.positions[part.faces]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    side = np.abs(normal).argmax(1)
    across, along = np.array([1, 0, 0])[side], np.array([2, 2, 1])[side]
    row = np.arange(len(corners))[:, None]
    corner = np.arange(3)[None, :]
    uv = np.stack([corners[row, corner, across[:, None]], corners[row, corner, along[:, None]]], -1)
    faces = np.arange(3 * len(corners)).reshape(-1, 3)
    colour = None if part.colour is None else part.colour[part.faces].reshape(-1, 3)
    places = uv.reshape(-1, 2) - uv.reshape(-1, 2).min(0)
    return ModelPart(corners.reshape(-1, 3), faces, places / repeat, colour, part.surface)


def made(model: Model, settings: OwnKind) -> tuple[bytes, list[str]]:
    """The kind as a GLB with its levels, and what was noticed.

    Raises SceneError when it would be no size at all.
    """
    told: list[str] = []
    asked = [
        *settings.surfaces,
        *(OwnSurface(light=50 if s.cut else 0) for s in model.surfaces[len(settings.surfaces) :]),
    ]
    settings = settings.model_copy(update={"surfaces": asked})
    model = _exchanged(model, asked, settings.scale)
    sheet, cells, repeats = _sheet(model, asked, told)
    parts = _meshes(model, settings, cells, repeats)
    every = np.concatenate([m.positions for m in parts])
    low, high = every.min(0), every.max(0)
    if float((high - low).max()) < 1e-4:
        raise SceneError("The model has no size.", "scale", "Give it a scale or a height.")
    k = settings.height_m / max(float(high[2] - low[2]), 1e-6) if settings.height_m else 1.0
    shift = (
        -np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]])
        if settings.origin == "foot"
        else np.zeros(3)
    )
    parts = [m.moved(np.eye(3) * k, shift * k) for m in parts]
    for m in parts:
        m.normals = m.normals / np.maximum(np.linalg.norm(m.normals, axis=1, keepdims=True), 1e-12)
    total = sum(len(m.faces) for m in parts)
    if total > settings.most_triangles:
        parts = [simplified(m, settings.most_triangles / total) for m in parts]
        told.append(
            f"{total:,} triangles were brought down to {sum(len(m.faces) for m in parts):,}."
        )
    near = Mesh.joined(parts)
    height = float(near.positions[:, 2].max())
    reach = float(np.hypot(near.positions[:, 0], near.positions[:, 1]).max())
    if height <= 0:
        raise SceneError("The model lies wholly below its origin.", "origin", "Set it on its foot.")
    levels = [near]
    for share in (0.3, 0.08):
        less = Mesh.joined([simplified(m, share) for m in parts])
        if len(less.faces) < 0.8 * len(levels[-1].faces) and len(less.faces) >= 24:
            levels.append(less)
    width = 2.04 * reach
    add_cards(sheet, [near], width, height * 1.02)
    levels.append(far_card(0, width, height * 1.02))
    seen = picture(near, sheet, 64, width, height * 1.02, (0, 0, 1, 1))
    shown = seen[..., 3] > 60
    colour = linear(seen[..., :3][shown]).mean(0) if shown.any() else np.full(3, 0.2)
    near_m = max(1.5, 5 * max(height, reach))
    far = [near_m * f for f in (1, 2.2, 5)][: len(levels) - 2] + [
        near_m * 3.2 if len(levels) == 3 else near_m * 5 if len(levels) == 4 else near_m * 2
    ]
    leafy = families[settings.family].leafy
    kind = Kind(
        "own",
        settings.label,
        settings.family,
        height,
        reach,
        float(shown.mean() * width * (width if not leafy else height) * 0.6),
        (float(colour[0]), float(colour[1]), float(colour[2])),
        range(1),
        _not_grown,
        tags=settings.tags,
        feet=() if leafy else _feet(near, height),
        surfaces=tuple(s.name for s in model.surfaces),
        finish=_finishes(model, settings),
    )
    return kind_glb(kind, shape=KindShape([levels], sheet, tuple(far))), told
