"""The ground as a net of few triangles that keeps close to every post.

Posts are added where the net is farthest off, one at a time, and the net is kept Delaunay: greedy
insertion (Garland and Heckbert 1995, Fast polygonal approximation of terrains and height fields;
flips by Lawson 1977).
"""

import heapq
from dataclasses import dataclass

import numpy as np
from numba import njit

BORDER_FIRST = 1e6  # how much more a border's own error weighs where an error is asked for
ROUNDING_M = 1e-6


@dataclass(frozen=True)
class Net:
    """Posts of a grid, rows and columns int32 (n,), triangles int32 (m, 3) that face up where rows
    run south, and how far the net is off the grid at most, in m.
    """

    rows: np.ndarray
    columns: np.ndarray
    faces: np.ndarray
    error_m: float


def net_of(heights: np.ndarray, triangles: int | None = None, error_m: float = 0.0) -> Net:
    """A net over heights (ny, nx) in m of so many `triangles` at most, or with no post farther off
    than `error_m`.

    For an error the posts of each border are chosen by that border alone, so that neighbours that
    share it meet without a gap.
    """
    ny, nx = heights.shape
    most = 2 * (ny - 1) * (nx - 1)
    budget = most if triangles is None else int(np.clip(triangles, 2, most))
    weight = BORDER_FIRST if triangles is None else 1.0
    high = np.ascontiguousarray(heights, np.float64)
    x, y, faces, off = _grown(high, budget, float(error_m), weight)
    return Net(y, x, faces, float(off))


@njit(cache=True)
def _turn(ax, ay, bx, by, cx, cy):
    return (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)


@njit(cache=True)
def _in_circle(ax, ay, bx, by, cx, cy, px, py):
    dx, dy = ax - px, ay - py
    ex, ey = bx - px, by - py
    fx, fy = cx - px, cy - py
    ap = dx * dx + dy * dy
    bp = ex * ex + ey * ey
    cp = fx * fx + fy * fy
    return dx * (ey * cp - bp * fy) - dy * (ex * cp - bp * fx) + ap * (ex * fy - ey * fx) < 0


@njit(cache=True)
def _worst(high, x, y, corner, t, error, weight):
    """The post in a triangle that lies farthest off it: how far, weighed, its column and row. A
    border's posts within the error do not count where borders weigh more.
    """
    ny, nx = high.shape
    a, b, c = corner[3 * t], corner[3 * t + 1], corner[3 * t + 2]
    ax, ay, bx, by, cx, cy = x[a], y[a], x[b], y[b], x[c], y[c]
    whole = _turn(ax, ay, bx, by, cx, cy)
    best, at_x, at_y = 0.0, -1, -1
    if whole == 0:
        return best, at_x, at_y
    za, zb, zc = high[ay, ax], high[by, bx], high[cy, cx]
    for j in range(min(ay, by, cy), max(ay, by, cy) + 1):
        for i in range(min(ax, bx, cx), max(ax, bx, cx) + 1):
            u = _turn(bx, by, cx, cy, i, j) / whole
            v = _turn(cx, cy, ax, ay, i, j) / whole
            w = 1.0 - u - v
            if u < 0 or v < 0 or w < -1e-12:
                continue
            off = abs(u * za + v * zb + w * zc - high[j, i])
            if i == 0 or j == 0 or i == nx - 1 or j == ny - 1:
                off = off * weight if off > error else off * (weight == 1.0)
            if off > best:
                best, at_x, at_y = off, i, j
    return best, at_x, at_y


@njit(cache=True)
def _put(corner, twin, e, a, b, c, ab, bc, ca):
    """A triangle at the edges e to e + 2, joined to what lies across them (-1: nothing yet)."""
    corner[e], corner[e + 1], corner[e + 2] = a, b, c
    twin[e], twin[e + 1], twin[e + 2] = ab, bc, ca
    if ab >= 0:
        twin[ab] = e
    if bc >= 0:
        twin[bc] = e + 1
    if ca >= 0:
        twin[ca] = e + 2
    return e


@njit(cache=True)
def _flipped(x, y, corner, twin, stack, deep, changed, count):
    """Flips the edges on the stack, and those that this brings into doubt, until the net is
    Delaunay; notes the triangles that changed.
    """
    while deep > 0:
        deep -= 1
        a = stack[deep]
        b = twin[a]
        if b < 0:
            continue
        a0, b0 = a - a % 3, b - b % 3
        al, ar = a0 + (a + 1) % 3, a0 + (a + 2) % 3
        bl, br = b0 + (b + 2) % 3, b0 + (b + 1) % 3
        p0, pr, pl, p1 = corner[ar], corner[a], corner[al], corner[bl]
        if not _in_circle(x[p0], y[p0], x[pr], y[pr], x[pl], y[pl], x[p1], y[p1]):
            continue
        hal, har, hbl, hbr = twin[al], twin[ar], twin[bl], twin[br]
        _put(corner, twin, a0, p0, p1, pl, -1, hbl, hal)
        _put(corner, twin, b0, p1, p0, pr, a0, har, hbr)
        changed[count], changed[count + 1] = a0 // 3, b0 // 3
        count += 2
        stack[deep], stack[deep + 1] = a0 + 1, b0 + 2
        deep += 2
    return count


@njit(cache=True)
def _split(x, y, corner, twin, t, p, n, stack, changed):
    """Puts post p into triangle t, on one of its edges or within; gives the number of triangles,
    how many changed, and how many edges are in doubt.
    """
    e = 3 * t
    edge = -1
    for k in range(3):
        a, b = corner[e + k], corner[e + (k + 1) % 3]
        if _turn(x[a], y[a], x[b], y[b], x[p], y[p]) == 0:
            edge = e + k
    new = 3 * n
    if edge < 0:
        pa, pb, pc = corner[e], corner[e + 1], corner[e + 2]
        ab, bc, ca = twin[e], twin[e + 1], twin[e + 2]
        _put(corner, twin, e, pa, pb, p, ab, -1, -1)
        _put(corner, twin, new, pb, pc, p, bc, -1, e + 1)
        _put(corner, twin, new + 3, pc, pa, p, ca, e + 2, new + 1)
        stack[0], stack[1], stack[2] = e, new, new + 3
        changed[0], changed[1], changed[2] = t, n, n + 1
        return n + 2, 3, 3
    al, ar = e + (edge + 1 - e) % 3, e + (edge + 2 - e) % 3
    p0, pr, pl = corner[ar], corner[edge], corner[al]
    hal, har, b = twin[al], twin[ar], twin[edge]
    if b < 0:
        _put(corner, twin, e, p, p0, pr, -1, har, -1)
        _put(corner, twin, new, p0, p, pl, e, -1, hal)
        stack[0], stack[1] = e + 1, new + 2
        changed[0], changed[1] = t, n
        return n + 1, 2, 2
    b0 = b - b % 3
    bl, br = b0 + (b + 2) % 3, b0 + (b + 1) % 3
    p1, hbl, hbr = corner[bl], twin[bl], twin[br]
    _put(corner, twin, e, p0, pr, p, har, -1, -1)
    _put(corner, twin, b0, pr, p1, p, hbr, -1, e + 1)
    _put(corner, twin, new, p1, pl, p, hbl, -1, b0 + 1)
    _put(corner, twin, new + 3, pl, p0, p, hal, e + 2, new + 1)
    stack[0], stack[1], stack[2], stack[3] = e, b0, new, new + 3
    changed[0], changed[1], changed[2], changed[3] = t, b0 // 3, n, n + 1
    return n + 2, 4, 4


@njit(cache=True)
def _grown(high, budget, error, weight):
    ny, nx = high.shape
    corner = np.empty(3 * budget + 12, np.int64)
    twin = np.empty(3 * budget + 12, np.int64)
    x = np.empty(budget + 8, np.int64)
    y = np.empty(budget + 8, np.int64)
    stamp = np.zeros(budget + 4, np.int64)
    post_x = np.zeros(budget + 4, np.int64)
    post_y = np.zeros(budget + 4, np.int64)
    stack = np.empty(4096, np.int64)
    changed = np.empty(8192, np.int64)
    x[:4] = np.array([0, nx - 1, 0, nx - 1])
    y[:4] = np.array([0, 0, ny - 1, ny - 1])
    _put(corner, twin, 0, 3, 0, 2, -1, -1, -1)
    _put(corner, twin, 3, 0, 3, 1, 0, -1, -1)
    posts, n = 4, 2
    changed[0], changed[1] = 0, 1
    count = 2
    heap = [(0.0, np.int64(-1), np.int64(-1))]
    heap.pop()
    while True:
        for k in range(count):
            t = changed[k]
            stamp[t] += 1
        for k in range(count):
            t = changed[k]
            off, i, j = _worst(high, x, y, corner, t, error, weight)
            post_x[t], post_y[t] = i, j
            if off > ROUNDING_M:
                heapq.heappush(heap, (-off, np.int64(t), stamp[t]))
        while len(heap) and heap[0][2] != stamp[heap[0][1]]:
            heapq.heappop(heap)
        if not len(heap):
            return x[:posts].astype(np.int32), y[:posts].astype(np.int32), _faces(corner, n), 0.0
        off = -heap[0][0]
        if off <= max(error, ROUNDING_M) or n + 2 > budget:
            return x[:posts].astype(np.int32), y[:posts].astype(np.int32), _faces(corner, n), off
        t = heapq.heappop(heap)[1]
        x[posts], y[posts] = post_x[t], post_y[t]
        n, count, deep = _split(x, y, corner, twin, t, posts, n, stack, changed)
        posts += 1
        count = _flipped(x, y, corner, twin, stack, deep, changed, count)


@njit(cache=True)
def _faces(corner, n):
    return corner[: 3 * n].astype(np.int32).reshape(-1, 3)
