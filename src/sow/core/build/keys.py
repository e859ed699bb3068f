"""Content keys: the hash of everything that a product depends on."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..cache import key_of
from ..planting.sowing import footed
from ..plot import Grid
from ..scene import Scene
from ..where.base import sees_of
from .marks import Marks

# of a material, what changes how it looks and not where it lies
SEES = {  # of a shot: what decides on what it sees
    *("east_m", "north_m", "eye_m", "aim_by", "bearing", "tilt"),
    *("aim_east_m", "aim_north_m", "aim_over_m"),
    *("focal_mm", "shift_up", "shift_aside", "width_px", "height_px"),
}
LOOKS = {"name", "group", "tint", "bright", "hue", "saturation", "relief", "rough", "wet"}


@dataclass(frozen=True)
class Keys:
    """The keys of a scene's products on a grid."""

    scene: Scene
    marks: Marks
    known: dict[Any, Any] = field(default_factory=dict, compare=False, repr=False)

    def _once(self, name: str, grid: Grid, index: int, make: Callable[[], Any]) -> Any:
        """A key that is asked for again and again while the scene stays as it is."""
        asked = name, tuple(vars(grid).items()), index
        if asked not in self.known:
            self.known[asked] = make()
        return self.known[asked]

    def land(self, grid: Grid, entries: list | None = None) -> list[str]:
        """Content key of the land after each entry; the first is that of flat ground."""
        if entries is None:
            return self._once("land", grid, 0, lambda: self._land(grid, self.scene.land))
        return self._land(grid, entries)

    def _land(self, grid: Grid, entries: list) -> list[str]:
        plot = self.scene.plot
        keys = [
            key_of(
                "flat",
                vars(grid),
                plot.seed,
                plot.width_m,
                plot.depth_m,
                plot.support_m,
            )
        ]
        for entry in entries:
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
                    self.marks.rasters.key(raster) if raster else "",
                    self.of_marks([*entry.where, *deep], own),
                    self.frames([*entry.where, *deep]),
                    self.of_sights(grid, [*entry.where, *deep]),
                )
            )
        return keys

    def of_marks(self, where: list, more: Sequence[str] = ()) -> list[Any]:
        """What the marks hold that these conditions, or the ids in `more`, refer to."""
        named = {m.id: m for m in self.scene.marks}
        used = [named.get(i) for i in [*(c.mark for c in where if hasattr(c, "mark")), *more]]
        return [
            ""
            if m is None
            else [
                self.marks.rasters.key(m.raster) if m.raster else "",
                m.invert,
                m.widen_m,
                m.blur_m,
            ]
            if m.kind == "mask"
            else key_of(m.kind, m.points, m.smooth)
            for m in used
        ]

    def of_sights(self, grid: Grid, where: list) -> list:
        """What these conditions see besides the land and the marks: other materials, sowings,
        pieces, shots.
        """
        seen = {sight for c in where if c.on for sight in sees_of[c.kind]}
        out: list[Any] = []
        if "ground" in seen:
            out.append(("ground", [m.model_dump(exclude=LOOKS) for m in self.scene.ground]))
        if "pieces" in seen:
            out.append(self.pieces())
        if "shots" in seen:
            out.append(self.eyes())
        ids = [s.id for s in self.scene.planting]
        out += [
            self.sowing(grid, ids.index(c.sowing))
            for c in where
            if "sowings" in sees_of[c.kind] and c.on and c.sowing in ids
        ]
        return out

    def pieces(self) -> dict:
        """Places (m) of the pieces that are on, by id."""
        return {p.id: (p.east_m, p.north_m) for p in self.scene.pieces if p.on}

    def eyes(self) -> dict:
        """The shots that are on, by id, as far as they decide what is seen."""
        return {s.id: s.model_dump(include=SEES) for s in self.scene.shots if s.on}

    def of_clearings(self, sowing_id: str) -> list:
        """What clears a sowing: lines and areas with their distances."""
        return [
            (m.id, m.points, m.smooth, m.kind, m.clear_m, m.clear_soft_m)
            for m in self.scene.marks
            if m.kind != "mask" and m.on and m.clearing and sowing_id not in m.clear_except
        ]

    def frames(self, where: list) -> list:
        """Frames of the landforms that masks among these conditions are bound to."""
        return [
            vars(f) if (f := self.marks.frame(c.bound)) else None for c in where if c.kind == "mask"
        ]

    def water(self, grid: Grid) -> str:
        """Content key of the land with its water."""
        return self._once("water", grid, 0, lambda: self._water(grid))

    def _water(self, grid: Grid) -> str:
        return key_of(
            "water",
            key_of(*self.land(grid)),
            [
                [
                    w.model_dump(
                        include={"on", "level_m", "reach", "east_m", "north_m", "width_m", "deep_m"}
                    ),
                    self.of_marks([], [w.mark]) if w.reach == "stream" else "",
                ]
                for w in self.scene.water
            ],
        )

    def ground(self, grid: Grid) -> str:
        """Content key of the materials' weights."""
        rules = [
            (
                m.on,
                m.cover,
                m.edge,
                m.broken,
                m.broken_m,
                m.stands and (m.stands, m.ground, m.texture, m.size_m, m.turn),
                m.picture and m.over and vars(f) if (f := self.marks.frame(m.over)) else "",
                m.model_dump()["where"],
                self.of_marks(m.where),
                self.frames(m.where),
                list(self.of_sights(grid, [c for c in m.where if "ground" not in sees_of[c.kind]])),
            )
            for m in self.scene.ground
        ]
        return key_of("ground", self.water(grid), rules)

    def earlier(self, index: int) -> list[int]:
        """Earlier sowings whose feet this one keeps off."""
        s = self.scene.planting[index]
        return (
            []
            if s.keeps_off == 0 or s.stands_on
            else [j for j in range(index) if footed(self.scene.planting[j])]
        )

    def sowing(self, grid: Grid, index: int) -> str:
        """Content key of a sowing's plants."""
        return self._once("sowing", grid, index, lambda: self._sowing(grid, index))

    def _sowing(self, grid: Grid, index: int) -> str:
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
            self.water(grid),
            values,
            air,
            faces,
            self.of_marks(where, [s.line] if s.layout == "line" else []),
            self.marks.rasters.key(s.places) if s.places else "",
            self.frames(where),
            self.of_clearings(s.id),
            self.of_sights(grid, where),
            stands,
            [self.sowing(grid, j) for j in self.earlier(index)],
        )
