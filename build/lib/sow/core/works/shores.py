"""Water: a ready shore, from the land's own slope and the water's own waves."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.ndimage import distance_transform_edt

from ..build.waters import sea_in
from ..errors import SceneError
from ..surface.material import MOST
from ..water.moving import reaches
from .base import Asked, Done, Hand, work

Entries = list[dict[str, Any]]
BESIDE_M = 12.0  # of the water, where the slope of the shore is taken
LEAST_SLOPE, MOST_SLOPE = 1.5, 35.0  # degrees


@dataclass(frozen=True)
class Lie:
    """How a shore lies: how high waves wet it (m), and its slope (rise over run)."""

    up_m: float
    rise: float

    def rising(self, wide_m: float, least: float = 0.05, most: float = 3.0) -> float:
        """Height over a strip so wide, m, within bounds that keep it a shore."""
        return round(float(np.clip(self.rise * wide_m, least, most)), 2)

    def band(self, low: float, high: float, soft: float = 0.15, within: float = 60) -> dict:
        """A rule for heights over the water."""
        return {
            "kind": "shore",
            "low": round(low, 2),
            "high": round(high, 2),
            "soft": round(min(soft, 0.6 * max(high - low, 0.1)), 2),
            "within_m": within,
        }


def _patches(size_m: float, share: float, seed: int) -> dict:
    return {"kind": "patches", "size_m": size_m, "share": share, "soft": 25, "seed": seed}


def _level(most: float) -> dict:
    return {"kind": "slope", "low": 0, "high": most, "soft": 6}


def _material(name: str, ground: str, size_m: float, *where: dict, **more: Any) -> dict:
    return {"name": name, "ground": ground, "size_m": size_m, "where": list(where), **more}


def _sown(
    name: str, mix: dict[str, int], density: float, apart: float, *where: dict, **more: Any
) -> dict:
    shares = [{"kind": k, "share": v} for k, v in mix.items()]
    own = {"name": name, "mix": shares, "density": density, "apart_m": apart}
    return {**own, "where": list(where), "wet": True, **more}


def _sand(lie: Lie) -> tuple[Entries, Entries]:
    up, back = lie.up_m, lie.up_m + lie.rising(16, 0.3)
    ground = [
        _material("Dry sand", "sand", 3, lie.band(-8, back, 0.4), _level(24)),
        _material("Wet sand", "wet-sand", 3, lie.band(-8, up, 0.12), _level(24)),
    ]
    drift = lie.band(up * 0.92, up * 1.08 + 0.04, 0.05)
    sown = [
        _sown("Drift line", {"pebble": 70, "cobble": 22, "log": 8}, 26, 0.25, drift),
        _sown("Stones on the sand", {"cobble": 60, "boulder": 40}, 0.8, 1.2,
              lie.band(-0.6, back), _patches(22, 30, 3)),
        _sown("Grass behind the sand", {"fescue": 80, "moor-grass": 20}, 260, 0.2,
              lie.band(back - 0.15, back + 1.6, 0.5), _patches(7, 62, 5)),
    ]  # fmt: skip
    return ground, sown


def _stony(lie: Lie) -> tuple[Entries, Entries]:
    up, back = lie.up_m, lie.up_m + lie.rising(7, 0.2, 1.6)
    ground = [
        _material("Shingle", "gravel", 2, lie.band(-6, back, 0.3)),
        _material("Cobbles at the line", "cobbles", 2.4, lie.band(-3, up + 0.05, 0.15)),
    ]
    sown = [
        _sown("Cobbles", {"cobble": 72, "pebble": 28}, 90, 0.22, lie.band(-0.5, back, 0.2),
              _patches(6, 58, 7)),
        _sown("Boulders at the water", {"boulder": 100}, 5, 0.9, lie.band(-0.7, up + 0.2, 0.3),
              _patches(18, 40, 8)),
        _sown("Rush between stones", {"rush": 60, "sedge": 40}, 120, 0.25,
              lie.band(back - 0.1, back + 0.5, 0.2), _patches(5, 50, 9)),
    ]  # fmt: skip
    return ground, sown


def _reeds(lie: Lie) -> tuple[Entries, Entries]:
    back = lie.up_m + lie.rising(5, 0.1, 0.8)
    ground = [_material("Mud under the reeds", "mud", 2, lie.band(-3, back, 0.2))]
    sown = [
        _sown("Reeds", {"reed": 100}, 1400, 0.1, lie.band(-0.75, 0.05, 0.15),
              _patches(9, 62, 11)),
        _sown("Rush and sedge", {"rush": 52, "sedge": 48}, 420, 0.16,
              lie.band(-0.08, back + 0.25, 0.15), _patches(4, 72, 12)),
        _sown("Tall herbs behind", {"meadowsweet": 60, "meadow-grass": 40}, 200, 0.25,
              lie.band(back, back + 0.7, 0.2), _patches(6, 50, 13)),
    ]  # fmt: skip
    return ground, sown


def _rock(lie: Lie) -> tuple[Entries, Entries]:
    up = lie.up_m
    ground = [
        _material("Bare rock", "granite", 4, lie.band(-6, up + lie.rising(9, 0.5, 4), 0.5)),
        _material("Dark rock at the line", "granite", 4, lie.band(-6, up, 0.2), bright=62),
    ]
    sown = [
        _sown("Blocks", {"fallen-block": 46, "boulder": 54}, 7, 0.8, lie.band(-1.2, up + 0.8, 0.4),
              _patches(14, 48, 15)),
        _sown("Slabs", {"rock-slab": 100}, 2, 1.6, lie.band(-0.4, up + 0.5, 0.3),
              _patches(20, 40, 16)),
        _sown("Tufts in the cracks", {"fescue": 78, "tormentil": 22}, 60, 0.3,
              lie.band(up + 0.2, up + 2.5, 0.4), _patches(3, 32, 17)),
    ]  # fmt: skip
    return ground, sown


def _mud(lie: Lie) -> tuple[Entries, Entries]:
    up, back = lie.up_m, lie.up_m + lie.rising(6, 0.1, 0.9)
    ground = [
        _material("Drying mud", "mud-2", 2.4, lie.band(-3, back, 0.2), bright=115),
        _material("Wet mud", "mud", 2, lie.band(-3, up, 0.1)),
    ]
    drift = lie.band(up * 0.9, up * 1.1 + 0.04, 0.04)
    sown = [
        _sown("Twigs and pebbles", {"pebble": 86, "log": 14}, 12, 0.3, drift),
        _sown("Rush at the edge", {"rush": 70, "sedge": 30}, 160, 0.2,
              lie.band(back - 0.15, back + 0.35, 0.15), _patches(4, 60, 19)),
    ]  # fmt: skip
    return ground, sown


READY: dict[str, tuple[str, Callable[[Lie], tuple[Entries, Entries]]]] = {
    "sand": ("Sandy shore", _sand),
    "stones": ("Stony shore", _stony),
    "reeds": ("Reed shore", _reeds),
    "rock": ("Rocky shore", _rock),
    "mud": ("Muddy shore", _mud),
}


class ReadyShore(Asked):
    """A water by its id, and the name of a ready shore."""

    water: str
    name: str


@work("ready shore", ReadyShore)
def ready_shore(hand: Hand, asked: ReadyShore) -> Done:
    """A wet band, a dry one, a drift line, stones or reeds, grass behind: materials and sowings of
    their own, each then edited like any other. Their heights suit the slope of the land beside the
    water and how high its waves run. One that was made before gives way.
    """
    if asked.name not in READY:
        raise SceneError(
            f"There is no ready shore '{asked.name}'.", "name", f"There are: {', '.join(READY)}."
        )
    entries, index = hand.find(asked.water)
    if entries is not hand.document["water"]:
        raise SceneError("This entry is no water.", "water", "Choose a water.")
    label, make = READY[asked.name]
    lie = _lie(hand, index)
    materials, sowings = make(lie)
    group = f"Shore of {hand.scene.water[index].name}"[:40]
    for name, new in (("ground", materials), ("planting", sowings)):
        kept = [e for e in hand.document[name] if e["group"] != group]
        hand.document[name] = kept
        if name == "ground" and not kept:  # the first of a ground lies everywhere
            kept.append({"id": hand.fresh_id("turf"), "name": "Turf", "ground": "turf"})
        for entry in new:
            kept.append({"id": hand.fresh_id("shore"), "group": group, **entry})
    if len(hand.document["ground"]) > MOST:
        raise SceneError(
            f"A ground holds {MOST} materials; this shore brings {len(materials)}.",
            "ground",
            "Take some out, then choose the shore again.",
        )
    told = f"Waves wet {lie.up_m:.2f} m; the shore rises {100 * lie.rise:.0f} %."
    return Done(hand.document, label, asked.water, told)


def _lie(hand: Hand, index: int) -> Lie:
    build = hand.build()
    wet = build.water()[1][index]
    if not wet.any():
        raise SceneError(
            "This water wets no ground, so it has no shore.",
            f"water.{index}",
            "Raise its level, or place the pool in a hollow.",
        )
    away = distance_transform_edt(~wet, sampling=build.grid.spacing)
    beside = (away > 0) & (away <= max(BESIDE_M, 2 * build.grid.spacing))
    slope = float(np.median(build.slope()[beside])) if beside.any() else 5.0
    rise = np.tan(np.deg2rad(np.clip(slope, LEAST_SLOPE, MOST_SLOPE)))
    up = reaches(hand.scene.water[index], sea_in(build, index))
    return Lie(round(up, 2), float(rise))
