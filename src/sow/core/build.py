"""Scene to products, each made once for its content key."""
import threading
import time
from dataclasses import dataclass, field, replace
from typing import Callable

import numpy as np

from .cabinet import grounds, kind_of
from .cache import Cache, key_of
from .errors import SceneError
from .land.base import Below, join, landforms, processes
from .planting.sowing import Plants, forecast, ground_mask, refuse_too_many, sow
from .plot import Grid
from .sample import heights_at, resample
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
    def land_keys(self, grid: Grid | None = None) -> list[str]:
        """Content key of the land after each entry; the first is that of flat ground."""
        plot = self.scene.plot
        keys = [key_of("flat", vars(grid or self.grid), plot.seed, plot.width_m, plot.depth_m, plot.support_m)]
        for entry in self.scene.land:
            values = entry.model_dump(exclude={"id", "name"})
            raster = getattr(entry, "raster", "")
            keys.append(key_of(keys[-1], values, self.rasters.key(raster) if raster else "", self._mark_keys(entry.where)))
        return keys

    def _mark_keys(self, where: list) -> list[str]:
        named = {m.id: m for m in self.scene.marks}
        used = [named.get(c.mark) for c in where if c.kind == "mask"]
        return [self.rasters.key(m.raster) if m and m.raster else "" for m in used]

    def land_steps(self, grid: Grid | None = None) -> list[np.ndarray]:
        """Heights (float32 m) of flat ground and after each entry."""
        grid = grid or self.grid
        keys, out = self.land_keys(grid), [np.zeros(grid.shape, np.float32)]
        for i, entry in enumerate(self.scene.land):
            self.tell(entry.name, i / max(len(self.scene.land), 1))
            below = out[-1]
            out.append(below if not entry.on else self._once("land", keys[i + 1], lambda: self._land_entry(i, entry, below, grid)))
        return out

    def _land_entry(self, index: int, entry, heights: np.ndarray, grid: Grid) -> np.ndarray:
        path = f"land.{index}"
        below = Below(heights, grid, self.scene.plot, lambda name: self._raster(name, f"{path}.raster"), path, self.check)
        if entry.kind in landforms.functions:
            result = join(heights, landforms.functions[entry.kind](entry, below), entry.combine, entry.share)
        else:
            result = processes.functions[entry.kind](entry, below)
        held = mask(entry.where, self._site(heights, grid, "land"), f"{path}.where")
        if held is not None:
            result = heights + held * (result - heights)
        result = np.ascontiguousarray(result, np.float32)
        if not np.isfinite(result).all():
            raise SceneError(f"“{entry.name}” makes heights that are not numbers.", path, "Reduce its height or strength.")
        return result

    def _raster(self, name: str, path: str) -> np.ndarray:
        try:
            return self.rasters.load(name)
        except SceneError as e:
            raise SceneError(e.message, path, e.advice) from None

    def _site(self, heights, grid, stage, water=None) -> Site:
        return Site(heights, grid, self.scene.plot, stage, water, lambda mark, path: self._mark(mark, path, grid))

    def _mark(self, mark_id: str, path: str, grid: Grid) -> np.ndarray:
        mark = next((m for m in self.scene.marks if m.id == mark_id), None)
        if mark is None or not mark.raster:
            raise SceneError("No mask is chosen." if not mark_id else f"There is no mask '{mark_id}' with a picture.",
                             f"{path}.mark", "Drop a mask picture on the page under Marks, then choose it here.")
        values = self._raster(mark.raster, f"{path}.mark")
        values = values / (255.0 if values.dtype == np.uint8 else 65535.0 if values.dtype == np.uint16 else 1.0)
        return np.clip(resample(values.astype(np.float32), grid.shape), 0, 1)

    @property
    def heights(self) -> np.ndarray:
        return self.land_steps()[-1]

    @property
    def land_key(self) -> str:
        return key_of(*self.land_keys())

    def beyond(self) -> tuple[np.ndarray, Grid]:
        """A coarse far land from the same entries, joined to the plot's edge heights over a fifth of its length."""
        grid = self.scene.plot.beyond_grid()
        far = self.land_steps(grid)[-1]

        def make():
            plot, mine = self.scene.plot, self.grid
            x, y = np.meshgrid(grid.xs(), grid.ys())
            cx, cy = np.clip(x, 0, plot.width_m), np.clip(y, 0, plot.depth_m)
            away = np.hypot(x - cx, y - cy)
            edge = heights_at(self.heights, mine, cx.ravel(), cy.ravel()).reshape(grid.shape)
            # the step between the two lands at the plot's edge fades with distance
            step = edge - heights_at(far, grid, cx.ravel(), cy.ravel()).reshape(grid.shape)
            t = np.clip(away / (0.35 * plot.longer_m), 0, 1)
            inside = (away == 0)
            return np.where(inside, edge, far + step * (1 - t * t * (3 - 2 * t))).astype(np.float32)
        return self._once("beyond", key_of("beyond", self.land_key, self.land_keys(grid)[-1]), make), grid

    def beyond_colour(self) -> np.ndarray:
        """What clothes the far land, seen from afar: square root of linear colour, uint8 (ny, nx, 4)."""
        far = replace(self, grid=self.scene.plot.beyond_grid())
        shares = far.ground()
        means = [grounds[m.ground].mean() * tint_of(m) for m in self.scene.ground]
        colour = np.einsum("nyx,nc->yxc", shares, np.array(means)) if means else np.full(far.grid.shape + (3,), 0.2)
        cover = far.cover()
        colour = colour + cover[..., 3:] * (cover[..., :3] - colour)
        return np.dstack([np.rint(np.sqrt(np.clip(colour, 0, 1)) * 255), np.full(far.grid.shape, 255)]).astype(np.uint8)

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
        rules = [(m.on, m.cover, m.model_dump()["where"], self._mark_keys(m.where)) for m in self.scene.ground]
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
        return key_of("sowing", self.water_key, s.model_dump(exclude={"id", "name"}), self._mark_keys(s.where))

    def sowing_mask(self, index: int) -> np.ndarray | None:
        s = self.scene.planting[index]
        key = key_of("mask", self.water_key, s.model_dump(include={"where", "wet"}), self._mark_keys(s.where))
        held = self._once("where", key, lambda: [ground_mask(
            s, self._site(self.heights, self.grid, "planting", self.water()[0]), f"planting.{index}")])
        return held[0]

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

    def cover(self) -> np.ndarray:
        """What the plants look like from afar: linear colour and share of ground hidden, float32 (ny, nx, 4)."""
        def make():
            left = np.ones(self.grid.shape, np.float32)
            colour = np.zeros(self.grid.shape + (3,), np.float32)
            for i, s in reversed(list(enumerate(self.scene.planting))):
                if not s.on:
                    continue
                total = sum(p.share for p in s.mix) or 1
                size = ((s.stance.smallest + s.stance.largest) / 200) ** 2
                each = sum(p.share / total * kind_of(p.kind).cover_m2 for p in s.mix) * size
                tint = sum(np.array(kind_of(p.kind).colour) * p.share / total for p in s.mix)
                held = self.sowing_mask(i)
                hidden = 1 - np.exp(-np.float32(s.density / 100 * each) * (1 if held is None else held))
                colour += (left * hidden)[..., None] * tint.astype(np.float32)
                left = left * (1 - hidden)
            hides = 1 - left
            return np.dstack([colour / np.maximum(hides, 1e-4)[..., None], hides]).astype(np.float32)
        keys = [(self.sowing_key(i), s.on) for i, s in enumerate(self.scene.planting)]
        return self._once("cover", key_of("cover", keys, self.water_key), make)

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

