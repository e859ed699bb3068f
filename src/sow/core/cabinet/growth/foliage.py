"""Leaves as they are: outlines of their own measures, folded along the midrib, set along shoots."""

from dataclasses import dataclass

import numpy as np

from ..mesh import Mesh
from ..recipes import maker

GOLDEN = 2.39996  # radians from one leaf to the next of a spiral
FOLD = 0.55  # radians that each half of a leaf is raised
MOST_OF_ONE = 16  # triangles of a leaf that is no leaf of leaflets
CURL = 0.35  # of its length, by which the tip of a leaf hangs below its midrib's first way


@dataclass(frozen=True)
class Leaf:
    """A leaf of length 1 lying along y, its face up: places (n, 3), faces (m, 3). `long_m` and
    `broad_m` are its measures at full size.
    """

    places: np.ndarray
    faces: np.ndarray
    long_m: float
    broad_m: float

    def area_m2(self) -> float:
        """Of one side."""
        at = self.places[self.faces]
        return float(
            np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1).sum() / 2
        ) * (self.long_m**2)


def _laid(spine: np.ndarray, halves: np.ndarray, faces, long_m, broad_m, curl=CURL) -> Leaf:
    """A leaf from stations along its midrib and the places of its left rim, both (y, half
    breadth)."""
    half = broad_m / long_m / 2
    middle = np.stack([np.zeros(len(spine)), spine, np.zeros(len(spine))], 1)
    wide, lift = halves[:, 1] * half * np.cos(FOLD), halves[:, 1] * half * np.sin(FOLD)
    rims = [np.stack([s * wide, halves[:, 0], lift], 1) for s in (-1.0, 1.0)]
    places = np.concatenate([middle, *rims])
    places[:, 2] -= curl * places[:, 1] ** 2
    return Leaf(places, np.asarray(faces), long_m, broad_m)


@maker
def pointed(long_m: float, broad_m: float, widest: float = 0.38, curl: float = CURL) -> Leaf:
    """A plain leaf, broadest at `widest` of its length."""
    spine = np.array((0.0, widest * 0.9, 0.5 + widest / 2, 1.0))
    halves = np.array(((widest, 1.0), (0.42 + widest * 0.72, 0.7)))
    left = [(0, 4, 1), (1, 4, 5), (1, 5, 2), (2, 5, 3)]
    right = [(0, 1, 6), (1, 7, 6), (1, 2, 7), (2, 3, 7)]
    return _laid(spine, halves, left + right, long_m, broad_m, curl)


@maker
def rhombic(long_m: float, broad_m: float, widest: float = 0.4) -> Leaf:
    """A plain leaf of four triangles, for crowns that hold very many."""
    spine = np.array((0.0, widest + 0.1, 1.0))
    halves = np.array(((widest, 1.0),))
    faces = [(0, 3, 1), (1, 3, 2), (0, 1, 4), (1, 2, 4)]
    return _laid(spine, halves, faces, long_m, broad_m)


def plain(leaf: Leaf) -> Leaf:
    """A leaf as long and as large in four triangles; one of leaflets stays as it is."""
    if not 4 < len(leaf.faces) <= MOST_OF_ONE:
        return leaf
    as_broad = rhombic(leaf.long_m, leaf.broad_m)
    return rhombic(leaf.long_m, leaf.broad_m * leaf.area_m2() / as_broad.area_m2())


@maker
def lobed(long_m: float, broad_m: float, lobes: int = 4) -> Leaf:
    """A leaf cut into lobes, as of oak and hawthorn: two triangles a lobe and side."""
    spine = np.linspace(0, 1, lobes + 2)
    t = (np.arange(lobes) + 0.75) / lobes
    wide = np.sin(np.pi * (0.12 + 0.8 * t * 0.9)) ** 0.8
    halves = np.stack([np.minimum(t * 0.98 + 0.03, 0.97), wide / wide.max()], 1)
    faces: list[tuple[int, int, int]] = []
    for k in range(lobes):
        left, right = lobes + 2 + k, 2 * lobes + 2 + k
        faces += [(k, left, k + 1), (k + 1, left, k + 2)] if k else [(k, left, k + 1)]
        faces += [(k, k + 1, right), (k + 1, k + 2, right)] if k else [(k, k + 1, right)]
    return _laid(spine, halves, faces, long_m, broad_m, 0.2)


@maker
def pinnate(long_m: float, leaflet_m: float, broad_m: float, pairs: int) -> Leaf:
    """A leaf of leaflets in pairs along a stalk, as of rowan: `long_m` the whole, `leaflet_m` by
    `broad_m` each.
    """
    places: list[np.ndarray] = []
    faces: list[np.ndarray] = []
    one = leaflet_m / long_m

    def add(at: np.ndarray, way: np.ndarray, side: np.ndarray, size: float) -> None:
        half = broad_m / leaflet_m / 2
        local = np.array([(0, 0), (-half, 0.42), (0, 0.5), (half, 0.42), (0, 1.0)]) * size
        lift = np.array((0, 0.09, 0, 0.09, -0.08))[:, None] * size
        up = np.cross(side, way)
        places.append(at + local[:, :1] * side + local[:, 1:] * way + lift * up)
        n = 5 * len(faces)
        faces.append(n + np.array([(0, 1, 2), (0, 2, 3), (2, 1, 4), (2, 4, 3)]))

    stalk = lambda t: np.array((0, t * (1 - one * 0.8), -0.25 * t * t))
    for k in range(pairs):
        t = 0.28 + 0.68 * k / max(pairs - 1, 1)
        for s in (-1.0, 1.0):
            way = np.array((s * 0.88, 0.42, -0.12))
            way /= np.linalg.norm(way)
            side = np.array((way[1], -way[0], 0)) / np.hypot(way[0], way[1])
            add(stalk(t), way, side, one * (1.05 - 0.3 * abs(t - 0.6)))
    add(stalk(1.0), np.array((0, 0.97, -0.24)), np.array((1.0, 0, 0)), one)
    wide = 0.012
    rachis = np.array([(-wide, 0, 0), (wide, 0, 0), (wide / 2, 1 - one * 0.8, -0.25)])
    places.append(rachis)
    faces.append(5 * len(faces) + np.array([(0, 1, 2)]))
    return Leaf(np.concatenate(places), np.concatenate(faces), long_m, long_m)


def set_out(
    leaf: Leaf,
    at: np.ndarray,
    way: np.ndarray,
    up: np.ndarray,
    size: np.ndarray,
    colour: np.ndarray,
) -> Mesh:
    """Leaves at places (n, 3), along unit ways, their faces towards `up` as far as that goes, sizes
    (n,) as parts of the full one, each of a linear colour (n, 3).
    """
    side = np.cross(way, up)
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-9)
    face = np.cross(side, way)
    frames = np.stack([side, way, face], 1) * (size * leaf.long_m)[:, None, None]
    places = np.einsum("vk,nkc->nvc", leaf.places, frames) + at[:, None]
    n, v = len(at), len(leaf.places)
    faces = (leaf.faces[None] + v * np.arange(n)[:, None, None]).reshape(-1, 3)
    normals = np.repeat(face, v, 0)
    return Mesh.of(
        places.reshape(-1, 3), faces, np.repeat(colour, v, 0), normals, np.full((n * v, 2), -1.0)
    )


@dataclass(frozen=True)
class Shoots:
    """Leafy twigs: feet (n, 3), unit ways (n, 3), lengths (n,) in m."""

    foot: np.ndarray
    way: np.ndarray
    long_m: np.ndarray

    def at(self, t: np.ndarray, hang: float) -> tuple[np.ndarray, np.ndarray]:
        """Places and unit ways at parts t (k,) of the twigs, which hang by `hang` of their length
        at the tip, each (n, k, 3).
        """
        long = self.long_m[:, None, None]
        tt = t[None, :, None]
        down = np.array((0, 0, -1.0))
        places = self.foot[:, None] + long * (tt * self.way[:, None] + hang * tt**2 * down)
        ways = self.way[:, None] + 2 * hang * tt * down
        return places, ways / np.linalg.norm(ways, axis=2, keepdims=True)


def twigs(shoots: Shoots, hang: float, radius_m: float, colour) -> Mesh:
    """The wood of shoots: three-sided, thinning to the tip."""
    t = np.array((0.0, 0.5, 1.0))
    places, ways = shoots.at(t, hang)
    side = np.cross(ways, (0.3, 0.2, 0.93))
    side /= np.maximum(np.linalg.norm(side, axis=2, keepdims=True), 1e-9)
    other = np.cross(ways, side)
    turn = np.arange(3) * 2 * np.pi / 3
    out = (
        np.cos(turn)[None, None, :, None] * side[:, :, None]
        + np.sin(turn)[None, None, :, None] * other[:, :, None]
    )
    thick = (radius_m * np.array((1.0, 0.8, 0.45)))[None, :, None, None]
    n = len(places)
    pos = places[:, :, None] + out * thick
    one = []
    for i in range(2):
        for k in range(3):
            a, b = 3 * i + k, 3 * i + (k + 1) % 3
            one += [(a, b, b + 3), (a, b + 3, a + 3)]
    faces = (np.array(one)[None] + 9 * np.arange(n)[:, None, None]).reshape(-1, 3)
    return Mesh.of(pos.reshape(-1, 3), faces, colour, out.reshape(-1, 3), np.full((9 * n, 2), -1.0))


def leaves_on(
    rng: np.random.Generator,
    shoots: Shoots,
    leaf: Leaf,
    number: int,
    hang: float,
    opposite: bool,
    colour: np.ndarray,
    kept: float = 1.0,
    drops: float = 0.5,
) -> Mesh:
    """`number` leaves along each shoot, spiralled or in pairs, a part of them `kept`; `drops` is
    how far they hang on their stalks.
    """
    n = len(shoots.foot)
    pairs = 2 if opposite else 1
    steps = np.arange(number) // pairs
    t = 0.12 + 0.88 * (steps + 0.6) / max(steps.max() + 1, 1)
    t[-1] = 1.0
    places, ways = shoots.at(t, hang)
    turn = rng.uniform(0, 6.28, (n, 1)) + GOLDEN * steps[None]
    if opposite:
        turn = rng.uniform(0, 6.28, (n, 1)) + (np.pi / 2) * steps + np.pi * (np.arange(number) % 2)
    side = np.cross(ways, np.array((0.1, 0.25, 0.96)))
    side /= np.maximum(np.linalg.norm(side, axis=2, keepdims=True), 1e-9)
    over = np.cross(side, ways)
    out = np.cos(turn)[..., None] * side + np.sin(turn)[..., None] * over
    spread = np.where(np.arange(number) == number - 1, 0.25, rng.uniform(0.75, 1.15, (n, number)))
    way = np.cos(spread)[..., None] * ways + np.sin(spread)[..., None] * out
    way = way + np.array((0, 0, -1.0)) * drops * rng.uniform(0.4, 1.2, (n, number, 1))
    way = way / np.linalg.norm(way, axis=2, keepdims=True)
    stalk = 0.22 * leaf.long_m
    at = places + stalk * way
    up = np.array((0, 0, 1.0)) + rng.normal(0, 0.34, (n, number, 3)) + 0.25 * out
    size = rng.uniform(0.72, 1.12, (n, number)) * np.where(t > 0.8, 0.86, 1.0)[None]
    tone = rng.uniform(0.78, 1.2, (n, number, 1)) * rng.uniform(0.86, 1.14, (n, 1, 1))
    hue = 1 + rng.normal(0, 0.09, (n, number, 1)) * np.array((1.0, 0.1, -0.6))
    here = rng.uniform(0, 1, (n, number)) < kept
    tint = np.asarray(colour) * tone * hue
    return set_out(leaf, at[here], way[here], up[here], size[here], tint[here])
