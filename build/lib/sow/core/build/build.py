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
from ..formats.glb import from_raster
from ..formats.kind_glb import kind_of_glb
from ..land.base import Frame, Step
from ..planting.pieces import placed
from ..planting.plants import Plants
from ..planting.seen import seen_from_afar
from ..planting.sowing import name_of
from ..plot import Grid
from ..scene import Scene, own_names
from ..shots.shot import Shot, aimed
from ..surface.material import Material, tuned, weights
from ..surface.picture import linear_picture, picture_at, whole_plot
from ..survey.sky import openness
from ..survey.slope import normals, slope
from ..water.standing import levels
from ..where import Site
from .around import Around
from .far_land import far_heights_at
from .keys import Keys
from .land_steps import cover_of_entry, walked
from .marks import Marks, Rasters
from .site import site_on
from .sowings import forecasts_of, mask_of, plants_of, sown_within
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

    def land_step(self, upto: int | None = None, grid: Grid | None = None) -> Step:
        """The land after the first `upto` entries (all when None), with the maps that they left."""
        upto = len(self.scene.land) if upto is None else upto
        grid = grid or self.grid
        return walked(self, grid, self.scene.land, self.land_keys(grid), upto, "land")

    def far_step(self, upto: int, grid: Grid) -> Step:
        """The far land's own landforms after the first `upto`, before it is moved as a whole."""
        own = self.scene.beyond.land
        return walked(self, grid, own, self.land_keys(grid, own), upto, "beyond.land")

    def land_steps(self) -> list[np.ndarray]:
        """Heights (float32 m) of flat ground and after each entry."""
        return [self.land_step(i).heights for i in range(len(self.scene.land) + 1)]

    def cover(self, entry_id: str, grid: Grid | None = None) -> np.ndarray:
        """Where the land of one landform shows, float32 0..1: what it wins, less what later ones
        take from it. Of a far land's landform, before that is moved as a whole.
        """
        return cover_of_entry(self, entry_id, grid or self.grid)

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
        return daylight(
            light,
            self.mean_colour(),
            lowest,
            side,
            self.cache,
            rows,
            picture,
            panorama_key=self.marks.rasters.key(light.panorama) if light.panorama else "",
        )

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
        return self.keys.air(self.grid)

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
        return mask_of(self, index)

    def forecasts(self) -> list[float]:
        """Plants of each sowing before they are placed.

        Raises SceneError when they are too many.
        """
        return forecasts_of(self)

    def plants(self, index: int) -> Plants:
        """The plants of a sowing, each with its base on the ground. Raises SceneError."""
        return plants_of(self, index)

    def plants_within(self, index: int, bounds: tuple[float, float, float, float]) -> Plants:
        """The plants of a sowing in a window (west, south, east, north in m): those of the whole;
        where it can, only they are sown.
        """
        return sown_within(self, index, bounds)

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
        return self.keys.content(self.grid)
