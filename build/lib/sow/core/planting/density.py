"""How many plants a sowing gives, and where its ground lets them stand."""

import numpy as np

from ..errors import SceneError
from ..hashing import name_seed
from ..where import Site, holding
from .crowding import densest
from .layout import clumps
from .sowing import MOST, Sowing, aparts

ASK = 5_000_000  # plants in a scene: more is asked first


def ground_mask(sowing: Sowing, site: Site, path: str) -> np.ndarray | None:
    """Where the sowing may stand, 0..1, dry ground only unless it may stand in water; clumps
    included.
    """
    held = holding(sowing.where, site, f"{path}.where")
    if not sowing.wet and site.water_m is not None:
        dry = ~(site.heights < site.water_m + np.float32(0.03))
        if not dry.all():
            held = dry.astype(np.float32) if held is None else held * dry
    if sowing.layout == "clumped":
        thick = clumps(
            site.grid,
            sowing.clump_m,
            sowing.clump_share / 100,
            name_seed(site.plot.seed, sowing.seed, "clumps") & 0x3FFFFFFF,
        )
        held = thick if held is None else held * thick
    return held


def wished(
    sowing: Sowing, held: np.ndarray | None, area_m2: float, points: np.ndarray | None = None
) -> float:
    """Density (1/m²) where the mask is 1, before competition.

    `points` is the way of the line that rows follow.
    """
    part = 1.0 if held is None else float(held.mean(dtype=np.float64))
    if sowing.number:
        return sowing.number / max(area_m2 * part, 1e-9)
    return sowing.density / 100


def forecast(
    sowing: Sowing, held: np.ndarray | None, area_m2: float, points: np.ndarray | None = None
) -> float:
    """How many plants a sowing will give, before they are placed."""
    part = 1.0 if held is None else float(held.mean(dtype=np.float64))
    if sowing.layout == "given":
        return 0.0 if points is None else min(len(points), sowing.number or len(points))
    if sowing.layout == "rows":
        most = area_m2 * part / (sowing.gap_m * sowing.row_m)
        return min(most, sowing.number) if sowing.number else most
    if sowing.layout == "line":
        if points is None:
            return 0.0
        most = (np.hypot(*np.diff(points, axis=0).T).sum() / sowing.gap_m + 1) * (
            2 if sowing.sides == "both" else 1
        )
        return min(most, sowing.number) if sowing.number else most
    per_m2 = min(
        wished(sowing, held, area_m2), densest(aparts(sowing), [p.share for p in sowing.mix])
    )
    return per_m2 * area_m2 * part


def refuse_too_many(total: float, sowing: Sowing, own: float, path: str) -> None:
    """Raises SceneError when the scene would hold more plants than fit, naming the density that
    does.
    """
    if total > MOST:
        fits = max(MOST - (total - own), 0)
        raise SceneError(
            f"“{sowing.name}” would bring the scene to {total:,.0f} plants; at most {MOST:,} fit.",
            f"{path}.density",
            f"Up to {fits:,.0f} fit here: a density of "
            f"{sowing.density * fits / max(own, 1):.3g} per 100 m² or less.",
        )
