"""Layouts that are not even scatter: clumps about parents, rows in an area, and rows along a
line.
"""

import numpy as np
from numba import njit, prange

from ..hashing import hash3, unit
from ..plot import Grid


@njit(cache=True, nogil=True, parallel=True)
def _clumps(xs, ys, cell, chance, seed, out):
    """The strongest of the parents near each post: 1 at a parent, 0 at half a cell's width from
    it.
    """
    for r in prange(len(ys)):
        for c in range(len(xs)):
            i, j = int(np.floor(xs[c] / cell)), int(np.floor(ys[r] / cell))
            best = 0.0
            for a in range(i - 2, i + 3):
                for b in range(j - 2, j + 3):
                    for n in range(2):  # two chances of a parent in each cell
                        if unit(hash3(a, b, seed + 4 * n)) < chance:
                            dx = (a + unit(hash3(a, b, seed + 4 * n + 1))) * cell - xs[c]
                            dy = (b + unit(hash3(a, b, seed + 4 * n + 2))) * cell - ys[r]
                            size = cell * (0.55 + 0.9 * unit(hash3(a, b, seed + 4 * n + 3)))
                            d = (dx * dx + dy * dy) / (size * size)
                            if d < 1:
                                best = max(best, (1 - d) ** 2)
            out[r, c] = best


def clumps(grid: Grid, clump_m: float, share: float, seed: int) -> np.ndarray:
    """How thick offspring stand about their parents, float32 (ny, nx) 0..1: clumps about `clump_m`
    m across that take about `share` (0..1) of the ground (a bounded parent-offspring process, after
    Neyman & Scott 1958).
    """
    out = np.empty(grid.shape, np.float32)
    cell = max(clump_m / 2, grid.spacing)
    disc = np.pi * 0.83  # mean area of a clump, in cells
    _clumps(
        grid.xs(), grid.ys(), cell, min(1.0, -np.log(max(1 - share, 0.02)) / disc / 2), seed, out
    )
    return out


@njit(cache=True, nogil=True)
def _rows(cols, rows, gap, row, turn, stagger, jitter, e0, n0, seed):
    c, s = np.cos(turn), np.sin(turn)
    n = (cols[1] - cols[0]) * (rows[1] - rows[0])
    x = np.empty(n)
    y = np.empty(n)
    h = np.empty(n, np.uint32)
    k = 0
    for j in range(rows[0], rows[1]):
        for i in range(cols[0], cols[1]):
            u = (
                i + (stagger if j % 2 else 0.0) + jitter * (unit(hash3(i, j, seed + 1)) - 0.5)
            ) * gap
            v = (j + jitter * (unit(hash3(i, j, seed + 2)) - 0.5)) * row
            px, py = u * c + v * s, -u * s + v * c
            if 0 <= px <= e0 and 0 <= py <= n0:
                x[k], y[k], h[k] = px, py, hash3(i, j, seed + 3)
                k += 1
    return x[:k], y[:k], h[:k]


def rows(size_m, gap_m: float, row_m: float, turn: float, stagger: float, jitter: float, seed: int):
    """Places in rows whose run has the bearing `turn` (degrees from east, clockwise): east, north
    (m) and a hash each. Jitter 0..1 of the gaps.
    """
    wide = int(np.hypot(*size_m) / gap_m) + 2
    deep = int(np.hypot(*size_m) / row_m) + 2
    return _rows(
        (-wide, wide + 1),
        (-deep, deep + 1),
        gap_m,
        row_m,
        np.deg2rad(turn),
        stagger,
        jitter,
        float(size_m[0]),
        float(size_m[1]),
        seed,
    )


def along(points: np.ndarray, gap_m: float, offset_m: float, sides: str, jitter: float, seed: int):
    """Places along a way (n, 2), every `gap_m` m, `offset_m` to its right, left, both or on it:
    east, north (m), a hash, and the bearing of the way.
    """
    step = np.hypot(*np.diff(points, axis=0).T)
    far = np.concatenate([[0.0], np.cumsum(step)])
    count = int(far[-1] / gap_m) + 1
    out = []
    for side in {"both": (1, -1), "right": (1,), "left": (-1,), "on": (0,)}[sides]:
        i = np.arange(count)
        h = [np.array([unit(hash3(int(a), side + 2, seed + n)) for a in i]) for n in (1, 2)]
        at = np.clip((i + jitter * (h[0] - 0.5)) * gap_m, 0, far[-1])
        k = np.clip(np.searchsorted(far, at, "right") - 1, 0, len(step) - 1)
        d = (points[k + 1] - points[k]) / np.maximum(step[k], 1e-9)[:, None]
        p = (
            points[k]
            + d * (at - far[k])[:, None]
            + np.c_[d[:, 1], -d[:, 0]]
            * (side * offset_m + jitter * gap_m * 0.25 * (h[1] - 0.5))[:, None]
        )
        out.append(
            (
                p[:, 0],
                p[:, 1],
                np.array([hash3(int(a), side + 2, seed + 3) for a in i], np.uint32),
                np.degrees(np.arctan2(d[:, 0], d[:, 1])) % 360,
            )
        )
    return tuple(np.concatenate([o[i] for o in out]) for i in range(4))
