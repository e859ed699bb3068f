"""Scene to products, each made once for its content key."""

import threading
import time
from dataclasses import dataclass, field, replace
from typing import Callable

import cv2
import numpy as np
from scipy.ndimage import map_coordinates

from .cabinet import grounds, kind_of, own_ground, own_kind
from .cabinet.kind import linear
from .cache import Cache, key_of
from .errors import SceneError
from .formats.glb import from_raster, kind_of_glb
from .land.base import Below, Frame, Step, join, landforms, processes
from .marks.mask import worked
from .marks.shapes import clear_of, way
from .planting.sowing import (
    Air,
    Plants,
    feet,
    footed,
    forecast,
    ground_mask,
    name_of,
    refuse_too_many,
    seen_colour,
    sow,
    sown_on,
)
from .planting.surface import top_at
from .plot import Grid
from .sample import heights_at, values_at
from .scene import Scene, own_names
from .surface.material import tuned, weights
from .survey.slope import normals, slope
from .water.standing import levels
from .where import Absent, Site, mask

COMPUTING = threading.RLock()  # one build at a time: its kernels use every core


class Rasters:
    """Where a scene's rasters come from.

    This one has none; the store and the scene folder have their own.
    """

    def load(self, name: str) -> np.ndarray:
        raise SceneError(
            f"The raster '{name}' is missing.", "", "Put it beside the scene, or choose another."
        )

    def key(self, name: str) -> str:
        return name


def _bell(t: np.ndarray) -> np.ndarray:
    """1 at 0, falling smoothly to 0 at -1 and 1."""
    t = np.clip(np.abs(t), 0, 1)
    return 1 - t * t * (3 - 2 * t)


@dataclass
class Build:
    """One scene on one grid. Ask for a product; what it needs is made on the way.

    `tell(step, share)` hears of progress; `check()` may raise Cancelled. `seconds` gathers the time
    of each step.
    """

    scene: Scene
    grid: Grid
    cache: Cache
    rasters: Rasters = field(default_factory=Rasters)
    tell: Callable[[str, float], None] = lambda step, share: None
    check: Callable[[], None] = lambda: None
    seconds: dict = field(default_factory=dict)

    def __post_init__(self):
        for name in own_names(self.scene):
            own_kind(
                name,
                lambda: kind_of_glb(
                    from_raster(self.rasters.load(name.removeprefix("own-"))), name
                ),
            )

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
        keys = [
            key_of(
                "flat",
                vars(grid or self.grid),
                plot.seed,
                plot.width_m,
                plot.depth_m,
                plot.support_m,
            )
        ]
        for entry in self.scene.land if entries is None else entries:
            if not entry.on:
                keys.append(keys[-1])
                continue
            values = entry.model_dump(exclude={"id", "name", "group"})
            raster = getattr(entry, "raster", "")
            own = [getattr(entry, "mark", ""), *(s.picture for s in getattr(entry, "strokes", []))]
            deep = [c for s in getattr(entry, "strokes", []) for c in s.where]
            keys.append(
                key_of(
                    keys[-1],
                    values,
                    self.rasters.key(raster) if raster else "",
                    self._mark_keys([*entry.where, *deep], own),
                    self._frames([*entry.where, *deep]),
                    self._seen_keys([*entry.where, *deep]),
                )
            )
        return keys

    def _mark_keys(self, where: list, more: list = ()) -> list[str]:
        """What the marks hold that these conditions, or the ids in `more`, refer to."""
        named = {m.id: m for m in self.scene.marks}
        used = [named.get(i) for i in [*(c.mark for c in where if hasattr(c, "mark")), *more]]
        return [
            ""
            if m is None
            else [self.rasters.key(m.raster) if m.raster else "", m.invert, m.widen_m, m.blur_m]
            if m.kind == "mask"
            else key_of(m.kind, m.points, m.smooth)
            for m in used
        ]

    def _seen_keys(self, where: list) -> list:
        """What these conditions see besides the land and the marks: other materials, sowings,
        pieces, shots.
        """
        out, kinds = [], {c.kind for c in where if c.on}
        if "covered" in kinds:
            out.append(("ground", [m.model_dump() for m in self.scene.ground]))
        if "near-piece" in kinds:
            out.append(self._pieces())
        if "in-sight" in kinds:
            out.append(self._eyes())
        ids = [s.id for s in self.scene.planting]
        out += [
            self.sowing_key(ids.index(c.sowing))
            for c in where
            if c.kind == "near-sowing" and c.on and c.sowing in ids
        ]
        return out

    def _pieces(self) -> dict:
        return {p.id: (p.east_m, p.north_m) for p in self.scene.pieces if p.on}

    def _eyes(self) -> dict:
        return {s.id: (s.east_m, s.north_m, s.eye_m) for s in self.scene.shots if s.on}

    def _clearing_key(self, sowing_id: str) -> list:
        return [
            (m.id, m.points, m.smooth, m.kind, m.clear_m, m.clear_soft_m)
            for m in self.scene.marks
            if m.kind != "mask" and m.on and m.clearing and sowing_id not in m.clear_except
        ]

    def _frame(self, entry_id: str):
        """The frame of a landform by its id, or None."""
        entry = next(
            (
                e
                for e in [*self.scene.land, *self.scene.beyond.land]
                if e.id == entry_id and hasattr(e, "frame")
            ),
            None,
        )
        return entry.frame(self.scene.plot) if entry else None

    def _frames(self, where: list) -> list:
        return [vars(f) if (f := self._frame(c.bound)) else None for c in where if c.kind == "mask"]

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
            step = self._once(
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

    def land_steps(self) -> list[np.ndarray]:
        """Heights (float32 m) of flat ground and after each entry."""
        return [self.land_step(i).heights for i in range(len(self.scene.land) + 1)]

    def _land_entry(self, path: str, entry, under: Step, grid: Grid) -> Step:
        once = lambda name, make: self.cache.once(key_of("part", entry.kind, name), make)
        site = self._site(under.heights, grid, "land", maps=under.maps, before=entry.id)
        below = Below(
            under.heights,
            grid,
            self.scene.plot,
            lambda name: self._raster(name, f"{path}.raster"),
            path,
            self.check,
            once,
            ask=lambda where, place: mask(where, site, place),
            picture=lambda mark: self._picture(mark, f"{path}.picture"),
            drawn=self.line,
        )
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
        take from it.
        """
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
                raise Absent(
                    "No landform is chosen."
                    if not entry_id
                    else f"There is no landform '{entry_id}'.",
                    f"{path}.landform",
                    "Choose one of the land.",
                )
            if (
                stage == "land"
                and before
                and ids.index(entry_id) >= (ids.index(before) if before in ids else 0)
            ):
                raise SceneError(
                    "A land entry sees only the land before it.",
                    f"{path}.landform",
                    "Choose an earlier landform.",
                )
            return self.cover(entry_id, grid)

        def shares(material_id, path):
            index = next((i for i, m in enumerate(self.scene.ground) if m.id == material_id), None)
            if index is None:
                raise Absent(f"There is no material '{material_id}'.", path, "Choose another.")
            return replace(self, grid=grid).ground()[index]

        def plants(sowing_id, path):
            ids = [s.id for s in self.scene.planting]
            if sowing_id not in ids:
                raise Absent(f"There is no sowing '{sowing_id}'.", path, "Choose another.")
            found = (
                self.plants(ids.index(sowing_id))
                if self.scene.planting[ids.index(sowing_id)].on
                else None
            )
            return np.zeros((0, 2)) if found is None else np.column_stack([found.east, found.north])

        def whole():
            view = replace(self, grid=self.scene.plot.view_grid())
            if stage == "land":
                index = next(
                    (i for i, e in enumerate(self.scene.land) if e.id == before),
                    len(self.scene.land),
                )
                under = view.land_step(index)
                return view._site(under.heights, view.grid, "land", maps=under.maps, before=before)
            return view._site(view.heights, view.grid, stage, view.water()[0], before=before)

        maps = self.land_step(grid=grid).maps if maps is None else maps
        view = self.scene.plot.view_grid()
        # what is measured of the finished land is shared by all that ask, as a band is dragged
        kept = (
            self.cache.once(key_of("measures", self.water_key, vars(grid)), dict)
            if stage != "land" and self._finished(heights, grid) and heights.size < 1 << 20
            else {}
        )
        return Site(
            heights,
            grid,
            self.scene.plot,
            stage,
            water,
            lambda c, path: self._mark(c, path, grid),
            maps,
            cover,
            self._drawn,
            shares,
            plants,
            self._pieces(),
            self._eyes(),
            None if vars(grid) == vars(view) else whole,
            kept,
        )

    def _finished(self, heights: np.ndarray, grid: Grid) -> bool:
        """Whether these are the heights of the finished land."""
        step = self.cache.get("land " + self.land_keys(grid)[-1])
        return step is not None and step.heights is heights

    def line(self, mark_id: str):
        """A line or an area of the marks, or None."""
        return next((m for m in self.scene.marks if m.id == mark_id and m.kind != "mask"), None)

    def _drawn(self, mark_id: str, wanted: str, path: str):
        """A line or an area of the marks; where a line is wanted an area's edge serves too."""
        mark = next((m for m in self.scene.marks if m.id == mark_id and m.kind != "mask"), None)
        if mark is None or (wanted == "area" and mark.kind != "area"):
            raise Absent(
                f"No {wanted} is chosen." if not mark_id else f"There is no {wanted} '{mark_id}'.",
                path,
                f"Draw {'an area' if wanted == 'area' else 'a line'} under Marks, then choose it here.",
            )
        return mark

    def site(self, stage: str = "planting") -> Site:
        """What is known of the finished land, for a survey."""
        return self._site(self.heights, self.grid, stage, self.water()[0])

    def _picture(self, mark_id: str, path: str) -> np.ndarray:
        """A mask's picture as it is, float32 0..1."""
        mark = next((m for m in self.scene.marks if m.id == mark_id and m.kind == "mask"), None)
        if mark is None:
            raise SceneError(
                "No mask is chosen." if not mark_id else f"There is no mask '{mark_id}'.",
                path,
                "Paint one under Marks, or bring in a picture there, then choose it here.",
            )
        if not mark.raster:
            return np.zeros((2, 2), np.float32)
        values = self._raster(mark.raster, path)
        return (
            values
            / np.float32(
                255.0 if values.dtype == np.uint8 else 65535.0 if values.dtype == np.uint16 else 1.0
            )
        ).astype(np.float32)

    def _mark(self, condition, path: str, grid: Grid) -> np.ndarray:
        if not any(m.id == condition.mark and m.kind == "mask" for m in self.scene.marks):
            raise Absent(
                "No mask is chosen."
                if not condition.mark
                else f"There is no mask '{condition.mark}'.",
                f"{path}.mark",
                "Paint one under Marks, or bring in a picture there, then choose it here.",
            )
        values = self._picture(condition.mark, f"{path}.mark")
        frame = self._frame(condition.bound) if condition.bound else None
        if condition.bound and frame is None:
            raise Absent(
                f"The mask is bound to a landform '{condition.bound}' that is not there.",
                f"{path}.bound",
                "Bind it to another, or to the plot.",
            )
        plot = self.scene.plot
        frame = frame or Frame(plot.width_m / 2, plot.depth_m / 2, plot.width_m, plot.depth_m)
        across, along = frame.local(grid)
        rows = (0.5 - along / np.float32(frame.depth_m)) * np.float32(values.shape[0] - 1)
        cols = (across / np.float32(frame.width_m) + 0.5) * np.float32(values.shape[1] - 1)
        kind = (
            dict(order=1, mode="constant", cval=0.0)
            if condition.bound
            else dict(order=1, mode="nearest")
        )
        laid = np.clip(map_coordinates(values, [rows, cols], np.float32, **kind), 0, 1)
        return worked(
            laid, next(m for m in self.scene.marks if m.id == condition.mark), grid.spacing
        )

    def mask_on(self, mark_id: str, grid: Grid) -> np.ndarray:
        """A mask of the marks over the plot on a grid, float32 0..1, as its picture is: neither
        widened, blurred nor inverted.
        """
        values, plot = self._picture(mark_id, "mark"), self.scene.plot
        rows = (1 - (grid.ys() / plot.depth_m))[:, None] * (values.shape[0] - 1)
        cols = (grid.xs() / plot.width_m)[None, :] * (values.shape[1] - 1)
        return np.clip(
            map_coordinates(
                values, np.broadcast_arrays(rows, cols), np.float32, order=1, mode="nearest"
            ),
            0,
            1,
        )

    def mask_answer(self, mark_id: str, grid: Grid) -> np.ndarray:
        """A mask over the plot on a grid as conditions see it, float32 0..1."""
        return worked(
            self.mask_on(mark_id, grid),
            next(m for m in self.scene.marks if m.id == mark_id),
            grid.spacing,
        )

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
        return key_of(
            "beyond", ring, self.land_key, self.land_keys(grid), own, b.model_dump(exclude={"land"})
        )

    def beyond(self, ring: int = 0) -> tuple[np.ndarray, Grid]:
        """Far land on a coarse grid around the plot (ring 0) or around that (ring 1), joined to
        what lies within.

        Its own landforms if it has any, moved, turned and sized as a whole; else the plot's own run
        on. The step between the two fades over `join_m`. By `edge` the land fades to a level, rises
        as a rim, or runs on.
        """
        b, plot = self.scene.beyond, self.scene.plot
        grid = plot.beyond_grid(ring, b.reach_km)

        def make():
            self.tell("far land", 0.5)
            if b.land:
                keys = self.land_keys(grid, b.land)
                far = self._walk(grid, b.land, keys, len(b.land), "beyond.land").heights
                if b.turn or b.size != 100 or b.east_m or b.north_m:
                    frame = Frame(
                        plot.width_m / 2 + b.east_m, plot.depth_m / 2 + b.north_m, 1, 1, b.turn
                    )
                    across, along = frame.local(grid)
                    k = np.float32(100 / b.size)
                    far = map_coordinates(
                        far,
                        [
                            grid.rows_of(plot.depth_m / 2 + along * k),
                            grid.cols_of(plot.width_m / 2 + across * k),
                        ],
                        np.float32,
                        order=1,
                        mode="mirror",
                    )
                far = far + np.float32(b.lift_m)
            else:
                far = self.land_step(grid=grid).heights
            if ring == 0:
                within = self.heights
                inner = self.grid
                west = 0.0
                south = 0.0
                east = plot.width_m
                north = plot.depth_m
            else:
                within, inner = self.beyond(0)
                west = inner.east_m
                south = inner.north_m
                east = inner.east_m + inner.width_m
                north = inner.north_m + inner.depth_m
            x, y = np.meshgrid(grid.xs(), grid.ys())
            off_plot = np.hypot(
                x - np.clip(x, 0, plot.width_m), y - np.clip(y, 0, plot.depth_m)
            ).astype(np.float32)
            if b.edge == "fade":
                far = np.full_like(far, np.float32(b.level_m))
            if b.edge == "rise":
                far = far + np.float32(b.rise_m) * _bell(off_plot / np.float32(b.join_m) - 1)
            cx, cy = np.clip(x, west, east), np.clip(y, south, north)
            away = np.hypot(x - cx, y - cy).astype(np.float32)
            edge = heights_at(within, inner, cx.ravel(), cy.ravel()).reshape(grid.shape)
            step = edge - heights_at(far, grid, cx.ravel(), cy.ravel()).reshape(grid.shape)
            t = np.clip(away / np.float32(b.join_m if ring == 0 else plot.longer_m), 0, 1)
            return np.where(away == 0, edge, far + step * (1 - t * t * (3 - 2 * t))).astype(
                np.float32
            )

        return self._once("beyond", self.beyond_key(ring), make), grid

    def beyond_colour(self, ring: int = 0) -> np.ndarray:
        """What clothes the far land, seen from afar: square root of linear colour, uint8 (ny, nx,
        4).
        """
        heights, grid = self.beyond(ring)
        far = replace(self, grid=grid)
        site = far._site(
            heights,
            grid,
            "planting",
            levels([w for w in self.scene.water if w.reach != "stream"], heights, grid)[0],
            maps={} if self.scene.beyond.land else None,
        )
        site.plants = lambda sowing_id, path: np.zeros((0, 2))
        shares = weights(self.scene.ground, site)
        site.shares = lambda material_id, path: shares[
            [m.id for m in self.scene.ground].index(material_id)
        ]
        means = self.means()
        colour = (
            np.einsum("nyx,nc->yxc", shares, np.array(means))
            if means
            else np.full(grid.shape + (3,), 0.2)
        )
        cover = far._cover(
            [
                ground_mask(s, site, f"planting.{i}") if s.on else None
                for i, s in enumerate(self.scene.planting)
            ]
        )
        colour = colour + cover[..., 3:] * (cover[..., :3] - colour)
        return np.dstack(
            [np.rint(np.sqrt(np.clip(colour, 0, 1)) * 255), np.full(grid.shape, 255)]
        ).astype(np.uint8)

    # ---- survey, water, ground
    def normals(self) -> np.ndarray:
        return self._once(
            "survey",
            key_of("normals", self.land_key),
            lambda: normals(self.heights, self.grid.spacing),
        )

    def slope(self) -> np.ndarray:
        return self._once(
            "survey",
            key_of("slope", self.land_key),
            lambda: slope(self.heights, self.grid.spacing, self.scene.plot.support_m),
        )

    @property
    def water_key(self) -> str:
        return key_of(
            "water",
            self.land_key,
            [
                [
                    w.model_dump(
                        include={"on", "level_m", "reach", "east_m", "north_m", "width_m", "deep_m"}
                    ),
                    self._mark_keys([], [w.mark]) if w.reach == "stream" else "",
                ]
                for w in self.scene.water
            ],
        )

    def water(self) -> tuple[np.ndarray, list[np.ndarray]]:
        return self._once(
            "water",
            self.water_key,
            lambda: levels(self.scene.water, self.heights, self.grid, self.line),
        )

    @property
    def ground_key(self) -> str:
        rules = [
            (
                m.on,
                m.cover,
                m.edge,
                m.broken,
                m.broken_m,
                m.stands and (m.stands, m.ground, m.texture, m.size_m, m.turn),
                m.picture and m.over and vars(f) if (f := self._frame(m.over)) else "",
                m.model_dump()["where"],
                self._mark_keys(m.where),
                self._frames(m.where),
                [k for k in self._seen_keys([c for c in m.where if c.kind != "covered"])],
            )
            for m in self.scene.ground
        ]
        return key_of("ground", self.water_key, rules)

    def ground(self) -> np.ndarray:
        """Weights of the materials, float32 (count, ny, nx)."""

        def make():
            self.tell("materials", 0)
            return weights(
                self.scene.ground,
                self._site(self.heights, self.grid, "ground", self.water()[0]),
                texture=self._ranks,
                frame=self._frame,
            )

        return self._once("ground", self.ground_key, make)

    def ground_of(self, m):
        """The ground of a material: its own texture, or one of the cabinet."""
        return (
            own_ground(m.texture, lambda: self._raster(m.texture, "ground.texture"))
            if m.texture
            else grounds[m.ground]
        )

    def _ranks(self, m) -> tuple[np.ndarray, bool]:
        own = self.ground_of(m)
        return own.ranks(), own.directed

    def means(self) -> list[np.ndarray]:
        """Mean linear colour of each material as it shows."""
        return [
            tuned(
                m,
                self._pictured(m).reshape(-1, 4)[::7, :3].mean(0)
                if m.picture
                else self.ground_of(m).mean(),
            )
            for m in self.scene.ground
        ]

    def _pictured(self, m) -> np.ndarray:
        """The picture of a whole ground, linear colour and relief 0..1, float32 (rows, columns, 4)."""

        def load():
            sheet = self._raster(m.picture, "ground.picture")
            whole = sheet.reshape(sheet.shape[0], -1, 4)
            return np.dstack([linear(whole[..., :3]), whole[..., 3:].astype(np.float32) / 255])

        return self.cache.once(key_of("picture", self.rasters.key(m.picture)), load)

    def picture_at(self, m, east: np.ndarray, north: np.ndarray) -> np.ndarray:
        """Linear colour and relief of a material's picture at places (m) of any shape, float32
        (..., 4): exactly over the plot, or over its landform.
        """
        picture, plot = self._pictured(m), self.scene.plot
        frame = (self._frame(m.over) if m.over else None) or Frame(
            plot.width_m / 2, plot.depth_m / 2, plot.width_m, plot.depth_m
        )
        a = np.deg2rad(frame.turn)
        dx, dy = east - frame.east_m, north - frame.north_m
        across = dx * np.cos(a) - dy * np.sin(a)
        along = dx * np.sin(a) + dy * np.cos(a)
        x = (across / frame.width_m + 0.5) * picture.shape[1] - 0.5
        y = (0.5 - along / frame.depth_m) * picture.shape[0] - 0.5
        return cv2.remap(
            picture,
            x.astype(np.float32),
            y.astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )

    # ---- planting
    def _earlier(self, index: int) -> list[int]:
        """Earlier sowings whose feet this one keeps off."""
        s = self.scene.planting[index]
        return (
            []
            if s.keeps_off == 0 or s.stands_on
            else [j for j in range(index) if footed(self.scene.planting[j])]
        )

    def sowing_key(self, index: int) -> str:
        s = self.scene.planting[index]
        where = [*s.where, *(c for p in s.mix for c in p.where)]
        light = self.scene.light
        faces = (s.stance.faces, s.stance.wind > 0)
        air = [
            light.sun_bearing if s.stance.faces == "light" else 0,
            light.wind_from if s.stance.faces == "wind" or s.stance.wind else 0,
        ]
        looks = {"look", "tint"}
        values = {
            **s.model_dump(exclude={"id", "name", "group", "mix"}),
            "mix": [p.model_dump(exclude=looks) for p in s.mix],
        }
        stands = (
            [p.model_dump(exclude={"name", "look"}) for p in self.scene.pieces if p.on]
            if s.keeps_off or s.stands_on
            else []
        )
        return key_of(
            "sowing",
            self.water_key,
            values,
            air,
            faces,
            self._mark_keys(where, [s.line] if s.layout == "line" else []),
            self.rasters.key(s.places) if s.places else "",
            self._frames(where),
            self._clearing_key(s.id),
            self._seen_keys(where),
            stands,
            [self.sowing_key(j) for j in self._earlier(index)],
        )

    def sowing_mask(self, index: int) -> np.ndarray | None:
        s = self.scene.planting[index]
        clumped = (s.clump_m, s.clump_share, s.seed) if s.layout == "clumped" else ""
        key = key_of(
            "mask",
            self.water_key,
            s.model_dump(include={"where", "wet"}),
            clumped,
            self._mark_keys(s.where),
            self._frames(s.where),
            self._clearing_key(s.id),
            self._seen_keys(s.where),
        )

        def make():
            held = ground_mask(
                s,
                self._site(self.heights, self.grid, "planting", self.water()[0]),
                f"planting.{index}",
            )
            free = clear_of(self.scene.marks, s.id, self.grid)
            return [free if held is None else held if free is None else held * free]

        return self._once("where", key, make)[0]

    def _rows_of(self, s) -> np.ndarray | None:
        """The way that a sowing's rows follow, or the places that a file gives it."""
        if s.layout == "given":
            return (
                self._raster(s.places, "planting.places").astype(np.float64) if s.places else None
            )
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
        discs = [feet(self.scene.planting[j], self.plants(j)) for j in self._earlier(index)]
        for p in self.scene.pieces:
            if p.on:
                a, k = np.deg2rad(p.turn), p.size / 100
                discs += [
                    (
                        np.array([p.east_m + k * (x * np.cos(a) + y * np.sin(a))]),
                        np.array([p.north_m + k * (y * np.cos(a) - x * np.sin(a))]),
                        np.array([r * k]),
                    )
                    for x, y, r in kind_of(p.kind).footing()
                ]
        return tuple(
            np.concatenate([d[i] for d in discs]) if discs else np.empty(0) for i in range(3)
        )

    def plants(self, index: int) -> Plants:
        s = self.scene.planting[index]

        def make():
            self.tell(s.name, index / len(self.scene.planting))
            if s.stands_on:
                return sown_on(
                    s,
                    next((p for p in self.pieces() if p["id"] == s.stands_on), None),
                    self.scene.plot.seed,
                    f"planting.{index}",
                )
            return self._sow(index)

        return self._once("planting", self.sowing_key(index), make)

    def _sow(self, index: int, bounds=None) -> Plants:
        s, light = self.scene.planting[index], self.scene.light
        return sow(
            s,
            self._site(self.heights, self.grid, "planting", self.water()[0]),
            self.normals(),
            f"planting.{index}",
            self.sowing_mask(index),
            bounds,
            blocks=self.stands(index) if s.keeps_off else (),
            points=self._rows_of(s),
            air=Air(light.sun_bearing, light.wind_from),
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
        return Plants(**{name: values[here] for name, values in vars(p).items()})

    def names(self, index: int) -> list[str]:
        """The kinds of a sowing's mix with their looks, as the view calls them."""
        return [name_of(p, self.scene.season) for p in self.scene.planting[index].mix]

    def _cover(self, masks: list) -> np.ndarray:
        left = np.ones(self.grid.shape, np.float32)
        colour = np.zeros(self.grid.shape + (3,), np.float32)
        for s, held in reversed(list(zip(self.scene.planting, masks))):
            if not s.on:
                continue
            total = sum(p.share for p in s.mix) or 1
            size = ((s.stance.smallest + s.stance.largest) / 200) ** 2
            each = sum(p.share / total * kind_of(p.kind).cover_m2 for p in s.mix) * size
            tint = sum(
                np.array(seen_colour(name_of(p, self.scene.season))) * p.share / total
                for p in s.mix
            )
            per_m2 = (
                len(self._rows_of(s)) / self.scene.plot.area_m2
                if s.layout == "given" and s.places
                else s.density / 100
            )
            hidden = 1 - np.exp(-np.float32(per_m2 * each) * (1 if held is None else held))
            colour += (left * hidden)[..., None] * tint.astype(np.float32)
            left = left * (1 - hidden)
        hides = 1 - left
        return np.dstack([colour / np.maximum(hides, 1e-4)[..., None], hides]).astype(np.float32)

    def plant_cover(self) -> np.ndarray:
        """What the plants look like from afar: linear colour and share of ground hidden, float32
        (ny, nx, 4).
        """
        make = lambda: self._cover(
            [self.sowing_mask(i) if s.on else None for i, s in enumerate(self.scene.planting)]
        )
        keys = [
            (self.sowing_key(i), s.on, self.names(i)) for i, s in enumerate(self.scene.planting)
        ]
        return self._once("cover", key_of("plant cover", keys, self.water_key), make)

    def pieces(self) -> list[dict]:
        """Pieces placed by hand, each with its height on the ground (or on the water, where it
        floats, or on the piece that it stands on).
        """
        out = []
        level = (
            self.water()[0]
            if any(p.on and p.stands == "water" for p in self.scene.pieces)
            else None
        )
        for p in self.scene.pieces:
            if p.on:
                up = float(heights_at(self.heights, self.grid, p.east_m, p.north_m)[0])
                if p.stands == "water" and level is not None:
                    wet = float(
                        values_at(level, self.grid, np.array([p.east_m]), np.array([p.north_m]))[0]
                    )
                    up = max(up, wet) if np.isfinite(wet) else up
                elif p.stands == "piece":
                    up = max([up, *(top_at(q, p.east_m, p.north_m) for q in out)])
                out.append(
                    {
                        **p.model_dump(exclude={"stands"}),
                        "up_m": up - p.sink_cm / 100,
                        "variant": p.variant % len(kind_of(p.kind).variants),
                        "kind": p.kind,
                        "look": kind_of(p.kind).look(
                            self.scene.season if p.look == "season" else p.look
                        ),
                    }
                )
        return out

    def content_key(self) -> str:
        """Key of everything that ends in a file."""
        keys = [self.sowing_key(i) for i in range(len(self.scene.planting))]
        return key_of(
            self.ground_key,
            keys,
            self.scene.model_dump(include={"ground", "pieces", "light", "shots", "name", "season"}),
            [self.names(i) for i in range(len(self.scene.planting))],
        )
