"""Builds for the page: one manifest of keys, products as raw bytes, older builds stopped by newer
ones.
"""

import hashlib
import os
import threading
import time
from dataclasses import replace

import numpy as np

from ..core.air.light import sun_direction
from ..core.build import COMPUTING, Build, Rasters
from ..core.cabinet import kind_of
from ..core.cabinet.kind import GONE
from ..core.cache import Cache, key_of
from ..core.errors import Cancelled, SceneError
from ..core.forecast import files_megabytes, files_seconds, kind_megabytes
from ..core.formats.groundfiles import GroundFiles
from ..core.formats.plantfiles import PlantFiles
from ..core.formats.raster import png_bytes
from ..core.parts import differences
from ..core.planting.place import densest
from ..core.planting.sowing import Plants, aparts, seen_colour, wished
from ..core.refers import missing
from ..core.sample import heights_at
from ..core.scene import Scene, read_scene
from ..core.shots.standing import stand_before, sown_from_above
from ..core.shots.sketch import from_above, from_shot
from ..core.surface.relief import PAPER, contribution, washed
from ..core.survey.sheets import sheets
from ..core.water.standing import surface_of
from ..store import rasters as kept_rasters
from ..store import scenes
from .live import announce
from .shapes import (
    CompareAnswer,
    Cost,
    FarLine,
    GridShape,
    HandOver,
    Lacking,
    Manifest,
    MaskPicture,
    PartDifference,
    PieceLine,
    ProofOrder,
    SownLine,
    SurveyAnswer,
    SurveyOrder,
    WaterLine,
)

WORK = Cache(int(os.environ.get("SOW_CACHE_BYTES", 1200 << 20)))
BYTES = Cache(int(os.environ.get("SOW_BYTES", 600 << 20)))
_turns: dict[tuple[int, str], int] = {}
_guard = threading.Lock()
_took: dict[str, float] = {}  # seconds that a post of a land takes, by the kinds of its entries


class Stored(Rasters):
    """Rasters of the store; their name is the hash of their content."""

    def load(self, name: str) -> np.ndarray:
        def fetch():
            values = kept_rasters.load(name)
            if values is None:
                raise SceneError(
                    "The picture is not in the store.", "", "Drop its file on the page again."
                )
            return values

        return WORK.once(f"raster {name}", fetch)


def _product(key: str, make) -> str:
    BYTES.once(key, make)
    return key


def _bytes(values: np.ndarray) -> bytes:
    return np.ascontiguousarray(values).tobytes()


def _weights(build: Build) -> bytes:
    """RGBA bytes, four materials a layer: (layers, ny, nx, 4)."""
    shares = build.ground()
    layers = max(1, -(-len(shares) // 4))
    out = np.zeros((layers * 4,) + build.grid.shape, np.uint8)
    out[: len(shares)] = np.rint(shares * 255)
    return _bytes(out.reshape(layers, 4, *build.grid.shape).transpose(0, 2, 3, 1))


def _cover(build: Build) -> bytes:
    """RGBA bytes: square root of linear colour, share hidden."""
    cover = build.plant_cover()
    return _bytes(
        np.dstack(
            [np.rint(np.sqrt(np.clip(cover[..., :3], 0, 1)) * 255), np.rint(cover[..., 3:] * 255)]
        ).astype(np.uint8)
    )


def tile_size(density_per_m2: float) -> float:
    """Tiles of some hundred plants, 8 to 128 m."""
    return float(
        np.clip(2.0 ** np.round(np.log2(np.sqrt(300 / max(density_per_m2, 1e-6)))), 8, 128)
    )


def _instances(plants: Plants, tile_m: float) -> tuple[bytes, list[list[int]]]:
    """Nine floats a plant (east, north, up, turn, lean, bearing, size, tint, kind * 16 + variant),
    by tile and then by rank.
    """
    col = (plants.east // tile_m).astype(np.int64)
    row = (plants.north // tile_m).astype(np.int64)
    tile = row * 65536 + col
    order = np.lexsort((plants.rank, tile))
    table = np.stack(
        [
            plants.east,
            plants.north,
            plants.up,
            plants.turn,
            plants.lean,
            plants.bearing,
            plants.size,
            plants.tint,
            plants.kind * 16.0 + plants.variant,
        ],
        1,
    ).astype("<f4")[order]
    sorted_tiles = tile[order]
    edges = np.flatnonzero(np.diff(sorted_tiles, prepend=-1, append=-1))
    return table.tobytes(), [
        [int(sorted_tiles[a] % 65536), int(sorted_tiles[a] // 65536), int(a), int(b)]
        for a, b in zip(edges[:-1], edges[1:])
    ]


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


def _pool_mask(mask: np.ndarray, grid) -> tuple[bytes, list[float]]:
    """Header of rows and columns (two uint32), then bytes 0 or 255 of the pool grown by two posts,
    and its bounds in m.
    """
    from scipy.ndimage import binary_dilation

    rows, cols = np.nonzero(mask)
    r0, r1 = max(rows.min() - 3, 0), min(rows.max() + 4, grid.ny)
    c0, c1 = max(cols.min() - 3, 0), min(cols.max() + 4, grid.nx)
    part = binary_dilation(mask[r0:r1, c0:c1], iterations=2).astype(np.uint8) * 255
    xs, ys = grid.xs(), grid.ys()
    return (
        np.array(part.shape, "<u4").tobytes() + part.tobytes(),
        [float(xs[c0]), float(ys[r1 - 1]), float(xs[c1 - 1]), float(ys[r0])],
    )


def _pictures(build: Build) -> dict[str, str]:
    """A small picture of what each entry alone contributes, by entry id."""
    out = {}
    scene = build.scene
    size = (52, 72)
    keys = build.land_keys()
    for i, entry in enumerate(scene.land):
        if entry.on:
            out[entry.id] = _product(
                key_of("relief", keys[i + 1]),
                lambda: png_bytes(
                    contribution(
                        build.land_step(i).heights,
                        build.land_step(i + 1).heights,
                        build.grid.spacing,
                        size,
                    )
                ),
            )
    shares = build.ground()
    for i, m in enumerate(scene.ground):
        out[m.id] = _product(
            key_of("wash", build.ground_key, i, build.means()[i].tolist()),
            lambda: png_bytes(washed(shares[i], build.means()[i], size)),
        )
    for i, s in enumerate(scene.planting):
        held = build.sowing_mask(i)
        held = np.ones(build.grid.shape, np.float32) if held is None else held
        colour = seen_colour(build.names(i)[max(range(len(s.mix)), key=lambda k: s.mix[k].share)])
        out[s.id] = _product(
            key_of("sown", build.sowing_key(i), colour),
            lambda: png_bytes(washed(held, colour, size)),
        )
    return out


def order(scene_id: int, client: str, document: Scene, draft: bool) -> Manifest:
    """Builds, unless a newer order of the same page comes; then Cancelled is raised."""
    with _guard:
        mine = _turns[scene_id, client] = _turns.get((scene_id, client), 0) + 1

    def check():
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


def stop(scene_id: int, client: str) -> None:
    """The order under way for this page ends at its next step."""
    with _guard:
        _turns[scene_id, client] = _turns.get((scene_id, client), 0) + 1


def _manifest(build: Build, draft: bool) -> Manifest:
    scene, grid = build.scene, build.grid
    heights = build.heights
    if not draft and build.seconds.get("land"):
        learn_land(scene, build.seconds["land"], grid.nx * grid.ny)
    forecasts = build.forecasts()
    _, masks = build.water()
    water = []
    for i, (w, wet) in enumerate(zip(scene.water, masks)):
        key, bounds = "", None
        if w.reach == "pool" and wet.any():
            key = key_of("pool", build.water_key, i)
            data, bounds = _pool_mask(wet, grid)
            _product(key, lambda: data)
        if w.reach == "stream" and wet.any():
            key = key_of("stream", build.water_key, i)
            _product(
                key, lambda: _bytes(surface_of(w, build.line(w.mark), heights, grid).astype("<f4"))
            )
        water.append(
            WaterLine(id=w.id, key=key, wet_m2=float(wet.sum()) * grid.spacing**2, bounds=bounds)
        )
    rings = []
    if scene.beyond.edge != "end" and not draft:
        clothes = [
            build.ground_key,
            [s.model_dump() for s in scene.planting],
            [(m.ground, m.texture, m.tint, m.bright, m.hue, m.saturation) for m in scene.ground],
        ]
        for ring in (1, 0):
            far, far_grid = build.beyond(ring)
            key = build.beyond_key(ring)
            rings.insert(
                0,
                FarLine(
                    grid=GridShape(
                        nx=far_grid.nx,
                        ny=far_grid.ny,
                        spacing=far_grid.spacing,
                        east_m=far_grid.east_m,
                        north_m=far_grid.north_m,
                    ),
                    heights=_product(key_of("far", key), lambda: _bytes(far.astype("<f4"))),
                    colour=_product(
                        key_of("far colour", key, clothes),
                        lambda: _bytes(build.beyond_colour(ring)),
                    ),
                ),
            )
    shares = build.ground()
    sown = []
    for i, s in enumerate(scene.planting):
        if not s.on:
            continue
        room = densest(aparts(s), [p.share for p in s.mix])
        wish = wished(s, build.sowing_mask(i), scene.plot.area_m2)
        capped = s.layout in ("natural", "clumped") and wish > room * 1.001
        if draft and forecasts[i] > 150_000:
            sown.append(
                SownLine(
                    id=s.id,
                    key="",
                    kinds=build.names(i),
                    counts=[],
                    room=_room(room),
                    wished=round(_wish(s, scene.plot.area_m2)),
                    count=round(forecasts[i]),
                    capped=capped,
                    tile_m=1,
                    tiles=[],
                )
            )
            continue
        tile_m = tile_size(min(wish, room) if s.layout in ("natural", "clumped") else 0.02)
        key = key_of("instances", build.sowing_key(i), tile_m)
        data, tiles = BYTES.once(key, lambda: _instances(build.plants(i), tile_m))
        counts = np.bincount(build.plants(i).kind, minlength=len(s.mix)).tolist()
        sown.append(
            SownLine(
                id=s.id,
                key=key,
                kinds=build.names(i),
                counts=counts,
                room=_room(room),
                wished=round(_wish(s, scene.plot.area_m2)),
                count=len(data) // 36,
                capped=capped,
                tile_m=tile_m,
                tiles=tiles,
            )
        )
    plants = sum(line.count for line in sown)
    posts = scene.plot.grid()
    full = posts.nx * posts.ny
    names = {n for line in sown for n in line.kinds} | {p["kind"] for p in build.pieces()}
    counts = [line.counts or [line.count] for line in sown]
    cost = Cost(
        plants=plants,
        plant_megabytes=round(plants * 40e-6 + sum(map(kind_megabytes, names)), 2),
        full_triangles=2 * full,
        full_megabytes=files_megabytes(
            counts, names, sum(m.on for m in scene.ground), full, 2048, GroundFiles(), PlantFiles()
        ),
    )
    bins = lambda field, low, high: (np.histogram(field, 64, (low, high))[0] / field.size).tolist()
    low, high = float(heights.min()), float(heights.max())
    return Manifest(
        grid=GridShape(nx=grid.nx, ny=grid.ny, spacing=grid.spacing),
        draft=draft,
        lowest=low,
        highest=high,
        heights=_product(key_of("heights", build.land_key), lambda: _bytes(heights.astype("<f4"))),
        weights=_product(key_of("weights", build.ground_key), lambda: _weights(build)),
        cover=_product(
            key_of(
                "cover bytes",
                build.water_key,
                [build.sowing_key(i) for i in range(len(scene.planting))],
                [(s.on, build.names(i)) for i, s in enumerate(scene.planting)],
            ),
            lambda: _cover(build),
        ),
        beyond=rings,
        water=water,
        shares={
            m.id: round(float(w.mean(dtype=np.float64)), 5) for m, w in zip(scene.ground, shares)
        },
        sown=sown,
        pieces=[
            PieceLine(
                id=p["id"],
                up_m=p["up_m"],
                kind=p["kind"] + ("" if p["look"] == "summer" else "~" + p["look"]),
            )
            for p in build.pieces()
        ],
        pictures={} if draft else _pictures(build),
        lacking=[Lacking(path=r.path, message=text) for r, text in missing(scene)]
        + [Lacking(path=path, message=text) for path, text in gone_kinds(scene)],
        slope_bins=bins(build.slope(), 0, 70),
        height_bins=bins(heights, low, max(high, low + 1e-3)),
        cost=cost,
        seconds={k: round(v, 4) for k, v in build.seconds.items()},
    )


def hand_over_megabytes(document: Scene, order: HandOver) -> tuple[float, int]:
    """Megabytes of the files, and the plants in them; what was sown for the view is counted,
    nothing is built anew in full.
    """
    build = draw_up(document)
    with COMPUTING:
        counts = _counts(build)
        names = {n for i, s in enumerate(document.planting) if s.on for n in build.names(i)} | {
            p["kind"] for p in build.pieces()
        }
    grid = document.plot.grid(order.posts)
    return files_megabytes(
        counts,
        names,
        sum(m.on for m in document.ground),
        grid.nx * grid.ny,
        order.ground_px,
        order.ground,
        order.plants,
    ), sum(map(sum, counts)) + len(document.pieces)


def learn_land(document: Scene, seconds: float, posts: int) -> None:
    """What a post of such a land takes: the least that was seen, as a first build also loads its
    kernels.
    """
    kinds = _land_kinds(document)
    _took[kinds] = min(_took.get(kinds, np.inf), seconds / posts)
    while len(_took) > 200:
        _took.pop(next(iter(_took)))


def _land_kinds(document: Scene) -> str:
    return " ".join(sorted(e.kind for e in document.land if e.on))


def hand_over_seconds(document: Scene, order: HandOver) -> tuple[float, float]:
    """Seconds of the land in full, from what it took for the view, and of all the rest at pace 1."""
    build = draw_up(document)
    with COMPUTING:
        counts = _counts(build)
    grid = document.plot.grid(order.posts)
    posts = grid.nx * grid.ny
    names = len(
        {n for i, s in enumerate(document.planting) if s.on for n in build.names(i)}
        | {p.kind for p in document.pieces}
    )
    full = Build(document, grid, WORK, Stored())
    land = (
        0.0
        if WORK.get("land " + full.land_keys()[-1]) is not None
        else _took.get(_land_kinds(document), 0.0) * posts
    )
    return land, files_seconds(
        0.0,
        counts,
        posts,
        sum(m.on for m in document.ground),
        order.ground_px,
        order.ground,
        order.plants,
        names,
    )


def _counts(build: Build) -> list[list[int]]:
    return [
        np.bincount(build.plants(i).kind, minlength=len(s.mix)).tolist()
        for i, s in enumerate(build.scene.planting)
        if s.on
    ]


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
            f"The model of a kind of “{owner}” is not here; a bare stake stands for it. Bring its file in again, or choose another kind.",
        )
        for path, owner, kind in named
        if kind.startswith("own-") and kind_of(kind).tags == GONE
    ]


def document_of(scene_id: int, order=None) -> Scene:
    """The document that an order brings with it, or the scene's head."""
    given = getattr(order, "document", None)
    return read_scene(given if given is not None else scenes.state(scene_id).document)


def draw_up(document: Scene, draft: bool = False) -> Build:
    """A build outside the page's own order, as for a survey; it is not stopped by newer ones."""
    return Build(
        document, document.plot.draft_grid() if draft else document.plot.view_grid(), WORK, Stored()
    )


def survey(document: Scene, order: SurveyOrder) -> SurveyAnswer:
    """One sheet of the survey as raw float32, with its histogram between the 1st and the 99th per
    cent.
    """
    build = draw_up(document, order.grid == "draft")
    if order.kind == "shows":
        entry = next((e for e in document.land if e.id == order.entry), None)
        label = f"Where {entry.name if entry else 'it'} shows"
        unit = ""
        log = False
        help = "1 where this land shows, 0 where other land hides it."
        key = key_of("shows", build.land_keys(), order.entry)
        make = lambda: build.cover(order.entry)
    elif order.kind in sheets:
        found = sheets[order.kind]
        label = found.label
        unit = found.unit
        log = found.log
        help = found.help
        asked = {"latitude": order.latitude, "day": order.day} if order.kind == "sunlit" else {}
        key = key_of("sheet", order.kind, asked, build.water_key)
        make = lambda: build.site().sheet(order.kind, **asked)
    else:
        raise SceneError(
            f"There is no survey sheet '{order.kind}'.", "kind", f"There are: {', '.join(sheets)}."
        )

    def work():
        with COMPUTING:
            field = make()
        low, high = (float(v) for v in np.percentile(field, (1, 99)))
        high = high if high > low else low + 1e-6
        return field, low, high

    field, low, high = WORK.once(key_of("survey", key), work)
    measured = np.clip(field, low, high)
    bins = (
        np.histogram(np.log10(np.maximum(measured, max(low, 1e-4))) if log else measured, 64)[0]
        / field.size
    )
    return SurveyAnswer(
        key=_product(key_of("survey bytes", key), lambda: _bytes(field.astype("<f4"))),
        label=label,
        unit=unit,
        log=log,
        help=help,
        grid=GridShape(nx=build.grid.nx, ny=build.grid.ny, spacing=build.grid.spacing),
        low=low,
        high=high,
        lowest=float(field.min()),
        highest=float(field.max()),
        mean=float(field.mean(dtype=np.float64)),
        bins=bins.tolist(),
    )


def from_history(document: Scene) -> bytes:
    """A small picture (PNG) of a document from above, clothed, on the draft grid."""
    build = Build(document, document.plot.draft_grid(), WORK, Stored())

    def draw():
        try:
            with COMPUTING:
                tone, cover = _tone(build), build.plant_cover()
                tone = tone + cover[..., 3:] * (
                    np.clip(cover[..., :3], 0, 1) ** (1 / 2.2) * 255 - tone
                )
                return png_bytes(
                    from_above(build.heights, build.grid.spacing, build.water()[0], tone, 96)
                )
        except SceneError:  # a state that can't be built has an empty picture, not none
            return png_bytes(np.full((72, 96, 3), PAPER, np.uint8))

    return BYTES.once(key_of("history picture", build.content_key(), build.land_key), draw)


def compare(a: Scene, b: Scene) -> CompareAnswer:
    """What differs between two documents; heights on the view grid of the second."""
    builds = [draw_up(a), draw_up(b)]
    answer = None
    raised = 0.0
    lowered = 0.0
    if (a.plot.width_m, a.plot.depth_m) == (b.plot.width_m, b.plot.depth_m):
        builds[0] = replace(builds[0], grid=builds[1].grid)
        with COMPUTING:
            field = builds[1].heights - builds[0].heights
        most = float(np.abs(field).max()) or 1e-6
        area = builds[1].grid.spacing ** 2
        raised = float(np.maximum(field, 0).sum(dtype=np.float64)) * area
        lowered = float(np.maximum(-field, 0).sum(dtype=np.float64)) * area
        key = key_of("difference", builds[0].land_key, builds[1].land_key)
        answer = SurveyAnswer(
            key=_product(key, lambda: _bytes(field.astype("<f4"))),
            label="Difference of heights",
            unit="m",
            log=False,
            help="Pale was lowered, dark was raised.",
            grid=GridShape(
                nx=builds[1].grid.nx, ny=builds[1].grid.ny, spacing=builds[1].grid.spacing
            ),
            low=-most,
            high=most,
            lowest=float(field.min()),
            highest=float(field.max()),
            mean=float(field.mean(dtype=np.float64)),
            bins=(np.histogram(field, 64, (-most, most))[0] / field.size).tolist(),
        )
    return CompareAnswer(
        differences=[PartDifference(**d) for d in differences(a, b)],
        heights=answer,
        raised_m3=raised,
        lowered_m3=lowered,
        plants=[round(sum(x.forecasts())) for x in builds],
    )


def mask_picture(document: Scene, mark: str) -> MaskPicture:
    """A mask of the marks on the view grid, as conditions see it."""
    build = draw_up(document)
    with COMPUTING:
        values = build.mask_answer(mark, build.grid)
    data = np.rint(values * 255).astype(np.uint8)
    key = key_of("mask picture", hashlib.sha256(data.tobytes()).hexdigest())
    return MaskPicture(
        key=_product(key, lambda: _bytes(data)),
        grid=GridShape(nx=build.grid.nx, ny=build.grid.ny, spacing=build.grid.spacing),
        share=float(values.mean(dtype=np.float64)),
    )


def _tone(build: Build) -> np.ndarray:
    """Colour of the clothed ground, 0..255 float (ny, nx, 3); paper where there are no materials."""
    shares = build.ground()
    if not len(shares):
        return np.broadcast_to(PAPER.astype(np.float32) * 0.85, build.grid.shape + (3,))
    means = np.array(build.means())
    colour = np.einsum("nyx,nc->yxc", shares, means)
    return np.clip(colour, 0, 1) ** (1 / 2.2) * 255


def proof(document: Scene, order: ProofOrder) -> bytes:
    """A small picture (PNG) of the land, from above or from a viewpoint, on the draft grid or a
    finer one.
    """
    index = next(
        (i for i, s in enumerate(document.planting) if s.id == order.sowing and s.on), None
    )
    build = (
        Build(
            document,
            document.plot.grid(min(document.plot.posts, 257 if order.fine else 129)),
            WORK,
            Stored(),
        )
        if index is None
        else draw_up(document)
    )
    heights = build.heights
    with COMPUTING:
        if order.pose is None and index is not None:
            return png_bytes(
                sown_from_above(
                    build,
                    index,
                    _tone(build),
                    order.width_px,
                    None
                    if order.east is None or order.north is None
                    else (order.east, order.north),
                )
            )
        if order.pose is None:
            return png_bytes(
                from_above(heights, build.grid.spacing, build.water()[0], None, order.width_px)
            )
        p = order.pose
        up = (
            p.up
            if p.up is not None
            else float(heights_at(heights, build.grid, p.east, p.north)[0]) + (p.eye or 1.7)
        )
        tone = _tone(build).copy()
        wet = np.isfinite(build.water()[0])
        tone[wet] = (112, 142, 160)
        drawn = np.where(wet, build.water()[0], heights)
        face = from_shot(
            drawn,
            build.grid,
            tone,
            {**p.model_dump(), "up": up},
            sun_direction(document.light),
            (order.height_px, order.width_px),
            document.light.haze_m,
        )
        return png_bytes(
            face
            if index is None
            else stand_before(
                face, build, index, {**p.model_dump(), "up": up}, document.light.haze_m
            )
        )


def product(key: str):
    """The bytes under a key, or None when they have left the cache."""
    value = BYTES.get(key)
    return value[0] if isinstance(value, tuple) else value
