"""The sheets of the survey: every measure of the land under its name, with unit and help, for
conditions, washes and files alike.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import distance_transform_edt

from ..document.extra import guarded
from ..errors import SceneError
from . import shape
from .drainage import contributing_area, flood, spread
from .sky import openness, sunlit
from .slope import slope


@dataclass
class Sheet:
    """One measure.

    `make(site, **asked)` gives float32 (ny, nx) in `unit`; `log` draws it on a scale of ratios;
    `stage` as of a condition.
    """

    kind: str
    label: str
    unit: str
    help: str
    make: Callable
    log: bool = False
    stage: str = "land"


sheets: dict[str, Sheet] = {}


def sheet(kind: str, label: str, unit: str, help: str, log: bool = False, stage: str = "land"):
    """Registers a measure under its kind. Raises SceneError when the kind is in use."""
    if kind in sheets:
        raise SceneError(f"The sheet '{kind}' is registered twice.", "", "Give it another kind.")

    def keep(make: Callable) -> Callable:
        sheets[kind] = Sheet(kind, label, unit, help, guarded(make, label), log, stage)
        return make

    return keep


def _support(site) -> tuple[np.ndarray, float, float]:
    return site.heights, site.grid.spacing, site.plot.support_m


@sheet("height", "Height", "m", "Height of the ground.")
def _height(site):
    return site.heights


@sheet("slope", "Slope", "°", "Steepness (Horn 1981), over the support length.")
def _slope(site):
    return slope(*_support(site))


@sheet("facing", "Facing", "°", "The bearing towards which the ground falls.")
def _facing(site):
    return shape.facing(*_support(site))


def _broad(site) -> tuple[np.ndarray, float, float]:
    """Curvature is all of the finest detail unless its support is broad: three support lengths."""
    return site.heights, site.grid.spacing, 3 * site.plot.support_m


@sheet(
    "curvature",
    "Curvature",
    "/km",
    "Crests above 0, hollows below (Zevenbergen & Thorne 1987), over three support lengths.",
)
def _bend(site):
    return shape.curvature(*_broad(site))


@sheet(
    "bend-down", "Curvature down the slope", "/km", "Profile curvature: above 0 where it steepens."
)
def _bend_down(site):
    return shape.curvature(*_broad(site), "profile")


@sheet(
    "bend-along",
    "Curvature along the contour",
    "/km",
    "Plan curvature: above 0 on spurs, below 0 in gullies.",
)
def _bend_along(site):
    return shape.curvature(*_broad(site), "plan")


@sheet(
    "contributing-area",
    "Contributing area",
    "ha",
    "How much land drains through a place (Freeman 1991).",
    log=True,
)
def _gathers(site):
    return site.measure(
        "area", lambda: contributing_area(site.heights, site.grid.spacing)
    ) / np.float32(1e4)


@sheet(
    "wetness",
    "Wetness",
    "",
    "Topographic wetness index, ln(area per contour length / slope) (Beven & Kirkby 1979).",
)
def _wetness(site):
    area = site.measure("area", lambda: contributing_area(site.heights, site.grid.spacing))
    steep = np.tan(np.deg2rad(np.maximum(site.sheet("slope"), 0.15)))
    return np.log(area / np.float32(site.grid.spacing) / steep).astype(np.float32)


@sheet(
    "ponds",
    "Hollows that would hold water",
    "m",
    "Depth to which pits would fill before they spill (Barnes and others 2014).",
)
def _ponds(site):
    return np.maximum(flood(site.heights)[0] - site.heights, 0).astype(np.float32)


@sheet(
    "lines",
    "Ridge and valley lines",
    "",
    "Above 0 on ridge lines, below 0 on valley lines: drainage of the land and of the land "
    "turned over.",
)
def _lines(site):
    h = shape.calm(site.heights, site.grid.spacing, site.plot.support_m)
    spacing = site.grid.spacing
    least = np.log(30.0)
    strong = lambda heights: np.clip(
        (np.log(spread(*flood(heights), spacing) / spacing**2) - least) / 4, 0, 1
    )
    return (strong(-h) - strong(h)).astype(np.float32)


@sheet("openness", "Openness to the sky", "%", "Part of the sky that is seen (Dozier & Frew 1990).")
def _openness(site):
    return openness(*_support(site))


@sheet("sunlit", "Hours of sun", "h", "On a clear day, with the shadow of the land.")
def _sunlit(site, latitude: float = 50.0, day: int = 172):
    return sunlit(site.heights, site.grid.spacing, latitude, day)


@sheet("roughness", "Roughness", "m", "Spread of heights about their smooth mean.")
def _roughness(site):
    return shape.roughness(*_support(site))


@sheet("from-water", "Distance to water", "m", "On the level, to the nearest water.", stage="water")
def _from_water(site):
    wet = (
        np.isfinite(site.water_m)
        if site.water_m is not None
        else np.zeros(site.heights.shape, bool)
    )
    if not wet.any():
        return np.full(site.heights.shape, 1e6, np.float32)
    return distance_transform_edt(~wet, sampling=site.grid.spacing).astype(np.float32)


def _left(name):
    return lambda site: site.maps.get(name, np.zeros(site.heights.shape, np.float32))


sheet("lowered", "Lowered by", "m", "Ground that wear, ice or collapse took away.")(
    _left("lowered")
)
sheet("laid", "Laid by", "m", "Loose ground that wear or drift laid down.")(_left("laid"))
sheet("scree", "Scree", "m", "What collapsed slopes let fall.")(_left("scree"))
