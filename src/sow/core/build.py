"""Scene to products, each made once for its content key."""
import threading
import time
from dataclasses import dataclass, field, replace
from typing import Callable

import numpy as np
from scipy.ndimage import map_coordinates

from .cabinet import grounds, kind_of
from .cache import Cache, key_of
from .errors import SceneError
from .land.base import Below, Frame, Step, join, landforms, processes
from .marks.shapes import clear_of
from .planting.sowing import Plants, forecast, ground_mask, refuse_too_many, sow
from .plot import Grid
from .sample import heights_at
from .scene import Scene
from .surface.material import tint_of, weights
from .survey.slope import normals, slope
from .water.standing import levels
from .where import Site, mask

COMPUTING = threading.RLock()  # one build at a time: its kernels use every core


class Rasters:
    """Where a scene's rasters come from. This one has none; the store and the scene folder have their own."""

    def load(self, name: str) -> np.ndarray:
        raise SceneError(f"The raster '{name}' is missing.", "", "Put it beside the scene, or choose another.")

    def key(self, name: str) -> str:
        return name


def _bell(t: np.ndarray) -> np.ndarray:
    """1 at 0, falling smoothly to 0 at -1 and 1."""
    t = np.clip(np.abs(t), 0, 1)
    return 1 - t * t * (3 - 2 * t)


@dataclass
class Build:
    """One scene on one grid. Ask for a product; what it needs is made on the way.

    `tell(step, share)` hears of progress; `check()` may raise Cancelled. `seconds` gathers the time of each step.
    """

    scene: Scene
    grid: Grid
    cache: Cache
    rasters: Rasters = field(default_factory=Rasters)
    tell: Callable[[str, float], None] = lambda step, share: None
    check: Callable[[], None] = lambda: None
    seconds: dict = field(default_factory=dict)

    def _once(self, step: str, key: str, make):
        def timed():
            self.check()
            start = time.perf_counter()
            with COMPUTING:
                value = make()
            self.seconds[step] = self.seconds.get(step, 0) + time.perf_counter() - start
            return value
        return self.cache.once(key, timed)

    # ---- land
    def land_keys(self, grid: Grid | None = None, entries: list | None = None) -> list[str]:
        """Content key of the land after each entry; the first is that of flat ground."""
        plot = self.scene.plot
        keys = [key_of("flat", vars(grid or self.grid), plot.seed, plot.width_m, plot.depth_m, plot.support_m)]
        for entry in self.scene.land if entries is None else entries:
            if not entry.on:
                keys.append(keys[-1])
                continue
            values = entry.model_dump(exclude={"id", "name", "group"})
            raster = getattr(entry, "raster", "")
            own = [getattr(entry, "mark", ""), *(s.picture for s in getattr(entry, "strokes", []))]
            deep = [c for s in getattr(entry, "strokes", []) for c in s.where]
            keys.append(key_of(keys[-1], values, self.rasters.key(raster) if raster else "", self._mark_keys([*entry.where, *deep], own), self._frames([*entry.where, *deep])))
        return keys

    def _mark_keys(self, where: list, more: list = ()) -> list[str]:
        """What the marks hold that these conditions, or the ids in `more`, refer to."""
        named = {m.id: m for m in self.scene.marks}
        used = [named.get(i) for i in [*(c.mark for c in where if hasattr(c, "mark")), *more]]
        return ["" if m is None else (self.rasters.key(m.raster) if m.raster else "") if m.kind == "mask" else key_of(m.kind, m.points, m.smooth) for m in used]

    def _clearing_key(self, sowing_id: str) -> list:
        return [(m.id, m.points, m.smooth, m.kind, m.clear_m, m.clear_soft_m) for m in self.scene.marks if m.kind != "mask" and m.on and m.clearing and sowing_id not in m.clear_except]

    def _frame(self, entry_id: str):
        """The frame of a landform by its id, or None."""
        entry = next((e for e in [*self.scene.land, *self.scene.beyond.land] if e.id == entry_id and hasattr(e, "frame")), None)
        return entry.frame(self.scene.plot) if entry else None

    def _frames(self, where: list) -> list:
        return [vars(f) if (f := self._frame(c.bound)) else None for c in where if c.kind == "mask"]

    def _walk(self, grid: Grid, entries: list, keys: list[str], upto: int, where_path: str) -> Step:
        """The land after `upto` entries: from the newest one that is kept, onward."""
        start = upto
        while start > 0 and self.cache.get("land " + keys[start]) is None:
            start -= 1
        step = self.cache.get("land " + keys[start]) if start else Step(np.zeros(grid.shape, np.float32))
        for i in range(start, upto):
            entry = entries[i]
            if not entry.on:
                continue
            self.tell(entry.name, i / max(len(entries), 1))
            below = step
            step = self._once("land", "land " + keys[i + 1], lambda: self._land_entry(f"{where_path}.{i}", entry, below, grid))
        return step

    def land_step(self, upto: int | None = None, grid: Grid | None = None) -> Step:
        """The land after the first `upto` entries (all when None), with the maps that they left."""
        upto = len(self.scene.land) if upto is None else upto
        grid = grid or self.grid
        return self._walk(grid, self.scene.land, self.land_keys(grid), upto, "land")

    def land_steps(self) -> list[np.ndarray]:
        """Heights (float32 m) of flat ground and after each entry."""
        return [self.land_step(i).heights for i in range(len(self.scene.land) + 1)]

    def _land_entry(self, path: str, entry, under: Step, grid: Grid) -> Step:
        once = lambda name, make: self.cache.once(key_of("part", entry.kind, name), make)
        site = self._site(under.heights, grid, "land", maps=under.maps, before=entry.id)
        below = Below(under.heights, grid, self.scene.plot, lambda name: self._raster(name, f"{path}.raster"), path, self.check, once,
                      ask=lambda where, place: mask(where, site, place), picture=lambda mark: self._picture(mark, f"{path}.picture"),
                      drawn=lambda mark_id: next((m for m in self.scene.marks if m.id == mark_id and m.kind != "mask"), None))
        try:
            held = mask(entry.where, site, f"{path}.where")
            if entry.kind in landforms.functions:
                step = join(under, landforms.functions[entry.kind](entry, below), entry, held)
            else:
                result = processes.functions[entry.kind](entry, below)
                if held is not None:
                    result = under.heights + held * (result - under.heights)
                maps = dict(under.maps)
                for name, metres in below.maps.items():
                    metres = metres if held is None else metres * held
                    maps[name] = maps[name] + metres if name in maps else metres
                step = Step(np.ascontiguousarray(result, np.float32), maps)
        except SceneError as e:
            raise SceneError(e.message, e.path or path, e.advice, entry.name) from None
        except MemoryError:
            raise SceneError("There is not enough memory for this step.", path, "Choose a smaller grid.", entry.name) from None
        if not np.isfinite(step.heights).all():
            raise SceneError("It makes heights that are not numbers.", path, "Reduce its height or strength.", entry.name)
        return step

    def cover(self, entry_id: str, grid: Grid | None = None) -> np.ndarray:
        """Where the land of one landform shows, float32 0..1: what it wins, less what later ones take from it."""
        grid, entries = grid or self.grid, self.scene.land
        index = next((i for i, e in enumerate(entries) if e.id == entry_id), None)
        if index is None or not entries[index].on:
            return np.zeros(grid.shape, np.float32)
        key = key_of("cover", entry_id, self.land_keys(grid))

        def make():
            own = self.land_step(index + 1, grid).shows
            shows = np.ones(grid.shape, np.float32) if own is None else own.astype(np.float32) / 255
            for i in range(index + 1, len(entries)):
                takes = self.land_step(i + 1, grid).takes if entries[i].on else None
                if takes is not None:
                    shows *= 1 - takes.astype(np.float32) / 255
            return shows
        return self.cache.once(key, make)

    def _raster(self, name: str, path: str) -> np.ndarray:
        try:
            return self.rasters.load(name)
        except SceneError as e:
            raise SceneError(e.message, path, e.advice) from None

    def _site(self, heights, grid, stage, water=None, maps=None, before="") -> Site:
        def cover(entry_id, path):
            ids = [e.id for e in self.scene.land]
            if entry_id not in ids:
                raise SceneError("No landform is chosen." if not entry_id else f"There is no landform '{entry_id}'.", f"{path}.landform", "Choose one of the land.")
            if before and ids.index(entry_id) >= (ids.index(before) if before in ids else 0):
                raise SceneError("A land entry sees only the land before it.", f"{path}.landform", "Choose an earlier landform.")
            return self.cover(entry_id, grid)
        maps = self.land_step(grid=grid).maps if maps is None else maps
        return Site(heights, grid, self.scene.plot, stage, water, lambda c, path: self._mark(c, path, grid), maps, cover, self._drawn)

    def _drawn(self, mark_id: str, wanted: str, path: str):
        """A line or an area of the marks; where a line is wanted an area's edge serves too."""
        mark = next((m for m in self.scene.marks if m.id == mark_id and m.kind != "mask"), None)
        if mark is None or (wanted == "area" and mark.kind != "area"):
            raise SceneError(f"No {wanted} is chosen." if not mark_id else f"There is no {wanted} '{mark_id}'.", path, f"Draw {'an area' if wanted == 'area' else 'a line'} under Marks, then choose it here.")
        return mark

    def site(self, stage: str = "planting") -> Site:
        """What is known of the finished land, for a survey."""
        return self._site(self.heights, self.grid, stage, self.water()[0])

    def _picture(self, mark_id: str, path: str) -> np.ndarray:
        """A mask's picture as it is, float32 0..1."""
        mark = next((m for m in self.scene.marks if m.id == mark_id and m.kind == "mask"), None)
        if mark is None or not mark.raster:
            raise SceneError("No mask is chosen." if not mark_id else f"There is no mask '{mark_id}' with a picture.", path,
                             "Drop a mask picture on the page under Marks, then choose it here.")
        values = self._raster(mark.raster, path)
        return (values / np.float32(255.0 if values.dtype == np.uint8 else 65535.0 if values.dtype == np.uint16 else 1.0)).astype(np.float32)

    def _mark(self, condition, path: str, grid: Grid) -> np.ndarray:
        values = self._picture(condition.mark, f"{path}.mark")
        frame = self._frame(condition.bound) if condition.bound else None
        if condition.bound and frame is None:
            raise SceneError(f"The mask is bound to a landform '{condition.bound}' that is not there.", f"{path}.bound", "Bind it to another, or to the plot.")
        plot = self.scene.plot
        frame = frame or Frame(plot.width_m / 2, plot.depth_m / 2, plot.width_m, plot.depth_m)
        across, along = frame.local(grid)
        rows = (0.5 - along / np.float32(frame.depth_m)) * np.float32(values.shape[0] - 1)
        cols = (across / np.float32(frame.width_m) + 0.5) * np.float32(values.shape[1] - 1)
        kind = dict(order=1, mode="constant", cval=0.0) if condition.bound else dict(order=1, mode="nearest")
        return np.clip(map_coordinates(values, [rows, cols], np.float32, **kind), 0, 1)

    @property
    def heights(self) -> np.ndarray:
        return self.land_step().heights

    @property
    def land_key(self) -> str:
        return key_of(*self.land_keys())

    # ---- beyond the plot
    def beyond_key(self, ring: int) -> str:
        b = self.scene.beyond
        grid = self.scene.plot.beyond_grid(ring, b.reach_km)
        own = self.land_keys(grid, b.land) if b.land else []
        return key_of("beyond", ring, self.land_key, self.land_keys(grid), own, b.model_dump(exclude={"land"}))

    def beyond(self, ring: int = 0) -> tuple[np.ndarray, Grid]:
        """Far land on a coarse grid around the plot (ring 0) or around that (ring 1), joined to what lies within.

        Its own landforms if it has any, moved, turned and sized as a whole; else the plot's own run on. The step between the two
        fades over `join_m`. By `edge` the land fades to a level, rises as a rim, or runs on.
        """
        b, plot = self.scene.beyond, self.scene.plot
        grid = plot.beyond_grid(ring, b.reach_km)

        def make():
            self.tell("far land", 0.5)
            if b.land:
                keys = self.land_keys(grid, b.land)
                far = self._walk(grid, b.land, keys, len(b.land), "beyond.land").heights
                if b.turn or b.size != 100 or b.east_m or b.north_m:
                    frame = Frame(plot.width_m / 2 + b.east_m, plot.depth_m / 2 + b.north_m, 1, 1, b.turn)
                    across, along = frame.local(grid)
                    k = np.float32(100 / b.size)
                    far = map_coordinates(far, [grid.rows_of(plot.depth_m / 2 + along * k), grid.cols_of(plot.width_m / 2 + across * k)], np.float32, order=1, mode="mirror")
                far = far + np.float32(b.lift_m)
            else:
                far = self.land_step(grid=grid).heights
            if ring == 0:
                within, inner, west, south, east, north = self.heights, self.grid, 0.0, 0.0, plot.width_m, plot.depth_m
            else:
                within, inner = self.beyond(0)
                west, south, east, north = inner.east_m, inner.north_m, inner.east_m + inner.width_m, inner.north_m + inner.depth_m
            x, y = np.meshgrid(grid.xs(), grid.ys())
            off_plot = np.hypot(x - np.clip(x, 0, plot.width_m), y - np.clip(y, 0, plot.depth_m)).astype(np.float32)
            if b.edge == "fade":
                far = np.full_like(far, np.float32(b.level_m))
            if b.edge == "rise":
                far = far + np.float32(b.rise_m) * _bell(off_plot / np.float32(b.join_m) - 1)
            cx, cy = np.clip(x, west, east), np.clip(y, south, north)
            away = np.hypot(x - cx, y - cy).astype(np.float32)
            edge = heights_at(within, inner, cx.ravel(), cy.ravel()).reshape(grid.shape)
            step = edge - heights_at(far, grid, cx.ravel(), cy.ravel()).reshape(grid.shape)
            t = np.clip(away / np.float32(b.join_m if ring == 0 else plot.longer_m), 0, 1)
            return np.where(away == 0, edge, far + step * (1 - t * t * (3 - 2 * t))).astype(np.float32)
        return self._once("beyond", self.beyond_key(ring), make), grid

    def beyond_colour(self, ring: int = 0) -> np.ndarray:
        """What clothes the far land, seen from afar: square root of linear colour, uint8 (ny, nx, 4)."""
        heights, grid = self.beyond(ring)
        far = replace(self, grid=grid)
        site = Site(heights, grid, self.scene.plot, "planting", levels(self.scene.water, heights, grid)[0], lambda c, path: self._mark(c, path, grid),
                    self.land_step(grid=grid).maps if not self.scene.beyond.land else {}, lambda entry_id, path: self.cover(entry_id, grid), self._drawn)
        shares = weights(self.scene.ground, site)
        means = [grounds[m.ground].mean() * tint_of(m) for m in self.scene.ground]
        colour = np.einsum("nyx,nc->yxc", shares, np.array(means)) if means else np.full(grid.shape + (3,), 0.2)
        cover = far._cover([ground_mask(s, site, f"planting.{i}") if s.on else None for i, s in enumerate(self.scene.planting)])
        colour = colour + cover[..., 3:] * (cover[..., :3] - colour)
        return np.dstack([np.rint(np.sqrt(np.clip(colour, 0, 1)) * 255), np.full(grid.shape, 255)]).astype(np.uint8)

    # ---- survey, water, ground
    def normals(self) -> np.ndarray:
        return self._once("survey", key_of("normals", self.land_key), lambda: normals(self.heights, self.grid.spacing))

    def slope(self) -> np.ndarray:
        return self._once("survey", key_of("slope", self.land_key),
                          lambda: slope(self.heights, self.grid.spacing, self.scene.plot.support_m))

    @property
    def water_key(self) -> str:
        return key_of("water", self.land_key, [w.model_dump(include={"on", "level_m", "reach", "east_m", "north_m"})
                                               for w in self.scene.water])

    def water(self) -> tuple[np.ndarray, list[np.ndarray]]:
        return self._once("water", self.water_key, lambda: levels(self.scene.water, self.heights, self.grid))

    @property
    def ground_key(self) -> str:
        rules = [(m.on, m.cover, m.model_dump()["where"], self._mark_keys(m.where), self._frames(m.where)) for m in self.scene.ground]
        return key_of("ground", self.water_key, rules)

    def ground(self) -> np.ndarray:
        """Weights of the materials, float32 (count, ny, nx)."""
        def make():
            self.tell("materials", 0)
            return weights(self.scene.ground, self._site(self.heights, self.grid, "ground", self.water()[0]))
        return self._once("ground", self.ground_key, make)

    # ---- planting
    def sowing_key(self, index: int) -> str:
        s = self.scene.planting[index]
        return key_of("sowing", self.water_key, s.model_dump(exclude={"id", "name"}), self._mark_keys(s.where), self._frames(s.where), self._clearing_key(s.id))

    def sowing_mask(self, index: int) -> np.ndarray | None:
        s = self.scene.planting[index]
        key = key_of("mask", self.water_key, s.model_dump(include={"where", "wet"}), self._mark_keys(s.where), self._frames(s.where), self._clearing_key(s.id))

        def make():
            held = ground_mask(s, self._site(self.heights, self.grid, "planting", self.water()[0]), f"planting.{index}")
            free = clear_of(self.scene.marks, s.id, self.grid)
            return [free if held is None else held if free is None else held * free]
        return self._once("where", key, make)[0]

    def forecasts(self) -> list[float]:
        """Plants of each sowing before they are placed. Raises SceneError when they are too many."""
        out = []
        for i, s in enumerate(self.scene.planting):
            own = forecast(s, self.sowing_mask(i), self.scene.plot.area_m2) if s.on else 0.0
            out.append(own)
            refuse_too_many(sum(out), s, own, f"planting.{i}")
        return out

    def plants(self, index: int) -> Plants:
        s = self.scene.planting[index]

        def make():
            self.tell(s.name, index / len(self.scene.planting))
            return sow(s, self._site(self.heights, self.grid, "planting", self.water()[0]), self.normals(),
                       f"planting.{index}", self.sowing_mask(index))
        return self._once("planting", self.sowing_key(index), make)

    def _cover(self, masks: list) -> np.ndarray:
        left = np.ones(self.grid.shape, np.float32)
        colour = np.zeros(self.grid.shape + (3,), np.float32)
        for s, held in reversed(list(zip(self.scene.planting, masks))):
            if not s.on:
                continue
            total = sum(p.share for p in s.mix) or 1
            size = ((s.stance.smallest + s.stance.largest) / 200) ** 2
            each = sum(p.share / total * kind_of(p.kind).cover_m2 for p in s.mix) * size
            tint = sum(np.array(kind_of(p.kind).colour) * p.share / total for p in s.mix)
            hidden = 1 - np.exp(-np.float32(s.density / 100 * each) * (1 if held is None else held))
            colour += (left * hidden)[..., None] * tint.astype(np.float32)
            left = left * (1 - hidden)
        hides = 1 - left
        return np.dstack([colour / np.maximum(hides, 1e-4)[..., None], hides]).astype(np.float32)

    def plant_cover(self) -> np.ndarray:
        """What the plants look like from afar: linear colour and share of ground hidden, float32 (ny, nx, 4)."""
        make = lambda: self._cover([self.sowing_mask(i) if s.on else None for i, s in enumerate(self.scene.planting)])
        keys = [(self.sowing_key(i), s.on) for i, s in enumerate(self.scene.planting)]
        return self._once("cover", key_of("plant cover", keys, self.water_key), make)

    def pieces(self) -> list[dict]:
        """Pieces placed by hand, each with its height on the ground."""
        out = []
        for p in self.scene.pieces:
            if p.on:
                up = float(heights_at(self.heights, self.grid, p.east_m, p.north_m)[0]) - p.sink_cm / 100
                out.append({**p.model_dump(), "up_m": up, "variant": p.variant % len(kind_of(p.kind).variants)})
        return out

    def content_key(self) -> str:
        """Key of everything that ends in a file."""
        keys = [self.sowing_key(i) for i in range(len(self.scene.planting))]
        return key_of(self.ground_key, keys, self.scene.model_dump(include={"ground", "pieces", "light", "shots", "name"}))

