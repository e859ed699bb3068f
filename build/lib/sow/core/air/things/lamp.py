"""A lamp: a small unseen surface that shines around it or along a cone."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from ...document.fields import length_m, place_m, setting, shown
from ...document.offers import Context, Offer
from ..base import InAir, Over, airs
from ..white import white_of

ROUND_DEG = 180.0


class Lamp(InAir):
    kind: Literal["lamp"] = "lamp"
    east_m: float = place_m("East", 0, slider=(0, "width"))
    north_m: float = place_m("North", 0, slider=(0, "depth"))
    over_m: float = length_m("Over the ground", 2.2, lo=0.02, hi=5000, slider=(0.1, 50))
    lumens: float = setting(
        1600,
        "Strength",
        "lm",
        lo=1,
        hi=100_000_000,
        slider=(50, 1_000_000),
        scale="log",
        help="A candle gives 12, a bright bulb 1,600, a film lamp 200,000.",
    )
    warmth_k: float = setting(
        2900, "Warmth", "K", lo=1700, hi=20000, slider=(1700, 9000), scale="log", step=50
    )
    size_cm: float = setting(
        6, "Size", "cm", lo=0.5, hi=1000, slider=(1, 200), scale="log", help="How soft it is."
    )
    spread: float = setting(
        ROUND_DEG,
        "Spread",
        "°",
        lo=2,
        hi=ROUND_DEG,
        help="Angle of its cone to either side of its aim; 180 shines all around.",
    )
    aim_east_m: float = place_m("Aimed east", 0, slider=(0, "width"))
    aim_north_m: float = place_m("Aimed north", 0, slider=(0, "depth"))
    aim_over_m: float = setting(0.5, "Aimed over the ground", "m", lo=-50, hi=5000, slider=(0, 50))
    shadow: bool = Field(True, title="Casts shadows")
    spares: list[str] = Field(
        default_factory=list,
        max_length=64,
        title="Leaves dark, sowings",
        json_schema_extra=shown(entries="planting", fold="Leaves dark"),
    )
    spares_pieces: list[str] = Field(
        default_factory=list,
        max_length=64,
        title="Leaves dark, pieces",
        json_schema_extra=shown(entries="pieces", fold="Leaves dark"),
    )


@dataclass(frozen=True)
class LampLight:
    """A lamp in the world: place and aim (m, unit vector), intensity along its aim (kcd, linear
    Rec.709), cosines where its cone begins to fall and ends, its radius in m. `spares` are ids of
    sowings and pieces that it does not light.
    """

    id: str
    place: tuple[float, float, float]
    aim: tuple[float, float, float]
    kcd: tuple[float, float, float]
    inner: float
    outer: float
    radius_m: float
    shadow: bool
    spares: tuple[str, ...] = ()


def _first(c: Context) -> dict:
    middle = c.centre
    return {
        **middle,
        "aim_east_m": middle["east_m"] + 6,
        "aim_north_m": middle["north_m"],
    }


def intensity(lumens: float, spread_deg: float) -> float:
    """Candela along the aim of a lamp that spreads its lumens evenly over its cone."""
    solid = 2 * np.pi * (1 - np.cos(np.deg2rad(min(spread_deg, ROUND_DEG))))
    return lumens / max(float(solid), 1e-4)


@airs.add(
    Lamp,
    offers=[Offer("lamp", "Lamp", "unseen itself", first=_first, lists=("air",))],
    subtitle="{lumens} lm, {warmth_k} K",
)
def lamp(entry: Lamp, over: Over) -> list[LampLight]:
    """The lamp where it stands over the land."""
    xs = np.array([entry.east_m, entry.aim_east_m])
    ys = np.array([entry.north_m, entry.aim_north_m])
    foot, aimed = over.ground_at(xs, ys)
    place = np.array([entry.east_m, entry.north_m, foot + entry.over_m])
    target = np.array([entry.aim_east_m, entry.aim_north_m, aimed + entry.aim_over_m])
    way = target - place
    length = float(np.linalg.norm(way))
    aim = way / length if length > 1e-6 else np.array([0.0, 0.0, -1.0])
    kcd = intensity(entry.lumens, entry.spread) / 1000 * white_of(entry.warmth_k)
    half = np.deg2rad(min(entry.spread, ROUND_DEG))
    all_round = entry.spread >= ROUND_DEG
    return [
        LampLight(
            entry.id,
            (float(place[0]), float(place[1]), float(place[2])),
            (float(aim[0]), float(aim[1]), float(aim[2])),
            (float(kcd[0]), float(kcd[1]), float(kcd[2])),
            -1.0 if all_round else float(np.cos(half * 0.8)),
            -2.0 if all_round else float(np.cos(half)),
            entry.size_cm / 100,
            entry.shadow,
            (*entry.spares, *entry.spares_pieces),
        )
    ]
