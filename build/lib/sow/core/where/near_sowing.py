"""Where: close to the plants of an earlier sowing."""

from typing import Any, Literal

import numpy as np
from pydantic import Field
from scipy.spatial import cKDTree

from ..document.fields import setting
from .base import Band, condition
from .site import Site

OPEN_M = 5_000  # a band that goes so far has no end


class NearSowing(Band):
    kind: Literal["near-sowing"] = "near-sowing"
    sowing: str = Field(
        "", max_length=64, title="Sowing", json_schema_extra={"sow": {"entry": "planting"}}
    )
    low: float = setting(0, "From", "m", lo=0, hi=50000, slider=(0, 100), step=0.1)
    high: float = setting(4, "To", "m", lo=0, hi=50000, slider=(0, 100), step=0.1)
    soft: float = setting(2, "Softness", "m", lo=0, hi=50000, slider=(0, 50), step=0.1)


def away(p: NearSowing, site: Site, path: str) -> np.ndarray:
    """Distance to the nearest plant of the sowing, in m, float32."""
    places = site.plants(p.sowing, f"{path}.sowing")
    if not len(places):
        return np.full(site.heights.shape, 1e9, np.float32)

    def measure() -> np.ndarray:
        x, y = np.meshgrid(site.grid.xs(), site.grid.ys())
        return (
            cKDTree(places)
            .query(np.column_stack([x.ravel(), y.ravel()]), workers=2)[0]
            .reshape(x.shape)
            .astype(np.float32)
        )

    return site.measure(f"from plants {hash(np.ascontiguousarray(places).tobytes())}", measure)


def _reach(p: NearSowing, scene: Any) -> float:
    return (p.high if p.high < OPEN_M else p.low) + p.soft


@condition(
    NearSowing,
    stage="planting",
    label="distance to a sowing",
    sees=("sowings",),
    first=lambda c: {"sowing": c.before.get("planting", "")},
    reach=_reach,
    measures=away,
)
def answer(p: NearSowing, site: Site, path: str) -> np.ndarray:
    """1 within the band of distance to the nearest plant: 0 to some metres is "under" and "beside",
    from some metres on is "away from".
    """
    return p.band(away(p, site, path), p.low if p.low > 0 else -1e9, p.high, p.soft)
