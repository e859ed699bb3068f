"""Woods beyond the plot: what is sown there by the same rules, on the inner ring of far land."""

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from ..cabinet import kind_of
from ..cache import key_of
from ..planting.density import ground_mask, wished
from ..planting.plants import Plants, nothing
from ..planting.sow import sow
from ..planting.sowing import Sowing
from ..planting.stance import SunAndWind
from ..plot import Grid
from ..survey.slope import normals
from .far_land import far_ground, far_land, far_land_key, far_site
from .keys import LOOKS

if TYPE_CHECKING:
    from .build import Build

LEAST_M = 2.5  # lower kinds are not seen from so far: the far land has their colour
MOST = 60_000  # plants of one sowing; of more those nearest to the plot, farther off their colour


def runs_on(build: "Build", index: int) -> bool:
    """Whether a sowing goes on beyond the plot: a wood that is sown by rules, on land that goes
    on.
    """
    sowing = build.scene.planting[index]
    far = build.scene.beyond
    tall = max(kind_of(p.kind).height_m for p in sowing.mix) >= LEAST_M
    natural = sowing.layout in ("natural", "clumped") and not sowing.number
    return bool(
        sowing.on
        and far.planted
        and far.edge != "end"
        and tall
        and natural
        and not sowing.stands_on
    )


def far_key(build: "Build", index: int) -> str:
    """Content key of a sowing's plants beyond the plot."""
    ground = far_ground(build)
    return key_of(
        "far wood",
        far_land_key(build, 0),
        build.sowing_key(index),
        [m.model_dump(exclude=LOOKS) for m in ground],
        build.keys.named(build.grid, ground),
    )


def far_plants(build: "Build", index: int) -> Plants:
    """The plants of a sowing beyond the plot, on the inner ring of far land; none where it does not
    run on.
    """
    if not runs_on(build, index):
        return nothing()
    return build.once("far wood", far_key(build, index), lambda: _sown(build, index))


def _sown(build: "Build", index: int) -> Plants:
    sowing = build.scene.planting[index]
    heights, grid = far_land(build, 0)
    site, _ = far_site(build, 0)
    path = f"planting.{index}"
    held = ground_mask(sowing, site, path)
    held = np.ones(grid.shape, np.float32) if held is None else held
    held = held * _outside(build, sowing, held, grid)
    # its kinds mixed alike, as what a part belongs to is told on the plot's own grid
    mix = [part.model_copy(update={"where": []}) for part in sowing.mix]
    # sown as on a plot that is the ring itself, then carried to where that lies
    own = Grid(grid.nx, grid.ny, grid.spacing)
    plot = build.scene.plot.model_copy(update={"width_m": grid.width_m, "depth_m": grid.depth_m})
    light = build.scene.light
    made = sow(
        sowing.model_copy(update={"mix": mix}),
        replace(site, grid=own, plot=plot),
        normals(heights, grid.spacing),
        path,
        held,
        air=SunAndWind(light.sun_bearing, light.wind_from),
    )
    made = replace(made, east=made.east + grid.east_m, north=made.north + grid.north_m)
    plot = build.scene.plot
    inside = (made.east >= 0) & (made.east <= plot.width_m)
    inside &= (made.north >= 0) & (made.north <= plot.depth_m)
    return made.only(~inside)


def _away(build: "Build", grid: Grid) -> np.ndarray:
    """How far beyond the plot each post of a ring lies, m, below 0 within it."""
    plot = build.scene.plot
    x, y = np.meshgrid(grid.xs(), grid.ys())
    return np.maximum(np.maximum(-x, x - plot.width_m), np.maximum(-y, y - plot.depth_m))


def _outside(build: "Build", sowing: Sowing, held: np.ndarray, grid: Grid) -> np.ndarray:
    """1 beyond the plot; where MOST would be too few for all of it, only so far as they go, fading
    over the last third of the way.
    """
    away = _away(build, grid)
    outside = (away > 0).astype(np.float32)
    per_m2 = wished(sowing, held, build.scene.plot.area_m2)
    there = np.where(away > 0, held, 0).ravel().astype(np.float64) * per_m2 * grid.spacing**2
    if there.sum() <= MOST:
        return outside
    order = np.argsort(away.ravel())
    last = int(np.searchsorted(np.cumsum(there[order]), MOST))
    reach = max(float(away.ravel()[order[last]]), grid.spacing)
    return outside * np.clip((reach - away) / (reach / 3), 0, 1).astype(np.float32)
