"""Kinds of the cabinet as bodies: leaves cut out, bark with its picture, stones coloured."""

import functools
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..cabinet import kind_of, worn
from ..cabinet.dressed import Dressed
from ..cabinet.family import families
from ..cabinet.keep import from_folder
from ..cabinet.kind import MARK, Finish, Kind, linear
from ..cabinet.mesh import Mesh, Part
from .bodies import Body, Surface
from .cut import leaves_of

MOST_KEPT = 400
MOST_BYTES = 1.5e9  # of bodies that are kept from one picture to the next
LEAF_THROUGH = 0.62  # part of a leaf's diffuse light that comes through (Jacquemoud & Baret 1990)
DARKEST, PALEST = 0.004, 0.92  # reflectances that a thing may have
NEAREST = 0  # the level that is built leaf by leaf; those of the view count on from it
SHARES = (1.0, 0.6, 1 / 6, 1 / 36, 1 / 216)  # of the leaves of a kind that thins, level by level
BEGINS = (0.42, 1.0, 3.0, 9.0)  # each next of these levels, as parts of its own nearness
TINTS = 3
WET_STEPS = 6  # of a thing's height, up to which water may have wet it
WET, SHINES = 0.55, 0.3  # what is left of the colour of wet stone, and its roughness

_kept: OrderedDict[tuple, list[Body]] = OrderedDict()


def tint_factor(tint: np.ndarray | float) -> np.ndarray:
    """What a stance's tint 0..1 makes of a leafy kind's colour, as in the view, (..., 3)."""
    t = np.asarray(tint, float)[..., None] - 0.5
    return (1 + t * np.array([0.45, 0.18, -0.28])) * (1 + t * 0.5)


def bodies_of(
    name: str, variant: int, level: int, texels: float, tint: int = 1, wet: int = 0
) -> list[Body]:
    """A kind as a mix names it, at size 1 on the origin: NEAREST or one of its levels, its leaves
    cut by a lattice of so many texels, in one of TINTS tints, wet up to so many of WET_STEPS. Made
    once and kept.
    """
    key = (name, variant, level, round(texels, 2), tint, wet)
    if key not in _kept:
        made = _made(name, variant, level, texels, tint)
        up_to = worn(name)[0].height_m * wet / WET_STEPS
        _kept[key] = [part for body in made for part in _wetted(body, up_to)] if wet else made
        while len(_kept) > MOST_KEPT or (len(_kept) > 1 and _held_bytes() > MOST_BYTES):
            _kept.popitem(last=False)
    _kept.move_to_end(key)
    return _kept[key]


def _held_bytes() -> int:
    """What the kept bodies take."""
    arrays = (
        getattr(body, part)
        for bodies in _kept.values()
        for body in bodies
        for part in ("positions", "faces", "normals", "colour")
    )
    return sum(a.nbytes for a in arrays if a is not None)


def _made(name: str, variant: int, level: int, texels: float, tint: int) -> list[Body]:
    kind, look, tone = worn(name)
    leafy = families[kind.family].leafy
    factor = np.ones(3) if tone is None else np.asarray(tone, float)
    if leafy:
        factor = factor * tint_factor((tint + 0.5) / TINTS)
    held = lambda colour: np.clip(colour * factor, DARKEST, PALEST).astype(np.float32)
    if kind.nearest and (level == NEAREST or kind.thins):
        chosen = variant % len(kind.variants)
        share = SHARES[level]
        return [toned(body, held) for body in _near(Dressed.read(name).kind, chosen, look, share)]
    shape = kind.shape(look)
    row = shape.levels[variant % len(shape.levels)]
    level = min(max(level - 1, 0), len(row) - 1)
    mesh = row[level]
    pictured = (mesh.uv[mesh.faces, 0] >= 0).all(1)
    whole = pictured & _covers(mesh, shape.sheet)
    parts: list[Body | None] = [
        _leaves(_cut_of(name, variant, level, texels, mesh, pictured & ~whole, shape.sheet), leafy)
    ]
    for here, finish in _finishes(kind, mesh):
        surfaces = [_barked(mesh, whole & here, shape.sheet), _plain(mesh, ~pictured & here, leafy)]
        parts += [body and _shining(body, finish) for body in surfaces]
    return [toned(body, held) for body in parts if body is not None and len(body.faces)]


def _finishes(kind: Kind, mesh: Mesh) -> list[tuple[np.ndarray, Finish | None]]:
    """The faces of each finish; all of them where a kind has none."""
    if not kind.finish or mesh.surface is None:
        return [(np.ones(len(mesh.faces), bool), None)]
    of = mesh.surface[mesh.faces[:, 0]].astype(int)
    return [(of == number, finish) for number, finish in enumerate(kind.finish)]


def _shining(body: Body, finish: Finish | None) -> Body:
    """A body with a finish of its own."""
    if finish is None:
        return body
    surface = replace(
        body.surface, shines=True, rough=finish.rough, metal=finish.metal, glass=finish.glass
    )
    return replace(body, surface=surface)


@functools.lru_cache(2)  # its tints follow on each other
def _near(name: str, variant: int, look: str, share: float) -> list[Body]:
    return [body_of(part) for part in kind_of(name).parts(variant, look, share)]


def body_of(part: Part) -> Body:
    """A part of a kind's nearest build as a body."""
    mesh = part.mesh
    surface = Surface(part.picture, None, part.through, part.rough, tiles=True)
    normals = None if part.flat else mesh.normals
    if part.picture is not None:
        return Body(mesh.positions, mesh.faces, surface, normals, mesh.uv)
    colour = mesh.colour[mesh.faces].mean(1)
    return Body(mesh.positions, mesh.faces, surface, normals, colour=colour)


def toned(body: Body, held: Callable[[np.ndarray], np.ndarray]) -> Body:
    """A body in the colours that `held` makes of its own."""
    if body.colour is not None:
        return replace(body, colour=held(body.colour))
    assert body.surface.picture is not None
    return replace(body, surface=replace(body.surface, picture=held(body.surface.picture)))


def _wetted(body: Body, up_to: float) -> list[Body]:
    """A body as one that water has wet up to a height (m), and what is left dry of it."""
    if body.colour is None:
        return [body]
    middle = body.positions[body.faces][..., 2].mean(1)
    wet = middle < up_to
    out = []
    film = replace(body.surface, rough=SHINES, mirrors=True)
    for here, factor, surface in ((wet, WET, film), (~wet, 1.0, body.surface)):
        if here.any():
            colour = np.clip(body.colour[here] * factor, DARKEST, PALEST).astype(np.float32)
            out.append(replace(body, faces=body.faces[here], colour=colour, surface=surface))
    return out


def _cut_of(
    name: str,
    variant: int,
    level: int,
    texels: float,
    mesh: Mesh,
    here: np.ndarray,
    sheet: np.ndarray,
) -> tuple[np.ndarray, np.ndarray]:
    """Leaves cut out of a mesh, from the folder where they were cut before."""
    if not here.any():
        return np.zeros((0, 3, 3), np.float32), np.zeros((0, 3), np.float32)
    make = lambda: leaves_of(mesh, np.flatnonzero(here), sheet, texels)
    if name.startswith("own-") or MARK in name:
        return make()
    dressed = Dressed.read(name)
    told = f"cut-{dressed.kind}-{dressed.look}-{variant}-{level}-{texels:.1f}"
    return from_folder(told, make, list, tuple)


def _leaves(cut: tuple[np.ndarray, np.ndarray], leafy: bool) -> Body:
    places, colours = cut
    corners = np.arange(len(places) * 3, dtype=np.uint32).reshape(-1, 3)
    surface = Surface(through=LEAF_THROUGH if leafy else 0.0, rough=0.55)
    return Body(places.reshape(-1, 3), corners, surface, colour=colours)


def _barked(mesh: Mesh, here: np.ndarray, sheet: np.ndarray) -> Body | None:
    if not here.any():
        return None
    used, faces = np.unique(mesh.faces[here], return_inverse=True)
    picture = (linear(sheet[..., :3]) * mesh.colour[used].mean(0)).astype(np.float32)
    return Body(
        mesh.positions[used],
        faces.reshape(-1, 3).astype(np.uint32),
        Surface(picture, rough=0.9),
        mesh.normals[used],
        mesh.uv[used],
    )


def _plain(mesh: Mesh, here: np.ndarray, leafy: bool) -> Body | None:
    if not here.any():
        return None
    used, places_of = np.unique(mesh.faces[here], return_inverse=True)
    surface = Surface(through=LEAF_THROUGH if leafy else 0.0, rough=0.6 if leafy else 0.95)
    return Body(
        mesh.positions[used],
        places_of.reshape(-1, 3).astype(np.uint32),
        surface,
        None if leafy else mesh.normals[used],
        colour=mesh.colour[mesh.faces[here]].mean(1),
    )


def _covers(mesh: Mesh, sheet: np.ndarray) -> np.ndarray:
    """Which faces lie on a part of the sheet that is nowhere clear, bool (faces,)."""
    rows, columns = sheet.shape[:2]
    uv = np.clip(mesh.uv[mesh.faces], 0, 1)
    solid = np.ones(len(uv), bool)
    for weights in ((1, 0, 0), (0, 1, 0), (0, 0, 1), (1 / 3, 1 / 3, 1 / 3), (0.5, 0.5, 0)):
        at = np.einsum("k,fkc->fc", weights, uv)
        x = np.clip((at[:, 0] * columns).astype(int), 0, columns - 1)
        y = np.clip((at[:, 1] * rows).astype(int), 0, rows - 1)
        solid &= sheet[y, x, 3] > 250
    return solid
