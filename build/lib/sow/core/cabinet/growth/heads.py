"""Flowers and seed heads: petals, bells, florets and hairs set out about the tips of stalks."""

import numpy as np

from ..mesh import Mesh
from .foliage import Leaf, pointed, set_out

EYE = (0.62, 0.4, 0.03)  # linear colour of the yellow middle of a daisy


def bell(long_m: float, lobes: int = 5) -> Leaf:
    """A bell open to its tip, its rim cut into lobes."""
    turn = np.arange(2 * lobes) * np.pi / lobes
    rings = ((0.0, 0.06), (0.25, 0.3), (0.7, 0.36), (1.0, 0.5))
    places = []
    for k, (y, r) in enumerate(rings):
        reach = np.where(np.arange(2 * lobes) % 2 == 0, y, y - 0.16 * (k == len(rings) - 1))
        places.append(np.stack([r * np.cos(turn), reach, r * np.sin(turn)], 1))
    n = 2 * lobes
    faces = []
    for k in range(len(rings) - 1):
        for j in range(n):
            a, b = k * n + j, k * n + (j + 1) % n
            faces += [(a, b, b + n), (a, b + n, a + n)]
    return Leaf(np.concatenate(places), np.array(faces), long_m, long_m)


def _spread(rng: np.random.Generator, n: int, up: np.ndarray, least: float) -> np.ndarray:
    """Unit ways (m, n, 3) all round m axes (m, 3), `least` being the least cosine to the axis."""
    z = rng.uniform(least, 1, (len(up), n))
    turn = rng.uniform(0, 2 * np.pi, (len(up), n))
    r = np.sqrt(np.maximum(1 - z * z, 0))
    a = np.cross(up, np.array((0.3, 0.9, 0.2)))
    a /= np.linalg.norm(a, axis=1, keepdims=True)
    b = np.cross(up, a)
    return (
        (r * np.cos(turn))[..., None] * a[:, None]
        + (r * np.sin(turn))[..., None] * b[:, None]
        + z[..., None] * up[:, None]
    )


def _flat(values: np.ndarray) -> np.ndarray:
    return values.reshape(-1, values.shape[-1])


def _tones(rng: np.random.Generator, n: int, colour, uneven: float = 0.15) -> np.ndarray:
    return np.asarray(colour) * rng.uniform(1 - uneven, 1 + uneven, (n, 1))


def rayed(rng: np.random.Generator, at, up, size_m: float, petals: int, colour) -> Mesh:
    """Open flowers: petals round a middle of small florets; at (n, 3), facing unit ways (n, 3)."""
    up = up + rng.normal(0, 0.25, up.shape)
    up /= np.linalg.norm(up, axis=1, keepdims=True)
    n = len(at)
    broad = min(0.85, 2.6 / petals) * size_m
    petal = pointed(size_m * 0.8, broad, 0.6, -0.12 if petals < 8 else 0.1)
    turn = rng.uniform(0, 6.28, (n, 1)) + 2 * np.pi * np.arange(petals) / petals
    turn = turn + rng.normal(0, 0.05, turn.shape)
    a = np.cross(up, (0.3, 0.9, 0.2))
    a /= np.linalg.norm(a, axis=1, keepdims=True)
    b = np.cross(up, a)
    out = np.cos(turn)[..., None] * a[:, None] + np.sin(turn)[..., None] * b[:, None]
    lift = 0.45 if petals < 8 else 0.12
    way = out + lift * up[:, None]
    way /= np.linalg.norm(way, axis=2, keepdims=True)
    feet = at[:, None] + 0.2 * size_m * out
    face = np.broadcast_to(up[:, None], way.shape)
    size = rng.uniform(0.85, 1.08, n * petals)
    tone = _tones(rng, len(size), colour)
    parts = [set_out(petal, _flat(feet), _flat(way), _flat(face), size, tone)]
    eye = pointed(0.16 * size_m, 0.1 * size_m)
    ways = _spread(rng, 26, up, 0.25)
    middles = at[:, None] + 0.26 * size_m * (ways - 0.75 * up[:, None])
    few = np.ones(n * 26)
    facing = np.broadcast_to(np.array((0.2, 0.1, 1.0)), (n * 26, 3))
    parts.append(set_out(eye, _flat(middles), _flat(ways), facing, few, _tones(rng, n * 26, EYE)))
    return Mesh.joined(parts)


def globe(rng: np.random.Generator, at, up, size_m: float, colour, florets: int = 110) -> Mesh:
    """Round heads of many narrow florets, as of clover."""
    ways = _spread(rng, florets, up, -0.45)
    one = pointed(0.62 * size_m, 0.2 * size_m, 0.75, -0.1)
    feet = at[:, None] + 0.35 * size_m * ways
    n = len(at) * florets
    face = np.broadcast_to(np.array((0.1, 0.2, 1.0)), (n, 3))
    tone = _tones(rng, n, colour, 0.3)
    return set_out(one, _flat(feet), _flat(ways), face, rng.uniform(0.7, 1.1, n), tone)


def cotton(rng: np.random.Generator, at, size_m: float, colour, hairs: int = 90) -> Mesh:
    """Tufts of long silky hairs that hang and blow to one side."""
    n = len(at)
    ways = _spread(rng, hairs, np.broadcast_to(np.array((0.3, 0.1, -0.6)), (n, 3)) / 0.68, -0.75)
    one = pointed(size_m * 1.25, 0.045 * size_m, 0.5, 0.5)
    face = np.broadcast_to(np.array((0.1, 0.2, 1.0)), (n * hairs, 3))
    feet = np.repeat(at, hairs, 0) + rng.normal(0, 0.12 * size_m, (n * hairs, 3))
    tone = _tones(rng, n * hairs, colour, 0.08)
    return set_out(one, feet, _flat(ways), face, rng.uniform(0.5, 1.1, n * hairs), tone)


def bells(rng: np.random.Generator, at, ways, size_m: float, colour) -> Mesh:
    """Hanging bells with their mouths along unit ways (n, 3)."""
    n = len(at)
    face = np.broadcast_to(np.array((0.4, 0.2, 0.9)), (n, 3))
    tone = _tones(rng, n, colour, 0.12)
    return set_out(bell(size_m), at, ways, face, rng.uniform(0.75, 1.1, n), tone)


def spikelets(
    rng: np.random.Generator, spine: np.ndarray, size_m: float, number: int, colour, loose: float
) -> Mesh:
    """Spikelets in the upper part of stalks, whose joints are (n, k, 3): close to it, or on
    branches as long as `loose` times their size.
    """
    n, k = spine.shape[:2]
    t = np.linspace(0.72, 1.0, number) * (k - 1)
    i = np.minimum(t.astype(int), k - 2)
    f = (t - i)[None, :, None]
    at = spine[:, i] * (1 - f) + spine[:, i + 1] * f
    along = spine[:, i + 1] - spine[:, i]
    along /= np.maximum(np.linalg.norm(along, axis=2, keepdims=True), 1e-9)
    turn = rng.uniform(0, 6.28, (n, number))
    out = np.stack([np.cos(turn), np.sin(turn), np.zeros_like(turn)], 2)
    apart = loose * size_m * np.linspace(1, 0.25, number)[None, :, None]
    at = at + apart * out * rng.uniform(0.3, 1, (n, number, 1)) - 0.2 * apart * (0, 0, 1)
    way = along + (0.35 + 0.2 * loose) * out
    way /= np.linalg.norm(way, axis=2, keepdims=True)
    one = pointed(size_m, 0.3 * size_m, 0.4, 0.1)
    face = np.broadcast_to(np.array((0.3, 0.3, 0.9)), (n * number, 3))
    size, tone = rng.uniform(0.6, 1.15, n * number), _tones(rng, n * number, colour, 0.25)
    return set_out(one, _flat(at), _flat(way), face, size, tone)
