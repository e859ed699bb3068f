"""The moving waters of a build, each made once for the land and the settings that it depends on."""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

import numpy as np
from scipy.ndimage import binary_dilation

from ..air.mist import Mist
from ..cabinet import kind_of
from ..cache import key_of
from ..errors import SceneError
from ..marks.shapes import way
from ..planting.pieces import piece_feet
from ..planting.plants import feet
from ..sample import heights_at, values_at
from ..shared import MOST_WAKES
from ..water.around import DEEPEST, LEAST_M, MOST, foaming
from ..water.eddies import Eddies, eddies_of
from ..water.entry import Water
from ..water.falls import MOST as MOST_FALLS
from ..water.falls import Fall, boil_of, falls_along, spray_of
from ..water.flow import flow_along
from ..water.ice import thickness
from ..water.moving import (
    FILLS,
    Moving,
    ShoreWaves,
    moving,
    raised,
    reaches,
    sea_of,
    shore_of,
    typical_depth,
)
from ..water.running import Running, running
from ..water.shore import shore_level
from ..water.spectrum import Sea
from ..water.standing import surface_of
from ..water.wake import LEAST_MS, Wake, wake_of

STRIKES_M = 1.5  # from a water's edge within which a fall still strikes it
UPHILL_M = 0.5  # by which a bed may rise downstream before it is told
Stances = Mapping[str, Any]  # east_m, north_m and turn of pieces that are elsewhere

if TYPE_CHECKING:
    from .build import Build


def sea_in(build: "Build", index: int) -> Sea:
    """The sea of a water of the scene."""
    water = build.scene.water[index]
    if water.reach == "stream":
        return sea_of(water, water.deep_m)

    def make() -> float:
        level, masks = build.water()
        return typical_depth(water, level - build.heights, masks[index])

    key = key_of("depth of water", build.water_key, index)
    return sea_of(water, build.once("water", key, make))


def shore_in(build: "Build", index: int) -> ShoreWaves:
    """The shore of a standing water of the scene."""
    water = build.scene.water[index]
    sea = sea_in(build, index)

    def make() -> ShoreWaves:
        wet = build.water()[1][index]
        return shore_of(sea, water.level_m, build.heights, wet, build.grid.spacing)

    return build.once("water", shore_key(build, index, sea), make)


def shore_key(build: "Build", index: int, sea: Sea) -> str:
    """Content key of a water's shore."""
    asked = [sea.long_m, sea.high_m, sea.deep_m, sea.toward]
    return key_of("shore of water", build.water_key, index, asked)


def moving_in(build: "Build", index: int, seconds: float, stances: Stances | None = None) -> Moving:
    """A standing water of the scene at a time; `stances` says where pieces are then, by id."""
    water = build.scene.water[index]
    sea, shore = sea_in(build, index), shore_in(build, index)
    ice, wakes = ice_in(build, index), wakes_in(build, index, stances)
    return moving(water, sea, shore, build.grid, seconds, ice, wakes)


def wakes_in(build: "Build", index: int, stances: Stances | None = None) -> list[Wake]:
    """Wakes on a standing water: of its drawn outline, and of pieces that float and move; those in
    `stances` are elsewhere at this moment. Raises SceneError for an outline that crosses itself or
    lies on land.
    """
    water = build.scene.water[index]
    wet = build.water()[1][index]
    found = [_drawn_wake(build, index)] if water.wake else []
    for piece in build.scene.pieces:
        if not piece.on or piece.stands != "water" or piece.wake_ms < LEAST_MS:
            continue
        own = (stances or {}).get(piece.id, piece)
        moved = piece.model_copy(
            update={"east_m": own.east_m, "north_m": own.north_m, "turn": own.turn}
        )
        here = np.array([moved.east_m]), np.array([moved.north_m])
        if values_at(wet.astype(np.float32), build.grid, *here)[0] > 0.5:
            found.append(_piece_wake(moved))
    return found[:MOST_WAKES]


def _drawn_wake(build: "Build", index: int) -> Wake:
    water = build.scene.water[index]
    path = f"water.{index}.wake"
    mark = next((m for m in build.scene.marks if m.id == water.wake and m.kind == "area"), None)
    if mark is None:
        raise SceneError(
            f"There is no area '{water.wake}'.", path, "Draw one under Marks, then choose it here."
        )
    outline = way(mark, path)
    wet = build.water()[1][index].astype(np.float32)
    if values_at(wet, build.grid, outline[:, 0], outline[:, 1]).min() < 0.5:
        raise SceneError(
            f"The outline “{mark.name}” of the wake lies on land.",
            path,
            "Draw it wholly on the water.",
        )
    return wake_of(outline, water.wake_toward, water.wake_ms, path)


def _piece_wake(piece: Any) -> Wake:
    east, north, reach = piece_feet(piece)
    discs = np.exp(1j * np.linspace(0, 2 * np.pi, 9))
    edge = [(e + r * discs.real, n + r * discs.imag) for e, n, r in zip(east, north, reach)]
    if not edge:
        half = kind_of(piece.kind).reach_m * piece.size * piece.wide / 1e4
        edge = [(piece.east_m + half * discs.real, piece.north_m + half * discs.imag)]
    b = np.deg2rad(piece.turn)
    points = np.hstack(edge).T
    ahead, aside = points @ (np.sin(b), np.cos(b)), points @ (np.cos(b), -np.sin(b))
    bow, middle = ahead.max(), (aside.min() + aside.max()) / 2
    return Wake(
        float(bow * np.sin(b) + middle * np.cos(b)),
        float(bow * np.cos(b) - middle * np.sin(b)),
        piece.turn,
        float(np.ptp(ahead)),
        float(np.ptp(aside)),
        piece.wake_ms,
        piece.id,
    )


def ice_in(build: "Build", index: int) -> np.ndarray | None:
    """How thick the ice of a standing water is at each post (m), or None where there is none."""
    water = build.scene.water[index]
    if water.frozen <= 0 or water.reach == "stream":
        return None
    key = key_of("ice", build.water_key, index, water.frozen, water.ice_cm)
    wet = build.water()[1][index]
    return build.once("water", key, lambda: thickness(water, wet, build.grid.spacing))


def spine_in(build: "Build", index: int) -> np.ndarray:
    """The surface of a stream of the scene along its line, float64 (n, 3)."""
    water = build.scene.water[index]
    return surface_of(water, build.marks.line(water.mark), build.heights, build.grid)


def eddies_in(build: "Build", index: int, plants: bool = True) -> Eddies | None:
    """The eddies of a stream behind what stands in it; None where nothing does."""
    water = build.scene.water[index]
    discs = stands_in(build, index, plants)
    if not len(discs) or water.around <= 0:
        return None

    def make() -> Eddies:
        spine = spine_in(build, index)
        return eddies_of(spine, flow_along(spine, water.deep_m)[0], water.width_m, discs)

    return build.once(
        "water", key_of("eddies", build.water_key, index, discs.tobytes().hex()), make
    )


def running_in(build: "Build", index: int, seconds: float) -> Running:
    """A stream of the scene at a time."""
    water, spine = build.scene.water[index], spine_in(build, index)
    return running(water, spine, sea_in(build, index), seconds, eddies_in(build, index))


def falls_in(build: "Build") -> list[tuple[int, Fall, Water]]:
    """The falls of the scene, each with its number along its stream, and that stream."""
    return [
        (k, fall, water)
        for i, water in enumerate(build.scene.water)
        if water.on and water.reach == "stream" and water.mark
        for k, fall in enumerate(falls_along(spine_in(build, i)))
    ]


def spray_in(build: "Build") -> list[Mist]:
    """The spray at the foot of the highest falls of the scene."""
    found = [f for f in falls_in(build) if f[2].spray > 0]
    highest = sorted(found, key=lambda f: -f[1].high_m)[:MOST_FALLS]
    return [spray_of(f, w.width_m, w.spray / 100, k + 1) for k, f, w in highest]


def foam_in(build: "Build", index: int, plants: bool = True) -> np.ndarray:
    """Where foam lies about discs of a water: about what stands in it, and where falls strike it:
    east, north, radius, level, reach (m), amount 0..1, float64 (n, 6). Without `plants` those of
    pieces and falls alone.
    """
    water, sea = build.scene.water[index], sea_in(build, index)
    stands = foaming(stands_in(build, index, plants), sea, water.around / 100)
    boils = [] if water.reach == "stream" else _boils_in(build, index)
    return np.vstack([stands, *boils])


def _boils_in(build: "Build", index: int) -> list[np.ndarray]:
    amount = build.scene.water[index].foam / 100
    wet = build.water()[1][index]
    if amount <= 0 or not wet.any():
        return []
    around = int(np.ceil(STRIKES_M / build.grid.spacing))
    near = binary_dilation(wet, iterations=around).astype(np.float32)
    boils = [boil_of(f, w.width_m, amount) for _, f, w in falls_in(build)]
    at = lambda b: values_at(near, build.grid, b[:1], b[1:2])[0]
    return [b for b in boils if at(b) > 0.5]


def stands_in(build: "Build", index: int, plants: bool = True) -> np.ndarray:
    """Discs of what stands in a water and out of it: east, north, radius, level (m), float64
    (n, 4), the widest first. Without `plants` the pieces alone.
    """
    level, masks = build.water()
    own = np.where(masks[index], level, np.nan).astype(np.float32)
    found = [np.column_stack(piece_feet(p)) for p in build.scene.pieces if p.on]
    if plants:
        found += [
            np.column_stack(feet(s, build.plants(i)))
            for i, s in enumerate(build.scene.planting)
            if s.on and s.wet
        ]
    discs = np.concatenate([np.zeros((0, 3)), *found])
    discs = discs[discs[:, 2] >= LEAST_M]
    if not len(discs):
        return np.zeros((0, 4))
    wet = values_at(own, build.grid, discs[:, 0], discs[:, 1])
    deep = wet - heights_at(build.heights, build.grid, discs[:, 0], discs[:, 1])
    here = np.isfinite(wet) & (deep > -0.1) & (deep < DEEPEST * discs[:, 2])
    told = np.column_stack([discs, wet])[here]
    return told[np.argsort(-told[:, 2], kind="stable")][:MOST]


def wet_key(build: "Build") -> str:
    """Content key of the level up to which waters wet the land."""
    return key_of("wet level", build.water_key, [w.model_dump() for w in build.scene.water])


def wet_level(build: "Build") -> np.ndarray:
    """Level in m up to which waters near by wet each post, by their waves, float32 (ny, nx)."""

    def make() -> np.ndarray:
        level, masks = build.water()
        out = level.copy()
        for i, (water, wet) in enumerate(zip(build.scene.water, masks)):
            if water.on:
                out[wet] = level[wet] + reaches(water, sea_in(build, i))
        return shore_level(out, build.grid.spacing)

    return build.once("water", wet_key(build), make)


def swash_in(build: "Build") -> int | None:
    """The standing water of the scene whose waves run highest up its shore, or None."""
    best, highest = None, 0.04
    for i, water in enumerate(build.scene.water):
        if not water.on or water.reach == "stream" or not build.water()[1][i].any():
            continue
        if water.surf > 0 and (high := sea_in(build, i).high_m) > highest:
            best, highest = i, high
    return best


def remarks(build: "Build", index: int) -> list[str]:
    """What a person should know of a water: that it covers all the land, that its waves are held
    lower than asked, that a stream would have to run uphill and where.
    """
    water, wet = build.scene.water[index], build.water()[1][index]
    if not water.on or not wet.any():
        return []
    told = []
    if wet.all():
        told.append("All the land lies under it: lower its level.")
    sea = sea_in(build, index)
    asked, _ = raised(water)
    if sea.high_m < 0.98 * asked:
        why = "the water is so shallow" if sea.high_m >= 0.99 * FILLS * sea.deep_m else "so short"
        told.append(
            f"Its waves are held to {100 * sea.high_m:.0f} cm, since {why}: "
            f"{100 * asked:.0f} cm would break."
        )
    if water.reach == "stream":
        spine = spine_in(build, index)
        bed = heights_at(build.heights, build.grid, spine[:, 0], spine[:, 1])
        over = spine[:, 2] - bed - water.deep_m
        worst = int(over.argmax())
        if over[worst] > UPHILL_M:
            east, north = spine[worst, :2]
            told.append(
                f"Its bed rises by {over[worst]:.1f} m below E {east:.0f}, N {north:.0f}: there "
                "it stands as a pool. Lay a stream bed along the line, or move the line."
            )
    return told
