"""How each plant stands: its turn, lean, size, tint, variant and depth in the ground."""

from dataclasses import dataclass

import numpy as np
from numba import njit, prange

from .. import noise
from ..cabinet import kind_of
from ..hashing import hash3, name_seed, unit
from ..sample import values_at
from ..where import Site
from .places import Places
from .sowing import Sowing, sowing_seed

FACES = {"any": 0, "downhill": 2}  # all else faces one bearing


@dataclass
class SunAndWind:
    """What a stance may turn to: bearings in degrees."""

    light: float = 180.0
    wind: float = 240.0


@njit(cache=True, nogil=True, parallel=True)
def stand(
    x,
    y,
    seed,
    kind,
    sizes,
    variants,
    only,
    nx_,
    ny_,
    nz_,
    faces,
    way,
    turn_range,
    smallest,
    largest,
    spread,
    edge,
    held,
    lean_share,
    sway,
    wind,
    wind_to,
    turn,
    lean,
    bearing,
    size,
    tint,
    rank,
    variant,
):
    """Fills the columns `turn`, `lean`, `bearing` (degrees), `size`, `tint`, `rank` (0..1) and
    `variant` for places `x`, `y` with the ground's normal `nx_`, `ny_`, `nz_` and the share `held`
    of the mask; each by a hash of its millimetres, so that a plant keeps its stance when others
    come and go.
    """
    for i in prange(len(x)):
        a = np.int64(np.floor(x[i] * 1000))
        b = np.int64(np.floor(y[i] * 1000))
        s = seed + 11
        k = kind[i]
        steep_way = np.arctan2(nx_[i], ny_[i])
        face = way + _way(faces, steep_way)
        u0 = unit(hash3(a, b, s)) * turn_range
        turn[i] = (
            (face + (u0 if faces == 0 else u0 - turn_range / 2 if turn_range < 360 else u0)) % 360.0
            if faces
            else u0
        )
        u = unit(hash3(a, b, s + 1))
        size[i] = (
            smallest
            * (largest / smallest) ** (0.5 + (u - 0.5) * spread[k])
            * sizes[k]
            * (edge + (1 - edge) * held[i])
        )
        tint[i] = unit(hash3(a, b, s + 2))
        rank[i] = unit(hash3(a, b, s + 3))
        variant[i] = only[k] if only[k] >= 0 else int(unit(hash3(a, b, s + 5)) * variants[k])
        # lean: towards the ground's normal by a share, off the wind, then a little at random
        tilt = np.arccos(min(1.0, max(-1.0, nz_[i]))) * lean_share[k]
        ex = np.sin(tilt) * np.sin(steep_way)
        ey = np.sin(tilt) * np.cos(steep_way)
        bent = np.sin(wind * (0.6 + 0.4 * unit(hash3(a, b, s + 8))))
        ex += bent * np.sin(wind_to)
        ey += bent * np.cos(wind_to)
        r = np.sqrt(unit(hash3(a, b, s + 6))) * sway
        w = unit(hash3(a, b, s + 7)) * 2 * np.pi
        ex += np.sin(r) * np.sin(w)
        ey += np.sin(r) * np.cos(w)
        lean[i] = np.degrees(np.arcsin(min(0.999, np.sqrt(ex * ex + ey * ey))))
        bearing[i] = np.degrees(np.arctan2(ex, ey)) % 360.0


@njit(forceinline=True)
def _way(faces, steep_way):
    """Degrees that a face is turned by the slope: downhill, or none."""
    return np.degrees(steep_way) if faces == 2 else 0.0


def stood(
    sowing: Sowing,
    places: Places,
    site: Site,
    across: list,
    held: np.ndarray | None,
    air: SunAndWind,
) -> dict[str, np.ndarray]:
    """Columns of `Plants` for places: turn, lean, bearing, size, tint, rank (float32) and
    variant (uint8). `across` holds the normal of the ground at each place, three float64 (n,).
    """
    stance = sowing.stance
    n = len(places.x)
    variants = np.array([len(kind_of(p.kind).variants) for p in sowing.mix])
    only = np.array(
        [-1 if not p.variant else (p.variant - 1) % v for p, v in zip(sowing.mix, variants)]
    )
    names = ("turn", "lean", "bearing", "size", "tint", "rank")
    made = {name: np.empty(n, np.float32) for name in names}
    variant = np.empty(n, np.uint8)
    at = np.ones(n)
    if held is not None and stance.edge != 100:
        at = np.clip(values_at(held, site.grid, places.x, places.y).astype(np.float64), 0, 1)
    bearings = {"bearing": stance.bearing, "light": air.light, "wind": air.wind + 180}
    stand(
        places.x,
        places.y,
        sowing_seed(sowing, site.plot.seed),
        places.kind,
        np.array([p.size / 100 for p in sowing.mix]),
        variants,
        only,
        across[0],
        across[1],
        across[2],
        FACES.get(stance.faces, 1),
        bearings.get(stance.faces, 0.0),
        stance.turn,
        stance.smallest / 100,
        stance.largest / 100,
        np.array([p.spread / 100 for p in sowing.mix]),
        stance.edge / 100,
        at,
        leans(sowing),
        np.deg2rad(stance.sway),
        np.deg2rad(stance.wind),
        np.deg2rad(air.wind + 180),
        made["turn"],
        made["lean"],
        made["bearing"],
        made["size"],
        made["tint"],
        made["rank"],
        variant,
    )
    if stance.patchy and n:
        seed = name_seed(site.plot.seed, sowing.seed, "sizes") & 0x3FFFFFFF
        lies = noise.fbm(site.grid, stance.patch_m, 3, 0.5, seed=seed)
        patch = np.clip(values_at(lies, site.grid, places.x, places.y), -1.5, 1.5) / 1.5
        made["size"] *= np.exp2(patch * np.float32(stance.patchy / 100))
    if places.facing is not None and stance.faces == "any" and stance.turn < 360:
        made["turn"] = ((made["turn"] + places.facing) % 360).astype(np.float32)
    if places.told is not None:  # a turn and a size that the file tells hold, beside what varies
        turned = places.told[:, 3] >= 0
        sized = places.told[:, 4] > 0
        made["turn"][turned] = np.float32(places.told[turned, 3])
        made["size"][sized] *= np.float32(places.told[sized, 4])
    made["tint"] = 0.5 + (made["tint"] - 0.5) * np.float32(stance.tint / 100)
    return {**made, "variant": variant}


def leans(sowing: Sowing) -> np.ndarray:
    """The share of the slope that each kind of the mix leans with, 0..1."""
    return np.array([(sowing.stance.lean if p.lean < 0 else p.lean) / 100 for p in sowing.mix])


def sunk(sowing: Sowing, kind: np.ndarray, size: np.ndarray, upright: np.ndarray) -> np.ndarray:
    """How deep each plant stands in the ground, m: its own sink, and on a slope so much that the
    lower edge of its foot touches it. `upright` is the upward part of the ground's normal.
    """
    stance = sowing.stance
    sinks = np.array([stance.sink_cm + p.sink_cm for p in sowing.mix], np.float32)
    deep = sinks[kind] / np.float32(100) * size
    if stance.settle > 0:
        steep = np.arccos(np.clip(upright, 0, 1)) * (1 - leans(sowing)[kind])
        foot = np.array([_reach_of_foot(p.kind) for p in sowing.mix])[kind] * size
        lower = (foot * np.minimum(np.tan(steep), 1.2)).astype(np.float32)
        deep = deep + np.float32(stance.settle / 100) * lower
    return deep


def _reach_of_foot(kind: str) -> float:
    """How far from its middle a kind's foot reaches, m."""
    return max((np.hypot(dx, dy) + r for dx, dy, r in kind_of(kind).footing()), default=0.0)
