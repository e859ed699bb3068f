"""Scene to products, each made once for its content key."""

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..air.base import Over, airs
from ..air.light import Light
from ..air.light_of import REST_ROWS, Daylight, daylight, panorama_of
from ..air.mist import Mist
from ..air.things.card import CardStands
from ..air.things.lamp import LampLight
from ..cabinet import grounds, own_ground, own_kind
from ..cache import Cache, key_of
from ..errors import SceneError
from ..formats.glb import from_raster
from ..formats.kind_glb import kind_of_glb
from ..land.base import Below, Frame, Step, join, landforms, processes
from ..marks.shapes import clear_of, way
from ..planting.density import forecast, ground_mask, refuse_too_many
from ..planting.pieces import piece_feet, placed
from ..planting.plants import Plants, feet
from ..planting.seen import seen_from_afar
from ..planting.sow import sow, sown_on
from ..planting.sowing import Sowing, name_of
from ..planting.stance import Air
from ..plot import Grid
from ..scene import Scene, own_names
from ..shots.shot import Shot, aimed
from ..surface.material import Material, tuned, weights
from ..surface.picture import linear_picture, picture_at, whole_plot
from ..survey.sky import openness
from ..survey.slope import normals, slope
from ..water.standing import levels
from ..where import Site, holding
from .around import Around
from .far_land import far_heights_at
from .keys import Keys
from .marks import Marks, Rasters
from .site import site_on
from .waters import spray_in

BARE = 0.2  # linear grey of ground without materials
COMPUTING = threading.RLock()  # one build at a time: its kernels use every core


@dataclass(frozen=True)
class InTheAir:
    """What stands in the air, over the land."""

    mists: list[Mist]
    lamps: list[LampLight]
    cards: list[CardStands]


@dataclass
class Build:
    """One scene on one grid. Ask for a product; what it needs is made on the way.

    `tell(step, share)` hears of progress; `check()` may raise Cancelled. `seconds` gathers the time
    of each step. Where the grid is a part of the plot, `around` holds what must be known of the
    whole.
    """

    scene: Scene
    grid: Grid
    cache: Cache
    rasters: Rasters = field(default_factory=Rasters)
    tell: Callable[[str, float], None] = lambda step, share: None
    check: Callable[[], None] = lambda: None
    seconds: dict = field(default_factory=dict)
    around: Around | None = None

    def __post_init__(self) -> None:
        self.marks = Marks(self.scene, self.rasters)
        self.keys = Keys(self.scene, self.marks)
        for name in own_names(self.scene):
            own_kind(
                name,
                lambda: kind_of_glb(
                    from_raster(self.rasters.load(name.removeprefix("own-"))), name
                ),
            )

    def once(self, step: str, key: str, make: Callable[[], Any]) -> Any:
        """What `make` gives, made once for its content key; its time counts for a step."""

        def timed() -> Any:
            self.check()
            start = time.perf_counter()
            with COMPUTING:
                value = make()
            self.seconds[step] = self.seconds.get(step, 0) + time.perf_counter() - start
            return value

        return self.cache.once(key, timed)

    # ---- keys
    def land_keys(self, grid: Grid | None = None, entries: list | None = None) -> list[str]:
        """Content key of the land after each entry; the first is that of flat ground."""
        return self.keys.land(grid or self.grid, entries)

    def sowing_key(self, index: int) -> str:
        """Content key of a sowing's plants."""
        return self.keys.sowing(self.grid, index)

    @property
    def water_key(self) -> str:
        """Content key of the land with its water."""
        return self.keys.water(self.grid)

    @property
    def ground_key(self) -> str:
        """Content key of the materials' weights."""
        return self.keys.ground(self.grid)

    # ---- land

    def _walk(self, grid: Grid, entries: list, keys: list[str], upto: int, where_path: str) -> Step:
        """The land after `upto` entries: from the newest one that is kept, onward."""
        start = upto
        while start > 0 and self.cache.get("land " + keys[start]) is None:
            start -= 1
        step = (
            self.cache.get("land " + keys[start])
            if start
            else Step(np.zeros(grid.shape, np.float32))
        )
        for i in range(start, upto):
            entry = entries[i]
            if not entry.on:
                continue
            self.tell(entry.name, i / max(len(entries), 1))
            below = step
            step = self.once(
                "land",
                "land " + keys[i + 1],
                lambda: self._land_entry(f"{where_path}.{i}", entry, below, grid),
            )
        return step

    def land_step(self, upto: int | None = None, grid: Grid | None = None) -> Step:
        """The land after the first `upto` entries (all when None), with the maps that they left."""
        upto = len(self.scene.land) if upto is None else upto
        grid = grid or self.grid
        return self._walk(grid, self.scene.land, self.land_keys(grid), upto, "land")

    def far_step(self, upto: int, grid: Grid) -> Step:
        """The far land's own landforms after the first `upto`, before it is moved as a whole."""
        own = self.scene.beyond.land
        return self._walk(grid, own, self.land_keys(grid, own), upto, "beyond.land")

    def land_steps(self) -> list[np.ndarray]:
        """Heights (float32 m) of flat ground and after each entry."""
        return [self.land_step(i).heights for i in range(len(self.scene.land) + 1)]

    def _land_entry(self, path: str, entry: Any, under: Step, grid: Grid) -> Step:
        once = lambda name, make: self.cache.once(key_of("part", entry.kind, name), make)
        site = site_on(self, under.heights, grid, "land", maps=under.maps, before=entry.id)
        below = Below(
            under.heights,
            grid,
            self.scene.plot,
            lambda name: self.marks.raster(name, f"{path}.raster"),
            path,
            self.check,
            once,
            ask=lambda where, place: holding(where, site, place),
            picture=lambda mark: self.marks.picture(mark, f"{path}.picture"),
            drawn=self.marks.line,
            around=self.around.below(entry.id) if self.around else None,
        )
        try:
            far = self.around.change(entry.id, grid) if self.around else None
            if far is not None:
                return Step(under.heights + far)
            held = holding(entry.where, site, f"{path}.where")
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
            raise SceneError(
                "There is not enough memory for this step.",
                path,
                "Choose a smaller grid.",
                entry.name,
            ) from None
        if not np.isfinite(step.heights).all():
            raise SceneError(
                "It makes heights that are not numbers.",
                path,
                "Reduce its height or strength.",
                entry.name,
            )
        return step

    def cover(self, entry_id: str, grid: Grid | None = None) -> np.ndarray:
        """Where the land of one landform shows, float32 0..1: what it wins, less what later ones
        take from it. Of a far land's landform, before that is moved as a whole.
        """
        grid, entries = grid or self.grid, self.scene.land
        far = any(e.id == entry_id for e in self.scene.beyond.land)
        if far:
            entries = self.scene.beyond.land
        step = self.far_step if far else self.land_step
        index = next((i for i, e in enumerate(entries) if e.id == entry_id), None)
        if index is None or not entries[index].on:
            return np.zeros(grid.shape, np.float32)
        key = key_of("cover", entry_id, self.land_keys(grid, entries))

        def make() -> Any:
            own = step(index + 1, grid).shows
            shows = np.ones(grid.shape, np.float32) if own is None else own.astype(np.float32) / 255
            for i in range(index + 1, len(entries)):
                takes = step(i + 1, grid).takes if entries[i].on else None
                if takes is not None:
                    shows *= 1 - takes.astype(np.float32) / 255
            return shows

        return self.cache.once(key, make)

    def site(self, stage: str = "planting") -> Site:
        """What is known of the finished land, for a survey."""
        return site_on(self, self.heights, self.grid, stage, self.water()[0])

    @property
    def heights(self) -> np.ndarray:
        """Heights of the finished land, float32 m (ny, nx)."""
        return self.land_step().heights

    def ground_at(self, east: float, north: float) -> float:
        """Height of the finished land at a place, on the plot or beyond it, m."""
        return float(far_heights_at(self, np.array([east]), np.array([north]))[0])

    def shots(self) -> list[Shot]:
        """The shots, each with bearing and tilt told, also where it is aimed on a place."""
        return [aimed(s, self.ground_at) for s in self.scene.shots]

    @property
    def land_key(self) -> str:
        """Content key of the finished land."""
        return key_of(*self.land_keys())

    # ---- in the air
    def daylight(self, rows: int = REST_ROWS, light: Light | None = None) -> Daylight:
        """The light over the finished land, or another light over it; the sky's picture has so many
        rows.
        """
        plot = self.scene.plot
        lowest = float(np.round(self.heights.min()))
        side = max(plot.width_m, plot.depth_m)
        light = light or self.scene.light
        picture = panorama_of(light, lambda name: self.marks.raster(name, "light.panorama"))
        return daylight(light, self.mean_colour(), lowest, side, self.cache, rows, picture)

    def grade_raster(self, name: str) -> np.ndarray:
        """A raster that a step of grading names. Raises SceneError."""
        return self.marks.raster(name, "grade.table")

    def in_air(self) -> InTheAir:
        """The mists, lamps and cards that are on, over the finished land."""

        def make() -> Any:
            grid = self.grid
            picture = lambda name: self.marks.raster(name, "air.picture")
            over = Over(
                self.heights,
                grid.xs(),
                grid.ys(),
                self.scene.marks,
                picture,
                lambda east, north: far_heights_at(self, east, north),
            )
            made = [x for e in self.scene.air if e.on for x in airs.functions[e.kind](e, over)]
            of = lambda sort: [x for x in made if isinstance(x, sort)]
            return InTheAir(of(Mist) + spray_in(self), of(LampLight), of(CardStands))

        return self.once("air", self.air_key, make)

    @property
    def air_key(self) -> str:
        """Content key of what stands in the air."""
        told = [e.model_dump(exclude={"name"}) for e in self.scene.air]
        areas = self.marks_of_air()
        streams = any(w.on and w.reach == "stream" for w in self.scene.water)
        return key_of("air", self.land_key, told, areas, self.water_key if streams else "")

    def marks_of_air(self) -> list:
        """What the areas that bound mists hold."""
        return self.keys.of_marks([], [getattr(e, "area", "") for e in self.scene.air])

    # ---- survey, water, ground
    def normals(self) -> np.ndarray:
        """Unit normals of the finished land, float32 (ny, nx, 3), east, north, up."""
        return self.once(
            "survey",
            key_of("normals", self.land_key),
            lambda: normals(self.heights, self.grid.spacing),
        )

    def slope(self) -> np.ndarray:
        """Slope in degrees over the support length, float32 (ny, nx)."""
        return self.once(
            "survey",
            key_of("slope", self.land_key),
            lambda: slope(self.heights, self.grid.spacing, self.scene.plot.support_m),
        )

    def openness(self) -> np.ndarray:
        """Part of the sky that each place sees, in per cent, float32 (ny, nx)."""
        return self.once(
            "survey",
            key_of("openness", self.land_key),
            lambda: openness(self.heights, self.grid.spacing),
        )

    def water(self) -> tuple[np.ndarray, list[np.ndarray]]:
        """Level of the water (m, NaN where dry, float32) and each water's own mask (bool)."""
        return self.once(
            "water",
            self.water_key,
            lambda: levels(self.scene.water, self.heights, self.grid, self.marks.line, self.around),
        )

    def ground(self) -> np.ndarray:
        """Weights of the materials, float32 (count, ny, nx)."""

        def make() -> Any:
            self.tell("materials", 0)
            return weights(
                self.scene.ground,
                site_on(self, self.heights, self.grid, "ground", self.water()[0]),
                texture=self._ranks,
                frame=self.marks.frame,
            )

        return self.once("ground", self.ground_key, make)

    def ground_of(self, m: Material) -> Any:
        """The ground of a material: its own texture, or one of the cabinet."""
        return (
            own_ground(m.texture, lambda: self.marks.raster(m.texture, "ground.texture"))
            if m.texture
            else grounds[m.ground]
        )

    def _ranks(self, m: Material) -> tuple[np.ndarray, bool]:
        own = self.ground_of(m)
        return own.ranks(), own.directed

    def means(self) -> list[np.ndarray]:
        """Mean linear colour of each material as it shows."""
        return [self.mean_of(m) for m in self.scene.ground]

    def mean_of(self, m: Material) -> np.ndarray:
        """Mean linear colour of a material as it shows."""
        if m.picture:
            return tuned(m, self._pictured(m).reshape(-1, 4)[::7, :3].mean(0))
        return tuned(m, self.ground_of(m).mean())

    def mean_colour(self) -> np.ndarray:
        """Mean linear colour of the clothed ground with its plants, float64 (3)."""
        shares = self.ground()
        laid = np.array(self.means()).reshape(-1, 3)
        part = shares.mean((1, 2), dtype=np.float64)
        bare = BARE * max(0.0, 1.0 - float(part.sum()))
        ground = part @ laid + bare if len(part) else np.full(3, BARE)
        cover = self.plant_cover()
        hidden = cover[..., 3].mean(dtype=np.float64)
        grown = (cover[..., :3] * cover[..., 3:]).mean((0, 1), dtype=np.float64)
        return ground * (1 - hidden) + grown

    def _pictured(self, m: Material) -> np.ndarray:
        """The picture of a whole ground, linear colour and relief 0..1, float32 (rows, columns,
        4).
        """

        def load() -> np.ndarray:
            return linear_picture(self.marks.sheet(m.picture, "ground.picture"))

        return self.cache.once(key_of("picture", self.rasters.key(m.picture)), load)

    def picture_at(
        self, m: Material, east: np.ndarray, north: np.ndarray, frame: Frame | None = None
    ) -> np.ndarray:
        """Linear colour and relief of a material's picture at places (m) of any shape, float32
        (..., 4): exactly over the plot, over its landform, or over the frame that is given.
        """
        if frame is None and m.over:
            frame = self.marks.frame(m.over)
        return picture_at(self._pictured(m), frame or whole_plot(self.scene.plot), east, north)

    # ---- planting

    def sowing_mask(self, index: int) -> np.ndarray | None:
        """Where a sowing may stand, float32 0..1 (ny, nx), its clearings taken out; None is
        everywhere.
        """
        s = self.scene.planting[index]
        clumped = (s.clump_m, s.clump_share, s.seed) if s.layout == "clumped" else ""
        key = key_of(
            "mask",
            self.water_key,
            s.model_dump(include={"where", "wet"}),
            clumped,
            self.keys.of_marks(s.where),
            self.keys.frames(s.where),
            self.keys.of_clearings(s.id),
            self.keys.of_sights(self.grid, s.where),
        )

        def make() -> Any:
            held = ground_mask(
                s,
                site_on(self, self.heights, self.grid, "planting", self.water()[0]),
                f"planting.{index}",
            )
            free = clear_of(self.scene.marks, s.id, self.grid)
            return [free if held is None else held if free is None else held * free]

        return self.once("where", key, make)[0]

    def _rows_of(self, s: Sowing) -> np.ndarray | None:
        """The way that a sowing's rows follow, or the places that a file gives it."""
        if s.layout == "given":
            return self.marks.places(s.places) if s.places else None
        if s.layout != "line":
            return None
        mark = next(
            (m for m in self.scene.marks if m.id == s.line and m.kind != "mask" and m.points), None
        )
        return None if mark is None else way(mark)

    def forecasts(self) -> list[float]:
        """Plants of each sowing before they are placed.

        Raises SceneError when they are too many.
        """
        out = []
        for i, s in enumerate(self.scene.planting):
            own = (
                0.0
                if not s.on
                else float(len(self.plants(i)))
                if s.stands_on
                else forecast(s, self.sowing_mask(i), self.scene.plot.area_m2, self._rows_of(s))
            )
            out.append(own)
            refuse_too_many(sum(out), s, own, f"planting.{i}")
        return out

    def stands(self, index: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Discs (east, north, radius in m) that a sowing keeps out of: feet of pieces and of
        earlier sowings.
        """
        discs = [feet(self.scene.planting[j], self.plants(j)) for j in self.keys.earlier(index)]
        discs += [piece_feet(p) for p in self.scene.pieces if p.on]
        east, north, radius = (
            np.concatenate([d[i] for d in discs]) if discs else np.empty(0) for i in range(3)
        )
        return east, north, radius

    def plants(self, index: int) -> Plants:
        """The plants of a sowing, each with its base on the ground. Raises SceneError."""
        s = self.scene.planting[index]

        def make() -> Any:
            self.tell(s.name, index / len(self.scene.planting))
            if s.stands_on:
                return sown_on(
                    s,
                    next((p for p in self.pieces() if p["id"] == s.stands_on), None),
                    self.scene.plot.seed,
                    f"planting.{index}",
                )
            return self._sow(index, self.grid.bounds() if self.around else None)

        return self.once("planting", self.sowing_key(index), make)

    def _sow(self, index: int, bounds: Any = None) -> Plants:
        s, light = self.scene.planting[index], self.scene.light
        return sow(
            s,
            site_on(self, self.heights, self.grid, "planting", self.water()[0]),
            self.normals(),
            f"planting.{index}",
            self.sowing_mask(index),
            bounds,
            blocks=self.stands(index) if s.keeps_off else (),
            points=self._rows_of(s),
            air=Air(light.sun_bearing, light.wind_from),
            amount=self.around.amounts.get(s.id) if self.around else None,
        )

    def plants_within(self, index: int, bounds: tuple[float, float, float, float]) -> Plants:
        """The plants of a sowing in a window (west, south, east, north in m): those of the whole;
        where it can, only they are sown.
        """
        s = self.scene.planting[index]
        local = (
            s.layout in ("natural", "clumped")
            and not s.number
            and not s.stands_on
            and self.cache.get(self.sowing_key(index)) is None
        )
        p = self._sow(index, bounds) if local else self.plants(index)
        here = (
            (p.east >= bounds[0])
            & (p.north >= bounds[1])
            & (p.east < bounds[2])
            & (p.north < bounds[3])
        )
        return p.only(here)

    def names(self, index: int) -> list[str]:
        """The kinds of a sowing's mix with their looks, as the view calls them."""
        return [name_of(p, self.scene.season) for p in self.scene.planting[index].mix]

    def cover_of(self, masks: list) -> np.ndarray:
        """What the sowings look like from afar where these masks let them stand."""
        numbers = [
            len(self.marks.places(s.places)) if s.layout == "given" and s.places else None
            for s in self.scene.planting
        ]
        plot = self.scene.plot
        season = self.scene.season
        return seen_from_afar(
            self.scene.planting, season, masks, self.grid.shape, plot.area_m2, numbers
        )

    def plant_cover(self) -> np.ndarray:
        """What the plants look like from afar: linear colour and share of ground hidden, float32
        (ny, nx, 4).
        """
        make = lambda: self.cover_of(
            [self.sowing_mask(i) if s.on else None for i, s in enumerate(self.scene.planting)]
        )
        keys = [
            (self.sowing_key(i), s.on, self.names(i)) for i, s in enumerate(self.scene.planting)
        ]
        return self.once("cover", key_of("plant cover", keys, self.water_key), make)

    def pieces(self) -> list[dict]:
        """Pieces placed by hand, each with its height on the ground (or on the water, where it
        floats, or on the piece that it stands on).
        """
        floats = any(p.on and p.stands == "water" for p in self.scene.pieces)
        level = self.water()[0] if floats else None
        return placed(self.scene.pieces, self.scene.season, self.ground_at, self.grid, level)

    def content_key(self) -> str:
        """Key of everything that ends in a file."""
        keys = [self.sowing_key(i) for i in range(len(self.scene.planting))]
        return key_of(
            self.ground_key,
            keys,
            self.scene.model_dump(
                include={"ground", "pieces", "light", "air", "shots", "name", "season"}
            ),
            [self.names(i) for i in range(len(self.scene.planting))],
        )
