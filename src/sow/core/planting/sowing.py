"""A sowing: a mix of kinds, how many, where, and how each one stands."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numba import njit, prange
from pydantic import Field, field_validator

from ..cabinet import kind_of, known, worn
from ..cabinet.looks import LOOKS
from ..document.entry import Entry, Strict
from ..document.fields import setting
from ..errors import SceneError
from ..hashing import hash3, name_seed, unit
from ..sample import heights_at, values_at
from ..where import Conditions, Site, holding
from .layout import along, clumps, rows
from .place import Blocks, blocked, densest, place
from .surface import on_surface

MOST = 20_000_000  # plants in a scene: more is refused
ASK = 5_000_000  # plants in a scene: more is asked first
FOOTED = 0.04  # m; what has a smaller foot keeps nothing out


class Part(Strict):
    kind: str = Field(title="Kind", json_schema_extra={"sow": {"drawer": "kind"}})
    share: float = setting(50, "Parts", "%", lo=0, hi=100)
    size: float = setting(
        100,
        "Size",
        "%",
        lo=1,
        hi=2000,
        slider=(10, 300),
        scale="log",
        help="Of the kind, beside the sowing's sizes.",
    )
    apart_m: float = setting(
        0,
        "Least distance",
        "m",
        lo=0,
        hi=500,
        slider=(0, 20),
        step=0.05,
        help="0: as the sowing. Two kinds keep the mean of theirs.",
    )
    spread: float = setting(
        100,
        "Size varies",
        "%",
        lo=0,
        hi=300,
        help="Of the sowing's range: 0 makes all of a kind alike, 200 twice as unlike.",
    )
    lean: float = setting(
        -1,
        "Leans to slope",
        "%",
        lo=-1,
        hi=100,
        help="-1: as the sowing; 0 stands upright, 100 square to the ground.",
    )
    sink_cm: float = setting(0, "Sinks further", "cm", lo=-200, hi=1000, slider=(0, 100))
    variant: int = setting(
        0, "Variant", "", lo=0, hi=8, slider=(0, 4), step=1, help="0: all of them."
    )
    look: Literal["season", *LOOKS] = Field(
        "season", title="Look", json_schema_extra={"sow": {"labels": {"season": "of the season"}}}
    )
    tint: str = Field(
        "#ffffff",
        pattern=r"^#[0-9a-fA-F]{6}$",
        title="Tint",
        json_schema_extra={"sow": {"colour": True}},
    )
    bright: float = setting(100, "Lightness", "%", lo=5, hi=1000, slider=(40, 250), scale="log")
    called: list[str] = Field(
        default_factory=list,
        max_length=200,
        title="Called in the file",
        json_schema_extra={"sow": {"points": True}},
    )
    where: Conditions = Field(default_factory=list, title="Belongs where")

    @field_validator("kind")
    @classmethod
    def _in_cabinet(cls, name):
        return known("kind", name)


class Stance(Strict):
    """How each one stands. Each is turned, sized and leant by its own hash."""

    faces: Literal["any", "bearing", "light", "wind", "downhill"] = Field(
        "any",
        title="Faces",
        json_schema_extra={
            "sow": {
                "labels": {
                    "any": "any way",
                    "bearing": "one way",
                    "light": "the light",
                    "wind": "off the wind",
                    "downhill": "downhill",
                }
            }
        },
    )
    bearing: float = setting(
        180, "Bearing", "°", lo=0, hi=360, only={"faces": ["bearing"]}, help="Clockwise from north."
    )
    turn: float = setting(
        360, "Random turn", "°", lo=0, hi=360, help="0 makes all face the same way."
    )
    smallest: float = setting(
        80, "Smallest", "%", lo=1, hi=2000, slider=(5, 300), help="Of the kind's own size."
    )
    largest: float = setting(120, "Largest", "%", lo=1, hi=2000, slider=(5, 300))
    edge: float = setting(
        100,
        "Size at the edge",
        "%",
        lo=5,
        hi=100,
        help="Where its rules fade, plants are this much of their size.",
    )
    lean: float = setting(
        0, "Lean to slope", "%", lo=0, hi=100, help="0 stands upright, 100 square to the ground."
    )
    sway: float = setting(3, "Random lean", "°", lo=0, hi=90, slider=(0, 40))
    wind: float = setting(
        0, "Bent by the wind", "°", lo=0, hi=60, slider=(0, 40), help="All lean off the wind."
    )
    sink_cm: float = setting(2, "Sink", "cm", lo=0, hi=1000, slider=(0, 100))
    settle: float = setting(
        100,
        "Sinks by slope",
        "%",
        lo=0,
        hi=200,
        help="As far as the foot needs, so that its lower side does not show.",
    )
    tint: float = setting(25, "Colour varies", "%", lo=0, hi=100)


class Sowing(Entry):
    group: str = Field("", max_length=40, title="Group")
    mix: list[Part] = Field(min_length=1, max_length=24, title="Mix")
    density: float = setting(
        5, "Density", "per 100 m²", lo=0, hi=100000, slider=(0.01, 2000), scale="log"
    )
    number: int = setting(
        0,
        "Exactly",
        "",
        lo=0,
        hi=MOST,
        slider=(0, 1000),
        step=1,
        help="0: as many as the density gives.",
    )
    layout: Literal["natural", "clumped", "rows", "line", "given"] = Field(
        "natural",
        title="Layout",
        json_schema_extra={
            "sow": {"labels": {"line": "along a line", "given": "places from a file"}}
        },
    )
    places: str = Field(
        "", max_length=120, title="Places", json_schema_extra={"sow": {"points": True}}
    )
    places_from: str = Field(
        "",
        max_length=120,
        title="Places from",
        json_schema_extra={"sow": {"told": True, "only": {"layout": ["given"]}}},
    )
    names: list[str] = Field(
        default_factory=list,
        max_length=2000,
        title="Names in the file",
        json_schema_extra={"sow": {"points": True}},
    )
    clump_m: float = setting(
        12,
        "Clump",
        "m",
        lo=0.1,
        hi=2000,
        slider=(0.5, 200),
        scale="log",
        only={"layout": ["clumped"]},
        help="Across.",
    )
    clump_share: float = setting(
        30,
        "Clumps take",
        "%",
        lo=1,
        hi=95,
        only={"layout": ["clumped"]},
        help="Of the ground; between them nothing stands.",
    )
    gap_m: float = setting(
        4,
        "Gap in the row",
        "m",
        lo=0.02,
        hi=1000,
        slider=(0.1, 50),
        scale="log",
        only={"layout": ["rows", "line"]},
    )
    row_m: float = setting(
        4,
        "Between rows",
        "m",
        lo=0.02,
        hi=1000,
        slider=(0.1, 50),
        scale="log",
        only={"layout": ["rows"]},
    )
    run: float = setting(
        0, "Rows run", "°", lo=0, hi=360, only={"layout": ["rows"]}, help="Clockwise from east."
    )
    stagger: float = setting(
        0,
        "Stagger",
        "%",
        lo=0,
        hi=100,
        only={"layout": ["rows"]},
        help="50 sets every other row between.",
    )
    jitter: float = setting(
        20, "Jitter", "%", lo=0, hi=100, only={"layout": ["rows", "line"]}, help="Of the gap."
    )
    line: str = Field(
        "",
        max_length=64,
        title="Line",
        json_schema_extra={"sow": {"mark": "line", "only": {"layout": ["line"]}}},
    )
    sides: Literal["both", "left", "right", "on"] = Field(
        "both",
        title="Side",
        json_schema_extra={"sow": {"only": {"layout": ["line"]}, "labels": {"on": "on it"}}},
    )
    offset_m: float = setting(
        4, "From the line", "m", lo=0, hi=1000, slider=(0, 50), only={"layout": ["line"]}
    )
    apart_m: float = setting(
        0.5,
        "Least distance",
        "m",
        lo=0,
        hi=500,
        slider=(0, 20),
        step=0.05,
        help="Between any two of this sowing.",
    )
    keeps_off: float = setting(
        100,
        "Keeps off others",
        "%",
        lo=0,
        hi=500,
        slider=(0, 300),
        help="Of the feet of pieces and of earlier sowings.",
    )
    stands_on: str = Field(
        "",
        max_length=64,
        title="Stands on",
        json_schema_extra={"sow": {"entry": "pieces", "none": "the ground"}},
    )
    face_low: float = setting(
        0,
        "Faces steeper than",
        "°",
        lo=0,
        hi=180,
        fold="Surface",
        help="Of the piece that it stands on: 0 lies level, 90 is a wall.",
    )
    face_high: float = setting(180, "Faces up to", "°", lo=0, hi=180, fold="Surface")
    surface: str = Field(
        "",
        max_length=60,
        title="Its surface",
        json_schema_extra={"sow": {"fold": "Surface", "surface": True}},
        description="One material of a model brought in; empty: all of them.",
    )
    reach_m: float = setting(
        1000,
        "As high as",
        "m",
        lo=0,
        hi=1000,
        slider=(0, 20),
        fold="Surface",
        help="Above the piece's foot.",
    )
    wet: bool = Field(False, title="May stand in water")
    where: Conditions = Field(default_factory=list, title="Where")
    stance: Stance = Field(default_factory=Stance, title="Stance")
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)


@dataclass
class Plants:
    """What one sowing gives: columns of equal length. `kind` indexes the mix; `rank` 0..1 orders
    any thinning.
    """

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


@dataclass
class Air:
    """What a stance may turn to: bearings in degrees."""

    light: float = 180.0
    wind: float = 240.0


def name_of(part: Part, season: str) -> str:
    """How a kind of a mix is called towards the view: kind, look and, where it is tinted, its
    tint.
    """
    look = kind_of(part.kind).look(season if part.look == "season" else part.look)
    toned = part.tint != "#ffffff" or part.bright != 100
    return (
        part.kind
        + (f"~{look}" if look != "summer" or toned else "")
        + (f"~{part.tint[1:].lower()}" if toned else "")
        + (f"~{part.bright:g}" if part.bright != 100 else "")
    )


def seen_colour(name: str) -> tuple[float, float, float]:
    """Mean linear colour of a kind, by the name that `name_of` gives it."""
    kind, look, tint = worn(name)
    return tuple(np.array(kind.mean(look)) * tint) if tint is not None else kind.mean(look)


def aparts(sowing: Sowing) -> np.ndarray:
    """The least distance of each kind of the mix, m."""
    return np.array([p.apart_m or sowing.apart_m for p in sowing.mix])


def feet(sowing: Sowing, plants: Plants) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """East, north and radius (m) of the discs that plants stand on, of those that have any."""
    out = []
    for k, part in enumerate(sowing.mix):
        here = np.flatnonzero(plants.kind == k)
        for dx, dy, r in kind_of(part.kind).footing():
            if r * float(plants.size[here].max(initial=0)) < FOOTED:
                continue
            a, s = np.deg2rad(plants.turn[here]), plants.size[here]
            out.append(
                (
                    plants.east[here] + s * (dx * np.cos(a) + dy * np.sin(a)),
                    plants.north[here] + s * (dy * np.cos(a) - dx * np.sin(a)),
                    r * s,
                )
            )
    return tuple(np.concatenate([o[i] for o in out]) if out else np.empty(0) for i in range(3))


def footed(sowing: Sowing) -> bool:
    """Whether a sowing has feet that keep later ones off."""
    return (
        sowing.on
        and not sowing.stands_on
        and any(
            r * p.size / 100 * sowing.stance.largest / 100 >= FOOTED
            for p in sowing.mix
            for _, _, r in kind_of(p.kind).footing()
        )
    )


def ground_mask(sowing: Sowing, site: Site, path: str) -> np.ndarray | None:
    """Where the sowing may stand, 0..1, dry ground only unless it may stand in water; clumps
    included.
    """
    held = holding(sowing.where, site, f"{path}.where")
    if not sowing.wet and site.water_m is not None:
        dry = ~(site.heights < site.water_m + np.float32(0.03))
        if not dry.all():
            held = dry.astype(np.float32) if held is None else held * dry
    if sowing.layout == "clumped":
        thick = clumps(
            site.grid,
            sowing.clump_m,
            sowing.clump_share / 100,
            name_seed(site.plot.seed, sowing.seed, "clumps") & 0x3FFFFFFF,
        )
        held = thick if held is None else held * thick
    return held


def wished(
    sowing: Sowing, held: np.ndarray | None, area_m2: float, points: np.ndarray | None = None
) -> float:
    """Density (1/m²) where the mask is 1, before competition.

    `points` is the way of the line that rows follow.
    """
    part = 1.0 if held is None else float(held.mean(dtype=np.float64))
    if sowing.number:
        return sowing.number / max(area_m2 * part, 1e-9)
    return sowing.density / 100


def forecast(
    sowing: Sowing, held: np.ndarray | None, area_m2: float, points: np.ndarray | None = None
) -> float:
    """How many plants a sowing will give, before they are placed."""
    part = 1.0 if held is None else float(held.mean(dtype=np.float64))
    if sowing.layout == "given":
        return 0.0 if points is None else min(len(points), sowing.number or len(points))
    if sowing.layout == "rows":
        most = area_m2 * part / (sowing.gap_m * sowing.row_m)
        return min(most, sowing.number) if sowing.number else most
    if sowing.layout == "line":
        if points is None:
            return 0.0
        most = (np.hypot(*np.diff(points, axis=0).T).sum() / sowing.gap_m + 1) * (
            2 if sowing.sides == "both" else 1
        )
        return min(most, sowing.number) if sowing.number else most
    per_m2 = min(
        wished(sowing, held, area_m2), densest(aparts(sowing), [p.share for p in sowing.mix])
    )
    return per_m2 * area_m2 * part


def refuse_too_many(total: float, sowing: Sowing, own: float, path: str) -> None:
    """Raises SceneError when the scene would hold more plants than fit, naming the density that
    does.
    """
    if total > MOST:
        fits = max(MOST - (total - own), 0)
        raise SceneError(
            f"“{sowing.name}” would bring the scene to {total:,.0f} plants; at most {MOST:,} fit.",
            f"{path}.density",
            f"Up to {fits:,.0f} fit here: a density of "
            f"{sowing.density * fits / max(own, 1):.3g} per 100 m² or less.",
        )


@njit(cache=True, nogil=True, parallel=True)
def _stand(
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
    for i in prange(len(x)):
        a = np.int64(np.floor(x[i] * 1000))
        b = np.int64(np.floor(y[i] * 1000))
        s = seed + 11
        k = kind[i]
        steep_way = np.arctan2(nx_[i], ny_[i])
        face = way + way_of(faces, steep_way)
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


@njit(inline="always")
def way_of(faces, steep_way):
    """The way that rows follow."""
    return np.degrees(steep_way) if faces == 2 else 0.0


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


def _kinds_by_hash(h: np.ndarray, shares: np.ndarray) -> np.ndarray:
    """A kind for each hash, by cumulative shares."""
    return np.minimum(
        np.searchsorted(shares / shares[-1], h / 4294967296.0, "right"), len(shares) - 1
    ).astype(np.uint8)


def sow(
    sowing: Sowing,
    site: Site,
    normals: np.ndarray,
    path: str,
    held: np.ndarray | None,
    bounds=None,
    blocks: tuple = (),
    points: np.ndarray | None = None,
    air: Air | None = None,
) -> Plants:
    """Every plant of one sowing, its base on the drawn ground less its sink.

    `normals` float32 (ny, nx, 3); `blocks` are discs (east, north, radius) of what stands already;
    `points` the way that rows follow.
    """
    air = air or Air()
    stance = sowing.stance
    if stance.smallest > stance.largest:
        raise SceneError(
            "The smallest size is above the largest.", f"{path}.stance.smallest", "Swap the two."
        )
    shares = np.array([p.share for p in sowing.mix], float)
    if shares.sum() <= 0:
        raise SceneError(
            "Every part of the mix is 0 %.", f"{path}.mix", "Give at least one kind a share."
        )
    seed = name_seed(site.plot.seed, sowing.seed) & 0x3FFFFFFF
    size_m = site.plot.width_m, site.plot.depth_m
    scale = np.array([p.size / 100 for p in sowing.mix])
    off = sowing.keeps_off / 100
    own = (
        np.array(
            [max((r for _, _, r in kind_of(p.kind).footing()), default=0.0) for p in sowing.mix]
        )
        * scale
    )
    around = []
    given = None
    if len(blocks) and off > 0:
        discs = Blocks.of(blocks[0], blocks[1], blocks[2] * off, float(own.max()))
        around = [(own, discs)] if discs is not None else []
    parts = None
    if any(p.where for p in sowing.mix):
        asked = [holding(p.where, site, f"{path}.mix.{k}.where") for k, p in enumerate(sowing.mix)]
        parts = np.stack(
            [np.ones(site.heights.shape, np.float32) if a is None else a for a in asked]
        ).astype(np.float32)
    facing = None
    if sowing.layout in ("natural", "clumped"):
        x, y, rank_, kind = place(
            wished(sowing, held, site.plot.area_m2) * (1.04 if sowing.number else 1),
            aparts(sowing),
            seed,
            size_m,
            held,
            site.grid.spacing,
            bounds,
            shares,
            parts,
            around,
        )
    else:
        if sowing.layout == "given":
            given = np.empty((0, 5)) if points is None else taken(points, sowing)
            x = given[:, 1]
            y = given[:, 2]
            rank_ = hashed(given[:, 1], given[:, 2], seed)
            facing = None
        elif sowing.layout == "rows":
            if site.plot.area_m2 / (sowing.gap_m * sowing.row_m) > 4 * MOST:
                raise SceneError(
                    "These rows hold far too many.", f"{path}.gap_m", "Widen the gaps or the rows."
                )
            x, y, rank_ = rows(
                size_m,
                sowing.gap_m,
                sowing.row_m,
                sowing.run,
                sowing.stagger / 100,
                sowing.jitter / 100,
                seed,
            )
        else:
            if points is None:
                x = np.empty(0)
                y = np.empty(0)
                rank_ = np.empty(0, np.uint32)
                facing = np.empty(0)
            else:
                x, y, rank_, facing = along(
                    points, sowing.gap_m, sowing.offset_m, sowing.sides, sowing.jitter / 100, seed
                )
        alive = (x >= 0) & (y >= 0) & (x <= size_m[0]) & (y <= size_m[1])
        if held is not None and len(x):
            alive &= (rank_ / 4294967296.0) < np.where(alive, values_at(held, site.grid, x, y), 0)
        kind = (
            _kinds_by_hash(rank_ * np.uint32(2654435761), np.cumsum(shares))
            if given is None
            else given[:, 0].astype(np.uint8)
        )
        for radii, discs in around:
            blocked(x, y, radii, kind, alive, discs)
        x = x[alive]
        y = y[alive]
        rank_ = rank_[alive]
        kind = kind[alive]
        facing = None if facing is None else facing[alive]
        given = None if given is None else given[alive]
    if sowing.number and len(x) > sowing.number:
        first = np.sort(np.argsort(rank_, kind="stable")[: sowing.number])
        x = x[first]
        y = y[first]
        kind = kind[first]
        facing = None if facing is None else facing[first]
        given = None if given is None else given[first]
    n = len(x)
    variants = np.array([len(kind_of(p.kind).variants) for p in sowing.mix])
    only = np.array(
        [-1 if not p.variant else (p.variant - 1) % v for p, v in zip(sowing.mix, variants)]
    )
    made = {
        name: np.empty(n, np.float32)
        for name in ("turn", "lean", "bearing", "size", "tint", "rank")
    }
    variant = np.empty(n, np.uint8)
    across = [
        values_at(np.ascontiguousarray(normals[..., k]), site.grid, x, y).astype(np.float64)
        for k in range(3)
    ]
    at = (
        np.ones(n)
        if held is None or stance.edge == 100
        else np.clip(values_at(held, site.grid, x, y).astype(np.float64), 0, 1)
    )
    leans = np.array([(stance.lean if p.lean < 0 else p.lean) / 100 for p in sowing.mix])
    way = {"bearing": stance.bearing, "light": air.light, "wind": air.wind + 180}.get(
        stance.faces, 0.0
    )
    _stand(
        x,
        y,
        seed,
        kind,
        scale,
        variants,
        only,
        *across,
        {"any": 0, "downhill": 2}.get(stance.faces, 1),
        way,
        stance.turn,
        stance.smallest / 100,
        stance.largest / 100,
        np.array([p.spread / 100 for p in sowing.mix]),
        stance.edge / 100,
        at,
        leans,
        np.deg2rad(stance.sway),
        np.deg2rad(stance.wind),
        np.deg2rad(air.wind + 180),
        *made.values(),
        variant,
    )
    if facing is not None and stance.faces == "any" and stance.turn < 360:
        made["turn"] = np.float32((made["turn"] + facing) % 360)
    if given is not None:  # a turn and a size that the file tells hold, beside what varies
        told, sized = given[:, 3] >= 0, given[:, 4] > 0
        made["turn"][told] = np.float32(given[told, 3])
        made["size"][sized] *= np.float32(given[sized, 4])
    deep = (
        np.array([stance.sink_cm + p.sink_cm for p in sowing.mix], np.float32)[kind]
        / np.float32(100)
        * made["size"]
    )
    if stance.settle > 0:
        steep = np.arccos(np.clip(across[2], 0, 1)) * (1 - leans[kind])
        foot = (
            np.array(
                [
                    max(
                        (np.hypot(dx, dy) + r for dx, dy, r in kind_of(p.kind).footing()),
                        default=0.0,
                    )
                    for p in sowing.mix
                ]
            )[kind]
            * made["size"]
        )
        deep = deep + np.float32(stance.settle / 100) * (
            foot * np.minimum(np.tan(steep), 1.2)
        ).astype(np.float32)
    up = heights_at(site.heights, site.grid, x, y) - deep
    made["tint"] = 0.5 + (made["tint"] - 0.5) * np.float32(stance.tint / 100)
    return Plants(x, y, up, kind=kind, variant=variant, **made)


def sown_on(sowing: Sowing, piece: dict | None, plot_seed: int, path: str) -> Plants:
    """A sowing on the surface of a piece, by that surface's own normals.

    Creepers stand upright with their back to a wall; all else stands square to its face.
    """
    stance = sowing.stance
    shares = np.array([p.share for p in sowing.mix], float)
    if shares.sum() <= 0:
        raise SceneError(
            "Every part of the mix is 0 %.", f"{path}.mix", "Give at least one kind a share."
        )
    seed = name_seed(plot_seed, sowing.seed) & 0x3FFFFFFF
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
    kind = _kinds_by_hash((u[0] * 4294967295).astype(np.uint32), np.cumsum(shares))
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
