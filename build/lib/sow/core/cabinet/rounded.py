"""Leaves of few triangles as they are from close by: their rims curved, lobes rounded, a rib along
the fold, a stalk.

All is told as weights of the posts of one leaf, so that it fits every leaf that was set out from
the same outline, however it is turned and sized.
"""

import itertools
from dataclasses import dataclass

import numpy as np

SHARP_DEG = 50.0  # at a lobe: it ends in a point
FOLD_DEG = 40.0  # between two faces: a fold
MOST_FACES = 64  # of a leaf; what has more is drawn in curves already
NOTCH = 0.42  # of the way out, where two lobes part
LAST_LOBE = 0.6  # how broad the one at the tip is, beside the plain leaf
RIB, RIB_ENDS = 0.05, 0.015  # half the width of a midrib at foot and tip, as parts of the way out
STALK_LONG, STALK_WIDE = 0.24, 0.012  # of a leaf's length
PALE = 1.45  # how much paler rib and stalk are than the blade


@dataclass(frozen=True)
class Rounded:
    """A finer leaf: `weights` (k, n) of the n posts of the plain one, `faces` (m, 3). Faces of rib
    and stalk come last, from `ribs` on.
    """

    weights: np.ndarray
    faces: np.ndarray
    ribs: int


def rounded(places: np.ndarray, faces: np.ndarray) -> Rounded | None:
    """A leaf of places (n, 3) and faces (m, 3), its foot first, with curved rims; None where it is
    not folded along one line from its foot to its tip.

    Curves are of the four-point scheme (Dyn, Levin & Gregory 1987).
    """
    if not 1 < len(faces) <= MOST_FACES:
        return None
    places = np.asarray(places, float)
    way = _way(_folds(places, faces))
    if way is None:
        return None
    each = np.eye(len(places))
    rib = _curved(each[way], places, 3)
    axis = places[way[-1]] - places[way[0]]
    sides = _sides(places, faces, way, rib, axis)
    if sides is None:
        return None
    weights: list[np.ndarray] = []
    corners: list[np.ndarray] = []
    posts = 0
    for k, side in enumerate(sides):
        rim = _curved(side, places, 3 if len(side) <= 4 else 2)
        weights += [_beside(rim, rib, places, axis), rim]
        corners.append(_strip(len(rim), posts, flip=k == 1))
        posts += 2 * len(rim)
    ribs = sum(map(len, corners))
    more, ribbed = _ribs(rib, sides, places, posts)
    return Rounded(
        np.concatenate([*weights, *more]), np.concatenate([*corners, *ribbed]).astype(int), ribs
    )


def _folds(places: np.ndarray, faces: np.ndarray) -> set[tuple[int, int]]:
    """The edges where two faces meet at an angle."""
    corner = places[faces]
    normal = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    sides: dict[tuple[int, int], list[int]] = {}
    for n, (a, b, c) in enumerate(faces.tolist()):
        for ends in ((a, b), (b, c), (c, a)):
            sides.setdefault((min(ends), max(ends)), []).append(n)
    flat = np.cos(np.deg2rad(FOLD_DEG))
    bent = lambda of: np.abs(normal[of] @ normal[of].T).min() < flat
    return {ends for ends, of in sides.items() if bent(of)}


def _way(fold: set[tuple[int, int]]) -> list[int] | None:
    """The posts of a fold in order from post 0 on; None where it is no single line from there."""
    near: dict[int, list[int]] = {}
    for a, b in fold:
        near.setdefault(a, []).append(b)
        near.setdefault(b, []).append(a)
    if len(near.get(0, [])) != 1:
        return None
    way = [0]
    while len(way) <= len(near):
        on = [v for v in near[way[-1]] if v not in way[-2:-1]]
        if not on:
            return way if len(way) == len(near) else None
        if len(on) > 1:
            return None
        way.append(on[0])
    return None


def _sides(
    places: np.ndarray, faces: np.ndarray, way: list[int], rib: np.ndarray, axis: np.ndarray
) -> list[np.ndarray] | None:
    """Weights of the posts of both rims from foot to tip, notches between lobes among them; None
    where one side has none.
    """
    inner = lambda row: _beside(row[None], rib, places, axis)[0]
    each = np.eye(len(places))
    aside = np.array([v for v in range(len(places)) if v not in way])
    if not len(aside):
        return None
    along = places @ axis
    off = places[aside] - places[way[0]]
    off -= np.outer(off @ axis, axis) / (axis @ axis)
    off -= off.mean(0)  # a leaf that hangs bows to one side as a whole
    wide = np.linalg.norm(off, axis=1)
    across = off @ off[np.argmax(wide > 0.999 * wide.max())]  # the first of equals
    out = []
    for here in (across > 0, across < 0):
        posts = aside[here]
        if not len(posts):
            return None
        posts = posts[np.argsort(along[posts])]
        rows = [each[way[0]], each[posts[0]]]
        for a, b in itertools.pairwise(posts):
            if _part(faces, int(a), int(b)):
                middle = (each[a] + each[b]) / 2
                rows.append((1 - NOTCH) * inner(middle) + NOTCH * middle)
            rows.append(each[b])
        if len(rows) > len(posts) + 1:
            rows[-1] = (1 - LAST_LOBE) * inner(rows[-1]) + LAST_LOBE * rows[-1]
        out.append(np.stack([*rows, each[way[-1]]]))
    return out


def _part(faces: np.ndarray, a: int, b: int) -> bool:
    """Whether no face joins two posts of a rim: they are lobes."""
    return not ((faces == a).any(1) & (faces == b).any(1)).any()


def _curved(rows: np.ndarray, places: np.ndarray, rounds: int) -> np.ndarray:
    """A line, told by weights, with places between its posts, on a curve but for its sharp ones."""
    sharp = _sharp(rows @ places)
    for _ in range(rounds):
        before = np.concatenate([2 * rows[:1] - rows[1:2], rows[:-1]])
        after = np.concatenate([rows[1:], 2 * rows[-1:] - rows[-2:-1]])
        # at a sharp post the line goes on as it came
        first = np.where(sharp[:, None], 2 * rows - after, before)[:-1]
        last = np.where(sharp[:, None], 2 * rows - before, after)[1:]
        middle = (9 * (rows[:-1] + rows[1:]) - first - last) / 16
        finer = np.empty((2 * len(rows) - 1, rows.shape[1]))
        finer[::2], finer[1::2] = rows, middle
        rows = finer
        kept = np.zeros(len(rows), bool)
        kept[::2] = sharp
        sharp = kept
    return rows


def _sharp(line: np.ndarray) -> np.ndarray:
    """Which posts of a line (n, 3) are sharp: its ends, and where it turns back."""
    found = np.ones(len(line), bool)
    if len(line) > 2:
        one, two = line[:-2] - line[1:-1], line[2:] - line[1:-1]
        length = np.linalg.norm(one, axis=1) * np.linalg.norm(two, axis=1)
        found[1:-1] = (one * two).sum(1) > np.cos(np.deg2rad(SHARP_DEG)) * length
    return found


def _beside(rim: np.ndarray, rib: np.ndarray, places: np.ndarray, axis: np.ndarray) -> np.ndarray:
    """For each place of a rim the weights of the one on the rib that lies as far along."""
    far = lambda rows: rows @ (places @ axis)
    known = np.maximum.accumulate(far(rib))
    at = np.interp(np.maximum.accumulate(far(rim)), known, np.arange(len(rib)))
    low = np.minimum(at.astype(int), len(rib) - 2)
    t = (at - low)[:, None]
    return rib[low] * (1 - t) + rib[low + 1] * t


def _strip(count: int, at: int, flip: bool) -> np.ndarray:
    """Faces between two lines of posts, the second right behind the first."""
    a = at + np.arange(count - 1)
    faces = np.concatenate(
        [np.c_[a, a + count, a + 1], np.c_[a + 1, a + count, a + count + 1]],
    )
    return faces[:, ::-1] if flip else faces


def _ribs(
    rib: np.ndarray, sides: list[np.ndarray], places: np.ndarray, at: int
) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Weights and faces of a rib along the fold and of a stalk at its foot; `at` posts come before
    them.
    """
    line = rib @ places
    long = np.linalg.norm(line[-1] - line[0])
    out = []
    for side in sides:
        off = side @ places
        off = np.linalg.norm(off[:, None] - line[None], axis=2)
        tip = int(np.argmax(off.min(1)))
        out.append(side[tip] - rib[int(np.argmin(off[tip]))])
    t = np.linspace(0, 1, len(rib))[:, None]
    half = RIB * (1 - t) + RIB_ENDS * t
    left, right = (rib + half * way for way in out)
    across = out[0] - out[1]
    across = across * STALK_WIDE * long / max(np.linalg.norm(across @ places), 1e-12)
    back = (rib[0] - rib[1]) * STALK_LONG * long / np.linalg.norm(line[1] - line[0])
    foot = np.stack([rib[0] + across, rib[0] - across])
    stalk = np.concatenate([foot, foot + back])
    hangs = np.array([(0, 1, 2), (1, 3, 2)]) + at + 2 * len(rib)
    return [left, right, stalk], [_strip(len(rib), at, False), hangs]
