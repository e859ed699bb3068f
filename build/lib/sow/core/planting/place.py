"""Placement: which points of the ground take a plant, and of which kind.

Candidates are hashed into the cells of a square lattice, as many in each as can be even, and
thinned by a mask in strata, so that every hectare has what it shall; of any two nearer than their
least distance the one with the lower hash gives way. The accepted set is that of random sequential
adsorption but for the even beginning: the number of candidates for a wanted density is guessed from
its kinetics (Schaaf & Talbot, 1989) and corrected by trials on a small plot, which also serve kinds
of unlike size. The rounds are counted, so what decides a place lies within a known halo, and a tile
computed alone equals the same tile of the whole.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..plot import Grid
from .candidates import Blocks, blocked, settled
from .crowding import candidate_rates, densest, next_step

TRIALS = 8
TRIAL_PLANTS = 20_000


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
    corner: tuple[int, int, int] = (0, 0, 0),
    free: tuple[float, ...] | None = None,
):
    """Places for plants: east and north (m, float64), a hash (uint32) and a kind (uint8, index of
    `shares`) each.

    `density` is plants per m² where the mask is 1; `apart_m` the least distance, one for all or one
    for each kind (two kinds keep the mean of theirs); `shares` the parts of the kinds. `mask` is
    float32 0..1 on posts of `spacing` over a plot of `size_m` (width, depth), `parts` (kinds, rows,
    columns) how much each kind belongs there. `blocks` lists pairs of (own radius for each kind,
    Blocks) to keep out of. `bounds` (west, south, east, north) gives one tile, equal to the same
    part of the whole. Where mask and parts are a window of the plot's posts, `corner` is its
    first row and column and the whole's count of rows, and `free` the part of the ground that each
    group of kinds finds free (`free_shares`).

    Kinds much larger than others are placed first and the smaller ones between them, so that no
    cell holds thousands.
    """
    shares = np.asarray(shares, np.float64)
    apart = np.broadcast_to(np.asarray(apart_m, np.float64), shares.shape).copy()
    density = min(float(density), densest(apart, shares))
    if density <= 0 or shares.sum() <= 0:
        return np.empty(0), np.empty(0), np.empty(0, np.uint32), np.empty(0, np.uint8)
    groups = _groups(tuple(apart))
    mend = _mends(next_step(density), tuple(apart), tuple(shares)) if len(groups) > 1 else (1.0,)
    return _in_groups(
        density,
        apart,
        seed,
        size_m,
        mask,
        spacing,
        bounds,
        shares,
        parts,
        blocks,
        groups,
        mend,
        corner,
        free,
    )


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
    density,
    apart,
    seed,
    size_m,
    mask,
    spacing,
    bounds,
    shares,
    parts,
    blocks,
    groups,
    mend,
    corner=(0, 0, 0),
    free=None,
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
            radius = _mean_radius(apart, shares, members)
            left = _free(discs, radius, size_m, mask, spacing) if free is None else free[g]
            own = min(own / left, densest(apart[members], shares[members]))
        step = next_step(own) if len(set(apart[members])) > 1 else own
        rates, full = candidate_rates(
            step,
            tuple(apart[members]),
            tuple(shares[members]),
            2 if own * size_m[0] * size_m[1] < 1e6 else 1,
        )
        x, y, p, k = settled(
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
            corner,
        )
        done.append((x, y, p, members[k].astype(np.uint8)))
    return (
        tuple(np.concatenate([d[i] for d in done]) for i in range(4)) if len(done) > 1 else done[0]
    )


def _mean_radius(apart: np.ndarray, shares: np.ndarray, members: np.ndarray) -> float:
    """Half the distance that a group's kinds keep in the mean, m."""
    return float((apart[members] * shares[members]).sum() / shares[members].sum()) / 2


@dataclass(frozen=True)
class Amount:
    """What the whole plot decides of a sowing: plants per m² where its mask is 1, and the part of
    the ground that each group of its kinds finds free.
    """

    per_m2: float
    free: tuple[float, ...]


def part_of(grid: Grid) -> tuple[int, int, int]:
    """First row and column of a grid in the whole, and the whole's count of rows."""
    return grid.row0, grid.col0, grid.whole_ny or grid.ny


def free_shares(
    density: float, apart_m: np.ndarray, shares: np.ndarray, mask: np.ndarray | None
) -> tuple[float, ...]:
    """The part of the ground that each group of kinds finds free of those placed before it, told
    from trials at TRIALS strengths of a mask instead of from all plants of the plot.
    """
    apart = np.asarray(apart_m, np.float64)
    shares = np.asarray(shares, np.float64)
    density = min(float(density), densest(apart, shares))
    groups = _groups(tuple(apart))
    if len(groups) == 1 or density <= 0:
        return (1.0,) * len(groups)
    held = np.ones(1) if mask is None else np.clip(mask, 0, 1).ravel()
    weight, edges = np.histogram(held, TRIALS, (0, 1), weights=held)
    strengths = (edges[1:] + edges[:-1]) / 2 if mask is not None else edges[1:]
    free = np.ones(len(groups))
    for g in range(1, len(groups)):
        found = [
            _free_among(density * s, apart, shares, groups[:g], groups[g]) if w else 0.0
            for s, w in zip(strengths, weight)
        ]
        free[g] = float((weight * found).sum() / max(weight.sum(), 1e-12))
    return tuple(float(v) for v in np.clip(free, 0.2, 1))


def _free_among(
    density: float,
    apart: np.ndarray,
    shares: np.ndarray,
    earlier: list[np.ndarray],
    members: np.ndarray,
) -> float:
    """The free part among earlier groups sown at a density on a trial plot."""
    kinds = np.concatenate(earlier)
    own = density * shares[kinds].sum() / shares.sum()
    side = float(np.sqrt(TRIAL_PLANTS / own))
    x, y, _, kind = place(own, apart[kinds], 4411, (side, side), shares=shares[kinds])
    discs = Blocks.of(x, y, apart[kinds][kind] / 2, float(apart[members].max()) / 2)
    return _free(discs, _mean_radius(apart, shares, members), (side, side), None, 1.0)


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
