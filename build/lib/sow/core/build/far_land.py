"""The land beyond the plot, ring by ring: its shape, what its conditions see, what clothes it."""

from dataclasses import replace
from typing import TYPE_CHECKING, Any

import cv2
import numpy as np

from ..cache import key_of
from ..land.base import Frame
from ..land.join_far import join_far, moved_far, moved_frame
from ..planting.density import ground_mask
from ..plot import Grid
from ..sample import heights_at
from ..surface.material import Material, stood_out, tuned, weights
from ..surface.strewn import ranks
from ..water.standing import levels
from ..where import Absent, Site
from .keys import LABELS
from .site import site_on

if TYPE_CHECKING:
    from .build import Build

BARE_GREY = 0.2  # linear, of far land without materials
PATCH_M = 1.5  # fineness at which patches have the sizes that they have on the plot
PARTS, PATCH_SOFT = 0.85, 0.35  # how far patches part, softness of their edges
RINGS = (0, 1)  # the inner one about the plot, the outer one about that


def far_grid(build: "Build", ring: int) -> Grid:
    """The coarse grid of a ring."""
    far = build.scene.beyond
    return build.scene.plot.beyond_grid(ring, far.reach_km, far.posts)


def far_land_key(build: "Build", ring: int) -> str:
    """Content key of a ring's heights."""
    far = build.scene.beyond
    grid = far_grid(build, ring)
    own = build.land_keys(grid, far.land) if far.land else []
    settings = far.model_dump(exclude={"land", "ground"})
    return key_of("beyond", ring, build.land_key, build.land_keys(grid), own, settings)


def far_land(build: "Build", ring: int = 0) -> tuple[np.ndarray, Grid]:
    """Far land (m, float32) on a coarse grid around the plot (ring 0) or around that (ring 1),
    joined to what lies within.

    Its own landforms if it has any, moved, turned and sized as a whole; else the plot's own run
    on. The step between the two fades over `join_m`. By `edge` the land fades to a level, rises
    as a rim, or runs on.
    """
    far, plot = build.scene.beyond, build.scene.plot
    grid = far_grid(build, ring)

    def make() -> np.ndarray:
        build.tell("far land", 0.5)
        if far.land:
            heights = moved_far(build.far_step(len(far.land), grid).heights, grid, far, plot)
            heights += np.float32(far.lift_m)
        else:
            heights = build.land_step(grid=grid).heights
        within, inner = (build.heights, build.grid) if ring == 0 else far_land(build, 0)
        return join_far(heights, grid, within, inner, far, plot, ring)

    return build.once("beyond", far_land_key(build, ring), make), grid


def far_heights_at(build: "Build", east: np.ndarray, north: np.ndarray) -> np.ndarray:
    """Heights (m, float64 (n,)) of the finished land at places on the plot or beyond it; where
    the land ends with the plot, those of its edge.
    """
    plot = build.scene.plot
    heights = heights_at(build.heights, build.grid, east, north).astype(np.float64)
    away = (east < 0) | (east > plot.width_m) | (north < 0) | (north > plot.depth_m)
    if build.scene.beyond.edge == "end" or not away.any():
        return heights
    for ring in reversed(RINGS):
        far, grid = far_land(build, ring)
        west, south, most_east, most_north = grid.bounds()
        here = away & (east >= west) & (east <= most_east)
        here &= (north >= south) & (north <= most_north)
        heights[here] = heights_at(far, grid, east[here], north[here])
    return heights


def far_frame(build: "Build", entry_id: str) -> Frame | None:
    """The frame of a landform where it lies in the end; the far land's are moved with it."""
    frame = build.marks.frame(entry_id)
    far = build.scene.beyond
    if frame is None or not any(e.id == entry_id for e in far.land):
        return frame
    return moved_frame(frame, far, build.scene.plot)


def far_ground(build: "Build") -> list[Material]:
    """The materials of the far land: its own, or those of the plot."""
    return build.scene.beyond.ground or build.scene.ground


def far_site(build: "Build", ring: int) -> tuple[Site, np.ndarray]:
    """What conditions see of a ring of far land, and the weights of its materials, float32
    (count, ny, nx).
    """
    heights, grid = far_land(build, ring)
    scene = build.scene
    still = [w for w in scene.water if w.reach != "stream"]
    site = site_on(
        replace(build, grid=grid),
        heights,
        grid,
        "planting",
        levels(still, heights, grid)[0],
        maps={} if scene.beyond.land else None,
    )
    near_cover = site.cover
    frame_of = lambda entry_id: far_frame(build, entry_id)

    def cover(entry_id: str, path: str) -> np.ndarray:
        if not any(e.id == entry_id for e in scene.beyond.land):
            return near_cover(entry_id, path)
        return moved_far(build.cover(entry_id, grid), grid, scene.beyond, scene.plot)

    site.plants = lambda sowing_id, path: np.zeros((0, 2))
    site.mark = lambda condition, path: build.marks.laid(condition, path, grid, frame_of)
    site.cover = cover
    path = "beyond.ground" if scene.beyond.ground else "ground"
    own = weights(far_ground(build), site, path, frame=frame_of)
    known = {m.id: share for m, share in zip(far_ground(build), own)}

    def shares(material_id: str, path: str) -> np.ndarray:
        """A material of the far land, or how one of the plot's would lie there."""
        if material_id not in known:  # a rule of a sowing names one of the plot's
            near = weights(scene.ground, replace(site), frame=frame_of)
            known.update({m.id: share for m, share in zip(scene.ground, near)})
        if material_id not in known:
            raise Absent(f"There is no material '{material_id}'.", path, "Choose another.")
        return known[material_id]

    site.shares = shares
    return site, own


def far_colour_key(build: "Build", ring: int) -> str:
    """Content key of what clothes a ring."""
    scene = build.scene
    names = [build.names(i) for i in range(len(scene.planting))]
    return key_of(
        "far colour",
        far_land_key(build, ring),
        build.water_key,
        [m.model_dump(exclude=LABELS) for m in far_ground(build)],
        build.keys.named(build.grid, far_ground(build)),
        [s.model_dump(exclude=LABELS) for s in scene.planting],
        build.keys.named(build.grid, scene.planting),
        names,
    )


def far_colour(build: "Build", ring: int = 0) -> np.ndarray:
    """What clothes the far land, seen from afar: square root of linear colour, uint8 (ny, nx,
    4).
    """

    def make() -> np.ndarray:
        colour = _clothed(build, ring, 1)
        bytes_ = np.rint(np.sqrt(np.clip(colour, 0, 1)) * 255)
        return np.dstack([bytes_, np.full(bytes_.shape[:2], 255)]).astype(np.uint8)

    return build.once("beyond", far_colour_key(build, ring), make)


def far_texture(build: "Build", ring: int, finer: int) -> np.ndarray:
    """Linear colour of what clothes a ring, float32 (ny * finer, nx * finer, 3): its texels lie
    evenly about its posts. Between posts materials and plants part in patches.
    """
    key = key_of("far texture", far_colour_key(build, ring), finer)
    return build.once("beyond", key, lambda: _clothed(build, ring, finer))


def _clothed(build: "Build", ring: int, finer: int) -> np.ndarray:
    _, grid = far_land(build, ring)
    site, shares = far_site(build, ring)
    texels = _Texels(grid, finer)
    colour = np.full((*texels.shape, 3), BARE_GREY, np.float32)
    under = np.zeros(texels.shape, np.float32)
    for index, (material, share) in enumerate(zip(far_ground(build), shares)):
        laid = texels.read(share)
        under += laid
        cover = texels.parted(laid / np.maximum(under, 1e-4), index)
        colour += cover[..., None] * (_laid(build, material, texels) - colour)
    masks = [
        ground_mask(s, site, f"planting.{i}") if s.on else None
        for i, s in enumerate(build.scene.planting)
    ]
    grown = texels.read(replace(build, grid=grid).cover_of(masks))
    hides = texels.parted(grown[..., 3], len(shares))
    return colour + hides[..., None] * (grown[..., :3] - colour)


class _Texels:
    """The texels of a ring's texture, `finer` for each post along both sides."""

    def __init__(self, grid: Grid, finer: int):
        self.grid, self.finer = grid, finer
        self.shape = (grid.ny * finer, grid.nx * finer)
        self.fine_m = grid.spacing / finer

    def read(self, field: np.ndarray) -> np.ndarray:
        """A field of the posts at every texel."""
        whole = np.ascontiguousarray(field, np.float32)
        if self.finer == 1:
            return whole
        return cv2.resize(whole, self.shape[::-1], interpolation=cv2.INTER_LINEAR)

    def places(self) -> tuple[np.ndarray, np.ndarray]:
        """East and north of every texel, m, each (rows, columns)."""
        at = lambda count: (np.arange(count * self.finer) + 0.5) / self.finer - 0.5
        east = self.grid.xs()[0] + at(self.grid.nx) * self.grid.spacing
        north = self.grid.ys()[0] - at(self.grid.ny) * self.grid.spacing
        x, y = np.meshgrid(east, north)
        return x, y

    def parted(self, cover: np.ndarray, pattern: int) -> np.ndarray:
        """A cover 0..1 as patches, as large as its posts are far apart, with the same mean."""
        if self.finer == 1:
            return cover
        mixed = np.flatnonzero((cover > 0) & (cover < 1))  # the rest is as it is
        if not len(mixed):
            return cover
        x, y = self.places()
        size = max(1.0, self.fine_m / PATCH_M)
        here = lambda v: (v.ravel()[mixed] / size).astype(np.float32)
        late = ranks(here(x), here(y), self.fine_m / size, pattern + 60)
        out = cover.astype(np.float32).ravel()
        out[mixed] = np.clip(stood_out(out[mixed], late, PARTS, PATCH_SOFT), 0, 1)
        return out.reshape(self.shape)


def _laid(build: "Build", material: Material, texels: _Texels) -> Any:
    """Linear colour of a material over a ring: its mean, or its picture where that is bound to a
    landform (float32 (rows, columns, 3)).
    """
    frame = far_frame(build, material.over) if material.picture and material.over else None
    if frame is None:
        return build.mean_of(material)
    east, north = texels.places()
    return tuned(material, build.picture_at(material, east, north, frame)[..., :3])
