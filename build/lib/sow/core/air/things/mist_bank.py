"""A bounded bank of mist: an ellipse or an area, between a base and a top."""

from typing import Literal

import numpy as np
from pydantic import Field

from ...document.entry import Handles
from ...document.fields import bearing, length_m, percent, place_m, seed, setting, shown
from ...document.offers import Context, Offer
from ...marks.shapes import depth, way
from ...plot import Grid
from ..base import InAir, Over, airs
from ..mist import SIDE, Mist, broken, places, thickness


class MistBank(InAir):
    kind: Literal["mist-bank"] = "mist-bank"
    area: str = Field(
        "",
        max_length=64,
        title="Area",
        description="Bounds it instead of the ellipse.",
        json_schema_extra=shown(mark="area", none="an ellipse"),
    )
    east_m: float = place_m("East", 0, slider=(0, "width"))
    north_m: float = place_m("North", 0, slider=(0, "depth"))
    width_m: float = length_m("Across", 200, lo=1, slider=(5, 3000))
    depth_m: float = length_m("Along", 120, lo=1, slider=(5, 3000))
    turn: float = bearing("Turn", 0)
    over_m: float = setting(
        0, "Base over the ground", "m", lo=-50, hi=5000, slider=(-5, 200), help="At its middle."
    )
    thick_m: float = length_m("Thickness", 12, lo=0.2, hi=5000, slider=(0.5, 200))
    soft_m: float = length_m(
        "Soft edge", 6, lo=0.1, hi=2000, slider=(0.2, 100), help="Of its top and of its rim."
    )
    seen_m: float = length_m("Seen to", 60, lo=1, hi=20000, slider=(5, 2000))
    broken: float = percent("Broken up", 45)
    size_m: float = length_m("Size of its parts", 40, lo=1, slider=(3, 500))
    drift_m: float = setting(
        0, "Drifted", "m", lo=-20000, hi=20000, slider=(0, 500), help="Its parts, to the east."
    )
    seed: int = seed(1)


def _first(c: Context) -> dict:
    return {
        **c.centre,
        "width_m": c.nice(c.reach * 0.35),
        "depth_m": c.nice(c.reach * 0.2),
        "seed": c.seed,
    }


@airs.add(
    MistBank,
    offers=[Offer("mist-bank", "Bank of mist", "bounded", first=_first, lists=("air",))],
    subtitle="{thick_m} m thick, seen to {seen_m} m",
    handles=Handles("width_m", "depth_m", round=True),
)
def mist_bank(entry: MistBank, over: Over) -> list[Mist]:
    """The mist within an ellipse or an area."""
    area = next((m for m in over.marks if m.id == entry.area and m.kind == "area"), None)
    if area is not None and len(area.points) > 2:
        points = way(area)
        low, high = points.min(0), points.max(0)
        half = 0.5 * float((high - low).max()) + 1.0
        middle = 0.5 * (low + high)
        bounds = (
            float(middle[0] - half),
            float(middle[1] - half),
            float(middle[0] + half),
            float(middle[1] + half),
        )
        x, y = places(bounds)
        grid = Grid(SIDE, SIDE, 2 * half / (SIDE - 1), bounds[0], bounds[1])
        cover = np.clip(depth(area, grid, 2 * half) / entry.soft_m, 0, 1)
    else:
        reach = 0.5 * float(np.hypot(entry.width_m, entry.depth_m))
        bounds = (
            entry.east_m - reach,
            entry.north_m - reach,
            entry.east_m + reach,
            entry.north_m + reach,
        )
        x, y = places(bounds)
        a = np.deg2rad(entry.turn)
        dx, dy = x - entry.east_m, y - entry.north_m
        across = dx * np.cos(a) - dy * np.sin(a)
        along = dx * np.sin(a) + dy * np.cos(a)
        r = np.hypot(across / (entry.width_m / 2), along / (entry.depth_m / 2))
        soft = min(1.0, 2 * entry.soft_m / min(entry.width_m, entry.depth_m))
        cover = np.clip((1 - r) / max(soft, 0.02), 0, 1)
    at = np.array([bounds[0] + bounds[2]]) / 2, np.array([bounds[1] + bounds[3]]) / 2
    base = float(over.ground_at(*at)[0]) + entry.over_m
    drift = (entry.drift_m, 0.0)
    cover = broken(cover, x, y, entry.broken / 100, entry.size_m, entry.seed, drift)
    top = np.full(cover.shape, base + entry.thick_m)
    return [Mist(bounds, cover, top, base, entry.soft_m, thickness(entry.seen_m))]
