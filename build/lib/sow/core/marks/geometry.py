"""Geometry of drawn lines: simplified, offset, joined, a stretch, a point inserted.

Points are east and north in m; a third value of 1 makes a point a corner and is kept.
"""

from collections.abc import Sequence

import numpy as np

Points = Sequence[Sequence[float]]


def rounded(points: Points) -> list[list[float]]:
    """Points to the centimetre, with the corner's mark where there is one."""
    return [
        [round(float(p[0]), 2), round(float(p[1]), 2), *([1] if len(p) > 2 and p[2] else [])]
        for p in points
    ]


def simplified(points: Points, tolerance_m: float) -> list[list[float]]:
    """The points that a line cannot spare within a tolerance in m (Douglas & Peucker 1973)."""
    p = np.array([q[:2] for q in points], np.float64)
    keep = np.zeros(len(p), bool)
    keep[[0, -1]] = True
    waiting = [(0, len(p) - 1)]
    while waiting:
        first, last = waiting.pop()
        if last - first < 2:
            continue
        along = p[last] - p[first]
        length = float(np.hypot(*along)) or 1.0
        to = p[first + 1 : last] - p[first]
        away = np.abs(to[:, 0] * along[1] - to[:, 1] * along[0]) / length
        far = int(np.argmax(away))
        if away[far] > tolerance_m:
            keep[first + 1 + far] = True
            waiting += [(first, first + 1 + far), (first + 1 + far, last)]
    return rounded([q for q, kept in zip(points, keep) if kept])


def offset(points: Points, right_m: float) -> list[list[float]]:
    """A line beside a line, `right_m` metres to its right (to its left when negative)."""
    p = np.array([q[:2] for q in points], np.float64)
    before = p[np.maximum(np.arange(len(p)) - 1, 0)]
    after = p[np.minimum(np.arange(len(p)) + 1, len(p) - 1)]
    along = after - before
    along /= np.maximum(np.hypot(along[:, 0], along[:, 1]), 1e-9)[:, None]
    beside = p + right_m * np.stack([along[:, 1], -along[:, 0]], 1)
    return rounded(beside.tolist())


def joined(first: Points, second: Points, same_m: float) -> list[list[float]]:
    """Two lines as one, joined where their ends are nearest; points within `same_m` are one."""
    away = lambda a, b: float(np.hypot(a[0] - b[0], a[1] - b[1]))
    ways = [
        (away(first[-1], second[0]), [*first, *second]),
        (away(first[-1], second[-1]), [*first, *second[::-1]]),
        (away(first[0], second[-1]), [*second, *first]),
        (away(first[0], second[0]), [*second[::-1], *first]),
    ]
    line = min(ways, key=lambda w: w[0])[1]
    return rounded([p for i, p in enumerate(line) if not i or away(p, line[i - 1]) > same_m])


def stretch(points: Points, start: float, end: float) -> list[list[float]]:
    """The part of a line between two shares (0..1) of its length."""
    p = np.array([q[:2] for q in points], np.float64)
    lengths = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    low, high = start * lengths[-1], end * lengths[-1]
    at = lambda t: [float(np.interp(t, lengths, p[:, 0])), float(np.interp(t, lengths, p[:, 1]))]
    inside = [list(q) for q, l in zip(points, lengths) if low < l < high]
    return rounded([at(low), *inside, at(high)])


def inserted(points: Points, closed: bool, east: float, north: float, reach_m: float) -> int | None:
    """Where in the list a new point belongs that lies within `reach_m` of the way between two, or
    None when none is so near.
    """
    p = np.array([q[:2] for q in points], np.float64)
    after = np.roll(p, -1, axis=0) if closed else p[1:]
    p = p if closed else p[:-1]
    along = after - p
    here = np.array([east, north])
    t = ((here - p) * along).sum(1) / np.maximum((along**2).sum(1), 1e-12)
    near = p + np.clip(t, 0, 1)[:, None] * along
    away = np.hypot(*(here - near).T)
    best = int(np.argmin(away))
    return best + 1 if away[best] < reach_m else None
