"""The land of a build, entry by entry, each step kept."""

from typing import TYPE_CHECKING, Any

import numpy as np

from ..cache import key_of
from ..errors import SceneError
from ..land.base import Below, Step, join, landforms, processes
from ..plot import Grid
from ..where import holding
from .site import site_on

if TYPE_CHECKING:  # a build walks its land, and a step asks its build
    from .build import Build


def walked(
    build: "Build", grid: Grid, entries: list, keys: list[str], upto: int, where_path: str
) -> Step:
    """The land after `upto` entries: from the newest one that is kept, onward."""
    start = upto
    while start > 0 and build.cache.get("land " + keys[start]) is None:
        start -= 1
    step = (
        build.cache.get("land " + keys[start]) if start else Step(np.zeros(grid.shape, np.float32))
    )
    for i in range(start, upto):
        entry = entries[i]
        if not entry.on:
            continue
        build.tell(entry.name, i / max(len(entries), 1))
        below = step
        step = build.once(
            "land",
            "land " + keys[i + 1],
            lambda: _with_entry(build, f"{where_path}.{i}", entry, below, grid),
        )
    return step


def _with_entry(build: "Build", path: str, entry: Any, under: Step, grid: Grid) -> Step:
    once = lambda name, make: build.cache.once(key_of("part", entry.kind, name), make)
    site = site_on(build, under.heights, grid, "land", maps=under.maps, before=entry.id)
    below = Below(
        under.heights,
        grid,
        build.scene.plot,
        lambda name: build.marks.raster(name, f"{path}.raster"),
        path,
        build.check,
        once,
        ask=lambda where, place: holding(where, site, place),
        picture=lambda mark: build.marks.picture(mark, f"{path}.picture"),
        drawn=build.marks.line,
        around=build.around.below(entry.id) if build.around else None,
    )
    try:
        far = build.around.change(entry.id, grid) if build.around else None
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


def cover_of_entry(build: "Build", entry_id: str, grid: Grid) -> np.ndarray:
    """Where the land of one landform shows, float32 0..1: what it wins, less what later ones
    take from it. Of a far land's landform, before that is moved as a whole.
    """
    entries = build.scene.land
    far = any(e.id == entry_id for e in build.scene.beyond.land)
    if far:
        entries = build.scene.beyond.land
    step = build.far_step if far else build.land_step
    index = next((i for i, e in enumerate(entries) if e.id == entry_id), None)
    if index is None or not entries[index].on:
        return np.zeros(grid.shape, np.float32)
    key = key_of("cover", entry_id, build.land_keys(grid, entries))

    def make() -> Any:
        own = step(index + 1, grid).shows
        shows = np.ones(grid.shape, np.float32) if own is None else own.astype(np.float32) / 255
        for i in range(index + 1, len(entries)):
            takes = step(i + 1, grid).takes if entries[i].on else None
            if takes is not None:
                shows *= 1 - takes.astype(np.float32) / 255
        return shows

    return build.cache.once(key, make)
