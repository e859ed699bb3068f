"""Pits and contributing area."""
import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def _push(heap, n, key):
    i = n
    while i > 0:
        up = (i - 1) >> 1
        if heap[up] <= key:
            break
        heap[i] = heap[up]
        i = up
    heap[i] = key
    return n + 1


@njit(cache=True, nogil=True)
def _pop(heap, n):
    top = heap[0]
    n -= 1
    key = heap[n]
    i = 0
    while True:
        kid = 2 * i + 1
        if kid >= n:
            break
        if kid + 1 < n and heap[kid + 1] < heap[kid]:
            kid += 1
        if heap[kid] >= key:
            break
        heap[i] = heap[kid]
        i = kid
    heap[i] = key
    return top, n


@njit(cache=True, nogil=True)
def _flood(filled, ordinal, order, epsilon):
    """Keys are an order-preserving integer of the height above the index, so that ties break by place."""
    ny, nx = filled.shape
    heap = np.empty(ny * nx + 8, np.int64)
    n, done = 0, 0
    for r in range(ny):
        for c in range(nx):
            if r == 0 or c == 0 or r == ny - 1 or c == nx - 1:
                ordinal[r, c] = 1
                n = _push(heap, n, (np.int64(np.float32(filled[r, c]).view(np.int32)) << 32) | (r * nx + c))
    while n > 0:
        key, n = _pop(heap, n)
        i = key & 0xFFFFFFFF
        order[done] = i
        done += 1
        r, c = i // nx, i % nx
        here = filled[r, c]
        for dr in range(-1, 2):
            for dc in range(-1, 2):
                rr, cc = r + dr, c + dc
                if rr < 0 or cc < 0 or rr >= ny or cc >= nx or ordinal[rr, cc]:
                    continue
                ordinal[rr, cc] = 1
                if filled[rr, cc] <= here:
                    filled[rr, cc] = here + epsilon
                n = _push(heap, n, (np.int64(np.float32(filled[rr, cc]).view(np.int32)) << 32) | (rr * nx + cc))


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


def spread(filled: np.ndarray, order: np.ndarray, spacing: float) -> np.ndarray:
    """Contributing area in m², float64 (ny, nx): each post's water goes to all lower neighbours by slope
    (Quinn et al. 1991, Freeman 1991), upstream first."""
    area = np.full(filled.shape, spacing * spacing)
    _spread(filled, order, area)
    return area
