"""The fault finder: what floats, sinks too deep, stands under water or in one another, or repeats
side by side in a shot; and what is wrong with a shot's picture.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from ..build import Build
from ..cabinet import kind_of
from ..cabinet.family import families
from ..cabinet.feet import stretched
from ..planting.formed import form_of, sizes_of
from ..sample import heights_at
from ..shots.shot import aside
from ..survey.sight import hidden_by
from .shot_faults import shot_faults

MOST = 400
MOST_OF_A_KIND = 40  # floating plants told of one kind of a sowing
FLOATS_M = 0.02
DEEP = 0.6  # of its height
DROWNED = 0.5  # of its height under water
AT_HOME = ("stone", "bank", "wood", "solid", "grass", "flower")  # may stand under water
SORTS = (
    *("floats", "deep", "drowned", "cross", "twin"),
    *("outside", "sun", "dark", "bright", "edge", "empty", "repeat"),
)


Sights = Callable[[float, float, float], str]


@dataclass
class Fault:
    """One fault: what it is (one of SORTS; those from "outside" on are of shots),
    whose (the id and name of the sowing, the piece or the shot), where (m), how much in words, and
    for pieces the sink in cm that mends it.
    """

    what: str
    id: str
    name: str
    east: float
    north: float
    told: str
    mend_cm: float | None = None


def _gap(build: Build, footing, east, north, up, turn, size) -> tuple[np.ndarray, np.ndarray]:
    """How far the foot hangs over the ground (m) at its worst, and how deep its base lies at its
    least.
    """
    worst = np.full(len(east), -np.inf)
    least = np.full(len(east), np.inf)
    a = np.deg2rad(turn)
    for dx, dy, r in footing or ((0.0, 0.0, 0.0),):
        cx = east + size * (dx * np.cos(a) + dy * np.sin(a))
        cy = north + size * (dy * np.cos(a) - dx * np.sin(a))
        for k in range(8 if r else 1):
            px = cx + r * size * np.sin(k * np.pi / 4) * 0.85
            py = cy + r * size * np.cos(k * np.pi / 4) * 0.85
            ground = heights_at(
                build.heights,
                build.grid,
                np.clip(px, 0, build.grid.width_m),
                np.clip(py, 0, build.scene.plot.depth_m),
            )
            worst = np.maximum(worst, up - ground)
            least = np.minimum(least, ground - up)
    return worst, least


class _Found:
    """The faults that are told, and how many there are of each sort."""

    def __init__(self):
        self.told: list[Fault] = []
        self.count = dict.fromkeys(SORTS, 0)

    def add(self, fault: Fault) -> None:
        """Counts a fault; the first MOST are told."""
        self.count[fault.what] += 1
        if len(self.told) < MOST:
            self.told.append(fault)


def faults(build: Build) -> tuple[list[Fault], dict[str, int]]:
    """The first MOST faults, and how many there are of each sort.

    Checked against the grid of the build: give it the full one.
    """
    found = _Found()
    pieces = build.pieces()
    eyes = [
        (shot, hidden_by(build.heights, build.grid, shot.east_m, shot.north_m, shot.eye_m))
        for shot in build.shots()
        if shot.on
    ]

    def in_sight(east: float, north: float, tall: float) -> str:
        seen = (s.name for s, hidden in eyes if _in_shot(build, s, hidden, east, north, tall))
        name = next(seen, "")
        return f", in sight of “{name}”" if name else ""

    _ill_placed(build, pieces, in_sight, found)
    _drowned(build, pieces, found)
    _crossing(build, pieces, found)
    for f in shot_faults(build):
        found.add(Fault(f.what, f.shot.id, f.shot.name, f.east_m, f.north_m, f.told))
    for i, sowing in enumerate(build.scene.planting):
        if not sowing.on or sowing.stands_on:
            continue
        plants = build.plants(i)
        for k, part in enumerate(sowing.mix):
            kind = kind_of(part.kind)
            here = np.flatnonzero(plants.kind == k)
            if not len(here) or not kind.footing():
                continue
            _hanging(build, sowing, plants, kind, here, in_sight, found)
            if families[kind.family].told_apart and eyes and len(here) > 1:
                _twins(build, sowing, plants, kind, here, eyes, found)
    return found.told, found.count


def _ill_placed(build: Build, pieces: list[dict], in_sight: Sights, found: _Found) -> None:
    """Pieces whose foot hangs over the ground or lies far in it, with the sink that mends them."""
    on_ground = {p.id for p in build.scene.pieces if p.stands == "ground"}
    for p in pieces:
        if p["id"] not in on_ground:
            continue
        kind = form_of(p)
        if families[kind.family].joins:
            continue
        wide, broad, high = sizes_of(p)
        tall = kind.height_m * high
        below = _below(kind, high)
        east, north, up, turn = (
            np.array([float(v)]) for v in (p["east_m"], p["north_m"], p["up_m"] - below, p["turn"])
        )
        # what leans lies along a slope with its whole foot
        leans = p["lean"] > 1
        feet = [] if leans else stretched(kind.footing(), wide, broad).tolist()
        gap = _gap(build, feet, east, north, up, turn, 1.0)
        over = float(gap[0][0])
        deep = float(gap[1][0])
        if over > FLOATS_M:
            what = "floats"
            sees = in_sight(p["east_m"], p["north_m"], tall)
            told = f"its foot hangs {over * 100:.0f} cm over the ground{sees}"
            sink = p["sink_cm"] + over * 100 + 1
        elif deep - below > DEEP * tall:
            what = "deep"
            told = f"{deep:.1f} m of its {tall:.1f} m are in the ground"
            sink = p["sink_cm"] - (deep - 0.1 * tall) * 100
        else:
            continue
        found.add(Fault(what, p["id"], p["name"], p["east_m"], p["north_m"], told, round(sink, 1)))


def _drowned(build: Build, pieces: list[dict], found: _Found) -> None:
    """Pieces set on the ground where that lies deep under water."""
    on_ground = {p.id for p in build.scene.pieces if p.stands == "ground"}
    level = build.water()[0]
    if not np.isfinite(level).any():
        return
    grid = build.grid
    for p in pieces:
        kind = form_of(p)
        row = int(np.clip(np.rint(grid.rows_of(p["north_m"])), 0, grid.ny - 1))
        column = int(np.clip(np.rint(grid.cols_of(p["east_m"])), 0, grid.nx - 1))
        if p["id"] not in on_ground or kind.family in AT_HOME or families[kind.family].joins:
            continue
        tall = kind.height_m * float(sizes_of(p)[2])
        under = float(level[row, column]) - p["up_m"]
        if under > DROWNED * tall:  # not where it is dry: that is no number
            told = f"{min(under, tall):.1f} m of its {tall:.1f} m are under water"
            told += "; set it on the water, or on the shore"
            found.add(Fault("drowned", p["id"], p["name"], p["east_m"], p["north_m"], told))


@dataclass
class _Foot:
    """A disc that a piece stands on, and how high the piece reaches (m)."""

    id: str
    name: str
    east: float
    north: float
    radius: float
    low: float
    tall: float


def _feet_of(piece: dict) -> list[_Foot]:
    a = np.deg2rad(piece["turn"])
    wide, deep, high = sizes_of(piece)
    kind = form_of(piece)
    return [
        _Foot(
            piece["id"],
            piece["name"],
            piece["east_m"] + x * np.cos(a) + y * np.sin(a),
            piece["north_m"] + y * np.cos(a) - x * np.sin(a),
            r,
            piece["up_m"],
            kind.height_m * high,
        )
        for x, y, r in stretched(kind.footing(), wide, deep)
    ]


def _crossing(build: Build, pieces: list[dict], found: _Found) -> None:
    """Pieces that lie in one another in plan and in height, but for those that are meant to stand
    on a piece or are put together.
    """
    on_piece = {p.id for p in build.scene.pieces if p.stands == "piece"}
    feet = [foot for p in pieces if p["id"] not in on_piece for foot in _feet_of(p)]
    if not feet:
        return
    joins = {p["id"] for p in pieces if families[kind_of(p["kind"]).family].joins}
    column = lambda name: np.array([getattr(f, name) for f in feet])
    east, north, radius, low, tall = map(column, ("east", "north", "radius", "low", "tall"))
    seen = set()
    for i, one in enumerate(feet):
        if one.id in joins:
            continue
        near = np.hypot(east - one.east, north - one.north) < 0.8 * (radius + one.radius)
        top = np.minimum(low + tall, one.low + one.tall)
        for j in np.flatnonzero(near & (top > np.maximum(low, one.low) + 0.05)):
            first, other = (one, feet[j]) if i < j else (feet[j], one)
            pair = frozenset((first.id, other.id))
            if first.id != other.id and pair not in seen:
                seen.add(pair)
                told = f"it stands in “{first.name}”"
                found.add(Fault("cross", other.id, other.name, other.east, other.north, told))


def _hanging(
    build: Build, sowing, plants, kind, here: np.ndarray, in_sight: Sights, found: _Found
) -> None:
    """Plants of one kind of a sowing (`here`, indices) whose foot hangs over the ground."""
    below = np.array([_below(kind, 1.0)]) * plants.size[here]
    square = sowing.stance.lean / 100  # what leans to the slope has its foot along it
    over, _ = _gap(
        build,
        kind.footing() if square < 0.5 else (),
        plants.east[here],
        plants.north[here],
        plants.up[here] - below,
        plants.turn[here],
        plants.size[here],
    )
    bad = here[over > FLOATS_M + 0.02 * kind.reach_m]
    told = "its foot hangs over the ground; sink the sowing, or let it sink by slope"
    for j in bad[:MOST_OF_A_KIND]:
        tall = kind.height_m * plants.size[j]
        words = told + in_sight(plants.east[j], plants.north[j], tall)
        found.add(_of_plant("floats", sowing, plants, kind, j, words))
    found.count["floats"] += max(0, len(bad) - MOST_OF_A_KIND)


def _twins(build: Build, sowing, plants, kind, here: np.ndarray, eyes, found: _Found) -> None:
    """Neighbours of one kind that look the same, where a shot sees them."""
    places = np.c_[plants.east[here], plants.north[here]]
    near, at = cKDTree(places).query(places, k=2)
    other = here[at[:, 1]]
    turned = np.abs((plants.turn[here] - plants.turn[other] + 180) % 360 - 180)
    like = (
        (plants.variant[here] == plants.variant[other])
        & (turned < 12)
        & (np.abs(plants.size[here] / plants.size[other] - 1) < 0.12)
        & (near[:, 1] < 4 * kind.reach_m)
        & (here < other)
    )
    for j in here[like]:
        east = plants.east[j]
        north = plants.north[j]
        for shot, hidden in eyes:
            if _in_shot(build, shot, hidden, east, north, kind.height_m):
                told = f"two alike side by side in “{shot.name}”; another seed parts them"
                found.add(_of_plant("twin", sowing, plants, kind, j, told))
                break


def _of_plant(what: str, sowing, plants, kind, j: int, told: str) -> Fault:
    name = f"{sowing.name}: {kind.label}"
    return Fault(what, sowing.id, name, float(plants.east[j]), float(plants.north[j]), told)


def _below(kind, size: float) -> float:
    """How far a kind's mesh reaches below its own foot (m)."""
    mesh = kind.shape().levels[0][0]
    return float(max(0.0, -mesh.positions[:, 2].min())) * size


def _in_shot(build, shot, hidden, east, north, tall) -> bool:
    dx, dy = east - shot.east_m, north - shot.north_m
    away = np.hypot(dx, dy)
    if away > 120 * max(tall, 0.3) or away < 0.5:
        return False
    off, half = aside(shot, dx, dy)
    r = int(round(float(build.grid.rows_of(north))))
    c = int(round(float(build.grid.cols_of(east))))
    return bool(
        off < half
        and hidden[min(max(r, 0), build.grid.ny - 1), min(max(c, 0), build.grid.nx - 1)] < tall
    )
