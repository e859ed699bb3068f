"""Families of kinds: what trees, shrubs, stones and the rest have in common.

A family is one registration: its drawer in the cabinet, its foot on the ground, its weight in
files, its symbol on the plan, and how a first sowing or a single piece of it stands.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..document.offers import Context
from ..errors import SceneError

Values = dict[str, Any]
MOST_AT_FIRST = 60_000  # plants of a first sowing


@dataclass(frozen=True)
class Family:
    """What all kinds of a family share.

    `footing` is the part of a kind's reach that nothing else may stand in. `megabytes` is what one
    takes in the view and `file_megabytes` in a file, measured over the cabinet. `leafy` ones let
    light through; `foot_tone` ones take the ground's colour at their foot; `large` ones are kept
    once, leaf by leaf, for stills; `loose` ones lie and stand any way round; `told_apart` ones must
    not repeat side by side; those that `joins` are put together and may stand in one another and
    over the ground; `sown` ones are offered as sowings. `symbol` names the drawing on the planting
    plan: canopy, ring, outline, box, dot or tick.
    """

    name: str
    label: str
    symbol: str = "tick"
    footing: float = 0.0
    megabytes: float = 3.05
    file_megabytes: float = 0.45
    leafy: bool = True
    foot_tone: bool = False
    large: bool = False
    loose: bool = False
    told_apart: bool = False
    joins: bool = False
    sown: bool = True
    dense_per_100_m2: float = 400.0
    apart_of_reach: float = 0.75
    steepest: float = 38.0
    patched: bool = False
    sink_of_height_cm: float = 0.0
    blend_of_height_cm: float = 0.0
    stance: Callable[[float], Values] = lambda height_m: {
        "smallest": 70,
        "largest": 130,
        "lean": 35,
        "sway": 6,
        "sink_cm": 1,
    }

    def sowing(self, name: str, label: str, height_m: float, reach_m: float, c: Context) -> Values:
        """First values for a sowing of one kind: as dense as its reach allows, on ground that it
        stands on, and at most 60,000 of it.
        """
        apart = round(max(0.05, reach_m * self.apart_of_reach), 2)
        density = min(
            100 * 0.35 / apart**2,
            self.dense_per_100_m2,
            100 * MOST_AT_FIRST / (c.width_m * c.depth_m),
        )
        where: list[Values] = [{"kind": "slope", "low": 0, "high": self.steepest, "soft": 6}]
        if self.patched:
            size = c.nice(max(20, c.reach * 0.05))
            where.append({"kind": "patches", "size_m": size, "share": 30, "seed": c.seed})
        return {
            "name": label,
            "mix": [{"kind": name, "share": 100}],
            "density": c.nice(density),
            "apart_m": apart,
            "seed": c.seed,
            "stance": self.stance(height_m),
            "where": where,
        }

    def sink_cm(self, height_m: float) -> float:
        """How deep a single piece of this family stands in the ground, cm."""
        return round(self.sink_of_height_cm * height_m) if self.sink_of_height_cm else 0.0

    def blend_cm(self, height_m: float) -> float:
        """How high over the ground a single piece takes on the ground's colour at first, cm."""
        return round(self.blend_of_height_cm * height_m)


families: dict[str, Family] = {}


def add(family: Family) -> Family:
    """Registers a family. Raises SceneError when its name is in use."""
    if family.name in families:
        raise SceneError(
            f"The family '{family.name}' is registered twice.", "", "Give it another name."
        )
    families[family.name] = family
    return family


def _tree_stance(height_m: float) -> Values:
    return {"smallest": 70, "largest": 130, "lean": 0, "sway": 2, "sink_cm": 10}


def _stone_stance(height_m: float) -> Values:
    sink = round(height_m * 22)
    return {"smallest": 40, "largest": 170, "lean": 80, "sway": 12, "sink_cm": sink}


add(
    Family(
        "tree",
        "Trees",
        symbol="canopy",
        footing=0.11,
        megabytes=4.4,
        file_megabytes=1.7,
        large=True,
        loose=True,
        told_apart=True,
        dense_per_100_m2=1.2,
        apart_of_reach=0.9,
        steepest=32,
        patched=True,
        stance=_tree_stance,
    )
)
add(Family("shrub", "Shrubs", symbol="ring", footing=0.3, loose=True))
add(Family("grass", "Grasses and reeds"))
add(Family("flower", "Herbs and flowers", symbol="dot"))
add(Family("fern", "Ferns", symbol="ring"))
add(Family("climber", "Creepers"))
add(
    Family(
        "stone",
        "Stones",
        symbol="outline",
        footing=0.85,
        leafy=False,
        foot_tone=True,
        loose=True,
        told_apart=True,
        dense_per_100_m2=2,
        sink_of_height_cm=18,
        stance=_stone_stance,
    )
)
add(
    Family(
        "bank",
        "Banks",
        symbol="outline",
        footing=0.7,
        megabytes=6.0,
        file_megabytes=1.2,
        leafy=False,
        foot_tone=True,
        told_apart=True,
        sown=False,
        blend_of_height_cm=45,
    )
)
add(
    Family(
        "wood",
        "Fallen wood",
        symbol="outline",
        footing=0.5,
        leafy=False,
        loose=True,
        told_apart=True,
        dense_per_100_m2=2,
        stance=_stone_stance,
    )
)
add(Family("figure", "Figures", symbol="box", footing=0.8, leafy=False, sown=False))
add(
    Family(
        "solid",
        "Solids",
        symbol="box",
        megabytes=0.1,
        file_megabytes=0.02,
        leafy=False,
        joins=True,
        sown=False,
    )
)
add(
    Family(
        "thing",
        "Things",
        symbol="box",
        footing=0.8,
        leafy=False,
        told_apart=True,
        dense_per_100_m2=2,
        stance=_stone_stance,
    )
)
