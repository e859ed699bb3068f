"""What conditions see of a build, at each stage."""

from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np

from ..cache import key_of
from ..errors import SceneError
from ..plot import Grid
from ..where import Absent, Site

if TYPE_CHECKING:  # a build makes sites, and a site asks its build
    from .build import Build


def site_on(
    build: "Build",
    heights: np.ndarray,
    grid: Grid,
    stage: str,
    water: np.ndarray | None = None,
    maps: dict[str, np.ndarray] | None = None,
    before: str = "",
) -> Site:
    """What conditions see of heights on a grid at a stage; a land entry `before` which is asked
    sees the land below it.
    """

    def cover(entry_id: str, path: str) -> Any:
        ids = [e.id for e in build.scene.land]
        far = [e.id for e in build.scene.beyond.land]
        if entry_id in far and before not in far:  # only the far land's own site sees it
            return np.zeros(grid.shape, np.float32)
        if before in far:
            ids = far
        if entry_id not in ids:
            raise Absent(
                "No landform is chosen." if not entry_id else f"There is no landform '{entry_id}'.",
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
        return build.cover(entry_id, grid)

    def shares(material_id: str, path: str) -> Any:
        index = next((i for i, m in enumerate(build.scene.ground) if m.id == material_id), None)
        if index is None:
            raise Absent(f"There is no material '{material_id}'.", path, "Choose another.")
        return replace(build, grid=grid).ground()[index]

    def plants(sowing_id: str, path: str) -> Any:
        ids = [s.id for s in build.scene.planting]
        if sowing_id not in ids:
            raise Absent(f"There is no sowing '{sowing_id}'.", path, "Choose another.")
        found = (
            build.plants(ids.index(sowing_id))
            if build.scene.planting[ids.index(sowing_id)].on
            else None
        )
        return np.zeros((0, 2)) if found is None else np.column_stack([found.east, found.north])

    def whole() -> Any:
        view = replace(build, grid=build.scene.plot.view_grid())
        if stage == "land":
            index = next(
                (i for i, e in enumerate(build.scene.land) if e.id == before),
                len(build.scene.land),
            )
            under = view.land_step(index)
            return site_on(view, under.heights, view.grid, "land", maps=under.maps, before=before)
        return site_on(view, view.heights, view.grid, stage, view.water()[0], before=before)

    maps = build.land_step(grid=grid).maps if maps is None else maps
    view = build.scene.plot.view_grid()
    # what is measured of the finished land is shared by all that ask, as a band is dragged
    kept = (
        build.cache.once(key_of("measures", build.water_key, vars(grid)), dict)
        if stage != "land" and _finished(build, heights, grid) and heights.size < 1 << 20
        else {}
    )
    return Site(
        heights,
        grid,
        build.scene.plot,
        stage,
        water,
        lambda c, path: build.marks.laid(c, path, grid),
        maps,
        cover,
        build.marks.drawn,
        shares,
        plants,
        build.keys.pieces(),
        {s.id: s for s in build.scene.shots if s.on},
        None if vars(grid) == vars(view) or build.around else whole,
        carried=lambda place: build.around.answer(place, grid) if build.around else None,
        _kept=kept,
    )


def _finished(build: "Build", heights: np.ndarray, grid: Grid) -> bool:
    """Whether these are the heights of the finished land."""
    step = build.cache.get("land " + build.land_keys(grid)[-1])
    return step is not None and step.heights is heights
