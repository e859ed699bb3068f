"""Placement: which points of the ground take a plant, and of which kind.

Candidates are hashed into the cells of a square lattice, as many in each as can be even, and
thinned by a mask in strata, so that every hectare has what it shall; of any two nearer than their
least distance the one with the lower hash gives way. The accepted set is that of random sequential
adsorption but for the even beginning: the number of candidates for a wanted density is guessed from
its kinetics (Schaaf & Talbot, 1989) and corrected by trials on a small plot, which also serve kinds
of unlike size. The rounds are counted, so what decides a place lies within a known halo, and a tile
computed alone equals the same tile of the whole.
"""

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numba import njit, prange

from ..hashing import hash3, unit
from ..sample import bilinear_at

ROUNDS = 7
JAM = 0.547  # part of the plane covered by discs when no more fit
FULLEST = 0.86 * JAM  # the part aimed at, at most: beyond it candidates grow without bound

RARE = 0.0015  # density times the least distance squared under which neighbours hardly ever compete
LEVELS = np.array(
    (0.0, 0.03, 0.06, 0.125, 0.25, 0.5, 0.75, 1.0)
)  # shares of the density at which a trial is made
LONE = np.array((0.1, 0.3, 0.6, 1.0))  # and for one kind alone
STEPS = 256


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


@lru_cache(1)
def _kinetics():
    """Coverage against time of random sequential adsorption of discs; time is candidates per disc
    area.
    """
    x = np.linspace(0, FULLEST / JAM, 4000)
    free = (1 + 0.812 * x + 0.4258 * x**2 + 0.0716 * x**3) * (1 - x) ** 3
    dt = JAM * np.diff(x) * 0.5 * (1 / free[1:] + 1 / free[:-1])
    return x * JAM, np.concatenate([[0], np.cumsum(dt)])


def densest(apart_m, shares=(1.0,)) -> float:
    """The greatest density (1/m²) that the least distances leave room for; distances and shares per
    kind, or one for all.
    """
    apart, shares = np.broadcast_arrays(np.asarray(apart_m, float), np.asarray(shares, float))
    disc = float((np.pi * apart**2 / 4 * shares).sum() / max(shares.sum(), 1e-12))
    return np.inf if disc <= 0 else FULLEST / disc


def candidates(density, apart_m: float) -> np.ndarray:
    """Density of candidates that gives the wanted density after competition (both 1/m²), for one
    least distance.
    """
    if apart_m <= 0 or np.max(density) * apart_m**2 < RARE:
        return np.asarray(density, np.float64)
    disc = np.pi * apart_m**2 / 4
    covered, time = _kinetics()
    return np.interp(np.asarray(density) * disc, covered, time) / disc


def _ceiling(candidates_m2: float, octave: int) -> float:
    """Candidates come in doublings (`octave` 1) or in steps of four (2), so that a density that is
    lowered thins and does not sow anew.
    """
    return float(2.0 ** (octave * np.ceil(np.log2(candidates_m2) / octave)))


@lru_cache(128)
def _rates(density: float, apart: tuple, shares: tuple, octave: int) -> tuple[np.ndarray, float]:
    """Candidates of each kind (1/m²) at STEPS + 1 even shares of the density, float64 (STEPS + 1,
    kinds), and of all before any is thinned.

    Where neighbours hardly ever compete they are as many as the plants; else they are found on a
    small plot, by trial and correction, from the kinetics of one kind as a first guess.
    """
    even = np.linspace(0, 1, STEPS + 1)
    part = np.array(shares) / sum(shares)
    if density * max(apart) ** 2 < RARE:
        return density * even[:, None] * part, _ceiling(density * 1.03, octave)
    if len(set(apart)) == 1:
        lone = candidates(density * even, apart[0])
        full = _ceiling(float(lone[-1]) * 1.06, octave)
        return (lone * np.interp(even, LONE, _lone(_step(density), apart[0], full)))[
            :, None
        ] * part, full
    want, wide = part * density, 2 * max(apart)
    guess = lambda share: np.multiply.outer(
        candidates(density * share, float(np.sqrt((part * np.array(apart) ** 2).sum()))), part
    )
    first = guess(1.0)
    full = _ceiling(first.sum() * 1.05, octave)
    found = []
    now = first.copy()
    for level in LEVELS[:0:-1]:
        side = np.sqrt(16000 / density / max(level, 0.1))  # as many to count where it is sparse
        for turn in range(5):
            x, y, _, kind = _settled(
                now[None, :].repeat(STEPS + 1, 0), full, np.array(apart), 977, (side, side)
            )
            inner = (x > wide) & (y > wide) & (x < side - wide) & (y < side - wide)
            got = np.bincount(kind[inner], minlength=len(part)) / max((side - 2 * wide) ** 2, 1e-9)
            now = np.minimum(
                now
                * np.clip(np.where(want > 0, want * level / np.maximum(got, 1e-9), 1), 0.5, 2)
                ** (1.0 if turn < 2 else 0.7),
                40 * first,
            )
            if level == 1 and now.sum() * 1.03 > full:
                full = _ceiling(now.sum() * 1.05, octave)
        found.append(
            now / guess(level)
        )  # the correction changes little from level to level, as the guess does not
        now = found[-1] * guess(max(LEVELS[np.searchsorted(LEVELS, level) - 1], 0.01))
    mend = np.array([found[-1], *found[::-1]])
    return guess(even) * np.stack(
        [np.interp(even, LEVELS, mend[:, k]) for k in range(len(part))], 1
    ), full


@lru_cache(256)
def _lone(density: float, apart_m: float, full: float) -> np.ndarray:
    """What the kinetics must be multiplied by at each level of LONE, for one least distance: they
    assume candidates that come at random.
    """
    mend, side = np.ones(len(LONE)), float(np.sqrt(24000 / density))
    inner, factor = (side - 4 * apart_m) ** 2, 1.0
    for i in range(len(LONE) - 1, -1, -1):
        want = density * LONE[i]
        first, tried = float(candidates(want, apart_m)), []
        for _turn in range(3):  # by secants, on a log scale
            x, y, *_ = _settled(
                np.full((STEPS + 1, 1), min(first * factor, full)),
                full,
                np.array([apart_m]),
                977,
                (side, side),
            )
            got = (
                (x > 2 * apart_m)
                & (y > 2 * apart_m)
                & (x < side - 2 * apart_m)
                & (y < side - 2 * apart_m)
            ).sum() / inner
            tried.append((np.log(factor), np.log(max(got, 1e-12) / want)))
            if abs(tried[-1][1]) < 0.001:
                break
            (f0, g0), (f1, g1) = (
                tried[0] if len(tried) > 1 else (tried[0][0] - 1.0, tried[0][1] - 0.7),
                tried[-1],
            )
            rise = float(np.clip((g1 - g0) / (f1 - f0), 0.15, 1.0)) if abs(f1 - f0) > 1e-6 else 0.7
            factor = float(np.exp(np.clip(f1 - g1 / rise, -1.0, 1.0)))
        mend[i] = factor = min(factor, full / first)
    return mend


@njit(cache=True, nogil=True, inline="always")
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
def _count(counts, c0, r0, mean, seed):
    """Candidates per cell, as even as can be."""
    for r in prange(counts.shape[0]):
        for c in range(counts.shape[1]):
            counts[r, c] = int(mean + _strewn(c0 + c, r0 + r, seed))


@njit(cache=True, nogil=True, parallel=True)
def _fill(
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
    there.
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
                share = 1.0
                j = steps - 1
                t = 1.0
                if keep:
                    share = bilinear_at(field, (top - py) * inverse, px * inverse) * steps
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
                            total += w * bilinear_at(parts[m], (top - py) * inverse, px * inverse)
                        alive[k] = total > 1e-6
                        pick *= total
                        m, so_far = 0, 0.0
                        while m < kinds:
                            so_far += (
                                cum[j + 1, m] - (cum[j + 1, m - 1] if m else 0.0)
                            ) * bilinear_at(parts[m], (top - py) * inverse, px * inverse)
                            if pick < so_far or m == kinds - 1:
                                break
                            m += 1
                        kind[k] = m
                    else:
                        m = 0
                        while m < kinds - 1 and pick >= cum[j + 1, m]:
                            m += 1
                        kind[k] = m


@njit(cache=True, nogil=True, inline="always")
def _beats(pa, xa, ya, pb, xb, yb):
    if pa != pb:
        return pa > pb
    return xa > xb or (xa == xb and ya > yb)


@njit(cache=True, nogil=True, parallel=True)
def _round(offsets, cell_of, active, x, y, priority, kind, half, state, accepting, flag):
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
def _cells(offsets, cell_of):
    ny, nx = offsets.shape[0], offsets.shape[1] - 1
    for r in range(ny):
        for c in range(nx):
            for k in range(offsets[r, c], offsets[r, c + 1]):
                cell_of[k] = r * nx + c


def _settled(
    rates, full, apart, seed, size_m, mask=None, spacing=1.0, bounds=None, parts=None, blocks=()
):
    """Candidates laid out by `rates` (STEPS + 1, kinds; 1/m²) of `full`, and those that are left
    when the rounds are over.
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
    _count(counts, c0, r0, full * cell * cell, seed)
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
    _fill(
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
        ((field if parts is None else parts[0]).shape[0] - 1) * spacing,
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
        _cells(offsets, cell_of)
        active, half = np.flatnonzero(alive), apart / 2
        for _ in range(ROUNDS):
            for accepting in (True, False):
                flag = np.empty(len(active), np.bool_)
                _round(offsets, cell_of, active, x, y, priority, kind, half, state, accepting, flag)
                state[active[flag]] = 1 if accepting else 2
                active = active[~flag]
            if not len(active):
                break
        alive = state == 1
    if bounds:
        alive &= (x >= west) & (y >= south) & (x < east) & (y < north)
    return x[alive], y[alive], priority[alive], kind[alive]


def place(
    density: float,
    apart_m,
    seed: int,
    size_m: tuple[float, float],
    mask: np.ndarray | None = None,
    spacing: float = 1.0,
    bounds: tuple[float, float, float, float] | None = None,
    shares=(1.0,),
    parts: np.ndarray | None = None,
    blocks=(),
):
    """Places for plants: east and north (m, float64), a hash (uint32) and a kind (uint8, index of
    `shares`) each.

    `density` is plants per m² where the mask is 1; `apart_m` the least distance, one for all or one
    for each kind (two kinds keep the mean of theirs); `shares` the parts of the kinds. `mask` is
    float32 0..1 on posts of `spacing` over a plot of `size_m` (width, depth), `parts` (kinds, rows,
    columns) how much each kind belongs there. `blocks` lists pairs of (own radius for each kind,
    Blocks) to keep out of. `bounds` (west, south, east, north) gives one tile, equal to the same
    part of the whole.

    Kinds much larger than others are placed first and the smaller ones between them, so that no
    cell holds thousands.
    """
    shares = np.asarray(shares, np.float64)
    apart = np.broadcast_to(np.asarray(apart_m, np.float64), shares.shape).copy()
    density = min(float(density), densest(apart, shares))
    if density <= 0 or shares.sum() <= 0:
        return np.empty(0), np.empty(0), np.empty(0, np.uint32), np.empty(0, np.uint8)
    groups = _groups(tuple(apart))
    mend = _mends(_step(density), tuple(apart), tuple(shares)) if len(groups) > 1 else (1.0,)
    return _in_groups(
        density, apart, seed, size_m, mask, spacing, bounds, shares, parts, blocks, groups, mend
    )


def _step(density: float) -> float:
    """The nearest of 16 steps an octave, at which trials are made and kept: a dragged density needs
    none of its own.
    """
    return float(2.0 ** (np.round(16 * np.log2(density)) / 16))


def _groups(apart: tuple) -> list[np.ndarray]:
    """Kinds whose distances lie within about a factor of two, the largest first."""
    groups: list[list[int]] = []
    for k in np.argsort(-np.array(apart), kind="stable"):
        if groups and (apart[k] > 0.45 * apart[groups[-1][0]] or apart[groups[-1][0]] == 0):
            groups[-1].append(k)
        else:
            groups.append([k])
    return [np.array(g) for g in groups]


@lru_cache(128)
def _mends(density: float, apart: tuple, shares: tuple) -> tuple[float, ...]:
    """What each group must be asked for beside its share, that it comes out right among the larger
    ones: from a trial.
    """
    groups = _groups(apart)
    shares_ = np.array(shares)
    mend = []
    wide = float(np.sqrt(160000 / density))
    _, _, _, kind = _in_groups(
        density,
        np.array(apart),
        4411,
        (wide, wide),
        None,
        1.0,
        None,
        shares_,
        None,
        (),
        groups,
        (1.0,) * len(groups),
    )
    for members in groups:
        want = density * shares_[members].sum() / shares_.sum() * wide * wide
        mend.append(
            1.0
            if want < 3000
            else float(np.clip(want / max(int(np.isin(kind, members).sum()), 1), 0.8, 1.2))
        )
    return tuple(mend)


def _in_groups(
    density, apart, seed, size_m, mask, spacing, bounds, shares, parts, blocks, groups, mend
):
    done = []
    for g, members in enumerate(groups):
        own = density * shares[members].sum() / shares.sum() * mend[g]
        if own <= 0:
            continue
        around = [(np.asarray(radius, float)[members], discs) for radius, discs in blocks]
        if done:
            bx, by, bk = (np.concatenate([d[i] for d in done]) for i in (0, 1, 3))
            discs = Blocks.of(bx, by, apart[bk] / 2, float(apart[members].max()) / 2)
            around.append((apart[members] / 2, discs))
            own = min(
                own
                / _free(
                    discs,
                    float((apart[members] * shares[members]).sum() / shares[members].sum()) / 2,
                    size_m,
                    mask,
                    spacing,
                ),
                densest(apart[members], shares[members]),
            )
        step = _step(own) if len(set(apart[members])) > 1 else own
        rates, full = _rates(
            step,
            tuple(apart[members]),
            tuple(shares[members]),
            2 if own * size_m[0] * size_m[1] < 1e6 else 1,
        )
        x, y, p, k = _settled(
            rates * (own / step),
            full,
            apart[members],
            seed + 7717 * g,
            size_m,
            mask,
            spacing,
            bounds,
            None if parts is None else np.ascontiguousarray(parts[members]),
            around,
        )
        done.append((x, y, p, members[k].astype(np.uint8)))
    return (
        tuple(np.concatenate([d[i] for d in done]) for i in range(4)) if len(done) > 1 else done[0]
    )


def _free(discs, own: float, size_m, mask, spacing) -> float:
    """The part of the masked ground that discs grown by `own` leave free, from 40,000 even
    places.
    """
    if discs is None:
        return 1.0
    n = 200
    x, y = (
        (v.ravel() + 0.5) / n
        for v in np.meshgrid(
            np.arange(n) + 0.37 * np.sin(np.arange(n) * 2.4), np.arange(n), indexing="ij"
        )
    )
    x, y = x * size_m[0], y * size_m[1]
    weight = np.ones(n * n)
    if mask is not None:
        r = np.clip(np.rint((mask.shape[0] - 1) - y / spacing).astype(int), 0, mask.shape[0] - 1)
        c = np.clip(np.rint(x / spacing).astype(int), 0, mask.shape[1] - 1)
        weight = mask[r, c].astype(float)
    alive = np.ones(n * n, np.bool_)
    blocked(x, y, np.array([own]), np.zeros(n * n, np.uint8), alive, discs)
    return float(max((weight * alive).sum() / max(weight.sum(), 1e-9), 0.2))
