"""Branching skeletons that grow into the room of a crown by space colonisation (Runions, Lane &
Prusinkiewicz 2007), with limbs as thick as the pipe model tells (Shinozaki and others 1964).
"""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from scipy.spatial import cKDTree

MOST_ROUNDS = 160
LEAST_APART = 0.45  # of a step: a joint nearer to another is not grown
THIN = 3.5  # times as thick as the thinnest: what is thinner than that bears shoots
DENSER_OUTWARD = 0.62  # power of the radius by which marks gather at the rim of a crown


@dataclass(frozen=True)
class Crown:
    """The room of a crown: from a height in m to another, of a greatest radius in m; `profile`
    gives the radius as a part of it over the crown's height 0..1. `marks` points wait in it.
    """

    low_m: float
    high_m: float
    radius_m: float
    profile: Callable[[np.ndarray], np.ndarray]
    marks: int

    def points(self, rng: np.random.Generator) -> np.ndarray:
        """Places that wait for a limb, float64 (n, 3)."""
        t = rng.uniform(0, 1, 8 * self.marks)
        wide = np.maximum(self.profile(t), 0)
        t = t[rng.uniform(0, 1, len(t)) < wide**1.4][: self.marks]
        turn = rng.uniform(0, 2 * np.pi, len(t))
        uneven = 1 + 0.22 * np.sin(turn * 2 + 5 * t + rng.uniform(0, 6))
        r = self.radius_m * self.profile(t) * rng.uniform(0, 1, len(t)) ** DENSER_OUTWARD * uneven
        z = self.low_m + (self.high_m - self.low_m) * t
        return np.stack([r * np.cos(turn), r * np.sin(turn), z], 1)


@dataclass
class Skeleton:
    """Joints float64 (n, 3) in m, the joint that each grew from (-1 a foot), and radii in m; `bare`
    joints bear no shoots, by number.
    """

    places: np.ndarray
    parent: np.ndarray
    radius: np.ndarray
    bare: np.ndarray = field(default_factory=lambda: np.zeros(0, int))

    @property
    def tips(self) -> np.ndarray:
        """Numbers of the joints from which nothing grows."""
        return np.setdiff1d(np.arange(len(self.parent)), self.parent)

    def ways(self) -> np.ndarray:
        """The way in which each joint grew from the one before it, unit vectors (n, 3)."""
        back = np.where(self.parent < 0, np.arange(len(self.parent)), self.parent)
        way = self.places - self.places[back]
        long = np.linalg.norm(way, axis=1, keepdims=True)
        return np.where(long > 1e-9, way / np.maximum(long, 1e-9), (0, 0, 1.0))

    def limbs(self) -> list[np.ndarray]:
        """Joints of each limb from its foot to its tip: at a fork the thickest goes on, all others
        begin a limb of their own at the joint that they leave.
        """
        heir = np.full(len(self.parent), -1)
        for i in np.argsort(self.radius, kind="stable"):
            if self.parent[i] >= 0:
                heir[self.parent[i]] = i
        out = []
        for i in range(len(self.parent)):
            above = self.parent[i]
            if above >= 0 and heir[above] == i:
                continue
            limb = [i] if above < 0 else [above, i]
            while heir[limb[-1]] >= 0:
                limb.append(int(heir[limb[-1]]))
            out.append(np.array(limb))
        return out


def stem(rng: np.random.Generator, foot, top, step_m: float, wander: float) -> np.ndarray:
    """A leader from a foot to near a top, swaying by `wander` of its length, float64 (n, 3)."""
    foot = np.asarray(foot, float)
    way = np.asarray(top, float) - foot
    long = float(np.linalg.norm(way))
    t = np.linspace(0, 1, max(3, int(long / step_m) + 1))[:, None]
    sway = np.zeros((len(t), 3))
    for k in (1.0, 2.3, 4.1):
        phase, much = rng.uniform(0, 6.28, 2), rng.normal(0, 1, 2)
        sway[:, :2] += much / k * (np.sin(k * 2.5 * t + phase) - np.sin(phase))
    return foot + t * way + wander * long * sway * t * (1.15 - t)


def colonised(
    rng: np.random.Generator,
    marks: np.ndarray,
    stems: list[np.ndarray],
    step_m: float,
    sees_m: float,
    takes_m: float,
    rise: float,
    wander: float,
) -> Skeleton:
    """A skeleton grown from stems towards marks.

    Args:
        marks: places that wait for a limb, (n, 3) in m.
        stems: leaders that stand at first, each (k, 3) from its foot up.
        step_m: from one joint to the next.
        sees_m: how far a mark draws limbs; where all lie farther off, the nearest draws alone.
        takes_m: how near a limb must come for a mark to be taken.
        rise: how strongly limbs turn up, or hang when negative.
        wander: how unsteady they are.
    """
    places = np.concatenate(stems)
    starts = np.cumsum([0] + [len(s) for s in stems[:-1]])
    parent = np.arange(len(places)) - 1
    parent[starts] = -1
    for _ in range(MOST_ROUNDS):
        if not len(marks):
            break
        known = cKDTree(places)
        far, near = known.query(marks)
        drawn = far <= max(sees_m, 1.05 * far.min())  # the nearest draws, however far
        pull = np.zeros_like(places)
        toward = (marks[drawn] - places[near[drawn]]) / np.maximum(far[drawn], 1e-9)[:, None]
        np.add.at(pull, near[drawn], toward)
        growing = np.unique(near[drawn])
        way = pull[growing] / np.maximum(np.linalg.norm(pull[growing], axis=1), 1e-9)[:, None]
        way = way + rng.normal(0, wander, way.shape) + np.array((0, 0, rise))
        new = places[growing] + step_m * way / np.linalg.norm(way, axis=1, keepdims=True)
        fresh = known.query(new)[0] > LEAST_APART * step_m
        if not fresh.any():
            break
        new, growing = new[fresh], growing[fresh]
        places = np.concatenate([places, new])
        parent = np.concatenate([parent, growing])
        marks = marks[cKDTree(new).query(marks)[0] > takes_m]
    places = _smoothed(places, parent)
    return Skeleton(places, parent, np.zeros(len(places)))


def _smoothed(places: np.ndarray, parent: np.ndarray) -> np.ndarray:
    """Joints drawn half way towards the middle of their neighbours along the limb; feet stay."""
    total, count = np.zeros_like(places), np.zeros(len(places))
    has = parent >= 0
    np.add.at(total, parent[has], places[has])
    np.add.at(count, parent[has], 1)
    inner = has & (count > 0)
    out = places.copy()
    below = places[parent[inner]]
    above = total[inner] / count[inner][:, None]
    out[inner] = 0.5 * places[inner] + 0.25 * below + 0.25 * above
    return out


def thin_joints(skeleton: Skeleton) -> np.ndarray:
    """Numbers of the joints of living limbs thin enough to bear shoots."""
    thin = skeleton.radius < THIN * skeleton.radius.min()
    thin &= skeleton.parent >= 0
    thin[skeleton.bare] = False
    return np.flatnonzero(thin)


def thickened(skeleton: Skeleton, foot_m: float, tip_m: float) -> Skeleton:
    """The skeleton with radii by the pipe model: r to the power p is the sum over what grows from a
    joint, p such that tips of `tip_m` come to `foot_m` at the foot.
    """
    parent = skeleton.parent
    load = np.zeros(len(parent))
    load[skeleton.tips] = 1
    for i in np.argsort(-_order(parent), kind="stable"):
        if parent[i] >= 0:
            load[parent[i]] += load[i]
    feet = parent < 0
    p = np.log(max(load[feet].max(), 2.0)) / np.log(foot_m / tip_m)
    return Skeleton(skeleton.places, parent, tip_m * np.maximum(load, 1) ** (1 / p))


def _order(parent: np.ndarray) -> np.ndarray:
    """How many joints lie between each and its foot."""
    depth = np.zeros(len(parent), int)
    for i in range(len(parent)):
        if parent[i] >= 0:
            depth[i] = depth[parent[i]] + 1
    return depth
