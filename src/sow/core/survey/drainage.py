"""Pits and contributing area."""

import numpy as np
from numba import njit

from ..hashing import hash3, unit


@njit(cache=True, nogil=True, forceinline=True)
def _push(heap, n, key):
    """Into a heap of four children a node; gives its new length."""
    i = n
    while i > 0:
        up = (i - 1) >> 2
        if heap[up] <= key:
            break
        heap[i] = heap[up]
        i = up
    heap[i] = key
    return n + 1


@njit(cache=True, nogil=True, forceinline=True)
def _pop(heap, n):
    """Takes the least out; gives the new length."""
    n -= 1
    key = heap[n]
    i = 0
    while True:
        kid = 4 * i + 1
        if kid >= n:
            break
        least, at = heap[kid], kid
        for k in range(kid + 1, min(kid + 4, n)):
            if heap[k] < least:
                least, at = heap[k], k
        if least >= key:
            break
        heap[i] = least
        i = at
    heap[i] = key
    return n


@njit(cache=True, nogil=True, forceinline=True)
def around(nx):
    """Steps from a post to its eight neighbours, by the index of posts in a row of `nx`."""
    return np.array([-nx - 1, -nx, -nx + 1, -1, 1, nx - 1, nx, nx + 1])


@njit(cache=True, nogil=True, forceinline=True)
def _key(height, i):
    """A height that keeps its order as an integer, above the index, so that ties break by place."""
    return (np.int64(np.float32(height).view(np.int32)) << 32) | i


@njit(cache=True, nogil=True)
def _drained(h, order):
    """What reaches the edge over ever lower ground (uint8 of the land's shape), and how many posts
    do not.
    """
    ny, nx = h.shape
    flat, free, steps = h.ravel(), rim(ny, nx).astype(np.uint8), around(nx)
    held = 0
    for n in range(len(order)):
        i = order[n]
        if free[i]:
            continue
        here, drains = flat[i], np.uint8(0)
        for k in range(8):
            drains |= free[i + steps[k]] & np.uint8(flat[i + steps[k]] < here)
        free[i] = drains
        held += 1 - drains
    return free.reshape(h.shape), held


@njit(cache=True, nogil=True)
def _fill(filled, seen, epsilon):
    """Lifts what lies in pits. It begins at the rims of the pits: only posts that drain are `seen`.

    A post that is not higher than the one it is reached from is lifted a little above it, by a
    hashed amount, so that the way out over a filled flat wanders and does not follow the grid.
    """
    ny, nx = filled.shape
    heap = np.empty(ny * nx + 8, np.int64)
    # the posts of pits, of which few wait at a time, have a heap of their own
    pit = np.empty(ny * nx + 8, np.int64)
    n = 0
    m = 0
    for r in range(1, ny - 1):
        for c in range(1, nx - 1):
            if seen[r, c] != 0:
                continue
            for rr in range(r - 1, r + 2):
                for cc in range(c - 1, c + 2):
                    if seen[rr, cc] == 1:
                        seen[rr, cc] = 2
                        n = _push(heap, n, _key(filled[rr, cc], rr * nx + cc))
    while n > 0 or m > 0:
        if m > 0 and (n == 0 or pit[0] < heap[0]):
            key = pit[0]
            m = _pop(pit, m)
        else:
            key = heap[0]
            n = _pop(heap, n)
        i = key & 0xFFFFFFFF
        r, c = i // nx, i % nx
        here = filled[r, c]
        for rr in range(max(r - 1, 0), min(r + 2, ny)):
            for cc in range(max(c - 1, 0), min(c + 2, nx)):
                if seen[rr, cc] != 0:
                    continue
                seen[rr, cc] = 2
                if filled[rr, cc] <= here:
                    filled[rr, cc] = here + epsilon * np.float32(
                        (1.0 + 0.4142 * (rr != r and cc != c))
                        * (0.6 + 0.8 * unit(hash3(rr, cc, 17)))
                    )
                    m = _push(pit, m, _key(filled[rr, cc], rr * nx + cc))
                else:
                    n = _push(heap, n, _key(filled[rr, cc], rr * nx + cc))


@njit(cache=True, nogil=True)
def _keys(filled):
    out = np.empty(filled.size, np.int64)
    flat = filled.ravel()
    for i in range(len(out)):
        out[i] = _key(flat[i], i)
    return out


def _upward(filled: np.ndarray) -> np.ndarray:
    """The posts from lowest to highest, flat indices (int64)."""
    keys = _keys(filled)
    keys.sort()
    return keys & 0xFFFFFFFF


def flood(heights: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Pits filled so that every post drains to the edge, and the posts from lowest to highest.

    Priority flood with a small rise per post (Barnes, Lehman & Mulla, 2014), of the pits alone:
    what drains by itself keeps its height, and is put in order by sorting. Gives filled heights
    (float32 m, lifted by a common offset taken off again) and flat indices (int64).
    """
    low = np.float32(heights.min())
    filled = (heights - low + np.float32(1)).astype(np.float32)
    step = np.float32(max(1e-4, float(filled.max()) * 2.5e-7))
    order = _upward(filled)
    free, held = _drained(filled, order)
    if held:
        _fill(filled, free, step)
        order = _upward(filled)
    return filled + (low - np.float32(1)), order


@njit(cache=True, nogil=True, forceinline=True)
def shares(filled, i, steps, share):
    """What part of a post's water goes to each neighbour, up to their sum, which is given: the drop
    over the squared distance, so that on a plane of any facing the sum of the flows points down it.
    """
    here = filled[i]
    total = 0.0
    # without a branch: which of the neighbours are lower cannot be foretold
    for k in range(8):
        nearness = 1.0 if k == 1 or k == 3 or k == 4 or k == 6 else 0.5
        share[k] = max(here - filled[i + steps[k]], np.float32(0)) * nearness
        total += share[k]
    return total


@njit(cache=True, nogil=True)
def rim(ny, nx):
    """Marks the outermost posts, whose neighbours are not all there; flat, bool."""
    out = np.zeros((ny, nx), np.bool_)
    out[0] = out[-1] = True
    out[:, 0] = out[:, -1] = True
    return out.ravel()


@njit(cache=True, nogil=True)
def _spread(filled, order, area):
    ny, nx = filled.shape
    flat, amount = filled.ravel(), area.ravel()
    steps, share, outer = around(nx), np.empty(8), rim(ny, nx)
    for n in range(len(order) - 1, -1, -1):
        i = order[n]
        if outer[i]:
            continue
        total = shares(flat, i, steps, share)
        if total <= 0:
            continue
        for k in range(8):
            share[k] = amount[i] * share[k] / total
        for k in range(8):
            amount[i + steps[k]] += share[k]


def spread(
    filled: np.ndarray, order: np.ndarray, spacing: float, rain: np.ndarray | None = None
) -> np.ndarray:
    """Contributing area in m², float64 (ny, nx): each post's water goes to all lower neighbours by
    slope (Quinn et al. 1991, Freeman 1991), upstream first. `rain` (about 1) weighs each post's own
    share.
    """
    area = np.full(filled.shape, spacing * spacing)
    if rain is not None:
        area *= rain
    _spread(filled, order, area)
    return area


@njit(cache=True, nogil=True, forceinline=True)
def _steepest(filled, r, c):
    """Row and column of the neighbour with the steepest way down from an inner post; -1 when there
    is none.
    """
    best = 0.0
    br = -1
    bc = -1
    for dr in range(-1, 2):
        for dc in range(-1, 2):
            drop = filled[r, c] - filled[r + dr, c + dc]
            if drop > 0:
                drop /= np.sqrt(float(dr * dr + dc * dc))
                if drop > best:
                    best = drop
                    br = r + dr
                    bc = c + dc
    return br, bc


@njit(cache=True, nogil=True)
def breach(h, filled, order):
    """Cuts a way out of every pit: what drains from it takes the ground along its steepest way
    (over the filled land) down to its own level, until the land itself is lower (Martz & Garbrecht
    1998). Changes `h` (float32 m) in place.
    """
    ny, nx = h.shape
    for k in range(len(order) - 1, -1, -1):
        i = order[k]
        r, c = i // nx, i % nx
        if r == 0 or c == 0 or r == ny - 1 or c == nx - 1:
            continue
        br, bc = _steepest(filled, r, c)
        if br >= 0 and h[br, bc] > h[r, c]:
            h[br, bc] = h[r, c]


@njit(cache=True, nogil=True)
def _gather(filled, order, amount):
    ny, nx = filled.shape
    for k in range(len(order) - 1, -1, -1):
        i = order[k]
        r, c = i // nx, i % nx
        if r == 0 or c == 0 or r == ny - 1 or c == nx - 1:
            continue
        br, bc = _steepest(filled, r, c)
        if br >= 0:
            amount[br, bc] += amount[r, c]


def gather(filled: np.ndarray, order: np.ndarray, amount: np.ndarray) -> np.ndarray:
    """`amount` of every post gathered down the steepest way (O'Callaghan & Mark 1984), float64:
    lines one post wide.
    """
    total = np.array(amount, np.float64)
    _gather(filled, order, total)
    return total


def contributing_area(heights: np.ndarray, spacing: float) -> np.ndarray:
    """Contributing area in m², float32 (ny, nx), over the land with its pits filled."""
    return spread(*flood(heights), spacing).astype(np.float32)
