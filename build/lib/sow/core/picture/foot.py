"""The ground at the eye's foot: patches of what stands and lies on it, as the cabinet's swards make
them, sown by the shares of its materials.
"""

import functools
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np

from ..build import Build
from ..cabinet import grounds
from ..cabinet.mesh import Part
from ..cabinet.swards import swards
from ..sample import heights_at
from ..surface.look import field_at
from ..surface.material import colours_of
from .bodies import Body, Copies
from .choose import LEAST_FINE, NEAR_PX
from .dressed import DARKEST, PALEST, body_of, toned
from .views import View

APART = 1.15  # of a patch's radius
VARIANTS = 4
TONES = 3  # darker, as it is, paler
TONE_STEP = 0.22
FADES = 0.55  # part of the last ring from which on fewer and fewer patches lie
MOST_PATCHES = 24_000
STEEPEST = 0.55  # least height of the ground's normal that anything lies on


class Ring(NamedTuple):
    """Patches out to `ends_m`: `radius_m` of one as it is made, how dense it is, how many times as
    wide and as high it is laid.
    """

    ends_m: float
    radius_m: float
    dense: float
    wide: float = 1.0
    high: float = 1.0


RINGS = (
    Ring(5.0, 0.22, 1.4),
    Ring(11.0, 0.6, 0.7),
    Ring(26.0, 0.5, 0.42, 2.6, 1.3),
    Ring(60.0, 0.5, 0.36, 5.4, 1.7),
)


def foot_of(build: Build, view: View) -> Iterable[Copies]:
    """Patches of the ground's own growth and stones about a view's eye."""
    if not build.scene.ground:
        return
    finer = max(view.focal_px / NEAR_PX, LEAST_FINE)
    over = float(view.eye[2]) - build.ground_at(float(view.eye[0]), float(view.eye[1]))
    inner = 0.0
    for ring in RINGS:
        outer = ring.ends_m * min(finer, 2.5)
        if over < outer:
            yield from _ring(build, view, ring, inner, outer)
        inner = outer


def _ring(build: Build, view: View, ring: Ring, inner: float, outer: float) -> Iterable[Copies]:
    x, y, chance = places_about(build, view, inner, outer, APART * ring.radius_m * ring.wide)
    if not len(x):
        return
    upright = field_at(build, build.normals(), x, y)
    z = heights_at(build.heights, build.grid, x, y)
    keep = upright[:, 2] > STEEPEST
    for wet in build.water()[1]:
        keep &= field_at(build, wet.astype(np.float32), x, y) < 0.5
    if ring is RINGS[-1]:
        away = np.hypot(x - view.eye[0], y - view.eye[1])
        keep &= chance[0] < 1 - np.clip((away / outer - FADES) / (1 - FADES), 0, 1)
    shares = np.array([field_at(build, w, x, y) for w in build.ground()])
    whole = np.maximum(shares.sum(axis=0), 1e-4)
    edges = np.add.accumulate(shares, axis=0) / whole
    lies = np.count_nonzero(chance[1][None] > edges, axis=0)
    code = (chance[2] * VARIANTS).astype(int) * TONES + (chance[3] * TONES).astype(int)
    for i, m in enumerate(build.scene.ground):
        ground = build.ground_of(m)
        if not m.on or ground.family not in swards:
            continue
        here = np.flatnonzero(keep & (lies == i))
        for g in np.unique(code[here]):
            some = here[code[here] == g]
            tune = tuple(colours_of(m).ravel().tolist())
            bodies = _bodies(ground.name, tune, int(g), ring.radius_m, ring.dense)
            feet = np.stack([x[some], y[some], z[some]], 1)
            turn, size = 2 * np.pi * chance[4][some], 0.85 + 0.4 * chance[0][some]
            at = lain(feet, upright[some], turn, size * ring.wide)
            at[:, :3, 2] *= ring.high / ring.wide
            yield Copies(bodies, at, f"ground {m.name}", ground.label)


def places_about(build: Build, view: View, inner: float, outer: float, apart: float) -> tuple:
    """Places (n,) east and north in m between two distances that a view may see, on a lattice of
    the plot, and five numbers 0..1 of each place (5, n), whatever eye sees it.
    """
    plot = build.scene.plot
    low = np.floor((view.eye[:2] - outer) / apart).astype(int)
    high = np.ceil((view.eye[:2] + outer) / apart).astype(int)
    squares = np.meshgrid(np.arange(low[0], high[0] + 1), np.arange(low[1], high[1] + 1))
    column, row = (v.ravel() for v in squares)
    chance = np.stack([_hashed(column, row, k) for k in range(7)])
    x = (column + 0.8 * (chance[5] - 0.5)) * apart
    y = (row + 0.8 * (chance[6] - 0.5)) * apart
    away = np.hypot(x - view.eye[0], y - view.eye[1])
    keep = (away >= inner) & (away < outer)
    keep &= (x > 0) & (y > 0) & (x < plot.width_m) & (y < plot.depth_m)
    here = np.flatnonzero(keep)
    if len(here):
        middle = np.stack([x, y, np.zeros(len(x))], 1)[here]
        middle[:, 2] = heights_at(build.heights, build.grid, x[here], y[here])
        here = here[view.seen_by(middle, np.full(len(here), 2 * apart))]
        here = here[np.argsort(away[here], kind="stable")[:MOST_PATCHES]]
    return x[here], y[here], chance[:5, here]


def _hashed(column: np.ndarray, row: np.ndarray, channel: int) -> np.ndarray:
    """A number 0..1 of each square of a lattice."""
    v = column.astype(np.uint64) * np.uint64(73856093) ^ row.astype(np.uint64) * np.uint64(19349663)
    v = (v ^ np.uint64(channel * 83492791 + 1)) * np.uint64(0x9E3779B97F4A7C15)
    v = (v ^ (v >> np.uint64(29))) * np.uint64(0xBF58476D1CE4E5B9)
    return ((v ^ (v >> np.uint64(32))) >> np.uint64(11)).astype(np.float64) / 2.0**53


def lain(feet: np.ndarray, upright: np.ndarray, turn: np.ndarray, size: np.ndarray) -> np.ndarray:
    """Matrices float64 (n, 4, 4) of patches that lie on ground of some normals."""
    up = upright / np.linalg.norm(upright, axis=1, keepdims=True)
    # growth stands nearer to the plumb than the ground does
    up = up + np.array((0, 0, 0.35))
    up /= np.linalg.norm(up, axis=1, keepdims=True)
    way = np.stack([np.cos(turn), np.sin(turn), np.zeros(len(turn))], 1)
    way -= up * (way * up).sum(1, keepdims=True)
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    out = np.zeros((len(turn), 4, 4))
    out[:, :3, :3] = np.stack([way, np.cross(up, way), up], 2) * size[:, None, None]
    out[:, :3, 3] = feet
    out[:, 3, 3] = 1
    return out


@functools.lru_cache(300)
def _bodies(name: str, tune: tuple, code: int, radius: float, dense: float) -> list[Body]:
    """A patch of a ground, in the colours of its variant and its material."""
    variant, tone = divmod(code, TONES)
    ground = grounds[name]
    own, family = (np.array(g.map_means()[:3]) for g in (ground, grounds[ground.family]))
    factor = own / np.maximum(family, 0.005) * (1 + (tone - TONES // 2) * TONE_STEP)
    matrix = np.array(tune).reshape(3, 3)
    held = lambda colour: np.clip((colour * factor) @ matrix.T, DARKEST, PALEST).astype(np.float32)
    return [toned(body_of(part), held) for part in _patch(ground.family, variant, radius, dense)]


@functools.lru_cache(64)
def _patch(family: str, variant: int, radius: float, dense: float) -> list[Part]:
    return swards[family](np.random.default_rng(variant + 10), radius, dense)
