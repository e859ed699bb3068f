"""Content keys: the hash of everything that a product depends on."""

from collections.abc import Callable, Collection, Iterator
from dataclasses import dataclass, field
from typing import Any

from pydantic import BaseModel

from ..cache import key_of
from ..document.references import RASTERS, named_in
from ..planting.sowing import Sowing, footed
from ..plot import Grid
from ..scene import Scene
from ..where.base import Condition, sees_of
from .marks import Marks

SEES = {  # of a shot: what decides on what it sees
    *("east_m", "north_m", "eye_m", "aim_by", "bearing", "tilt"),
    *("aim_east_m", "aim_north_m", "aim_over_m"),
    *("focal_mm", "shift_up", "shift_aside", "width_px", "height_px"),
}
# What a key leaves out, by name; `tests/test_every_field.py` holds it against every field.
LABELS = {"id", "name", "group"}
LOOKS = LABELS | {  # of a material: how it looks, not where it lies
    *("tint", "bright", "hue", "saturation", "relief", "rough", "wet", "picture_m"),
}
TEXTURE = {"ground", "texture", "size_m", "turn"}  # of a material that does not blend by height
LIES_NOT = LABELS | {  # of a water: how it looks, not where it lies
    *("clear_m", "through", "tint", "mirror", "glitter", "raised", "waves_cm", "wave_m"),
    *("wind_ms", "fetch_m", "waves_from", "spread", "chop", "speed", "wave_seed", "loop_s"),
    *("surf", "foam", "around", "spray", "frozen", "ice_cm", "snow", "cracks"),
    *("wake", "wake_toward", "wake_ms"),
}
OF_MARK = LABELS | {  # of a mark: its clearing and the rule that it is filled from when asked
    *("clearing", "clear_m", "clear_soft_m", "clear_except", "where", "posts"),
}
WORN = {"look", "tint"}  # of a part of a mix: what its plants wear
NOT_IN_FILES = {"budget"}  # of a scene: what ends in no file


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
            values = entry.model_dump(exclude=LABELS)
            keys.append(key_of(keys[-1], values, self.named(grid, entry)))
        return keys

    def named(self, grid: Grid, value: Any, aside: Collection[str] = ()) -> list[Any]:
        """The content of all that a model, or those within it, names: marks, rasters, landforms,
        pieces, shots, sowings, materials.
        """
        # what is made last may name all that is made before it; no circle can arise
        last = isinstance(value, (Sowing, list))
        by_list: dict[str, Callable[[Any], Any]] = {
            "marks": self._of_mark,
            "land": lambda entry: entry.model_dump(exclude=LABELS),
            "pieces": lambda piece: piece.model_dump(exclude=LABELS),
            "shots": lambda shot: shot.model_dump(include=SEES | {"on"}),
            "planting": lambda s: last and self.sowing(grid, self.scene.planting.index(s)),
            "ground": lambda material: "",  # the key of what sees the ground holds all of it
        }
        out: list[Any] = []
        for n in named_in(value, aside=aside):
            if not n.id:
                out.append("")
            elif n.list == RASTERS:
                out.append(self.marks.rasters.key(n.id))
            else:
                found = self._entries(n.list).get(n.id)
                out.append(None if found is None else by_list[n.list](found))
        return [out, self._sights(grid, value, last)]

    def _entries(self, name: str) -> dict[str, Any]:
        """Entries of a list of the scene by id; the land beyond the plot counts as land."""
        if ("entries", name) not in self.known:
            far = getattr(self.scene.beyond, name, [])
            found = {e.id: e for e in [*far, *getattr(self.scene, name)]}
            self.known["entries", name] = found
        return self.known["entries", name]

    def _of_mark(self, mark: Any) -> Any:
        raster = self.marks.rasters.key(mark.raster) if getattr(mark, "raster", "") else ""
        return key_of(mark.model_dump(exclude=OF_MARK), raster)

    def _sights(self, grid: Grid, value: Any, last: bool) -> list[Any]:
        """What the conditions of a model see of whole lists of the scene."""
        seen = {sight for c in conditions_in(value) if c.on for sight in sees_of[c.kind]}
        out: list[Any] = []
        if "ground" in seen and last:
            out.append(self.ground(grid))
        if "pieces" in seen:
            out.append(self.pieces())
        if "shots" in seen:
            out.append(self.eyes())
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

    def water(self, grid: Grid) -> str:
        """Content key of the land with its water."""
        return self._once("water", grid, 0, lambda: self._water(grid))

    def _water(self, grid: Grid) -> str:
        waters = [
            (w.model_dump(exclude=LIES_NOT), self.named(grid, w, LIES_NOT))
            for w in self.scene.water
        ]
        return key_of("water", key_of(*self.land(grid)), waters)

    def ground(self, grid: Grid) -> str:
        """Content key of the materials' weights."""
        return self._once("ground", grid, 0, lambda: self._ground(grid))

    def _ground(self, grid: Grid) -> str:
        rules = []
        for m in self.scene.ground:
            aside = LOOKS if m.stands else LOOKS | TEXTURE
            rules.append((m.model_dump(exclude=aside), self.named(grid, m, aside)))
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
        light = self.scene.light
        air = [
            light.sun_bearing if s.stance.faces == "light" else 0,
            light.wind_from if s.stance.faces == "wind" or s.stance.wind else 0,
        ]
        values = {
            **s.model_dump(exclude=LABELS | {"mix"}),
            "mix": [p.model_dump(exclude=WORN) for p in s.mix],
        }
        pieces = (
            [p.model_dump(exclude=LABELS | {"look"}) for p in self.scene.pieces if p.on]
            if s.keeps_off or s.stands_on  # on a piece that may itself stand on another
            else []
        )
        return key_of(
            "sowing",
            self.water(grid),
            values,
            air,
            self.named(grid, s),
            self.of_clearings(s.id),
            pieces,
            [self.sowing(grid, j) for j in self.earlier(index)],
        )

    def mask(self, grid: Grid, index: int) -> str:
        """Content key of where a sowing may stand."""
        s = self.scene.planting[index]
        return key_of(
            "mask",
            self.water(grid),
            s.model_dump(include={"where", "wet"}),
            (s.clump_m, s.clump_share, s.seed) if s.layout == "clumped" else "",
            self.named(grid, s.where),
            self.of_clearings(s.id),
        )

    def air(self, grid: Grid) -> str:
        """Content key of what stands in the air."""
        streams = any(w.on and w.reach == "stream" for w in self.scene.water)
        return key_of(
            "air",
            key_of(*self.land(grid)),
            self.beyond(),
            [e.model_dump(exclude={"name"}) for e in self.scene.air],
            self.named(grid, self.scene.air),
            [w.model_dump() for w in self.scene.water if streams],
            self.water(grid) if streams else "",
        )

    def beyond(self) -> Any:
        """What the land beyond the plot is made with, besides the plot's own."""
        return self.scene.beyond.model_dump(exclude={"ground"})

    def content(self, grid: Grid) -> str:
        """Key of everything that ends in a file: the whole scene but for NOT_IN_FILES."""
        return self._once("content", grid, 0, lambda: self.of_files(grid, NOT_IN_FILES))

    def of_files(self, grid: Grid, aside: set[str]) -> str:
        """Key of the whole scene on a grid but for the fields `aside`."""
        named = named_in(self.scene, aside=aside)
        rasters = {n.id for n in named if n.list == RASTERS and n.id}
        return key_of(
            "content",
            vars(grid),
            self.scene.model_dump(exclude=aside),
            {name: self.marks.rasters.key(name) for name in sorted(rasters)},
        )


def conditions_in(value: Any) -> Iterator[Any]:
    """Every condition of a model, or of those within it."""
    if isinstance(value, Condition):
        yield value
    elif isinstance(value, (list, tuple)):
        for item in value:
            yield from conditions_in(item)
    elif isinstance(value, BaseModel):
        for name in type(value).model_fields:
            yield from conditions_in(getattr(value, name))
