"""Pieces placed by hand: where each stands, and the feet that nothing else may stand in."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from ..cabinet import kind_of
from ..cabinet.dressed import Dressed
from ..cabinet.feet import stretched
from ..plot import Grid
from ..sample import values_at
from .formed import shaped
from .surface import top_at


def placed(
    pieces: Sequence[Any],
    season: str,
    ground: Callable[[float, float], float],
    grid: Grid,
    level: np.ndarray | None,
) -> list[dict[str, Any]]:
    """The pieces that are on, each as plain values with `up_m`, its look and a variant that there
    is: on the ground (its height at a place, m), on the water `level` (m, NaN where dry) where it
    floats, or on the piece that it stands on.
    """
    out: list[dict[str, Any]] = []
    for p in pieces:
        if not p.on:
            continue
        up = ground(p.east_m, p.north_m)
        if p.stands == "water" and level is not None:
            wet = float(values_at(level, grid, np.array([p.east_m]), np.array([p.north_m]))[0])
            up = max(up, wet) if np.isfinite(wet) else up
        elif p.stands == "piece":
            up = max([up, *(top_at(q, p.east_m, p.north_m) for q in out)])
        kind = kind_of(p.kind)
        look = kind.look(season if p.look == "season" else p.look)
        out.append(
            {
                **p.model_dump(exclude={"stands"}),
                "up_m": up - p.sink_cm / 100,
                "variant": p.variant % len(kind.variants),
                "kind": p.kind,
                "look": look,
                "dressed": str(Dressed(shaped(p), look, p.tint, p.bright)),
            }
        )
    return out


def piece_feet(p: Any) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Discs of a piece's foot: east, north and radius in m, float64 (n,)."""
    a = np.deg2rad(p.turn)
    name = shaped(p)
    wide, deep = (100.0, 100.0) if name != p.kind else (p.wide, p.deep)
    feet = kind_of(name).footing()
    x, y, r = stretched(feet, p.size * wide / 1e4, p.size * deep / 1e4).T
    east = p.east_m + x * np.cos(a) + y * np.sin(a)
    north = p.north_m + y * np.cos(a) - x * np.sin(a)
    return east, north, r
