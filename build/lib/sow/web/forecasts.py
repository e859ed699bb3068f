"""Forecasts of a hand-over, from what was sown and what the land took before."""

import numpy as np

from ..core.build import COMPUTING, Build
from ..core.formats.exporter import options_of
from ..core.judge.forecast import files_megabytes, files_seconds
from ..core.scene import Scene
from .shapes.files import HandOver
from .working import WORK, Stored, draw_up

_took: dict[str, float] = {}  # seconds that a post of a land takes, by the kinds of its entries


def hand_over_megabytes(document: Scene, order: HandOver) -> tuple[float, int]:
    """Megabytes of the files, and the plants in them; what was sown for the view is counted,
    nothing is built anew in full.
    """
    options = options_of(order.files)
    build = draw_up(document)
    with COMPUTING:
        counts = plant_counts(build)
        names = {n for i, s in enumerate(document.planting) if s.on for n in build.names(i)} | {
            p["kind"] for p in build.pieces()
        }
    grid = document.plot.grid(order.posts)
    return files_megabytes(
        counts,
        names,
        sum(m.on for m in document.ground),
        grid.nx * grid.ny,
        options,
    ), sum(map(sum, counts)) + len(document.pieces)


def learn_land(document: Scene, seconds: float, posts: int) -> None:
    """What a post of such a land takes: the least that was seen, as a first build also loads its
    kernels.
    """
    kinds = _land_kinds(document)
    _took[kinds] = min(_took.get(kinds, np.inf), seconds / posts)
    while len(_took) > 200:
        _took.pop(next(iter(_took)))


def _land_kinds(document: Scene) -> str:
    return " ".join(sorted(e.kind for e in document.land if e.on))


def hand_over_seconds(document: Scene, order: HandOver) -> tuple[float, float]:
    """Seconds of the land in full, from what it took for the view, and of all the rest at pace
    1.
    """
    options = options_of(order.files)
    build = draw_up(document)
    with COMPUTING:
        counts = plant_counts(build)
    grid = document.plot.grid(order.posts)
    posts = grid.nx * grid.ny
    names = len(
        {n for i, s in enumerate(document.planting) if s.on for n in build.names(i)}
        | {p.kind for p in document.pieces}
    )
    full = Build(document, grid, WORK, Stored())
    land = (
        0.0
        if WORK.get("land " + full.land_keys()[-1]) is not None
        else _took.get(_land_kinds(document), 0.0) * posts
    )
    return land, files_seconds(
        0.0,
        counts,
        posts,
        sum(m.on for m in document.ground),
        options,
        names,
    )


def plant_counts(build: Build) -> list[list[int]]:
    """Plants of each kind of each sowing that is on."""
    return [
        np.bincount(build.plants(i).kind, minlength=len(s.mix)).tolist()
        for i, s in enumerate(build.scene.planting)
        if s.on
    ]
