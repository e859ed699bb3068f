"""The places of a sowing, whichever layout gives them: scattered, in rows, along a line, given."""

from dataclasses import dataclass

import numpy as np
from numba import njit

from ..errors import SceneError
from ..hashing import hash3
from ..sample import values_at
from ..where import Site, holding
from .candidates import Blocks, blocked
from .density import wished
from .layout import along, rows
from .place import Amount, part_of, place
from .sowing import MOST, Sowing, aparts, own_radii


@dataclass
class Places:
    """Places of equal length: east and north (m, float64), a hash that orders them (uint32) and a
    kind of the mix (uint8).
    """

    x: np.ndarray
    y: np.ndarray
    rank: np.ndarray
    kind: np.ndarray
    facing: np.ndarray | None = None  # degrees, the bearing of the line followed
    told: np.ndarray | None = None  # the rows of a file: kind, east, north, turn, size

    def only(self, which: np.ndarray) -> "Places":
        """Those of a mask or of a list of indices."""
        return Places(
            self.x[which],
            self.y[which],
            self.rank[which],
            self.kind[which],
            None if self.facing is None else self.facing[which],
            None if self.told is None else self.told[which],
        )


def taken(places: np.ndarray, sowing: Sowing) -> np.ndarray:
    """Of the places of a file (number of the name, east, north, turn, size) those whose name is a
    kind's, float64 (n, 5), the number now that of the mix.
    """
    at = np.full(max(len(sowing.names), 1), -1)
    for k, part in enumerate(sowing.mix):
        for name in part.called:
            if name in sowing.names:
                at[sowing.names.index(name)] = k
    mine = at[np.clip(places[:, 0].astype(np.int64), 0, len(at) - 1)]
    out = np.column_stack([mine, places[:, 1:5]]).astype(np.float64)
    return out[mine >= 0]


@njit(cache=True, nogil=True)
def hashed(x, y, seed):
    """A rank for each place, uint32, by its millimetres."""
    out = np.empty(len(x), np.uint32)
    for i in range(len(x)):
        out[i] = hash3(np.int64(np.floor(x[i] * 1000)), np.int64(np.floor(y[i] * 1000)), seed)
    return out


def kinds_by_hash(h: np.ndarray, shares: np.ndarray) -> np.ndarray:
    """A kind for each hash (0 to 2**32), uint8, by cumulative shares."""
    return np.minimum(
        np.searchsorted(shares / shares[-1], h / 4294967296.0, "right"), len(shares) - 1
    ).astype(np.uint8)


def _scattered(
    sowing: Sowing,
    site: Site,
    path: str,
    held: np.ndarray | None,
    bounds: tuple | None,
    shares: np.ndarray,
    around: list,
    seed: int,
    amount: Amount | None = None,
) -> Places:
    """Places at random, each kind where its own conditions hold."""
    parts = None
    if any(part.where for part in sowing.mix):
        asked = [holding(p.where, site, f"{path}.mix.{k}.where") for k, p in enumerate(sowing.mix)]
        everywhere = np.ones(site.heights.shape, np.float32)
        parts = np.stack([everywhere if a is None else a for a in asked]).astype(np.float32)
    # a number that is wished for is cut to the plant; so a few more are placed
    density = wished(sowing, held, site.plot.area_m2) * (1.04 if sowing.number else 1)
    if amount is not None:
        density = amount.per_m2
    return Places(
        *place(
            density,
            aparts(sowing),
            seed,
            (site.plot.width_m, site.plot.depth_m),
            held,
            site.grid.spacing,
            bounds,
            shares,
            parts,
            around,
            part_of(site.grid),
            None if amount is None else amount.free,
        )
    )


def _in_rows(sowing: Sowing, site: Site, path: str, shares: np.ndarray, seed: int) -> Places:
    """Places in rows over the whole plot."""
    if site.plot.area_m2 / (sowing.gap_m * sowing.row_m) > 4 * MOST:
        raise SceneError(
            "These rows hold far too many.", f"{path}.gap_m", "Widen the gaps or the rows."
        )
    x, y, rank = rows(
        (site.plot.width_m, site.plot.depth_m),
        sowing.gap_m,
        sowing.row_m,
        sowing.run,
        sowing.stagger / 100,
        sowing.jitter / 100,
        seed,
    )
    return Places(x, y, rank, _mixed(rank, shares))


def _along_line(sowing: Sowing, points: np.ndarray | None, shares: np.ndarray, seed: int) -> Places:
    """Places along a line, or none where there is no line."""
    if points is None:
        empty = np.empty(0)
        return Places(empty, empty, np.empty(0, np.uint32), np.empty(0, np.uint8), empty)
    x, y, rank, facing = along(
        points, sowing.gap_m, sowing.offset_m, sowing.sides, sowing.jitter / 100, seed
    )
    return Places(x, y, rank, _mixed(rank, shares), facing)


def _given(sowing: Sowing, points: np.ndarray | None, seed: int) -> Places:
    """Places as a file gives them."""
    told = np.empty((0, 5)) if points is None else taken(points, sowing)
    x = told[:, 1]
    y = told[:, 2]
    return Places(x, y, hashed(x, y, seed), told[:, 0].astype(np.uint8), told=told)


def _mixed(rank: np.ndarray, shares: np.ndarray) -> np.ndarray:
    """A kind for each place, apart from the order of the ranks."""
    return kinds_by_hash(rank * np.uint32(2654435761), np.cumsum(shares))


def places_of(
    sowing: Sowing,
    site: Site,
    path: str,
    held: np.ndarray | None,
    bounds: tuple | None,
    blocks: tuple,
    points: np.ndarray | None,
    seed: int,
    amount: Amount | None = None,
) -> Places:
    """Every place of a sowing on the ground; see `sow` for what it is given."""
    shares = shares_of(sowing, path)
    own = own_radii(sowing)
    off = sowing.keeps_off / 100
    around = []
    if len(blocks) and off > 0:
        discs = Blocks.of(blocks[0], blocks[1], blocks[2] * off, float(own.max()))
        around = [(own, discs)] if discs is not None else []
    if sowing.layout in ("natural", "clumped"):
        found = _scattered(sowing, site, path, held, bounds, shares, around, seed, amount)
    else:
        if sowing.layout == "given":
            found = _given(sowing, points, seed)
        elif sowing.layout == "rows":
            found = _in_rows(sowing, site, path, shares, seed)
        else:
            found = _along_line(sowing, points, shares, seed)
        found = _left_standing(found, site, held, around)
    if sowing.number and amount is None and len(found.x) > sowing.number:
        first = np.sort(np.argsort(found.rank, kind="stable")[: sowing.number])
        found = found.only(first)
    return found


def _left_standing(found: Places, site: Site, held: np.ndarray | None, around: list) -> Places:
    """The places of a set pattern that lie in the plot, where the mask holds and nothing stands."""
    x = found.x
    y = found.y
    alive = (x >= 0) & (y >= 0) & (x <= site.plot.width_m) & (y <= site.plot.depth_m)
    if held is not None and len(x):
        share = np.where(alive, values_at(held, site.grid, x, y), 0)
        alive &= (found.rank / 4294967296.0) < share
    for radii, discs in around:
        blocked(x, y, radii, found.kind, alive, discs)
    return found.only(alive)


def shares_of(sowing: Sowing, path: str) -> np.ndarray:
    """The shares of the mix, float64; raises SceneError where all are 0."""
    shares = np.array([p.share for p in sowing.mix], float)
    if shares.sum() <= 0:
        raise SceneError(
            "Every part of the mix is 0 %.", f"{path}.mix", "Give at least one kind a share."
        )
    return shares
