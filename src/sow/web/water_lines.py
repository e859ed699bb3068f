"""What the page is told of the waters of a build."""

import numpy as np
from scipy.ndimage import binary_dilation

from ..core.build import Build
from ..core.build.waters import (
    eddies_in,
    foam_in,
    ice_in,
    remarks,
    sea_in,
    shore_in,
    shore_key,
    spine_in,
    wakes_in,
)
from ..core.cache import key_of
from ..core.plot import Grid
from ..core.water.field import tiles_of
from ..core.water.flow import flow_along
from ..core.water.foam import drift_of
from ..core.water.moving import ShoreWaves
from ..core.water.spectrum import Sea
from .shapes.builds import EddyLine, SeaLine, WakeLine, WaterLine, WaveTile
from .working import product_key, raw_bytes

MOST_S = 1000.0  # of the time to a shore that is told


def water_lines(build: Build, draft: bool) -> list[WaterLine]:
    """Each water with its waves, its shore or its surface, and what stands in it; in a draft the
    pieces alone.
    """
    level, masks = build.water()
    area = build.grid.spacing**2
    out = []
    for i, (w, wet) in enumerate(zip(build.scene.water, masks)):
        sea = sea_in(build, i)
        deep = np.clip(level - build.heights, 0, None)[wet]
        out.append(
            WaterLine(
                id=w.id,
                key=_key(build, i, sea) if wet.any() else "",
                sea=_sea(sea),
                around=_around(build, i, draft) if wet.any() else "",
                wakes=_wakes(build, i) if wet.any() else [],
                ice=_ice(build, i),
                eddies=_eddies(build, i, draft) if wet.any() else None,
                runs=w.reach == "stream",
                wet_m2=float(wet.sum()) * area,
                told=remarks(build, i),
                wet_m3=float(deep.sum(dtype=np.float64)) * area,
                bounds=_bounds(wet, build.grid) if w.reach == "pool" and wet.any() else None,
            )
        )
    return out


def _key(build: Build, index: int, sea: Sea) -> str:
    w = build.scene.water[index]
    if w.reach != "stream":
        wet = build.water()[1][index]
        key = key_of("shore bytes", shore_key(build, index, sea))
        return product_key(key, lambda: _shore_bytes(shore_in(build, index), wet))

    def stream() -> bytes:
        surface = spine_in(build, index)
        told = np.column_stack([surface, *flow_along(surface, w.deep_m)])
        return raw_bytes(told.astype("<f4"))

    return product_key(key_of("stream", build.water_key, index), stream)


def _wakes(build: Build, index: int) -> list[WakeLine]:
    if build.scene.water[index].reach == "stream":
        return []
    return [WakeLine(**vars(w), high_m=w.high_m) for w in wakes_in(build, index)]


def _eddies(build: Build, index: int, draft: bool) -> EddyLine | None:
    if build.scene.water[index].reach != "stream":
        return None
    eddies = eddies_in(build, index, not draft)
    if eddies is None:
        return None
    rows, columns = eddies.strip.shape[:2]
    data = raw_bytes(eddies.strip.astype("<f2"))
    key = product_key(key_of("eddies", data.hex()), lambda: data)
    return EddyLine(key=key, rows=rows, columns=columns, long_m=eddies.long_m)


def _ice(build: Build, index: int) -> str:
    thick = ice_in(build, index)
    if thick is None:
        return ""
    w = build.scene.water[index]
    key = key_of("ice bytes", build.water_key, index, w.frozen, w.ice_cm)
    return product_key(key, lambda: raw_bytes(thick.astype("<f2")))


def _around(build: Build, index: int, draft: bool) -> str:
    sown = [build.sowing_key(k) for k in range(len(build.scene.planting))]
    pieces = [p.model_dump(exclude={"name"}) for p in build.scene.pieces]
    waters = [w.model_dump(exclude={"name"}) for w in build.scene.water]
    key = key_of("foam about", build.water_key, index, pieces, waters, [] if draft else sown)
    return product_key(key, lambda: raw_bytes(foam_in(build, index, not draft).astype("<f4")))


def _sea(sea: Sea) -> SeaLine:
    tiles = tiles_of(sea)

    def waves() -> bytes:
        parts = [part for t in tiles for part in (t.high.real, t.high.imag, t.omega)]
        return raw_bytes(np.stack(parts).astype("<f4")) if parts else b""

    return SeaLine(
        high_m=sea.high_m,
        long_m=sea.long_m,
        peak=sea.peak,
        period_s=sea.period_s,
        drift=[*drift_of(sea), sea.loop_s],
        comes_back=max(1, round(sea.loop_s / sea.period_s)) if sea.loop_s else 0,
        tiles=[
            WaveTile(side_m=t.side_m, turn=t.turn, steep=t.steep, band=list(t.band)) for t in tiles
        ],
        waves=product_key(key_of("waves", vars(sea)), waves) if tiles else "",
    )


def _shore_bytes(shore: ShoreWaves, wet: np.ndarray) -> bytes:
    near = binary_dilation(wet, iterations=2)
    told = [
        np.clip(shore.time, -MOST_S, MOST_S),
        near,
        shore.open_to,
        np.clip(shore.deep, -99, 999),
    ]
    return raw_bytes(np.stack(told, -1).astype("<f2"))


def _bounds(wet: np.ndarray, grid: Grid) -> list[float]:
    """West, south, east, north of what is wet and a little around it, m."""
    rows, columns = np.nonzero(wet)
    xs, ys = grid.xs(), grid.ys()
    west, east = xs[max(columns.min() - 3, 0)], xs[min(columns.max() + 3, grid.nx - 1)]
    south, north = ys[min(rows.max() + 3, grid.ny - 1)], ys[max(rows.min() - 3, 0)]
    return [float(west), float(south), float(east), float(north)]
