"""Which plants and pieces a view needs, each at which level of its kind."""

from collections.abc import Iterable

import numpy as np

from ..build import Build
from ..build.far_wood import far_plants
from ..build.waters import wet_level
from ..cabinet import worn
from ..cabinet.family import families
from ..cabinet.kind import Kind
from ..motion.base import Moment
from ..planting.formed import sizes_of
from ..planting.plants import Plants, joined
from ..surface.look import field_at
from .blended import blended
from .bodies import Body, Copies
from .dressed import BEGINS, NEAREST, TINTS, WET_STEPS, bodies_of
from .near_leaves import with_near_leaves
from .sway import Sway
from .views import View

SHADES_M, SHADES_HEIGHTS = 25.0, 8.0  # what stands nearer is kept for its shade, seen or not
LEAFY = 2  # the last level of a tree that holds so many leaves that it has one tint alone
LEAST_PX = 0.7  # of height on the picture
LOW_M, LOW_ENDS_M = 1.0, 220.0  # of low plants; farther off the ground has their colour
LOW_FADES = 0.55  # part of that way from which on fewer and fewer of them stand
COARSE_M = (12.0, 40.0, 130.0)  # from which on leaves are cut by a coarser lattice
TEXELS = (8.0, 12.0, 18.0, 26.0)
LEAST_FINE = 0.4
WET_M = 80.0  # farther off, that a stone's foot is wet is not seen
SMALL_PX = 400.0  # pixels to a metre at a metre of a small picture
MOST_LOOKS = 100 * TINTS * (WET_STEPS + 1)  # levels, tints and how wet, of one variant
NEAR_PX = 430.0  # pixels to a metre at a metre that a kind's own distances are meant for


def stood(
    east: np.ndarray,
    north: np.ndarray,
    up: np.ndarray,
    turn: np.ndarray,
    lean: np.ndarray,
    bearing: np.ndarray,
    size: np.ndarray,
    mirrored: np.ndarray | None = None,
) -> np.ndarray:
    """Matrices float64 (n, 4, 4) of things that stand so: angles in degrees, turned clockwise, then
    leant towards a bearing; sizes (n,), or (n, 3) for width, depth and height.
    """
    t, l, b = (np.deg2rad(np.asarray(a, np.float64)) for a in (turn, lean, bearing))
    n = len(t)
    turned = np.zeros((n, 3, 3))
    turned[:, 0, 0] = turned[:, 1, 1] = np.cos(t)
    turned[:, 0, 1] = np.sin(t)
    turned[:, 1, 0] = -np.sin(t)
    turned[:, 2, 2] = 1
    # about the level axis to the right of the way it leans (Rodrigues)
    axis = np.stack([np.cos(b), -np.sin(b), np.zeros(n)], 1)
    cross = np.zeros((n, 3, 3))
    cross[:, 0, 2], cross[:, 1, 2] = axis[:, 1], -axis[:, 0]
    cross[:, 2, 0], cross[:, 2, 1] = -axis[:, 1], axis[:, 0]
    outer = axis[:, :, None] * axis[:, None, :]
    c, s = np.cos(l)[:, None, None], np.sin(l)[:, None, None]
    leant = np.eye(3) * c - cross * s + outer * (1 - c)
    out = np.zeros((n, 4, 4))
    sizes = np.asarray(size, float)
    sizes = sizes[:, None, :] if sizes.ndim == 2 else sizes[:, None, None]
    out[:, :3, :3] = leant @ turned * sizes
    if mirrored is not None:
        out[:, :3, 0] *= np.where(mirrored, -1.0, 1.0)[:, None]
    out[:, 0, 3], out[:, 1, 3], out[:, 2, 3] = east, north, up
    out[:, 3, 3] = 1
    return out


def _needed(plants: Plants, kind: Kind, which: np.ndarray, view: View) -> tuple:
    """Which of the plants `which` of a kind a view needs, and their distances."""
    places = np.stack([plants.east[which], plants.north[which], plants.up[which]], 1)
    size = plants.size[which]
    height = kind.height_m * size
    middle = places + np.array([0, 0, 0.5]) * height[:, None]
    d = np.linalg.norm(middle - view.eye, axis=1)
    radius = np.hypot(kind.reach_m * size, 0.5 * height)
    shades = d < np.maximum(SHADES_M, SHADES_HEIGHTS * height)
    keep = (view.seen_by(middle, radius) | shades) & (height * view.focal_px / d > LEAST_PX)
    if kind.height_m < LOW_M:
        ends = LOW_ENDS_M * max(1.0, view.focal_mm / 28)
        share = np.clip((ends - d) / (ends * (1 - LOW_FADES)), 0, 1)
        keep &= plants.rank[which] < share
    # no eye stands within a crown's own leaf
    keep &= d > np.minimum(0.35, 0.5 * radius)
    return which[keep], d[keep]


def _levels(kind: Kind, look: str, d: np.ndarray, size: np.ndarray, view: View) -> np.ndarray:
    """Level of each and how coarse its leaves are cut, as one number."""
    if kind.thins:
        far = kind.nearest_m * np.array(BEGINS)
    else:
        far = np.array([kind.nearest_m, *(kind.shape(look).far_m[:-1] or (1e9,))])
    finer = max(view.focal_px / NEAR_PX, LEAST_FINE)
    level = np.searchsorted(far * finer, d / np.maximum(size, 0.1), side="right")
    coarse = np.searchsorted(np.array(COARSE_M) * finer, d / np.maximum(size, 0.1), side="right")
    return level * 10 + np.where((level == NEAREST) | kind.thins, 0, coarse)


def coarser(view: View) -> float:
    """How much coarser leaves are cut for a small picture."""
    return 1.0 if view.focal_px > SMALL_PX else 2.0


def chosen(build: Build, view: View, sway: Sway | None = None) -> Iterable[Copies]:
    """The plants that a view needs, gathered by kind, variant, level and tint; `sway`
    leans them in the wind.
    """
    for index, sowing in enumerate(build.scene.planting):
        if not sowing.on:
            continue
        plants = joined(build.plants(index), far_plants(build, index))
        for k, name in enumerate(build.names(index)):
            kind, look, _ = worn(name)
            which, d = _needed(plants, kind, np.flatnonzero(plants.kind == k), view)
            if not len(which):
                continue
            code = _levels(kind, look, d, plants.size[which], view)
            tint = np.zeros(len(which), int) + TINTS // 2
            if families[kind.family].leafy:
                tint = np.clip((plants.tint[which] * TINTS).astype(int), 0, TINTS - 1)
            if families[kind.family].large:  # a tree of many leaves is kept once
                tint = np.where(code // 10 <= LEAFY, plants.variant[which] % TINTS, tint)
            wet = _wet(build, plants, kind, which, d)
            swayed = sway if families[kind.family].leafy else None
            looks = (code * TINTS + tint) * (WET_STEPS + 1) + wet
            gathered = _gathered(plants, name, which, looks, coarser(view), swayed)
            for bodies, at in gathered:
                copies = Copies(bodies, at, f"sowing {sowing.name}", kind.label)
                yield from with_near_leaves(copies, view)


def _wet(build: Build, plants: Plants, kind: Kind, which: np.ndarray, d: np.ndarray) -> np.ndarray:
    """How far up each is wet, in steps of its height; leaves shed it."""
    steps = np.zeros(len(which), int)
    if families[kind.family].leafy or not build.scene.water:
        return steps
    near = d < WET_M
    if not near.any():
        return steps
    some = which[near]
    level = field_at(build, wet_level(build), plants.east[some], plants.north[some])
    share = (level - plants.up[some]) / (kind.height_m * plants.size[some])
    steps[near] = np.clip(np.ceil(share * WET_STEPS), 0, WET_STEPS).astype(int)
    return steps


def _gathered(
    plants: Plants,
    name: str,
    which: np.ndarray,
    looks: np.ndarray,
    coarser: float,
    sway: Sway | None,
) -> Iterable[tuple[list[Body], np.ndarray]]:
    variants = plants.variant[which].astype(int)
    group = variants * MOST_LOOKS + looks
    for g in np.unique(group):
        here = which[group == g]
        variant, look = divmod(int(g), MOST_LOOKS)
        rest, wet = divmod(look, WET_STEPS + 1)
        code, tint = divmod(rest, TINTS)
        texels = TEXELS[code % 10] * coarser
        bodies = bodies_of(name, variant, code // 10, texels, tint, wet)
        p = plants
        angles = p.turn[here], p.lean[here], p.bearing[here]
        if sway is not None:
            height = worn(name)[0].height_m * p.size[here]
            angles = p.turn[here], *sway(p.east[here], p.north[here], height, *angles[1:])
        at = stood(p.east[here], p.north[here], p.up[here], *angles, p.size[here])
        yield bodies, at


def pieces_of(build: Build, view: View, moment: Moment | None = None) -> Iterable[Copies]:
    """The pieces placed by hand, each at its nearest level, where they are at a moment."""
    for piece in build.pieces():
        if moment and piece["id"] in moment.pieces:
            piece = piece | vars(moment.pieces[piece["id"]])
        name = piece["dressed"]
        sizes = sizes_of(piece)
        place = np.array([[piece["east_m"], piece["north_m"], piece["up_m"]]])
        d = np.linalg.norm(place - view.eye, axis=1)
        code = int(_levels(*worn(name)[:2], d, sizes.max(keepdims=True), view)[0])
        level, texels = code // 10, TEXELS[code % 10] * coarser(view)
        turn, lean, bearing = (np.array([piece[k]]) for k in ("turn", "lean", "bearing"))
        east, north, up = place.T
        mirrored = np.array([piece["mirrored"]])
        at = stood(east, north, up, turn, lean, bearing, sizes[None], mirrored)
        wet = _piece_wet(build, piece, name)
        bodies = bodies_of(name, piece["variant"], level, texels, wet=wet)
        if piece["blend_cm"] > 0 and not families[worn(name)[0].family].leafy:
            bodies = blended(build, bodies, at[0], piece["blend_cm"] / 100, d[0] / view.focal_px)
            at = np.eye(4)[None]
        copies = Copies(bodies, at, f"piece {piece['name']}", worn(name)[0].label)
        yield from with_near_leaves(copies, view)


def _piece_wet(build: Build, piece: dict, name: str) -> int:
    kind = worn(name)[0]
    afloat = any(p.id == piece["id"] and p.stands == "water" for p in build.scene.pieces)
    if afloat or families[kind.family].leafy or not build.scene.water:
        return 0
    place = np.array([piece["east_m"]]), np.array([piece["north_m"]])
    level = float(field_at(build, wet_level(build), *place)[0])
    share = (level - piece["up_m"]) / (kind.height_m * sizes_of(piece)[2])
    return int(np.clip(np.ceil(share * WET_STEPS), 0, WET_STEPS))
