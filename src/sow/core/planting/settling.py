"""Kernels of placing: candidates cell by cell, and the rounds in which neighbours contest."""

import numpy as np
from numba import njit, prange

from ..hashing import hash3, unit
from ..sample import bilinear_at


@njit(cache=True, nogil=True, forceinline=True)
def _strewn(c, r, seed):
    """A number in 0..1 for a cell, even by itself, and such that the sixteen of a block of cells
    lie one in each sixteenth: what is counted over many cells then varies far less than by chance
    (stratified sampling; Cochran 1977). Which cell takes which is hashed anew for each block.
    """
    h = np.uint64(hash3(c >> 2, r >> 2, seed + 1_000_003)) | (
        np.uint64(hash3(c >> 2, r >> 2, seed + 2_000_003)) << np.uint64(32)
    )
    a, b = np.uint64(r & 3), np.uint64(c & 3)
    for _ in range(4):  # a permutation of sixteen (Luby & Rackoff 1988)
        a ^= (h >> (b * np.uint64(2))) & np.uint64(3)
        b ^= (h >> (a * np.uint64(2) + np.uint64(8))) & np.uint64(3)
        h >>= np.uint64(16)
    return (float(a * np.uint64(4) + b) + unit(hash3(c, r, seed))) / 16.0


@njit(cache=True, nogil=True, parallel=True)
def count_candidates(counts, c0, r0, mean, seed):
    """Candidates per cell, as even as can be."""
    for r in prange(counts.shape[0]):
        for c in range(counts.shape[1]):
            counts[r, c] = int(mean + _strewn(c0 + c, r0 + r, seed))


@njit(cache=True, nogil=True, parallel=True)
def fill_candidates(
    offsets,
    c0,
    r0,
    cell,
    seed,
    keep,
    field,
    e0,
    n0,
    inverse,
    top,
    row0,
    col0,
    chance,
    cum,
    parts,
    x,
    y,
    priority,
    kind,
    alive,
):
    """A candidate stays with the chance of its place; `chance` (STEPS + 1) and `cum` (STEPS + 1,
    kinds) table it against the mask. `parts` (kinds or 0, ny, nx) says how much each kind belongs
    there. Field and parts begin at row `row0` and column `col0` of the plot, whose first row lies
    at `top`.
    """
    ny, nx = offsets.shape[0], offsets.shape[1] - 1
    steps, kinds = len(chance) - 1, cum.shape[1]
    for r in prange(ny):
        for c in range(nx):
            for k in range(offsets[r, c], offsets[r, c + 1]):
                i = k - offsets[r, c]
                sx = seed + 1 + 4 * i
                px = (c0 + c + unit(hash3(c0 + c, r0 + r, sx))) * cell
                py = (r0 + r + unit(hash3(c0 + c, r0 + r, sx + 1))) * cell
                x[k], y[k] = px, py
                h = hash3(c0 + c, r0 + r, sx + 2)
                priority[k] = h
                kind[k] = 0
                inside = px >= 0 and py >= 0 and px <= e0 and py <= n0
                if not inside:
                    alive[k] = False
                    continue
                row = (top - py) * inverse - row0
                col = px * inverse - col0
                share = 1.0
                j = steps - 1
                t = 1.0
                if keep:
                    share = bilinear_at(field, row, col) * steps
                    j = min(max(int(share), 0), steps - 1)
                    t = share - j
                here = chance[j] + t * (chance[j + 1] - chance[j])
                u = _strewn(c0 + c, r0 + r, sx + 3)
                alive[k] = u < here
                if kinds > 1 and alive[k]:
                    pick = u / here  # even in 0..1, as the candidate stays
                    if parts.shape[0]:
                        total = 0.0
                        for m in range(kinds):
                            w = cum[j + 1, m] - (cum[j + 1, m - 1] if m else 0.0)
                            total += w * bilinear_at(parts[m], row, col)
                        alive[k] = total > 1e-6
                        pick *= total
                        m, so_far = 0, 0.0
                        while m < kinds:
                            so_far += (
                                cum[j + 1, m] - (cum[j + 1, m - 1] if m else 0.0)
                            ) * bilinear_at(parts[m], row, col)
                            if pick < so_far or m == kinds - 1:
                                break
                            m += 1
                        kind[k] = m
                    else:
                        m = 0
                        while m < kinds - 1 and pick >= cum[j + 1, m]:
                            m += 1
                        kind[k] = m


@njit(cache=True, nogil=True, forceinline=True)
def _beats(pa, xa, ya, pb, xb, yb):
    if pa != pb:
        return pa > pb
    return xa > xb or (xa == xb and ya > yb)


@njit(cache=True, nogil=True, parallel=True)
def contest(offsets, cell_of, active, x, y, priority, kind, half, state, accepting, flag):
    """Accepting: flag those undecided that beat all undecided within reach. Otherwise: flag those
    near an accepted one.
    """
    ny, nx = offsets.shape[0], offsets.shape[1] - 1
    for a in prange(len(active)):
        k = active[a]
        r, c = cell_of[k] // nx, cell_of[k] % nx
        hit, own = False, half[kind[k]]
        for rr in range(max(r - 1, 0), min(r + 2, ny)):
            s = offsets[rr, max(c - 1, 0)]
            e = offsets[rr, min(c + 1, nx - 1) + 1]
            for j in range(s, e):
                if j == k or state[j] != (0 if accepting else 1):
                    continue
                dx = x[j] - x[k]
                dy = y[j] - y[k]
                reach = own + half[kind[j]]
                if dx * dx + dy * dy < reach * reach and (
                    not accepting or _beats(priority[j], x[j], y[j], priority[k], x[k], y[k])
                ):
                    hit = True
                    break
            if hit:
                break
        flag[a] = not hit if accepting else hit


@njit(cache=True, nogil=True)
def by_cell(offsets, cell_of):
    ny, nx = offsets.shape[0], offsets.shape[1] - 1
    for r in range(ny):
        for c in range(nx):
            for k in range(offsets[r, c], offsets[r, c + 1]):
                cell_of[k] = r * nx + c
