"""Builds for the page: one manifest of keys, older builds stopped by newer ones."""

import threading
import time

import numpy as np

from ..core.air.card_pictures import picture_of
from ..core.build import Build
from ..core.build.far_land import far_colour, far_colour_key, far_land, far_land_key
from ..core.build.far_wood import far_key, far_plants, runs_on
from ..core.build.waters import wet_key, wet_level
from ..core.cabinet import kind_of
from ..core.cabinet.kind import GONE
from ..core.cache import key_of
from ..core.document.references import missing
from ..core.errors import Cancelled
from ..core.formats.exporter import options_of
from ..core.judge.forecast import files_megabytes, kind_megabytes
from ..core.planting.crowding import densest
from ..core.planting.density import wished
from ..core.planting.plants import Plants
from ..core.planting.sowing import aparts
from ..core.scene import Scene
from ..core.shots.opening import opening
from ..core.surface.material import colours_of
from .forecasts import learn_land
from .live import announce
from .products import (
    cover_bytes,
    entry_pictures,
    instances_of,
    tile_size,
    tone_bytes,
    weight_bytes,
)
from .shapes.builds import (
    CardLine,
    Cost,
    FarLine,
    FarSownLine,
    GridShape,
    GroundLine,
    Lacking,
    LampLine,
    LandDraft,
    Manifest,
    MistLine,
    PieceLine,
    SownLine,
)
from .waiting import still_wanted
from .water_lines import water_lines
from .working import BYTES, WORK, Stored, product_key, raw_bytes

_turns: dict[tuple[int, str], int] = {}


_guard = threading.Lock()
MOST_IN_DRAFT = 150_000  # plants of the one sowing that a draft changes
MOST_TOGETHER = 4_000  # plants that a draft brings when many sowings change, as with the land
INSTANCE_BYTES = 36


def _room(per_m2: float) -> float | None:
    return float(per_m2 * 100) if np.isfinite(per_m2) else None


def _wish(sowing, area_m2: float) -> float:
    """What its amount asks for, were the whole plot open to it."""
    if sowing.number:
        return sowing.number
    if sowing.layout == "given":
        return len(Stored().load(sowing.places)) if sowing.places else 0
    return (
        area_m2 / (sowing.gap_m * sowing.row_m)
        if sowing.layout == "rows"
        else area_m2 * sowing.density / 100
    )


def order_build(scene_id: int, client: str, document: Scene, draft: bool) -> Manifest:
    """Builds, unless a newer order of the same page comes; then Cancelled is raised."""
    with _guard:
        mine = _turns[scene_id, client] = _turns.get((scene_id, client), 0) + 1

    wanted = still_wanted()

    def check():
        wanted()
        if _turns[scene_id, client] != mine:
            raise Cancelled

    last = [0.0]

    def tell(step: str, share: float):
        check()
        if not draft and time.monotonic() - last[0] > 0.08:
            last[0] = time.monotonic()
            announce(scene_id, "progress", {"step": step, "share": share})

    grid = document.plot.draft_grid() if draft else document.plot.view_grid()
    build = Build(document, grid, WORK, Stored(), tell, check)
    try:
        return _manifest(build, draft)
    finally:
        if not draft:
            announce(scene_id, "progress", {"step": "", "share": 1})


def draft_land(document: Scene) -> LandDraft:
    """The land alone, coarse. Raises SceneError."""
    grid = document.plot.draft_grid()
    build = Build(document, grid, WORK, Stored(), check=still_wanted())
    heights = build.heights
    return LandDraft(
        grid=GridShape(nx=grid.nx, ny=grid.ny, spacing=grid.spacing),
        heights=_heights_key(build),
        lowest=float(heights.min()),
        highest=float(heights.max()),
    )


def _heights_key(build: Build) -> str:
    make = lambda: raw_bytes(build.heights.astype("<f4"))
    return product_key(key_of("heights", build.land_key), make)


def stop_order(scene_id: int, client: str) -> None:
    """The order under way for this page ends at its next step."""
    with _guard:
        _turns[scene_id, client] = _turns.get((scene_id, client), 0) + 1


def _mists(build: Build) -> list[MistLine]:
    """Each mist with its map."""
    out = []
    for i, mist in enumerate(build.in_air().mists):
        key = key_of("mist", build.air_key, i)
        product_key(key, lambda: raw_bytes(mist.map().astype("<f4")))
        out.append(
            MistLine(
                key=key,
                bounds=list(mist.bounds),
                base_m=mist.base_m,
                soft_m=mist.soft_m,
                k=mist.k,
            )
        )
    return out


def _cards(build: Build) -> list[CardLine]:
    """Each card with its picture."""
    out = []
    for card in build.in_air().cards:
        sheet = picture_of(card.picture, Stored().load)
        key = product_key(key_of("card", card.picture), lambda: raw_bytes(sheet))
        size = {"columns": sheet.shape[1], "rows": sheet.shape[0]}
        out.append(CardLine(**{**vars(card), "picture": key}, **size))
    return out


def _rings(build: Build) -> list[FarLine]:
    """The rings of far land, the inner one first; the outer is made first, as it needs less."""
    out: list[FarLine] = []
    for ring in (1, 0):
        far, grid = far_land(build, ring)
        key = far_land_key(build, ring)
        shape = GridShape(
            nx=grid.nx,
            ny=grid.ny,
            spacing=grid.spacing,
            east_m=grid.east_m,
            north_m=grid.north_m,
        )
        heights = product_key(key_of("far", key), lambda: raw_bytes(far.astype("<f4")))
        colour = product_key(
            far_colour_key(build, ring), lambda: raw_bytes(far_colour(build, ring))
        )
        out.insert(0, FarLine(grid=shape, heights=heights, colour=colour))
    return out


def _standing(build: Build, index: int) -> Plants | None:
    """The plants of a sowing as the last build for the view placed them, if they still hold."""
    grid = build.scene.plot.view_grid()
    return build.cache.get(build.keys.sowing(grid, index))


def _brought(build: Build, forecasts: list[float], draft: bool) -> set[int]:
    """The sowings whose plants are brought. A draft brings the sowing that is being changed, which
    is the first whose plants no longer hold on land that does, and of those that follow from the
    change the smallest; the page keeps the old plants of the others.
    """
    on = [i for i, s in enumerate(build.scene.planting) if s.on]
    if not draft:
        return set(on)
    changed = [i for i in on if _standing(build, i) is None]
    land = build.keys.land(build.scene.plot.view_grid())[-1]
    brought: set[int] = set()
    if changed and build.cache.get("land " + land) is not None:
        first = changed[0]
        if forecasts[first] <= MOST_IN_DRAFT:
            brought.add(first)
    placed = set(brought)
    room = float(MOST_TOGETHER)
    for i in sorted(changed, key=lambda i: forecasts[i]):
        needs = {i, *build.keys.earlier(i)} - placed  # it keeps off the feet of earlier ones
        if i not in brought and sum(forecasts[k] for k in needs) <= room:
            room -= sum(forecasts[k] for k in needs)
            placed |= needs
            brought.add(i)
    return brought


def _sown(build: Build, index: int, expected: float, brought: bool) -> SownLine:
    """What one sowing gives; without its plants where they are not brought."""
    scene, s = build.scene, build.scene.planting[index]
    free = s.layout in ("natural", "clumped")
    room = densest(aparts(s), [p.share for p in s.mix])
    wish = wished(s, build.sowing_mask(index), scene.plot.area_m2)
    line = {
        "id": s.id,
        "kinds": build.names(index),
        "room": _room(room),
        "wished": round(_wish(s, scene.plot.area_m2)),
        "capped": free and wish > room * 1.001,
    }
    number = lambda plants: np.bincount(plants.kind, minlength=len(s.mix)).tolist()
    if not brought:
        plants = _standing(build, index)
        counts = [] if plants is None else number(plants)
        count = round(expected) if plants is None else len(plants)
        return SownLine(**line, key="", counts=counts, count=count, tile_m=1, tiles=[])
    tile_m = tile_size(min(wish, room) if free else 0.02)
    key = key_of("instances", build.sowing_key(index), tile_m)
    data, tiles = BYTES.once(key, lambda: instances_of(build.plants(index), tile_m))
    counts = number(build.plants(index))
    count = len(data) // INSTANCE_BYTES
    return SownLine(**line, key=key, counts=counts, count=count, tile_m=tile_m, tiles=tiles)


def _far_sown(build: Build) -> list[FarSownLine]:
    """The woods that run on beyond the plot."""
    out = []
    for i, s in enumerate(build.scene.planting):
        if not runs_on(build, i):
            continue
        tile_m = tile_size(s.density / 100)
        key = key_of("far instances", far_key(build, i), tile_m)
        data, tiles = BYTES.once(key, lambda: instances_of(far_plants(build, i), tile_m))
        if tiles:
            line = {"key": key, "kinds": build.names(i), "tile_m": tile_m, "tiles": tiles}
            out.append(FarSownLine(id=s.id, **line))
    return out


def _cost(build: Build, sown: list[SownLine]) -> Cost:
    """What the scene costs in the view and in full."""
    plants = sum(line.count for line in sown)
    grid = build.scene.plot.grid()
    posts = grid.nx * grid.ny
    names = {n for line in sown for n in line.kinds} | {p["kind"] for p in build.pieces()}
    counts = [line.counts or [line.count] for line in sown]
    materials = sum(m.on for m in build.scene.ground)
    return Cost(
        plants=plants,
        plant_megabytes=round(plants * 40e-6 + sum(map(kind_megabytes, names)), 2),
        full_triangles=2 * posts,
        full_megabytes=files_megabytes(counts, names, materials, posts, options_of({})),
    )


def _manifest(build: Build, draft: bool) -> Manifest:
    """Keys of everything that the view draws; what is missing is made on the way."""
    scene, grid = build.scene, build.grid
    heights = build.heights
    if not draft and build.seconds.get("land"):
        learn_land(scene, build.seconds["land"], grid.nx * grid.ny)
    forecasts = build.forecasts()
    water = water_lines(build, draft)
    rings = [] if draft or scene.beyond.edge == "end" else _rings(build)
    shares = build.ground()
    brought = _brought(build, forecasts, draft)
    sown = [
        _sown(build, i, forecasts[i], i in brought) for i, s in enumerate(scene.planting) if s.on
    ]
    cost = _cost(build, sown)
    bins = lambda field, low, high: (np.histogram(field, 64, (low, high))[0] / field.size).tolist()
    low, high = float(heights.min()), float(heights.max())
    return Manifest(
        grid=GridShape(nx=grid.nx, ny=grid.ny, spacing=grid.spacing),
        draft=draft,
        lowest=low,
        highest=high,
        mean=float(heights.mean()),
        heights=_heights_key(build),
        weights=product_key(key_of("weights", build.ground_key), lambda: weight_bytes(build)),
        ground=[
            GroundLine(
                id=m.id,
                tune=colours_of(m).T.ravel().tolist(),
                means=list(build.ground_of(m).map_means()),
            )
            for m in scene.ground
        ],
        tone=product_key(
            key_of("tone", build.ground_key, [m.tolist() for m in build.means()]),
            lambda: tone_bytes(build),
        ),
        shore=product_key(
            key_of("shore", wet_key(build)), lambda: raw_bytes(wet_level(build).astype("<f4"))
        ),
        cover=product_key(
            key_of(
                "cover bytes",
                build.water_key,
                [build.sowing_key(i) for i in range(len(scene.planting))],
                [(s.on, build.names(i)) for i, s in enumerate(scene.planting)],
            ),
            lambda: cover_bytes(build),
        ),
        open=product_key(
            key_of("open", build.land_key),
            lambda: raw_bytes(np.rint(build.openness() * 2.55).astype(np.uint8)),
        ),
        colour=(np.round(build.mean_colour() * 50) / 50).tolist(),
        beyond=rings,
        water=water,
        mists=_mists(build),
        lamps=[LampLine(**vars(lamp)) for lamp in build.in_air().lamps],
        cards=_cards(build),
        shares={
            m.id: round(float(w.mean(dtype=np.float64)), 5) for m, w in zip(scene.ground, shares)
        },
        sown=sown,
        far_sown=[] if draft else _far_sown(build),
        pieces=[
            PieceLine(
                id=p["id"],
                up_m=p["up_m"],
                kind=p["dressed"],
            )
            for p in build.pieces()
        ],
        pictures={} if draft else entry_pictures(build),
        lacking=[Lacking(path=r.path, message=text) for r, text in missing(scene)]
        + [Lacking(path=path, message=text) for path, text in gone_kinds(scene)],
        opening=vars(opening(heights, grid)),
        slope_bins=bins(build.slope(), 0, 70),
        height_bins=bins(heights, low, max(high, low + 1e-3)),
        cost=cost,
        seconds={k: round(v, 4) for k, v in build.seconds.items()},
    )


def gone_kinds(scene: Scene) -> list[tuple[str, str]]:
    """Where a scene names a model that is not in the store, and what to say of it."""
    named = [
        (f"planting.{i}.mix.{k}.kind", s.name, p.kind)
        for i, s in enumerate(scene.planting)
        for k, p in enumerate(s.mix)
    ] + [(f"pieces.{i}.kind", p.name, p.kind) for i, p in enumerate(scene.pieces)]
    return [
        (
            path,
            f"The model of a kind of “{owner}” is not here; a bare stake stands for it. "
            "Bring its file in again, or choose another kind.",
        )
        for path, owner, kind in named
        if kind.startswith("own-") and kind_of(kind).tags == GONE
    ]
