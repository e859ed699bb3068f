"""Snow that lies on limbs in lumps: the more the more level and the broader what it lies on."""

import numpy as np

from ..looks import SNOW
from ..mesh import Mesh, Part
from .foliage import Shoots
from .skeleton import Skeleton

SECTION = np.array([(-1, -0.25), (-0.78, 0.5), (0, 1), (0.78, 0.5), (1, -0.25)])
MOST_M = 0.07  # depth of what lies on a broad limb
ON_THIN = 1.5  # depth on a twig, times its radius
OVER = 1.2  # breadth of what lies on a twig, times its own
SLIPS = 0.82  # rise of a limb, as a sine, from which on nothing stays on it
BARE_SHARE = 0.25  # of pieces from which it has fallen
THROUGH = 0.25


def lying(rng: np.random.Generator, feet: np.ndarray, ends: np.ndarray, half: np.ndarray) -> Part:
    """Snow on pieces of limbs from `feet` to `ends` (n, 3), as wide as twice `half` (n, 2) at
    either, all in m.
    """
    way = ends - feet
    long = np.linalg.norm(way, axis=1)
    rise = np.abs(way[:, 2]) / np.maximum(long, 1e-9)
    stays = (long > 1e-6) & (rise < SLIPS) & (rng.uniform(0, 1, len(feet)) > BARE_SHARE)
    feet, ends, half, way, rise = (v[stays] for v in (feet, ends, half, way, rise))
    level = np.clip((SLIPS - rise) / SLIPS, 0, 1) ** 0.5
    lump = rng.uniform(0.55, 1.35, half.shape)
    deep = np.minimum(MOST_M, ON_THIN * half + 0.004) * level[:, None] * lump
    wide = OVER * half + 0.002
    across = np.cross(way, (0, 0, 1.0))
    across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-9)
    up = np.array((0, 0, 1.0))
    x, z = SECTION.T
    rings, normals = [], []
    for k, foot in enumerate((feet, ends)):
        aside = across[:, None] * (x * wide[:, k, None])[..., None]
        above = up * (half[:, k, None] * 0.8 + z * deep[:, k, None])[..., None]
        rings.append(foot[:, None] + aside + above)
        normals.append(across[:, None] * (0.8 * x)[:, None] + up * (z + 0.25)[:, None])
    posts = np.concatenate(rings, 1)
    n = len(x)
    one = [(i, i + 1, n + i + 1) for i in range(n - 1)] + [
        (i, n + i + 1, n + i) for i in range(n - 1)
    ]
    shown = np.concatenate(normals, 1).reshape(-1, 3)
    shown /= np.linalg.norm(shown, axis=1, keepdims=True)
    faces = (np.arange(len(posts))[:, None, None] * 2 * n + np.array(one)).reshape(-1, 3)
    mesh = Mesh.of(posts.reshape(-1, 3), faces, SNOW, shown)
    return Part(mesh, None, THROUGH, 0.9, False, 2 * n)


def on_limbs(rng: np.random.Generator, skeleton: Skeleton, least_m: float) -> Part:
    """Snow on the limbs of a skeleton that are thicker than a radius in m."""
    some = np.flatnonzero((skeleton.parent >= 0) & (skeleton.radius > least_m))
    below = skeleton.parent[some]
    half = np.column_stack([skeleton.radius[below], skeleton.radius[some]])
    return lying(rng, skeleton.places[below], skeleton.places[some], half)


def on_sprays(rng: np.random.Generator, sides: Shoots, hang: float, half_m: float) -> Part:
    """Snow on the side branches of a conifer, whose needles hold it together as broad pads, at most
    twice `half_m` wide.
    """
    t = np.linspace(0.15, 1.0, 4)
    places = sides.at(t, hang)[0]
    narrows = half_m * np.array((0.7, 1.0, 0.85, 0.35))
    wide = np.minimum(narrows, 0.22 * sides.long_m[:, None])
    half = np.stack([wide[:, :-1], wide[:, 1:]], -1)
    feet, ends = (v.reshape(-1, 3) for v in (places[:, :-1], places[:, 1:]))
    return lying(rng, feet, ends, half.reshape(-1, 2))
