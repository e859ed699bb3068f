"""A sowing: a mix of kinds, how many, where, and how each one stands."""
from dataclasses import dataclass

import numpy as np
from numba import njit, prange
from pydantic import Field, field_validator

from ..cabinet import known, kind_of
from ..entry import Entry, Strict
from ..errors import SceneError
from ..fields import setting
from ..hashing import hash3, name_seed, unit
from ..sample import heights_at, values_at
from ..where import Conditions, Site, mask
from .place import densest, place

MOST = 20_000_000  # plants in a scene: more is refused
ASK = 5_000_000  # plants in a scene: more is asked first


class Part(Strict):
    kind: str = Field(title="Kind", json_schema_extra={"sow": {"drawer": "kind"}})
    share: float = setting(50, "Share", "%", lo=0, hi=100)

    @field_validator("kind")
    @classmethod
    def _in_cabinet(cls, name):
        return known("kind", name)


class Stance(Strict):
    """How each one stands. Each is turned, sized and leant by its own hash."""

    turn: float = setting(360, "Random turn", "°", lo=0, hi=360, help="0 makes all face the same way.")
    smallest: float = setting(80, "Smallest", "%", lo=1, hi=2000, slider=(5, 300), help="Of the kind's own size.")
    largest: float = setting(120, "Largest", "%", lo=1, hi=2000, slider=(5, 300))
    lean: float = setting(0, "Lean to slope", "%", lo=0, hi=100, help="0 stands upright, 100 square to the ground.")
    sway: float = setting(3, "Random lean", "°", lo=0, hi=90, slider=(0, 40))
    sink_cm: float = setting(2, "Sink", "cm", lo=0, hi=1000, slider=(0, 100))
    tint: float = setting(25, "Colour varies", "%", lo=0, hi=100)


class Sowing(Entry):
    mix: list[Part] = Field(min_length=1, max_length=24, title="Mix")
    density: float = setting(5, "Density", "per 100 m²", lo=0, hi=100000, slider=(0.01, 2000), scale="log")
    apart_m: float = setting(0.5, "Least distance", "m", lo=0, hi=500, slider=(0, 20), step=0.05,
                             help="Between any two of this sowing.")
    wet: bool = Field(False, title="May stand in water")
    where: Conditions = Field(default_factory=list, title="Where")
    stance: Stance = Field(default_factory=Stance, title="Stance")
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)


@dataclass
class Plants:
    """What one sowing gives: columns of equal length. `kind` indexes the mix; `rank` 0..1 orders any thinning."""

    east: np.ndarray
    north: np.ndarray
    up: np.ndarray
    turn: np.ndarray  # degrees clockwise from north
    lean: np.ndarray  # degrees from upright
    bearing: np.ndarray  # degrees, the way it leans
    size: np.ndarray  # times the kind's own size
    tint: np.ndarray  # 0..1
    rank: np.ndarray
    kind: np.ndarray
    variant: np.ndarray

    def __len__(self) -> int:
        return len(self.east)


def ground_mask(sowing: Sowing, site: Site, path: str) -> np.ndarray | None:
    """Where the sowing may stand, 0..1, dry ground only unless it may stand in water."""
    held = mask(sowing.where, site, f"{path}.where")
    if not sowing.wet and site.water_m is not None:
        dry = ~(site.heights < site.water_m + np.float32(0.03))
        if not dry.all():
            held = dry.astype(np.float32) if held is None else held * dry
    return held


def forecast(sowing: Sowing, held: np.ndarray | None, area_m2: float) -> float:
    """How many plants a sowing will give, before they are placed."""
    per_m2 = min(sowing.density / 100, densest(sowing.apart_m))
    return per_m2 * area_m2 * (1.0 if held is None else float(held.mean(dtype=np.float64)))


def refuse_too_many(total: float, sowing: Sowing, own: float, path: str) -> None:
    """Raises SceneError when the scene would hold more plants than fit, naming the density that does."""
    if total > MOST:
        fits = max(MOST - (total - own), 0)
        raise SceneError(
            f"“{sowing.name}” would bring the scene to {total:,.0f} plants; at most {MOST:,} fit.", f"{path}.density",
            f"Up to {fits:,.0f} fit here: a density of {sowing.density * fits / max(own, 1):.3g} per 100 m² or less.")


@njit(cache=True, nogil=True, parallel=True)
def _stand(x, y, seed, shares, variants, nx_, ny_, nz_, turn_range, smallest, largest, lean_share, sway,
           turn, lean, bearing, size, tint, rank, kind, variant):
    for i in prange(len(x)):
        a, b = np.int64(np.floor(x[i] * 1000)), np.int64(np.floor(y[i] * 1000))
        s = seed + 11
        turn[i] = unit(hash3(a, b, s)) * turn_range
        u = unit(hash3(a, b, s + 1))
        size[i] = smallest * (largest / smallest) ** u
        tint[i] = unit(hash3(a, b, s + 2))
        rank[i] = unit(hash3(a, b, s + 3))
        pick = unit(hash3(a, b, s + 4)) * shares[-1]
        k = 0
        while k < len(shares) - 1 and pick >= shares[k]:
            k += 1
        kind[i] = k
        variant[i] = int(unit(hash3(a, b, s + 5)) * variants[k])
        # lean: towards the ground's normal by a share, then a little at random
        tilt = np.arccos(min(1.0, max(-1.0, nz_[i]))) * lean_share
        way = np.arctan2(nx_[i], ny_[i])
        ex, ey = np.sin(tilt) * np.sin(way), np.sin(tilt) * np.cos(way)
        r = np.sqrt(unit(hash3(a, b, s + 6))) * sway
        w = unit(hash3(a, b, s + 7)) * 2 * np.pi
        ex += np.sin(r) * np.sin(w)
        ey += np.sin(r) * np.cos(w)
        lean[i] = np.degrees(np.arcsin(min(0.999, np.sqrt(ex * ex + ey * ey))))
        bearing[i] = np.degrees(np.arctan2(ex, ey)) % 360.0


def sow(sowing: Sowing, site: Site, normals: np.ndarray, path: str, held: np.ndarray | None, bounds=None) -> Plants:
    """Every plant of one sowing, its base on the drawn ground less its sink. `normals` float32 (ny, nx, 3)."""
    stance = sowing.stance
    if stance.smallest > stance.largest:
        raise SceneError("The smallest size is above the largest.", f"{path}.stance.smallest", "Swap the two.")
    shares = np.cumsum([p.share for p in sowing.mix])
    if shares[-1] <= 0:
        raise SceneError("Every part of the mix is 0 %.", f"{path}.mix", "Give at least one kind a share.")
    seed = name_seed(site.plot.seed, sowing.seed) & 0x3FFFFFFF
    x, y, _ = place(sowing.density / 100, sowing.apart_m, seed, (site.plot.width_m, site.plot.depth_m), held,
                    site.grid.spacing, bounds)
    n = len(x)
    variants = np.array([len(kind_of(p.kind).variants) for p in sowing.mix])
    made = {name: np.empty(n, np.float32) for name in ("turn", "lean", "bearing", "size", "tint", "rank")}
    kind, variant = np.empty(n, np.uint8), np.empty(n, np.uint8)
    across = [values_at(np.ascontiguousarray(normals[..., k]), site.grid, x, y).astype(np.float64) for k in range(3)]
    _stand(x, y, seed, shares, variants, *across, stance.turn, stance.smallest / 100, stance.largest / 100,
           stance.lean / 100, np.deg2rad(stance.sway), *made.values(), kind, variant)
    up = heights_at(site.heights, site.grid, x, y) - np.float32(stance.sink_cm / 100) * made["size"]
    made["tint"] = 0.5 + (made["tint"] - 0.5) * np.float32(stance.tint / 100)
    return Plants(x, y, up, kind=kind, variant=variant, **made)
