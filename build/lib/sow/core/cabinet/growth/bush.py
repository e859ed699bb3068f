"""Bushes and fronds as they are seen near."""

from dataclasses import dataclass

import numpy as np

from ..mesh import Mesh
from .foliage import GOLDEN, Leaf, Shoots, leaves_on, set_out, twigs

Colour = tuple[float, float, float]


def sliver(long_m: float, broad_m: float) -> Leaf:
    """A needle or scale: two triangles."""
    half = broad_m / long_m / 2
    places = np.array([(0, 0, 0), (-half, 0.5, 0.1), (0, 1, -0.05), (half, 0.5, 0.1)], float)
    return Leaf(places, np.array([(0, 1, 2), (0, 2, 3)]), long_m, broad_m)


def floret(long_m: float) -> Leaf:
    """A small closed flower: four sides that meet at both ends."""
    r = 0.34
    places = np.array([(0, 0, 0), (r, 0.6, 0), (0, 0.6, r), (-r, 0.6, 0), (0, 0.6, -r), (0, 1, 0)])
    faces = [(0, 1 + k, 1 + (k + 1) % 4) for k in range(4)]
    faces += [(5, 1 + (k + 1) % 4, 1 + k) for k in range(4)]
    return Leaf(places, np.array(faces), long_m, 2 * r * long_m)


@dataclass(frozen=True)
class Bush:
    """How a low shrub is built: `stems` from its foot, each parting into `on_stem` shoots of
    `shoot_m` with `on_shoot` leaves; a share of the shoots ends in flower: `in_flower` of them on
    each. `spread` 0..1 is how far shoots turn out of their stem's way.
    """

    stems: int
    on_stem: int
    shoot_m: float
    leaf: Leaf
    on_shoot: int
    wood: Colour
    stem_m: float = 0.0025
    flower: Leaf | None = None
    in_flower: int = 12
    spread: float = 0.5
    drops: float = 0.0
    hang: float = 0.05


def bush(
    seed: int,
    form: Bush,
    height: float,
    reach: float,
    body: Colour,
    tip: Colour,
    tip_share: float,
) -> list[Mesh]:
    """Stems, leafy shoots and flowers of a bush of a height and a reach in m; leaves have the
    colour of its body, flowers that of its tips.
    """
    rng = np.random.default_rng(seed)
    n = form.stems
    turn = rng.uniform(0, 2 * np.pi, n)
    r = np.sqrt(rng.uniform(0, 1, n))
    up = np.sqrt(1 - 0.85 * r * r) * rng.uniform(0.55, 1.0, n)
    top = np.stack([r * np.cos(turn) * reach, r * np.sin(turn) * reach, up * height * 0.86], 1)
    foot = top * (0.1, 0.1, 0) + np.array((0, 0, -0.02))
    way = top - foot + np.array((0, 0, 0.35)) * height
    long = np.linalg.norm(top - foot, axis=1) * 1.05
    stems = Shoots(foot, way / np.linalg.norm(way, axis=1, keepdims=True), long)
    t = np.sort(rng.uniform(0.22, 1.0, form.on_stem))
    t[-1] = 1.0
    sag = 0.32 * height / long.mean()
    at, ways = stems.at(t, sag)
    out = ways + form.spread * rng.normal(0, 1, ways.shape) + np.array((0, 0, 0.35))
    out /= np.linalg.norm(out, axis=2, keepdims=True)
    size = form.shoot_m * rng.uniform(0.55, 1.25, at.shape[:2]) * (0.7 + 0.4 * t[None])
    shoots = Shoots(at.reshape(-1, 3), out.reshape(-1, 3), size.ravel())
    parts = [
        twigs(stems, sag, form.stem_m, form.wood),
        twigs(shoots, form.hang, 0.0009, form.wood),
        leaves_on(
            rng, shoots, form.leaf, form.on_shoot, form.hang, False, np.array(body), 1.0, form.drops
        ),
    ]
    if form.flower is not None:
        inner = np.repeat(t[None], n, 0).ravel()
        flowers = rng.uniform(0, 1, len(inner)) < tip_share * (0.35 + 0.65 * inner)
        some = Shoots(shoots.foot[flowers], shoots.way[flowers], shoots.long_m[flowers])
        if len(some.foot):
            parts.append(_flowers(rng, some, form, tip))
    return parts


def _flowers(rng: np.random.Generator, shoots: Shoots, form: Bush, colour: Colour) -> Mesh:
    """Flowers in the upper half of shoots."""
    t = np.linspace(0.45, 1.0, form.in_flower)
    at, ways = shoots.at(t, form.hang)
    n = at.shape[:2]
    way = 0.5 * ways + rng.normal(0, 0.6, (*n, 3)) + np.array((0, 0, -0.25))
    way /= np.linalg.norm(way, axis=2, keepdims=True)
    flat = lambda v: v.reshape(-1, 3)
    tone = np.asarray(colour) * rng.uniform(0.75, 1.25, (n[0] * n[1], 1))
    up = np.broadcast_to(np.array((0.2, 0.1, 1.0)), (n[0] * n[1], 3))
    assert form.flower is not None
    return set_out(form.flower, flat(at), flat(way), up, rng.uniform(0.7, 1.15, len(tone)), tone)


def fronds(
    seed: int,
    number: int,
    long_m: float,
    rises: float,
    pinna: Leaf,
    pairs: int,
    green: Colour,
    rust: Colour,
    rusted: float,
) -> list[Mesh]:
    """Fronds that arch from a crown: a stalk, and pinnae in pairs that shorten to the tip.

    Args:
        number: of fronds.
        long_m: of one, on average.
        rises: radians above level at which they leave the ground.
        pinna: the largest of them.
        pairs: on a frond.
        green, rust: linear colours; a share `rusted` of the fronds has the second.
    """
    rng = np.random.default_rng(seed)
    t = np.linspace(0, 1, 16)
    turn = GOLDEN * np.arange(number) + rng.normal(0, 0.3, number)
    out = np.stack([np.cos(turn), np.sin(turn), np.zeros(number)], 1)
    long = long_m * rng.uniform(0.75, 1.2, number)
    angle = rises * rng.uniform(0.85, 1.1, (number, 1)) - 1.75 * t[None] ** 1.7
    step = (long / 15)[:, None, None]
    way = np.cos(angle)[..., None] * out[:, None] + np.sin(angle)[..., None] * np.array((0, 0, 1.0))
    spine = np.concatenate([np.zeros((number, 1, 3)), np.cumsum(step * way[:, 1:], 1)], 1)
    tone = np.where(rng.uniform(0, 1, (number, 1)) < rusted, np.array(rust), np.array(green))
    tone = tone * rng.uniform(0.75, 1.2, (number, 1))
    parts = [_stalks(spine, way, long, tone)]
    for side in (-1.0, 1.0):
        s = 0.24 + 0.76 * (np.arange(pairs) + 0.5 + 0.2 * side) / pairs
        i = np.minimum((s * 15).astype(int), 14)
        f = (s * 15 - i)[None, :, None]
        at = spine[:, i] * (1 - f) + spine[:, i + 1] * f
        along = way[:, i]
        across = side * np.cross(along, np.array((0, 0, 1.0)))
        across /= np.maximum(np.linalg.norm(across, axis=2, keepdims=True), 1e-9)
        shape = np.sin(np.pi * np.clip(0.2 + 0.8 * s, 0, 1)) ** 0.7 * (1.1 - 0.6 * s)
        lies = 0.42 * along + across + rng.normal(0, 0.07, across.shape) - (0, 0, 0.12)
        lies /= np.linalg.norm(lies, axis=2, keepdims=True)
        face = np.cross(across, along) * side
        face = np.where(face[..., 2:] < 0, -face, face) + rng.normal(0, 0.1, face.shape)
        size = (long / long_m)[:, None] * shape[None] * rng.uniform(0.88, 1.08, (number, pairs))
        hue = np.repeat(tone, pairs, 0) * rng.uniform(0.85, 1.15, (number * pairs, 1))
        flat = lambda v: np.broadcast_to(v, at.shape).reshape(-1, 3)
        parts.append(set_out(pinna, flat(at), flat(lies), flat(face), size.ravel(), hue))
    return parts


def _stalks(spine: np.ndarray, way: np.ndarray, long: np.ndarray, tone: np.ndarray) -> Mesh:
    """The ribs of fronds, three-sided."""
    n, k = spine.shape[:2]
    side = np.cross(way, np.array((0, 0, 1.0)) + 0.01)
    side /= np.maximum(np.linalg.norm(side, axis=2, keepdims=True), 1e-9)
    under = np.cross(side, way)
    thick = 0.0035 * (1 - 0.85 * np.linspace(0, 1, k))[None, :, None] * (long / 0.8)[:, None, None]
    rings = np.stack([spine - thick * side, spine + thick * side, spine + 1.4 * thick * under], 2)
    one = []
    for i in range(k - 1):
        for j in range(3):
            a, b = 3 * i + j, 3 * i + (j + 1) % 3
            one += [(a, b, b + 3), (a, b + 3, a + 3)]
    faces = (np.array(one)[None] + 3 * k * np.arange(n)[:, None, None]).reshape(-1, 3)
    colour = np.repeat(tone * np.array((0.8, 0.62, 0.55)), 3 * k, 0)
    return Mesh.of(rings.reshape(-1, 3), faces, colour, None, np.full((3 * k * n, 2), -1.0))
