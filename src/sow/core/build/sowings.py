"""The sowings of a build: where each may stand, how many of it there will be, and its plants."""

from typing import TYPE_CHECKING, Any

import numpy as np

from ..marks.shapes import clear_of, way
from ..planting.density import forecast, ground_mask, refuse_too_many
from ..planting.pieces import piece_feet
from ..planting.plants import Plants, feet
from ..planting.sow import sow, sown_on
from ..planting.sowing import Sowing
from ..planting.stance import SunAndWind
from .site import site_on

if TYPE_CHECKING:  # a build sows, and a sowing asks its build
    from .build import Build


def mask_of(build: "Build", index: int) -> np.ndarray | None:
    """Where a sowing may stand, float32 0..1 (ny, nx), its clearings taken out; None is
    everywhere.
    """
    s = build.scene.planting[index]

    def make() -> Any:
        held = ground_mask(
            s,
            site_on(build, build.heights, build.grid, "planting", build.water()[0]),
            f"planting.{index}",
        )
        free = clear_of(build.scene.marks, s.id, build.grid)
        return [free if held is None else held if free is None else held * free]

    return build.once("where", build.keys.mask(build.grid, index), make)[0]


def _rows_of(build: "Build", s: Sowing) -> np.ndarray | None:
    """The way that a sowing's rows follow, or the places that a file gives it."""
    if s.layout == "given":
        return build.marks.places(s.places) if s.places else None
    if s.layout != "line":
        return None
    mark = next(
        (m for m in build.scene.marks if m.id == s.line and m.kind != "mask" and m.points), None
    )
    return None if mark is None else way(mark)


def forecasts_of(build: "Build") -> list[float]:
    """Plants of each sowing before they are placed.

    Raises SceneError when they are too many.
    """
    out = []
    for i, s in enumerate(build.scene.planting):
        own = (
            0.0
            if not s.on
            else float(len(build.plants(i)))
            if s.stands_on
            else forecast(s, build.sowing_mask(i), build.scene.plot.area_m2, _rows_of(build, s))
        )
        out.append(own)
        refuse_too_many(sum(out), s, own, f"planting.{i}")
    return out


def stands_before(build: "Build", index: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Discs (east, north, radius in m) that a sowing keeps out of: feet of pieces and of
    earlier sowings.
    """
    discs = [feet(build.scene.planting[j], build.plants(j)) for j in build.keys.earlier(index)]
    discs += [piece_feet(p) for p in build.scene.pieces if p.on]
    east, north, radius = (
        np.concatenate([d[i] for d in discs]) if discs else np.empty(0) for i in range(3)
    )
    return east, north, radius


def plants_of(build: "Build", index: int) -> Plants:
    """The plants of a sowing, each with its base on the ground. Raises SceneError."""
    s = build.scene.planting[index]

    def make() -> Any:
        build.tell(s.name, index / len(build.scene.planting))
        if s.stands_on:
            return sown_on(
                s,
                next((p for p in build.pieces() if p["id"] == s.stands_on), None),
                build.scene.plot.seed,
                f"planting.{index}",
            )
        return _sown(build, index, build.grid.bounds() if build.around else None)

    return build.once("planting", build.sowing_key(index), make)


def _sown(build: "Build", index: int, bounds: Any = None) -> Plants:
    s, light = build.scene.planting[index], build.scene.light
    return sow(
        s,
        site_on(build, build.heights, build.grid, "planting", build.water()[0]),
        build.normals(),
        f"planting.{index}",
        build.sowing_mask(index),
        bounds,
        blocks=stands_before(build, index) if s.keeps_off else (),
        points=_rows_of(build, s),
        air=SunAndWind(light.sun_bearing, light.wind_from),
        amount=build.around.amounts.get(s.id) if build.around else None,
    )


def sown_within(build: "Build", index: int, bounds: tuple[float, float, float, float]) -> Plants:
    """The plants of a sowing in a window (west, south, east, north in m): those of the whole;
    where it can, only they are sown.
    """
    s = build.scene.planting[index]
    local = (
        s.layout in ("natural", "clumped")
        and not s.number
        and not s.stands_on
        and build.cache.get(build.sowing_key(index)) is None
    )
    p = _sown(build, index, bounds) if local else build.plants(index)
    here = (
        (p.east >= bounds[0])
        & (p.north >= bounds[1])
        & (p.east < bounds[2])
        & (p.north < bounds[3])
    )
    return p.only(here)
