"""Sowing: the plants of an entry on the ground, or on the surface of a piece."""

import numpy as np

from ..cabinet import kind_of
from ..errors import SceneError
from ..sample import heights_at, values_at
from ..where import Site
from .place import Amount
from .places import kinds_by_hash, places_of, shares_of
from .plants import Plants
from .sowing import Sowing, sowing_seed
from .stance import SunAndWind, stood, sunk
from .surface import on_surface


def sow(
    sowing: Sowing,
    site: Site,
    normals: np.ndarray,
    path: str,
    held: np.ndarray | None,
    bounds: tuple | None = None,
    blocks: tuple = (),
    points: np.ndarray | None = None,
    air: SunAndWind | None = None,
    amount: Amount | None = None,
) -> Plants:
    """Every plant of one sowing, its base on the drawn ground less its sink.

    `normals` float32 (ny, nx, 3); `held` the mask (None is everywhere); `bounds` (west, south,
    east, north, m) one tile, equal to the same part of the whole; `blocks` are discs (east, north,
    radius) of what stands already; `points` the way that rows follow; `amount` is what the whole
    plot decides where the site is a part of it. Raises SceneError, told at `path`, where nothing
    can be sown.
    """
    stance = sowing.stance
    if stance.smallest > stance.largest:
        raise SceneError(
            "The smallest size is above the largest.", f"{path}.stance.smallest", "Swap the two."
        )
    seed = sowing_seed(sowing, site.plot.seed)
    places = places_of(sowing, site, path, held, bounds, blocks, points, seed, amount)
    x = places.x
    y = places.y
    across = [
        values_at(np.ascontiguousarray(normals[..., k]), site.grid, x, y).astype(np.float64)
        for k in range(3)
    ]
    columns = stood(sowing, places, site, across, held, air or SunAndWind())
    deep = sunk(sowing, places.kind, columns["size"], across[2])
    up = heights_at(site.heights, site.grid, x, y) - deep
    return Plants(x, y, up, kind=places.kind, **columns)


def sown_on(sowing: Sowing, piece: dict | None, plot_seed: int, path: str) -> Plants:
    """A sowing on the surface of a piece, by that surface's own normals.

    Creepers stand upright with their back to a wall; all else stands square to its face.
    """
    stance = sowing.stance
    shares = shares_of(sowing, path)
    seed = sowing_seed(sowing, plot_seed)
    at, n = (
        (np.empty((0, 3)), np.empty((0, 3)))
        if piece is None
        else on_surface(
            piece,
            min(sowing.density / 100, 4000),
            sowing.apart_m,
            (sowing.face_low, sowing.face_high),
            sowing.reach_m,
            seed,
            sowing.surface,
        )
    )
    if sowing.number:
        at, n = at[: sowing.number], n[: sowing.number]
    count = len(at)
    rng = np.random.default_rng(seed + 1)
    u = rng.random((7, count))
    kind = kinds_by_hash((u[0] * 4294967295).astype(np.uint32), np.cumsum(shares))
    scale = np.array([p.size / 100 for p in sowing.mix])
    size = (
        stance.smallest
        / 100
        * (stance.largest / stance.smallest)
        ** (0.5 + (u[1] - 0.5) * np.array([p.spread / 100 for p in sowing.mix])[kind])
        * scale[kind]
    )
    climbs = np.array([kind_of(p.kind).family == "climber" for p in sowing.mix])[kind]
    out = np.degrees(np.arctan2(n[:, 0], n[:, 1])) % 360
    turn = np.where(climbs, (out - 180) % 360, u[2] * stance.turn)
    lean = np.where(climbs, 0, np.degrees(np.arccos(np.clip(n[:, 2], -1, 1))) * 1.0)
    deep = np.array([stance.sink_cm + p.sink_cm for p in sowing.mix])[kind] / 100 * size
    places = at - n * np.where(climbs, 0, deep)[:, None]
    variants = np.array([len(kind_of(p.kind).variants) for p in sowing.mix])[kind]
    f = lambda v: np.asarray(v, np.float32)
    return Plants(
        places[:, 0].copy(),
        places[:, 1].copy(),
        f(places[:, 2]),
        f(turn),
        f(lean),
        f(out),
        f(size),
        f(0.5 + (u[4] - 0.5) * stance.tint / 100),
        f(u[5]),
        kind,
        (u[6] * variants).astype(np.uint8),
    )
