"""Ivy on the stems of trees: leaves that lie over one another like tiles, thinner the higher up."""

import numpy as np

from ..mesh import Mesh
from .foliage import lobed, set_out
from .skeleton import Skeleton
from .skin import flared

LEAF = lobed(0.06, 0.062, 3)
COLOUR = np.array((0.03, 0.058, 0.018))  # linear, of its older leaves
FRESH = np.array((0.075, 0.12, 0.03))
LAYERS = 2.4  # of leaves over the bark, where it is thickest
STANDS_M = 0.11  # how far the outermost stand off
CLIMBS_M = 0.055  # radius of the thinnest limbs that it climbs
OF_LEAF = 0.55  # area of a leaf in that of its length squared


def ivy_on(
    rng: np.random.Generator, skeleton: Skeleton, up_m: float, share: float = 1.0
) -> Mesh | None:
    """Leaves of ivy on the stout limbs of a tree up to a height in m; fewer and larger ones that
    cover as much where a `share` of them is wanted. None where there is nothing to climb.
    """
    feet, ends, half = _climbed(skeleton, up_m)
    if not len(feet):
        return None
    long = np.linalg.norm(ends - feet, axis=1)
    thins = np.clip(1.25 - 1.1 * feet[:, 2] / up_m, 0, 1)
    area = 2 * np.pi * half * long * thins
    count = int(share * LAYERS * area.sum() / (OF_LEAF * LEAF.long_m**2))
    which = rng.choice(len(feet), count, p=area / area.sum())
    t = rng.uniform(0, 1, (count, 1))
    way = (ends - feet)[which] / np.maximum(long[which], 1e-9)[:, None]
    turn = rng.uniform(0, 2 * np.pi, count)
    across = np.cross(way, (0.93, 0.3, 0.2))
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    other = np.cross(way, across)
    out = np.cos(turn)[:, None] * across + np.sin(turn)[:, None] * other
    at = feet[which] + t * (ends - feet)[which]
    bulges = 0.5 + 0.5 * np.sin(3.1 * turn + 2.3 * at[:, 2]) * np.sin(1.7 * at[:, 2] + 1.3)
    lifted = STANDS_M * bulges * rng.uniform(0.1, 1, count) ** 0.7
    at = at + out * (half[which] + lifted)[:, None]
    hangs = np.array((0, 0, -1.0)) + 0.55 * rng.normal(0, 1, out.shape) + 0.35 * out
    hangs /= np.linalg.norm(hangs, axis=1, keepdims=True)
    face = out + rng.normal(0, 0.3, out.shape) + (0, 0, 0.45)
    size = rng.uniform(0.6, 1.25, count) / np.sqrt(share)
    tone = rng.uniform(0.7, 1.15, (count, 1))
    fresh = (rng.uniform(0, 1, (count, 1)) < 0.12) * 0.8
    return set_out(LEAF, at, hangs, face, size, tone * (COLOUR + fresh * (FRESH - COLOUR)))


def _climbed(skeleton: Skeleton, up_m: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The pieces of limbs that are climbed: their feet and ends (n, 3), and radii (n,), in m."""
    feet, ends, half = [np.zeros((0, 3))], [np.zeros((0, 3))], [np.zeros(0)]
    for limb in skeleton.limbs():
        path, radii = skeleton.places[limb], skeleton.radius[limb]
        if skeleton.parent[limb[0]] < 0:
            radii = flared(radii, path)
        kept = (radii[1:] > CLIMBS_M) & (path[:-1, 2] < up_m)
        feet.append(path[:-1][kept])
        ends.append(path[1:][kept])
        half.append(radii[1:][kept])
    return np.concatenate(feet), np.concatenate(ends), np.concatenate(half)
