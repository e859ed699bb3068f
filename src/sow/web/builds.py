"""Builds for the page: one manifest of keys, products as raw bytes, older builds stopped by newer ones."""
import os
import threading
import time

import numpy as np

from ..core.build import Build, Rasters
from ..core.cabinet import grounds, kind_of
from ..core.cache import Cache, key_of
from ..core.errors import Cancelled, SceneError
from ..core.formats.raster import png_bytes
from ..core.planting.place import densest
from ..core.planting.sowing import Plants
from ..core.scene import Scene
from ..core.surface.relief import contribution, washed
from ..store import rasters as kept_rasters
from .live import announce
from .shapes import Cost, GridShape, Manifest, PieceLine, SownLine, WaterLine

WORK = Cache(int(os.environ.get("SOW_CACHE_BYTES", 1200 << 20)))
BYTES = Cache(int(os.environ.get("SOW_BYTES", 600 << 20)))
_turns: dict[tuple[int, str], int] = {}
_guard = threading.Lock()


class Stored(Rasters):
    """Rasters of the store; their name is the hash of their content."""

    def load(self, name: str) -> np.ndarray:
        def fetch():
            values = kept_rasters.load(name)
            if values is None:
                raise SceneError("The picture is not in the store.", "", "Drop its file on the page again.")
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
    out[:len(shares)] = np.rint(shares * 255)
    return _bytes(out.reshape(layers, 4, *build.grid.shape).transpose(0, 2, 3, 1))


def _cover(build: Build) -> bytes:
    """RGBA bytes: square root of linear colour, share hidden."""
    cover = build.cover()
    return _bytes(np.dstack([np.rint(np.sqrt(np.clip(cover[..., :3], 0, 1)) * 255), np.rint(cover[..., 3:] * 255)]).astype(np.uint8))


def tile_size(density_per_m2: float) -> float:
    """Tiles of some hundred plants, 8 to 128 m."""
    return float(np.clip(2.0 ** np.round(np.log2(np.sqrt(300 / max(density_per_m2, 1e-6)))), 8, 128))


def _instances(plants: Plants, names: list[str], tile_m: float) -> tuple[bytes, list[list[int]]]:
    """Nine floats a plant (east, north, up, turn, lean, bearing, size, tint, kind * 16 + variant), by tile and then by rank."""
    col, row = (plants.east // tile_m).astype(np.int64), (plants.north // tile_m).astype(np.int64)
    tile = row * 65536 + col
    order = np.lexsort((plants.rank, tile))
    table = np.stack([plants.east, plants.north, plants.up, plants.turn, plants.lean, plants.bearing, plants.size, plants.tint,
                      plants.kind * 16.0 + plants.variant], 1).astype("<f4")[order]
    sorted_tiles = tile[order]
    edges = np.flatnonzero(np.diff(sorted_tiles, prepend=-1, append=-1))
    return table.tobytes(), [[int(sorted_tiles[a] % 65536), int(sorted_tiles[a] // 65536), int(a), int(b)]
                             for a, b in zip(edges[:-1], edges[1:])]


def _pool_mask(mask: np.ndarray, grid) -> tuple[bytes, list[float]]:
    """Header of rows and columns (two uint32), then bytes 0 or 255 of the pool grown by two posts, and its bounds in m."""
    from scipy.ndimage import binary_dilation
    rows, cols = np.nonzero(mask)
    r0, r1 = max(rows.min() - 3, 0), min(rows.max() + 4, grid.ny)
    c0, c1 = max(cols.min() - 3, 0), min(cols.max() + 4, grid.nx)
    part = binary_dilation(mask[r0:r1, c0:c1], iterations=2).astype(np.uint8) * 255
    xs, ys = grid.xs(), grid.ys()
    return (np.array(part.shape, "<u4").tobytes() + part.tobytes(),
            [float(xs[c0]), float(ys[r1 - 1]), float(xs[c1 - 1]), float(ys[r0])])


def _pictures(build: Build) -> dict[str, str]:
    """A small picture of what each entry alone contributes, by entry id."""
    out, scene, size = {}, build.scene, (52, 72)
    steps, keys = build.land_steps(), build.land_keys()
    for i, entry in enumerate(scene.land):
        out[entry.id] = _product(key_of("relief", keys[i + 1]), lambda: png_bytes(
            contribution(steps[i], steps[i + 1], build.grid.spacing, size)))
    shares = build.ground()
    for i, m in enumerate(scene.ground):
        out[m.id] = _product(key_of("wash", build.ground_key, i, m.ground), lambda: png_bytes(washed(shares[i], grounds[m.ground].mean(), size)))
    for i, s in enumerate(scene.planting):
        held = build.sowing_mask(i)
        held = np.ones(build.grid.shape, np.float32) if held is None else held
        colour = kind_of(max(s.mix, key=lambda p: p.share).kind).colour
        out[s.id] = _product(key_of("sown", build.sowing_key(i)), lambda: png_bytes(washed(held, colour, size)))
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
    forecasts = build.forecasts()
    _, masks = build.water()
    water = []
    for i, (w, wet) in enumerate(zip(scene.water, masks)):
        key, bounds = "", None
        if w.reach == "pool" and wet.any():
            key = key_of("pool", build.water_key, i)
            data, bounds = _pool_mask(wet, grid)
            _product(key, lambda: data)
        water.append(WaterLine(id=w.id, key=key, wet_m2=float(wet.sum()) * grid.spacing**2, bounds=bounds))
    beyond_key, beyond_colour, beyond_grid = None, None, None
    if scene.plot.runs_on and not draft:
        far, far_grid = build.beyond()
        beyond_key = _product(key_of("far", build.land_key, build.land_keys(far_grid)[-1]), lambda: _bytes(far.astype("<f4")))
        beyond_colour = _product(key_of("far colour", beyond_key, build.ground_key, [s.model_dump() for s in scene.planting],
                                        [(m.ground, m.tint, m.bright) for m in scene.ground]), lambda: _bytes(build.beyond_colour()))
        beyond_grid = GridShape(nx=far_grid.nx, ny=far_grid.ny, spacing=far_grid.spacing, east_m=far_grid.east_m, north_m=far_grid.north_m)
    shares = build.ground()
    sown = []
    for i, s in enumerate(scene.planting):
        if not s.on:
            continue
        capped = s.density / 100 > densest(s.apart_m) * 1.001
        if draft and forecasts[i] > 150_000:
            sown.append(SownLine(id=s.id, key="", count=round(forecasts[i]), capped=capped, tile_m=1, tiles=[]))
            continue
        tile_m = tile_size(min(s.density / 100, densest(s.apart_m)))
        key = key_of("instances", build.sowing_key(i), tile_m)
        data, tiles = BYTES.once(key, lambda: _instances(build.plants(i), [p.kind for p in s.mix], tile_m))
        sown.append(SownLine(id=s.id, key=key, count=len(data) // 36, capped=capped, tile_m=tile_m, tiles=tiles))
    plants = sum(line.count for line in sown)
    posts = scene.plot.grid()
    full = posts.nx * posts.ny
    ratio = full / (grid.nx * grid.ny)
    cost = Cost(plants=plants, full_triangles=2 * full, full_megabytes=(full * (6 + len(scene.ground) * 0.3) + plants * 80) / 1e6 + 22,
                full_seconds=round(sum(build.seconds.get(k, 0) for k in ("land", "ground")) * ratio + full * 2.5e-6 + plants * 6e-6 + 3, 1))
    bins = lambda field, low, high: (np.histogram(field, 64, (low, high))[0] / field.size).tolist()
    low, high = float(heights.min()), float(heights.max())
    return Manifest(
        grid=GridShape(nx=grid.nx, ny=grid.ny, spacing=grid.spacing), draft=draft, lowest=low, highest=high,
        heights=_product(key_of("heights", build.land_key), lambda: _bytes(heights.astype("<f4"))),
        weights=_product(key_of("weights", build.ground_key), lambda: _weights(build)),
        cover=_product(key_of("cover bytes", build.water_key, [build.sowing_key(i) for i in range(len(scene.planting))],
                              [s.on for s in scene.planting]), lambda: _cover(build)),
        beyond=beyond_key, beyond_colour=beyond_colour, beyond_grid=beyond_grid, water=water,
        shares={m.id: round(float(w.mean(dtype=np.float64)), 5) for m, w in zip(scene.ground, shares)}, sown=sown,
        pieces=[PieceLine(id=p["id"], up_m=p["up_m"]) for p in build.pieces()], pictures={} if draft else _pictures(build),
        slope_bins=bins(build.slope(), 0, 70), height_bins=bins(heights, low, max(high, low + 1e-3)), cost=cost,
        seconds={k: round(v, 4) for k, v in build.seconds.items()})


def product(key: str):
    """The bytes under a key, or None when they have left the cache."""
    value = BYTES.get(key)
    return value[0] if isinstance(value, tuple) else value
