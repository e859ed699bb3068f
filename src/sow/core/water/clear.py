"""What water does with light: how its bed is seen through it.

The water's own colour covers the bed by depth, each of red, green and blue by its own law
(Maritorena, Morel & Gentili 1994): bed * T + own * (1 - T), T = through ** (depth / clear).
"""

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ..document.data import Table, built, read_data, taken_as
from ..errors import SceneError
from ..shared import WATER_INDEX

FOAM = 0.72  # what foam throws back of the light
LEAST_SLOPE = 2e-5  # mean square slope of the stillest water: what the sun's own size spreads


def passed(through: np.ndarray, clear_m: float, depth_m: np.ndarray, cosine=1.0) -> np.ndarray:
    """Share of the bed's colour that is seen through a depth (m), shape (..., 3).

    `through` is linear colour: what is left of the bed's at `clear_m` looking straight down;
    `cosine` that of the angle at which one looks on the water, which light leaves steeper.
    """
    inside = np.sqrt(1 - (1 - np.square(cosine)) / WATER_INDEX**2)
    ways = 0.5 * (1 + 1 / inside)
    k = -np.log(np.clip(through, 1e-4, 0.999)) / clear_m
    return np.exp(-k * np.asarray(depth_m * ways)[..., None])


def spread_share(steep: np.ndarray | float) -> np.ndarray:
    """How rough a mirror is whose slopes have such a mean square: the width of a Beckmann facet
    distribution (Beckmann & Spizzichino 1963).
    """
    return np.sqrt(np.maximum(steep, LEAST_SLOPE))


@dataclass(frozen=True)
class Clear:
    """A ready water: how deep one sees, what is left there of the bed's colour, its own colour."""

    label: str
    clear_m: float
    through: str
    tint: str

    def values(self) -> dict:
        """As the fields of a water."""
        return {"clear_m": self.clear_m, "through": self.through, "tint": self.tint}


READY: dict[str, Clear] = {}


@taken_as("water")
def take(name: str, table: Table) -> None:
    """A ready water of a data file."""
    if name in READY:
        raise SceneError(f"the ready water '{name}' is registered twice")
    READY[name] = built(Clear, table, {})


read_data(Path(__file__).parent / "ready.toml")
