"""Pieces placed by hand: where each stands, and the feet that nothing else may stand in."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..cabinet import kind_of
from ..plot import Grid
from ..sample import heights_at, values_at
from .surface import top_at


def placed(
    pieces: Sequence[Any],
    season: str,
    heights: np.ndarray,
    grid: Grid,
    level: np.ndarray | None,
) -> list[dict[str, Any]]:
    """The pieces that are on, each as plain values with `up_m`, its look and a variant that there
    is: on the ground, on the water `level` (m, NaN where dry) where it floats, or on the piece that
    it stands on.
    """
    out: list[dict[str, Any]] = []
    for p in pieces:
        if not p.on:
            continue
        up = float(heights_at(heights, grid, p.east_m, p.north_m)[0])
        if p.stands == "water" and level is not None:
            wet = float(values_at(level, grid, np.array([p.east_m]), np.array([p.north_m]))[0])
            up = max(up, wet) if np.isfinite(wet) else up
        elif p.stands == "piece":
            up = max([up, *(top_at(q, p.east_m, p.north_m) for q in out)])
        kind = kind_of(p.kind)
        out.append(
            {
                **p.model_dump(exclude={"stands"}),
                "up_m": up - p.sink_cm / 100,
                "variant": p.variant % len(kind.variants),
                "kind": p.kind,
                "look": kind.look(season if p.look == "season" else p.look),
            }
        )
    return out


def piece_feet(p: Any) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Discs of a piece's foot: east, north and radius in m, float64 (n,)."""
    a, k = np.deg2rad(p.turn), p.size / 100
    feet = [
        (
            p.east_m + k * (x * np.cos(a) + y * np.sin(a)),
            p.north_m + k * (y * np.cos(a) - x * np.sin(a)),
            r * k,
        )
        for x, y, r in kind_of(p.kind).footing()
    ]
    columns = np.array(feet, np.float64).reshape(-1, 3)
    return columns[:, 0], columns[:, 1], columns[:, 2]
