"""The fault finder: what floats, sinks too deep, stands in one another, or repeats side by side in
a shot.
"""

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from ..build import Build
from ..cabinet import kind_of
from ..cabinet.family import families
from ..sample import heights_at
from ..shots.shot import aside
from ..survey.sight import hidden_by

MOST = 400
FLOATS_M, DEEP = 0.02, 0.6


@dataclass
class Fault:
    """One fault: what it is ("floats", "deep", "cross", "twin"), whose (the sowing's or the piece's
    id and name), where (m), how much in words, and for pieces the sink in cm that mends it.
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


def faults(build: Build) -> tuple[list[Fault], dict[str, int]]:
    """The first MOST faults, and how many there are of each sort.

    Checked against the grid of the build: give it the full one.
    """
    found: list[Fault] = []
    count = {"floats": 0, "deep": 0, "cross": 0, "twin": 0}

    def add(fault: Fault):
        count[fault.what] += 1
        if len(found) < MOST:
            found.append(fault)

    pieces = build.pieces()
    doc = {p.id: p for p in build.scene.pieces}
    for p in pieces:
        kind, k = kind_of(p["kind"]), p["size"] / 100
        if doc[p["id"]].stands != "ground":
            continue
        one = lambda v: np.array([float(v)])
        over, deep = _gap(
            build,
            kind.footing(),
            one(p["east_m"]),
            one(p["north_m"]),
            one(p["up_m"] - _below(kind, k)),
            one(p["turn"]),
            k,
        )
        over, deep = float(over[0]), float(deep[0])
        if over > FLOATS_M:
            add(
                Fault(
                    "floats",
                    p["id"],
                    p["name"],
                    p["east_m"],
                    p["north_m"],
                    f"its foot hangs {over * 100:.0f} cm over the ground",
                    round(p["sink_cm"] + over * 100 + 1, 1),
                )
            )
        elif deep - _below(kind, k) > DEEP * kind.height_m * k:
            add(
                Fault(
                    "deep",
                    p["id"],
                    p["name"],
                    p["east_m"],
                    p["north_m"],
                    f"{deep:.1f} m of its {kind.height_m * k:.1f} m are in the ground",
                    round(p["sink_cm"] - (deep - 0.1 * kind.height_m * k) * 100, 1),
                )
            )
    feet = []
    for p in pieces:
        a, k = np.deg2rad(p["turn"]), p["size"] / 100
        feet += [
            (
                p["id"],
                p["name"],
                p["east_m"] + k * (x * np.cos(a) + y * np.sin(a)),
                p["north_m"] + k * (y * np.cos(a) - x * np.sin(a)),
                r * k,
                p["up_m"],
                kind_of(p["kind"]).height_m * k,
            )
            for x, y, r in kind_of(p["kind"]).footing()
        ]
    seen = set()
    for i, f in enumerate(feet):
        for g in feet[i + 1 :]:
            pair = tuple(sorted((f[0], g[0])))
            if (
                f[0] != g[0]
                and pair not in seen
                and np.hypot(f[2] - g[2], f[3] - g[3]) < 0.8 * (f[4] + g[4])
                and min(f[5] + f[6], g[5] + g[6]) > max(f[5], g[5]) + 0.05
                and "piece" not in (doc[f[0]].stands, doc[g[0]].stands)
            ):
                seen.add(pair)
                add(Fault("cross", g[0], g[1], g[2], g[3], f"it stands in “{f[1]}”"))
    eyes = [
        (s, hidden_by(build.heights, build.grid, s.east_m, s.north_m, s.eye_m))
        for s in build.scene.shots
        if s.on
    ]
    for i, s in enumerate(build.scene.planting):
        if not s.on or s.stands_on:
            continue
        p = build.plants(i)
        for k, part in enumerate(s.mix):
            kind, here = kind_of(part.kind), np.flatnonzero(p.kind == k)
            if not len(here) or not kind.footing():
                continue
            below = np.array([_below(kind, 1.0)]) * p.size[here]
            square = s.stance.lean / 100  # what leans to the slope has its foot along it
            over, _ = _gap(
                build,
                kind.footing() if square < 0.5 else (),
                p.east[here],
                p.north[here],
                p.up[here] - below,
                p.turn[here],
                p.size[here],
            )
            bad = here[over > FLOATS_M + 0.02 * kind.reach_m]
            count["floats"] += max(0, len(bad) - 40)
            for j in bad[:40]:
                add(
                    Fault(
                        "floats",
                        s.id,
                        f"{s.name}: {kind.label}",
                        float(p.east[j]),
                        float(p.north[j]),
                        "its foot hangs over the ground; sink the sowing, or let it sink by slope",
                    )
                )
            if not families[kind.family].told_apart or not eyes or len(here) < 2:
                continue
            near, at = cKDTree(np.c_[p.east[here], p.north[here]]).query(
                np.c_[p.east[here], p.north[here]], k=2
            )
            other = here[at[:, 1]]
            like = (
                (p.variant[here] == p.variant[other])
                & (np.abs((p.turn[here] - p.turn[other] + 180) % 360 - 180) < 12)
                & (np.abs(p.size[here] / p.size[other] - 1) < 0.12)
                & (near[:, 1] < 4 * kind.reach_m)
                & (here < other)
            )
            for j in here[like]:
                shot = next(
                    (
                        t
                        for t, hidden in eyes
                        if _in_shot(build, t, hidden, p.east[j], p.north[j], kind.height_m)
                    ),
                    None,
                )
                if shot:
                    add(
                        Fault(
                            "twin",
                            s.id,
                            f"{s.name}: {kind.label}",
                            float(p.east[j]),
                            float(p.north[j]),
                            f"two alike side by side in “{shot.name}”; another seed parts them",
                        )
                    )
    return found, count


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
