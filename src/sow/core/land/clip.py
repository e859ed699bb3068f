"""Process: clip low or high parts."""

from typing import Literal, Self

import numpy as np
from pydantic import model_validator

from ..document.entry import at_place
from ..document.fields import setting
from ..document.offers import Offer
from .base import Below, Process, processes


class ClipHeights(Process):
    kind: Literal["clip"] = "clip"
    low_m: float = setting(0, "Not below", "m", lo=-12000, hi=12000, slider=("lowest", "highest"))
    high_m: float = setting(
        12000, "Not above", "m", lo=-12000, hi=12000, slider=("lowest", "highest")
    )
    soft_m: float = setting(2, "Softness", "m", lo=0, hi=2000, slider=(0, 100))

    @model_validator(mode="after")
    def _upwards(self) -> Self:
        if self.low_m > self.high_m:
            raise ValueError(
                f"the floor ({self.low_m:g} m) lies above the ceiling ({self.high_m:g} m); "
                "swap them"
            )
        return self


def soft_max(a: np.ndarray, b: np.ndarray | np.float32, k: np.float32) -> np.ndarray:
    """The higher of two, with a quadratic join k wide."""
    top = np.maximum(a, b)
    return top if k <= 0 else top + np.maximum(k - np.abs(a - b), 0) ** 2 / (4 * k)


@processes.add(
    ClipHeights,
    reach=at_place,
    offers=[
        Offer(
            "clip",
            "ClipHeights",
            "",
            first=lambda c: {
                "low_m": round(c.lowest + c.span * 0.15, 1),
                "high_m": round(c.lowest + c.span * 0.9, 1),
                "soft_m": c.nice(max(0.01, c.span * 0.03)),
            },
            group="Rework the whole",
        )
    ],
    subtitle="{low_m} to {high_m} m",
)
def rework(p: ClipHeights, below: Below) -> np.ndarray:
    """Heights held between two levels; the softness rounds the line where they meet the land."""
    k = np.float32(p.soft_m)
    return -soft_max(-soft_max(below.heights, np.float32(p.low_m), k), np.float32(-p.high_m), k)
