"""What is found of a whole plot on a coarse grid, for tiles on a finer one."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import binary_dilation

from ..build import Build, Rasters
from ..build.around import Around, LandBelow
from ..build.site import site_on
from ..cache import Cache
from ..land.base import landforms, processes
from ..marks.shapes import clear_of
from ..planting.density import ground_mask, wished
from ..planting.place import Amount, free_shares
from ..planting.places import shares_of
from ..planting.sowing import aparts
from ..scene import Scene
from ..water.standing import surface_of
from ..where import Absent, Site, conditions
from ..where.answer import answered, settled
from ..where.base import sees_of
from .cut import reach_of
from .places import lists_of

COARSE_POSTS = 1025
CACHE_BYTES = 2 << 30


@dataclass(frozen=True)
class Whole:
    """A scene whose bands with a target of cover have found it, and what its tiles must know."""

    scene: Scene
    around: Around
    content: str


def whole_of(
    scene: Scene,
    rasters: Rasters,
    spacing: float,
    posts: int = COARSE_POSTS,
    tell: Callable[[str, float], None] = lambda step, share: None,
) -> Whole:
    """What tiles with posts `spacing` m apart must know of a plot, found on a grid of `posts` along
    its longer side. Raises SceneError when the scene can't be built.
    """
    grid = scene.plot.grid(posts)
    build = Build(scene, grid, Cache(CACHE_BYTES), rasters, tell)
    around = Around(grid, build.heights)
    _find_land(build, around, spacing)
    found = scene.model_copy(deep=True)
    own = dict(lists_of(found))
    for path, where in lists_of(scene):
        site = _site_of(build, path)
        for k, item in enumerate(where):
            if not item.on:
                continue
            if reach_of(conditions, item, scene, spacing) is None:
                _find_answer(around, where, k, site, path)
            else:
                try:
                    own[path][k] = settled(item, where[:k], site, path)
                except Absent:
                    continue
    _find_water(build, around)
    _find_amounts(build, around)
    return Whole(found, around, build.content_key())


def _find_land(build: Build, around: Around, spacing: float) -> None:
    """What each entry of the land sees, and what those add that look too far."""
    for i, entry in enumerate(build.scene.land):
        before = build.land_step(i).heights
        band = float(before.min()), float(before.max())
        around.lands[entry.id] = LandBelow(band, before, around.grid)
        register = landforms if entry.kind in landforms.models else processes
        if entry.on and reach_of(register, entry, build.scene, spacing) is None:
            around.changes[entry.id] = build.land_step(i + 1).heights - before


def _site_of(build: Build, path: str) -> Site:
    """What a list of conditions sees of the whole plot."""
    stage, index = path.split(".")[:2]
    if stage != "land":
        return site_on(build, build.heights, build.grid, stage, build.water()[0])
    under = build.land_step(int(index))
    before = build.scene.land[int(index)].id
    return site_on(build, under.heights, build.grid, "land", maps=under.maps, before=before)


def _find_answer(around: Around, where: list, k: int, site: Site, path: str) -> None:
    try:
        answer = answered(where, k, site, path)
    except Absent:
        return
    around.answers[f"{path}.{k}"] = answer.astype(np.float32)


def _find_water(build: Build, around: Around) -> None:
    """Where pools lie, with a post about them, and the surfaces of streams."""
    masks = build.water()[1]
    for water, mask in zip(build.scene.water, masks):
        if water.on and water.reach == "pool":
            near = binary_dilation(mask, iterations=2)
            around.pools[water.id] = near.astype(np.float32)
        elif water.on and water.reach == "stream":
            line = build.marks.line(water.mark)
            around.streams[water.id] = surface_of(water, line, build.heights, build.grid)


def _find_amounts(build: Build, around: Around) -> None:
    """How dense each sowing stands, and how much its larger kinds leave to the smaller ones. A
    distance to other plants is left out of it.
    """
    for i, sowing in enumerate(build.scene.planting):
        if not sowing.on or sowing.layout not in ("natural", "clumped") or sowing.stands_on:
            continue
        free_of_plants = [c for c in sowing.where if "sowings" not in sees_of[c.kind]]
        plain = sowing.model_copy(update={"where": free_of_plants})
        path = f"planting.{i}"
        held = ground_mask(plain, _site_of(build, path), path)
        clear = clear_of(build.scene.marks, sowing.id, build.grid)
        if clear is not None:
            held = clear if held is None else held * clear
        per_m2 = wished(sowing, held, build.scene.plot.area_m2)
        shares = shares_of(sowing, path)
        around.amounts[sowing.id] = Amount(
            per_m2, free_shares(per_m2, aparts(sowing), shares, held)
        )
