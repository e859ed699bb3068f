"""Kinds of the cabinet as bodies: leaves cut out, bark with its picture, stones coloured."""

from collections import OrderedDict

import numpy as np

from ..cabinet import worn
from ..cabinet.family import families
from ..cabinet.kind import linear
from ..cabinet.mesh import Mesh
from .bodies import Body, Surface
from .cut import leaves_of

MOST_KEPT = 400
LEAF_THROUGH = 0.62  # part of a leaf's diffuse light that comes through (Jacquemoud & Baret 1990)
DARKEST, PALEST = 0.004, 0.92  # reflectances that a thing may have
TINTS = 3

_kept: OrderedDict[tuple, list[Body]] = OrderedDict()


def tint_factor(tint: np.ndarray | float) -> np.ndarray:
    """What a stance's tint 0..1 makes of a leafy kind's colour, as in the view, (..., 3)."""
    t = np.asarray(tint, float)[..., None] - 0.5
    return (1 + t * np.array([0.85, 0.3, -0.55])) * (1 + t * 0.5)


def bodies_of(name: str, variant: int, level: int, texels: float, tint: int = 1) -> list[Body]:
    """A kind as a mix names it, at size 1 on the origin: one of its levels, its leaves cut by a
    lattice of so many texels, in one of TINTS tints. Made once and kept.
    """
    key = (name, variant, level, round(texels, 2), tint)
    if key not in _kept:
        _kept[key] = _made(name, variant, level, texels, tint)
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)
    _kept.move_to_end(key)
    return _kept[key]


def _made(name: str, variant: int, level: int, texels: float, tint: int) -> list[Body]:
    kind, look, tone = worn(name)
    shape = kind.shape(look)
    row = shape.levels[variant % len(shape.levels)]
    mesh = row[min(level, len(row) - 1)]
    leafy = families[kind.family].leafy
    factor = np.ones(3) if tone is None else np.asarray(tone, float)
    if leafy:
        factor = factor * tint_factor((tint + 0.5) / TINTS)
    return [b for b in _parts(mesh, shape.sheet, leafy, factor, texels) if len(b.faces)]


def _parts(
    mesh: Mesh, sheet: np.ndarray, leafy: bool, factor: np.ndarray, texels: float
) -> list[Body]:
    pictured = (mesh.uv[mesh.faces, 0] >= 0).all(1)
    whole = pictured & _covers(mesh, sheet)
    cut = np.flatnonzero(pictured & ~whole)
    plain = np.flatnonzero(~pictured)
    held = lambda colour: np.clip(colour * factor, DARKEST, PALEST).astype(np.float32)
    out = []
    if len(cut):
        places, _, colours = leaves_of(mesh, cut, sheet, texels)
        corners = np.arange(len(places) * 3, dtype=np.uint32).reshape(-1, 3)
        surface = Surface(through=LEAF_THROUGH if leafy else 0.0, rough=0.55)
        out.append(Body(places.reshape(-1, 3), corners, surface, colour=held(colours)))
    if whole.any():
        used, faces = np.unique(mesh.faces[whole], return_inverse=True)
        tone = mesh.colour[used].mean(0)
        picture = held(linear(sheet[..., :3]) * tone)
        out.append(
            Body(
                mesh.positions[used],
                faces.reshape(-1, 3).astype(np.uint32),
                Surface(picture, rough=0.9),
                mesh.normals[used],
                mesh.uv[used],
            )
        )
    if len(plain):
        used, places_of = np.unique(mesh.faces[plain], return_inverse=True)
        faces = places_of.reshape(-1, 3).astype(np.uint32)
        colour = held(mesh.colour[mesh.faces[plain]].mean(1))
        through = 0.0 if not leafy else LEAF_THROUGH
        normals = None if leafy else mesh.normals[used]
        surface = Surface(through=through, rough=0.6 if leafy else 0.95)
        out.append(Body(mesh.positions[used], faces, surface, normals, colour=colour))
    return out


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
