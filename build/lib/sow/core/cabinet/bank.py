"""Pieces of bank: sand, shingle and rock ledge, which lie at the water's edge with their rim in the
ground, their front (north, while they are not turned) running down under water.
"""

from collections.abc import Callable

import numpy as np

from .mesh import Mesh, smooth_normals
from .stone import boulder, ripple, stone

HALF_M = np.array([3.2, 1.9])  # along the shore, and across it
RIM_M, FRONT_M = -0.45, -1.4  # how deep the rim lies behind and in front
POSTS = {4: (112, 68), 3: (72, 44), 2: (40, 24), 1: (16, 10)}

Profile = Callable[[np.ndarray, np.ndarray, np.random.Generator], np.ndarray]


def _smooth(low: float, high: float, x: np.ndarray) -> np.ndarray:
    t = np.clip((x - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def _inside(u: np.ndarray, v: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """How far within a ragged rim, 0 at it to 1 in the middle; `u`, `v` are -1..1."""
    around = np.stack([np.cos(np.arctan2(v, u)), np.sin(np.arctan2(v, u)), 0 * u], -1)
    rag = 0.12 * ripple(around.reshape(-1, 3), rng, 10, 3.0).reshape(u.shape)
    return np.clip(1 - (np.abs(u) ** 2.2 + np.abs(v) ** 2.2) ** (1 / 2.2) / (0.88 + rag), 0, 1)


def _laid(seed: int, detail: int, profile: Profile, tone, uneven: float) -> Mesh:
    """A sheet of posts whose height is a profile of how far within the rim they lie."""
    rng = np.random.default_rng(seed)
    columns, rows = POSTS[detail]
    v, u = np.meshgrid(np.linspace(-1, 1, rows), np.linspace(-1, 1, columns), indexing="ij")
    inside = _inside(u, v, rng)
    places = np.stack([u * HALF_M[0], v * HALF_M[1], 0 * u], -1).reshape(-1, 3)
    rough = ripple(places, rng, 18, 1.6) + 0.5 * ripple(places, rng, 24, 5.0)
    base = RIM_M + (FRONT_M - RIM_M) * _smooth(0.0, 1.0, v)
    top = profile(inside, rough.reshape(u.shape), rng)
    places[:, 2] = (base * (1 - _smooth(0, 0.35, inside)) + top).ravel()
    places[:, :2] += uneven * np.stack([rough, np.roll(rough, 7)], 1) * inside.ravel()[:, None]
    at = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = (q.ravel() for q in (at[:-1, :-1], at[:-1, 1:], at[1:, :-1], at[1:, 1:]))
    faces = np.concatenate([np.c_[a, b, d], np.c_[a, d, c]])
    normals = smooth_normals(places.astype(np.float32), faces)
    grain = rng.uniform(-0.5, 0.5, len(places))
    shade = 0.95 + 0.1 * rough + 0.12 * grain
    colour = np.asarray(tone) * np.clip(shade, 0.4, 1.4)[:, None]
    return Mesh.of(places, faces, colour, normals)


def _sand(seed: int, detail: int) -> Mesh:
    profile = lambda inside, rough, rng: 0.5 * _smooth(0, 0.8, inside) + 0.04 * rough * inside
    return _laid(seed, detail, profile, (0.33, 0.28, 0.205), 0.02)


def _shingle(seed: int, detail: int) -> Mesh:
    """A bank of pebbles: the larger ones lie on it."""
    profile = lambda inside, rough, rng: 0.62 * _smooth(0, 0.6, inside) + 0.07 * rough * inside
    bed = _laid(seed, detail, profile, (0.2, 0.19, 0.175), 0.05)
    rng = np.random.default_rng(seed + 40)
    high = np.flatnonzero(bed.positions[:, 2] > -0.6)
    count = {4: 420, 3: 260, 2: 120, 1: 40}[detail]
    parts = [bed]
    for i, k in enumerate(rng.choice(high, min(count, len(high)), replace=False)):
        half = rng.lognormal(np.log(0.075), 0.45) * np.array([1.0, rng.uniform(0.7, 0.95), 0.6])
        a = rng.uniform(0, 2 * np.pi)
        turn = np.array([[np.cos(a), -np.sin(a), 0], [np.sin(a), np.cos(a), 0], [0, 0, 1.0]])
        centre = bed.positions[k] + (0, 0, 0.25 * half[2])
        pebble = boulder(seed * 999 + i, 1, half, 12, 6, centre=centre, turn=turn)
        tint = rng.uniform(0.6, 1.3) * np.array([rng.uniform(0.95, 1.15), 1, rng.uniform(0.85, 1)])
        pebble.colour *= tint.astype(np.float32)
        parts.append(pebble)
    return Mesh.joined(parts)


def _ledge(seed: int, detail: int) -> Mesh:
    """Beds of rock that dip away from the water, broken off block by block along two sets of
    joints.
    """

    def profile(inside: np.ndarray, rough: np.ndarray, rng: np.random.Generator) -> np.ndarray:
        rows, columns = inside.shape
        y, x = np.mgrid[-1 : 1 : rows * 1j, -1 : 1 : columns * 1j]
        x, y = x * HALF_M[0] + 0.14 * rough, y * HALF_M[1] + 0.1 * rough
        along = np.floor((x + 0.35 * y) / 0.95).astype(int)
        across = np.floor((y - 0.2 * x) / 0.6).astype(int)
        broken = rng.uniform(size=(16, 16))[along % 16, across % 16]
        climbs = _smooth(0, 0.85, inside) * 5.0 - 2.4 * broken**1.4
        climbs = np.maximum(climbs, 0) + 0.08 * rough
        bed = np.floor(climbs)
        within = _smooth(0.86, 1.0, climbs - bed)
        dips = -0.1 * y * _smooth(0.1, 0.4, inside)
        return (0.15 * (bed + within) + dips) * (inside > 0) + 0.012 * rough

    mesh = _laid(seed, detail, profile, (0.235, 0.225, 0.21), 0.06)
    steep = 1 - mesh.normals[:, 2]
    mesh.colour *= (1 - 0.55 * np.clip(steep * 1.6, 0, 1))[:, None]
    return mesh


for _name, _label, _levels, _tone, _high in (
    ("sand-bank", "Sand bank", _sand, (0.33, 0.28, 0.205), 0.5),
    ("shingle-bank", "Shingle bank", _shingle, (0.21, 0.2, 0.18), 0.7),
    ("rock-ledge", "Rock ledge", _ledge, (0.2, 0.19, 0.175), 0.75),
):
    stone(
        _name,
        _label,
        _high,
        2.4,
        _levels,
        (20, 60, 150),
        colour=_tone,
        variants=3,
        tags="bank shore water edge",
        details=(4, 3, 2),
        family="bank",
    )
