"""Where: near the ground that a material covers."""

from typing import Any, Literal

import numpy as np
from pydantic import Field
from scipy.ndimage import distance_transform_edt

from ..document.fields import setting
from .base import Band, condition
from .site import Site

HALF = 0.5  # of a place that counts as covered
OPEN_M = 5_000  # a band that goes so far has no end


class NearCover(Band):
    """A band of distance to what covers the ground."""

    low: float = setting(0, "From", "m", lo=0, hi=50000, slider=(0, 500), step=0.1)
    high: float = setting(20, "To", "m", lo=0, hi=50000, slider=(0, 500), step=0.1)
    soft: float = setting(5, "Softness", "m", lo=0, hi=50000, slider=(0, 100), step=0.1)

    def held(self, away_m: np.ndarray) -> np.ndarray:
        """1 within the band of these distances (m), float32."""
        return self.band(away_m, self.low if self.low > 0 else -1e9, self.high, self.soft)


class NearMaterial(NearCover):
    kind: Literal["near-material"] = "near-material"
    material: str = Field(
        "", max_length=64, title="Material", json_schema_extra={"sow": {"entry": "ground"}}
    )


def away(cover: np.ndarray, spacing: float) -> np.ndarray:
    """Distance (m, float32) to the nearest post that is covered by half or more; between that and
    its neighbour the line lies where the cover is half (1e9 where nothing is covered).
    """
    held = cover >= HALF
    if not held.any():
        return np.full(cover.shape, 1e9, np.float32)
    outside = distance_transform_edt(~held) * spacing
    return np.where(held, 0, outside - spacing / 2).astype(np.float32)


def _distance(p: NearMaterial, site: Site, path: str) -> np.ndarray:
    return away(site.shares(p.material, f"{path}.material"), site.grid.spacing)


def _reach(p: NearMaterial, scene: Any) -> float:
    return (p.high if p.high < OPEN_M else p.low) + p.soft


@condition(
    NearMaterial,
    stage="ground",
    label="distance to a material",
    sees=("ground",),
    first=lambda c: {"material": c.before.get("ground", "")},
    reach=_reach,
    measures=_distance,
)
def answer(p: NearMaterial, site: Site, path: str) -> np.ndarray:
    """1 within the band of distance to where the material covers half of the ground or more."""
    return p.held(_distance(p, site, path))
