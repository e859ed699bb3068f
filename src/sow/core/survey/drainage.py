"""Pits and contributing area."""

import numpy as np
from numba import njit

from ..hashing import hash3, unit


@njit(cache=True, nogil=True, inline="always")
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


@njit(cache=True, nogil=True, inline="always")
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


@njit(cache=True, nogil=True)
def _flood(filled, seen, order, epsilon):
    """Keys are an order-preserving integer of the height above the index, so that ties break by
    place.

    A post that is not higher than the one it is reached from lies in a pit: it is lifted a little
    above it, by a hashed amount, so that the way out over a filled flat wanders and does not follow
    the grid.
    """
    ny, nx = filled.shape
    heap, pit = (
        np.empty(ny * nx + 8, np.int64),
        np.empty(ny * nx + 8, np.int64),
    )  # the posts of pits, of which few wait at a time, have a heap of their own
    n = 0
    m = 0
    done = 0
    for r in range(ny):
        step = 1 if r == 0 or r == ny - 1 else nx - 1
        for c in range(0, nx, step):
            seen[r, c] = 1
            n = _push(
                heap, n, (np.int64(np.float32(filled[r, c]).view(np.int32)) << 32) | (r * nx + c)
            )
    while n > 0 or m > 0:
        if m > 0 and (n == 0 or pit[0] < heap[0]):
            key = pit[0]
            m = _pop(pit, m)
        else:
            key = heap[0]
            n = _pop(heap, n)
        i = key & 0xFFFFFFFF
        order[done] = i
        done += 1
        r, c = i // nx, i % nx
        here = filled[r, c]
        for dr in range(-1, 2):
            rr = r + dr
            if rr < 0 or rr >= ny:
                continue
            for dc in range(-1, 2):
                cc = c + dc
                if cc < 0 or cc >= nx or seen[rr, cc]:
                    continue
                seen[rr, cc] = 1
                if filled[rr, cc] <= here:
                    filled[rr, cc] = here + epsilon * np.float32(
                        (1.0 + 0.4142 * (dr * dc != 0)) * (0.6 + 0.8 * unit(hash3(rr, cc, 17)))
                    )
                    m = _push(
                        pit,
                        m,
                        (np.int64(np.float32(filled[rr, cc]).view(np.int32)) << 32)
                        | (rr * nx + cc),
                    )
                else:
                    n = _push(
                        heap,
                        n,
                        (np.int64(np.float32(filled[rr, cc]).view(np.int32)) << 32)
                        | (rr * nx + cc),
                    )


def flood(heights: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Pits filled so that every post drains to the edge, and the posts from lowest to highest.

    Priority flood with a small rise per post (Barnes, Lehman & Mulla, 2014). Gives filled heights
    (float32 m, lifted by a common offset taken off again) and flat indices (int64).
    """
    low = np.float32(heights.min())
    filled = (heights - low + np.float32(1)).astype(np.float32)
    order = np.empty(filled.size, np.int64)
    step = np.float32(max(1e-4, float(filled.max()) * 2.5e-7))
    _flood(filled, np.zeros(filled.shape, np.uint8), order, step)
    return filled + (low - np.float32(1)), order


@njit(cache=True, nogil=True)
def _spread(filled, order, area):
    """Rates with the drop over the squared distance: on a plane of any facing the sum of the flows
    points down it.
    """
    ny, nx = filled.shape
    share = np.empty(9, np.float64)
    for k in range(len(order) - 1, -1, -1):
        i = order[k]
        r, c = i // nx, i % nx
        if r == 0 or c == 0 or r == ny - 1 or c == nx - 1:
            continue
        total, j = 0.0, 0
        for dr in range(-1, 2):
            for dc in range(-1, 2):
                drop = filled[r, c] - filled[r + dr, c + dc]
                share[j] = 0.0
                if drop > 0:
                    share[j] = drop / (dr * dr + dc * dc)
                    total += share[j]
                j += 1
        if total > 0:
            j = 0
            for dr in range(-1, 2):
                for dc in range(-1, 2):
                    area[r + dr, c + dc] += area[r, c] * share[j] / total
                    j += 1


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


@njit(cache=True, nogil=True, inline="always")
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
