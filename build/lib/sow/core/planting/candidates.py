"""Candidates laid over the land, and those left when neighbours have contested their room."""

from typing import NamedTuple

import numpy as np
from numba import njit, prange

from .settling import by_cell, contest, count_candidates, fill_candidates

ROUNDS = 7  # in which neighbours contest; more change next to nothing


class Blocks(NamedTuple):
    """Discs that stand already: east, north, radius (m), sorted into cells of `cell` m; `start`
    (rows, columns + 1) indexes them.
    """

    x: np.ndarray
    y: np.ndarray
    r: np.ndarray
    start: np.ndarray
    cell: float
    west: float
    south: float

    @staticmethod
    def of(x, y, r, reach: float) -> "Blocks | None":
        """None when there are none. `reach` is the largest radius of what will be asked for."""
        x, y, r = (np.asarray(v, np.float64) for v in (x, y, r))
        if not len(x):
            return None
        cell = max(float(r.max()) + reach, 0.5)
        west, south = x.min() - cell, y.min() - cell
        cell = max(cell, np.hypot(np.ptp(x), np.ptp(y)) / 3000)
        col = ((x - west) / cell).astype(np.int64)
        row = ((y - south) / cell).astype(np.int64)
        nx, ny = int(col.max()) + 2, int(row.max()) + 2
        order = np.argsort(row * nx + col, kind="stable")
        count = np.bincount(row * nx + col, minlength=nx * ny)
        ends = np.concatenate([[0], np.cumsum(count)])
        start = np.empty((ny, nx + 1), np.int64)
        start[:, :-1] = ends[:-1].reshape(ny, nx)
        start[:, -1] = ends[nx::nx]
        return Blocks(x[order], y[order], r[order], start, cell, west, south)


@njit(cache=True, nogil=True, parallel=True)
def _blocked(x, y, own, kind, alive, bx, by, br, start, cell, west, south):
    """Takes out what is nearer to a disc than its radius and the kind's `own` (m; below 0: the kind
    does not mind).
    """
    ny, nx = start.shape[0], start.shape[1] - 1
    for i in prange(len(x)):
        if not alive[i] or own[kind[i]] < 0:
            continue
        c, r = int((x[i] - west) / cell), int((y[i] - south) / cell)
        for rr in range(max(r - 1, 0), min(r + 2, ny)):
            for j in range(start[rr, min(max(c - 1, 0), nx)], start[rr, min(max(c + 2, 0), nx)]):
                dx = bx[j] - x[i]
                dy = by[j] - y[i]
                d = br[j] + own[kind[i]]
                if dx * dx + dy * dy < d * d:
                    alive[i] = False


def blocked(x, y, own, kind, alive, blocks: Blocks | None) -> None:
    """Whether places lie within any of the discs that are kept out of, bool (n,)."""
    if blocks is not None and len(x):
        _blocked(x, y, np.asarray(own, np.float64), kind, alive, *blocks)


def settled(
    rates,
    full,
    apart,
    seed,
    size_m,
    mask=None,
    spacing=1.0,
    bounds=None,
    parts=None,
    blocks=(),
    corner=(0, 0, 0),
):
    """Candidates laid out by `rates` (STEPS + 1, kinds; 1/m²) of `full`, and those that are left
    when the rounds are over. `corner` as `place` explains it.
    """
    width, depth = size_m
    west, south, east, north = bounds or (0.0, 0.0, width, depth)
    widest = float(apart.max())
    cell = max(widest, np.sqrt(1.0 / full))
    halo = 2 * ROUNDS * widest + cell if widest > 0 else cell
    c0 = int(np.floor(max(west - halo, 0) / cell))
    r0 = int(np.floor(max(south - halo, 0) / cell))
    c1 = int(np.floor(min(east + halo, width) / cell)) + 1
    r1 = int(np.floor(min(north + halo, depth) / cell)) + 1
    counts = np.empty((r1 - r0, c1 - c0), np.int64)
    count_candidates(counts, c0, r0, full * cell * cell, seed)
    offsets = np.zeros((r1 - r0, c1 - c0 + 1), np.int64)
    flat = np.concatenate([[0], np.cumsum(counts.ravel())])
    offsets[:, :-1] = flat[:-1].reshape(counts.shape)
    offsets[:, -1] = flat[counts.shape[1] :: counts.shape[1]]
    n = int(flat[-1])
    x = np.empty(n)
    y = np.empty(n)
    priority = np.empty(n, np.uint32)
    kind = np.empty(n, np.uint8)
    alive = np.empty(n, np.bool_)
    totals = rates.sum(1)
    cum = np.cumsum(rates, 1) / np.maximum(totals, 1e-300)[:, None]
    cum[0] = cum[1]
    field = np.ones((2, 2), np.float32) if mask is None else mask
    fill_candidates(
        offsets,
        c0,
        r0,
        cell,
        seed,
        mask is not None,
        field,
        width,
        depth,
        1 / spacing,
        ((corner[2] or (field if parts is None else parts[0]).shape[0]) - 1) * spacing,
        corner[0],
        corner[1],
        totals / full,
        cum,
        np.empty((0, 2, 2), np.float32) if parts is None else parts,
        x,
        y,
        priority,
        kind,
        alive,
    )
    for own, discs in blocks:
        blocked(x, y, own, kind, alive, discs)
    if widest > 0:
        state = np.where(alive, 0, 2).astype(np.uint8)
        cell_of = np.empty(n, np.int64)
        by_cell(offsets, cell_of)
        active, half = np.flatnonzero(alive), apart / 2
        for _ in range(ROUNDS):
            for accepting in (True, False):
                flag = np.empty(len(active), np.bool_)
                contest(
                    offsets, cell_of, active, x, y, priority, kind, half, state, accepting, flag
                )
                state[active[flag]] = 1 if accepting else 2
                active = active[~flag]
            if not len(active):
                break
        alive = state == 1
    if bounds:
        alive &= (x >= west) & (y >= south) & (x < east) & (y < north)
    return x[alive], y[alive], priority[alive], kind[alive]
