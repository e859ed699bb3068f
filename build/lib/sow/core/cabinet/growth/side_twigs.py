"""Side twigs: the short limbs that fill the room between those of a crown."""

import numpy as np

from .skeleton import Skeleton, thin_joints

JOINTS = 3
ASIDE = 0.9  # how far from its limb's own way a twig sets out, as a part of it
BENDS_UP = 0.22  # of a step, for each joint on
UNEVEN = (0.55, 1.35)  # of a twig's length


def with_side_twigs(
    rng: np.random.Generator,
    skeleton: Skeleton,
    count: int,
    long_m: float,
    from_m: float,
    hang: float,
) -> Skeleton:
    """The skeleton with so many twigs of about a length in m, evenly over its thin limbs above a
    height. `hang` turns them down, as it does shoots.
    """
    thin = thin_joints(skeleton)
    thin = thin[skeleton.places[thin, 2] > from_m]
    if not len(thin) or count <= 0:
        return skeleton
    foot = rng.choice(thin, count)
    way = skeleton.ways()[foot]
    aside = rng.normal(0, 1, way.shape)
    aside -= way * (aside * way).sum(1, keepdims=True)
    aside /= np.maximum(np.linalg.norm(aside, axis=1, keepdims=True), 1e-9)
    axis = skeleton.places[foot] * (1, 1, 0)
    out = axis / np.maximum(np.linalg.norm(axis, axis=1, keepdims=True), 0.3)
    go = 0.6 * way + ASIDE * aside + 0.35 * out
    step = (long_m * rng.uniform(*UNEVEN, count) / JOINTS)[:, None]
    places, parents = [skeleton.places], [skeleton.parent]
    at, stands = skeleton.places[foot], foot
    for k in range(JOINTS):
        go /= np.linalg.norm(go, axis=1, keepdims=True)
        at = at + step * go
        go = go + rng.normal(0, 0.16, go.shape) + np.array((0, 0, BENDS_UP - 0.8 * hang))
        places.append(at)
        parents.append(stands)
        stands = len(skeleton.parent) + k * count + np.arange(count)
    parent = np.concatenate(parents)
    return Skeleton(np.concatenate(places), parent, np.zeros(len(parent)), skeleton.bare)
