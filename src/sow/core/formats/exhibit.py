"""An exhibit: a scene, or a part of it, cut out as one model with sides of earth or rock, as it
would stand on a table or in a hall.
"""

from typing import Literal

import numpy as np
from pydantic import Field

from ..build import Build
from ..cabinet import worn
from ..cabinet.family import families
from ..cabinet.kind import Kind, srgb_bytes
from ..document.entry import Strict
from ..document.fields import length_m, place_m
from ..errors import SceneError
from ..marks.shapes import way
from ..planting.formed import sizes_of
from ..planting.sowing import seen_colour
from ..sample import heights_at, values_at
from ..surface.bake import colour_at
from .model import Model, ModelPart, ModelSurface
from .outline import Outline, disc, polygon, square
from .water_mesh import colour_of

PICTURE_PX = 1024
DEPTHS = np.array([0.0, 0.04, 0.1, 0.22, 0.38, 0.56, 0.78, 1.0])  # rows of a side, parts of it
MOST_TRIANGLES = 240_000  # of all that stands; what is tallest comes first
LOWEST_M = 0.35  # what is lower is the ground's own colour
SLIM = 3.4  # as many times as high as wide: a crown that is a cone
EARTH = ((0.06, 0.045, 0.032), (0.2, 0.14, 0.085), (0.27, 0.22, 0.17))
ROCK = ((0.07, 0.06, 0.05), (0.16, 0.15, 0.14), (0.22, 0.205, 0.19))


class Exhibit(Strict):
    """What is cut out of a scene."""

    east_m: float = place_m("East", 0)
    north_m: float = place_m("North", 0)
    side_m: float = length_m("Across", 100, lo=1, hi=64000)
    cut: Literal["square", "disc", "area"] = Field("square", title="Cut to")
    area: str = Field("", max_length=64, title="Area", description="A mark, by its id.")
    deep_m: float = length_m("Sides below the lowest place", 10, lo=0.1, hi=5000)
    sides: Literal["earth", "rock"] = Field("earth", title="Sides of")


def exhibit(build: Build, order: Exhibit) -> Model:
    """A part of a scene as a model: ground with its colours, water, what stands on it, sides and a
    floor; m, east, north, up from the middle of the floor.

    Raises SceneError when there is no such area, or the cut reaches over the plot's edge.
    """
    outline = _outline_of(build, order)
    low, high = outline.box()
    plot = build.scene.plot
    if (low < 0).any() or (high > (plot.width_m, plot.depth_m)).any():
        wide = float((high - low).max())
        raise SceneError(
            f"A cut {wide:g} m across about this place reaches over the plot's edge.",
            "area" if order.cut == "area" else "side_m",
            f"The plot is {plot.width_m:g} by {plot.depth_m:g} m: take less, or another middle.",
        )
    return _Cut(build, order, outline).model()


def _outline_of(build: Build, order: Exhibit) -> Outline:
    if order.cut == "square":
        return square(order.east_m, order.north_m, order.side_m)
    if order.cut == "disc":
        return disc(order.east_m, order.north_m, order.side_m)
    marks = [m for m in build.scene.marks if m.kind == "area"]
    mark = next((m for m in marks if m.id == order.area), None)
    if mark is None:
        names = ", ".join(f"“{m.name}” ({m.id})" for m in marks) or "it has none"
        raise SceneError("The scene has no such area.", "area", f"Its areas: {names}.")
    return polygon(way(mark, "area")[:-1], mark.name)


class _Cut:
    """One exhibit being made."""

    def __init__(self, build: Build, order: Exhibit, outline: Outline):
        self.build = build
        self.order = order
        self.outline = outline
        self.middle = outline.middle
        self.places, self.faces, self.rim = outline.places, outline.faces, outline.rim
        at = self.places + self.middle
        self.up = heights_at(build.heights, build.grid, at[:, 0], at[:, 1]).astype(np.float64)
        self.floor = float(self.up.min()) - order.deep_m
        self.parts: list[ModelPart] = []
        self.surfaces: list[ModelSurface] = []

    def model(self) -> Model:
        """Everything, from the ground to the floor."""
        self._ground()
        self._water()
        self._standing()
        self._sides()
        return Model(self.parts, self.surfaces)

    def _surface(self, name: str, **more) -> int:
        self.surfaces.append(ModelSurface(name, **more))
        return len(self.surfaces) - 1

    def _add(self, positions, faces, surface: int, uv=None, colour=None) -> None:
        placed = np.asarray(positions, np.float32) - np.array([0, 0, self.floor], np.float32)
        faces = np.asarray(faces, np.uint32)
        self.parts.append(ModelPart(placed, faces, uv, colour, surface))

    def _ground(self) -> None:
        half = float(np.abs(self.places).max())
        middles = (np.arange(PICTURE_PX) + 0.5) / PICTURE_PX * 2 - 1
        east = self.middle[0] + middles * half
        north = self.middle[1] - middles * half
        colour = colour_at(self.build, east, north)
        cover = self.build.plant_cover()
        x, y = np.meshgrid(east, north)
        of = lambda k: values_at(
            np.ascontiguousarray(cover[..., k]), self.build.grid, x.ravel(), y.ravel()
        ).reshape(x.shape)
        hidden = of(3)[..., None]
        colour = colour * (1 - hidden) + np.dstack([of(k) for k in range(3)]) * hidden
        rgba = np.full((*x.shape, 4), 255, np.uint8)
        rgba[..., :3] = srgb_bytes(colour)
        uv = np.stack([self.places[:, 0] + half, half - self.places[:, 1]], 1) / (2 * half)
        positions = np.column_stack([self.places, self.up])
        self._add(positions, self.faces, self._surface("Ground", picture=rgba), uv=uv)

    def _water(self) -> None:
        level = self.build.water()[0]
        if not np.isfinite(level).any():
            return
        at = self.places + self.middle
        rows = np.clip(np.rint(self.build.grid.rows_of(at[:, 1])), 0, level.shape[0] - 1)
        columns = np.clip(np.rint(self.build.grid.cols_of(at[:, 0])), 0, level.shape[1] - 1)
        own = level[rows.astype(int), columns.astype(int)].astype(np.float64)
        wet = np.isfinite(own)
        faces = self.faces[wet[self.faces].any(1)]
        if not len(faces):
            return
        of_face = np.nanmax(own[faces], axis=1)
        filled = np.where(wet, own, -1e9)
        np.maximum.at(filled, faces.ravel(), np.repeat(of_face, 3))
        used, faces = np.unique(faces, return_inverse=True)
        positions = np.column_stack([self.places[used], filled[used]])
        water = next(w for w in self.build.scene.water if w.on)
        colour = tuple(colour_of(water.tint))
        self._add(positions, faces.reshape(-1, 3), self._surface("Water", colour=colour))

    def _standing(self) -> None:
        """Plants and pieces, the tallest first, as far as the triangles go."""
        rows = [*self._plants(), *self._pieces()]
        rows.sort(key=lambda r: -r[0])
        left = MOST_TRIANGLES
        gathered: list[tuple[np.ndarray, np.ndarray, np.ndarray]] = []
        for _, place, turn, sizes, name, variant in rows:
            points, faces, colour = _figure(name, variant)
            if len(faces) > left:
                break
            left -= len(faces)
            c, s = np.cos(turn), np.sin(turn)
            turned = points * sizes
            turned = np.stack(
                [
                    c * turned[:, 0] + s * turned[:, 1],
                    c * turned[:, 1] - s * turned[:, 0],
                    turned[:, 2],
                ],
                1,
            )
            gathered.append((turned + place, faces, colour))
        if not gathered:
            return
        starts = np.cumsum([0, *(len(g[0]) for g in gathered[:-1])])
        self._add(
            np.concatenate([g[0] for g in gathered]),
            np.concatenate([g[1] + start for g, start in zip(gathered, starts)]),
            self._surface("What stands"),
            colour=np.concatenate([g[2] for g in gathered]).astype(np.float32),
        )

    def _plants(self):
        for index, sowing in enumerate(self.build.scene.planting):
            if not sowing.on:
                continue
            plants = self.build.plants(index)
            names = self.build.names(index)
            for i in np.flatnonzero(self.outline.holds(plants.east, plants.north)):
                name = names[plants.kind[i]]
                size = float(plants.size[i])
                height = worn(name)[0].height_m * size
                if height < LOWEST_M:
                    continue
                place = np.array([plants.east[i], plants.north[i], plants.up[i]], float)
                place[:2] -= self.middle
                turn = float(np.deg2rad(plants.turn[i]))
                yield height, place, turn, np.full(3, size), name, int(plants.variant[i])

    def _pieces(self):
        for piece in self.build.pieces():
            at = np.array([piece["east_m"], piece["north_m"]])
            if self.outline.holds(at[:1], at[1:])[0]:
                sizes = sizes_of(piece)
                height = worn(piece["dressed"])[0].height_m * float(sizes[2])
                place = np.array([*(at - self.middle), piece["up_m"]])
                turn = float(np.deg2rad(piece["turn"]))
                # what was placed by hand is wanted, however small
                yield height + 1e4, place, turn, sizes, piece["dressed"], piece["variant"]

    def _sides(self) -> None:
        """Sides in layers down to the floor, and the floor."""
        top = np.column_stack([self.places[self.rim], self.up[self.rim]])
        count = len(top)
        rows = []
        colours = []
        tones = np.array(EARTH if self.order.sides == "earth" else ROCK)
        for depth in DEPTHS:
            row = top.copy()
            row[:, 2] = top[:, 2] + (self.floor - top[:, 2]) * depth
            rows.append(row)
            grain = np.random.default_rng(int(1000 * depth)).random(count) * 0.16
            beds = 0.14 * np.sin(row[:, 2] / max(self.order.deep_m, 1e-3) * 19)
            tone = np.clip(depth * 4, 0, 2)
            low = int(min(tone, 1))
            base = tones[low] + (tones[low + 1] - tones[low]) * (tone - low)
            colours.append(base[None] * (0.92 + grain + beds * min(depth * 4, 1))[:, None])
        points = np.concatenate(rows)
        k = np.arange(count)
        after = (k + 1) % count
        faces = []
        for r in range(len(DEPTHS) - 1):
            a, b = r * count, (r + 1) * count
            faces.append(np.stack([a + k, b + k, b + after], 1))
            faces.append(np.stack([a + k, b + after, a + after], 1))
        surface = self._surface("Sides")
        self._add(points, np.concatenate(faces), surface, colour=np.concatenate(colours))
        below = np.vstack([rows[-1], [[0.0, 0.0, self.floor]]])
        fan = np.stack([np.full(count, count), after, k], 1)
        shade = np.tile(tones[2] * 0.8, (count + 1, 1))
        self._add(below, fan, surface, colour=shade)


def _figure(name: str, variant: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A kind as it stands on an exhibit, at its own size: what is modelled without pictures as it
    is, a plant as its crown on its stem. Positions (n, 3), faces (m, 3), linear colours (n, 3).
    """
    key = name, variant
    if key not in _figures:
        kind, look, _ = worn(name)
        own = _modelled(kind, look, variant)
        _figures[key] = own if own is not None else _crown(kind, name, variant)
    return _figures[key]


_figures: dict[tuple[str, int], tuple[np.ndarray, np.ndarray, np.ndarray]] = {}


def _modelled(kind: Kind, look: str, variant: int):
    if families[kind.family].leafy:
        return None
    levels = kind.shape(look).levels[variant % len(kind.variants)]
    plain = [m for m in levels if not (m.uv >= 0).any()]
    if not plain:
        return None
    mesh = plain[min(1, len(plain) - 1)]
    return mesh.positions.astype(float), mesh.faces.astype(np.int64), mesh.colour.astype(float)


def _crown(kind: Kind, name: str, variant: int):
    """A crown by the kind's height and reach, a little uneven, on a stem."""
    colour = np.array(seen_colour(name), float)
    slim = kind.height_m > SLIM * kind.reach_m
    stem = 0.08 if slim or kind.height_m < 3 else 0.26
    rows, around = 6, 9
    t = np.linspace(0, 1, rows)
    wide = (1 - t) ** 0.9 if slim else np.sqrt(np.clip(1 - (2 * t - 1) ** 2, 0, 1))
    wide = np.maximum(wide, 0.04)
    angles = np.arange(around) / around * 2 * np.pi
    chance = np.random.default_rng(variant + 7).random((rows, around))
    uneven = 1 + 0.34 * (chance - 0.5)
    reach = kind.reach_m * wide[:, None] * uneven
    points = np.stack(
        [
            reach * np.cos(angles),
            reach * np.sin(angles),
            np.broadcast_to(kind.height_m * (stem + (1 - stem) * t)[:, None], reach.shape),
        ],
        -1,
    ).reshape(-1, 3)
    ids = np.arange(rows * around).reshape(rows, around)
    nxt = np.roll(ids, -1, axis=1)
    a, b, c, d = ids[:-1], nxt[:-1], nxt[1:], ids[1:]
    faces = np.stack([a, b, c, a, c, d], -1).reshape(-1, 3)
    tone = np.repeat(0.62 + 0.5 * t, around) * (0.85 + 0.3 * uneven.ravel() / 1.17)
    colours = colour[None] * tone[:, None]
    thick = 0.018 * kind.height_m
    square = np.array([[1, 0], [0, 1], [-1, 0], [0, -1]], float) * thick
    foot = np.column_stack([square, np.full(4, -0.02 * kind.height_m)])
    head = np.column_stack([square * 0.6, np.full(4, kind.height_m * (stem + 0.2))])
    k = np.arange(4)
    j = (k + 1) % 4
    base = len(points)
    trunk = np.concatenate([np.stack([k, j, j + 4], 1), np.stack([k, j + 4, k + 4], 1)]) + base
    brown = np.tile((0.13, 0.1, 0.075), (8, 1))
    return (
        np.concatenate([points, foot, head]),
        np.concatenate([faces, trunk]),
        np.concatenate([colours, brown]),
    )
