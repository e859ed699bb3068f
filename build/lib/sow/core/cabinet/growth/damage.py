"""What befalls a tree in its years: boughs that broke off, and limbs that died in its shade."""

import numpy as np

from .skeleton import Skeleton

STOUT = (0.07, 0.26)  # of the stem's radius: boughs that storms break
STUB = (3.0, 11.0)  # what is left of one, in its radii
SPLINTERS = 0.45  # of its radius: what stands at its end
DYING = (0.008, 0.07)  # of the stem's radius: limbs that die in the shade of those above
SHADED = 0.6  # power by which those nearer the foot do


def _above(skeleton: Skeleton, joint: int) -> np.ndarray:
    """Which joints stand on one, itself among them."""
    out = np.zeros(len(skeleton.parent), bool)
    out[joint] = True
    reached = np.array([joint])
    while len(reached):
        reached = np.flatnonzero(np.isin(skeleton.parent, reached) & ~out)
        out[reached] = True
    return out


def _begin(skeleton: Skeleton, thick: tuple[float, float]) -> np.ndarray:
    """First joints of the limbs whose radius is such a part of the stem's."""
    firsts = np.array([limb[1] for limb in skeleton.limbs() if skeleton.parent[limb[0]] >= 0], int)
    part = skeleton.radius[firsts] / skeleton.radius.max()
    return firsts[(part > thick[0]) & (part < thick[1])]


def with_dead_limbs(rng: np.random.Generator, skeleton: Skeleton, share: float) -> Skeleton:
    """The skeleton with a share of its thin limbs bare, those low down the most."""
    firsts = _begin(skeleton, DYING)
    if not share or not len(firsts):
        return skeleton
    low = 1 - skeleton.places[firsts, 2] / skeleton.places[:, 2].max()
    weight = low.clip(0.02) ** SHADED
    count = min(len(firsts), round(share * len(firsts)))
    dead = rng.choice(firsts, count, replace=False, p=weight / weight.sum())
    bare = np.zeros(len(skeleton.parent), bool)
    for joint in dead:
        bare |= _above(skeleton, joint)
    bare[skeleton.bare] = True
    return Skeleton(skeleton.places, skeleton.parent, skeleton.radius, np.flatnonzero(bare))


def with_stubs(rng: np.random.Generator, skeleton: Skeleton, count: int) -> Skeleton:
    """The skeleton with some of its boughs broken off: a splintered stub of each is left."""
    firsts = _begin(skeleton, STOUT)
    if not count or not len(firsts):
        return skeleton
    gone, stubs = (np.zeros(len(skeleton.parent), bool) for _ in range(2))
    for joint in rng.choice(firsts, min(count, len(firsts)), replace=False):
        above = _above(skeleton, joint)
        stubs |= above
        foot = skeleton.places[skeleton.parent[joint]]
        long = rng.uniform(*STUB) * skeleton.radius[joint]
        away = np.linalg.norm(skeleton.places - foot, axis=1)
        for i in np.flatnonzero(above)[1:]:  # none stands on one of a higher number
            gone[i] |= gone[skeleton.parent[i]] or away[i] > long
    kept = np.flatnonzero(~gone)
    number = np.append(np.cumsum(~gone) - 1, -1)
    stubs[skeleton.bare] = True
    left = Skeleton(
        skeleton.places[kept],
        number[skeleton.parent[kept]],
        skeleton.radius[kept],
        number[np.flatnonzero(stubs & ~gone)],
    )
    ends = left.tips[~np.isin(kept[left.tips], skeleton.tips)]
    return _splintered(left, ends)


def _splintered(skeleton: Skeleton, ends: np.ndarray) -> Skeleton:
    """These ends narrow over the last few centimetres, as splinters do."""
    r = skeleton.radius[ends][:, None]
    tips = skeleton.places[ends] + 0.9 * r * skeleton.ways()[ends]
    return Skeleton(
        np.concatenate([skeleton.places, tips]),
        np.concatenate([skeleton.parent, ends]),
        np.concatenate([skeleton.radius, SPLINTERS * r[:, 0]]),
        np.concatenate([skeleton.bare, len(skeleton.parent) + np.arange(len(ends))]),
    )
