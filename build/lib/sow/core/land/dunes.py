"""Landform: dunes drifted by a wind."""

from typing import Literal

import numpy as np

from .. import noise as source
from ..document.entry import at_place
from ..document.fields import bearing, length_m, percent, place_m, setting
from ..document.offers import Offer
from ..noise import Lay
from ..plot import Grid, Plot
from .base import Below, Frame, Landform, Shape, landforms

SLIP = np.tan(np.deg2rad(33.0))  # dry sand's angle of rest


class Dunes(Landform):
    kind: Literal["dunes"] = "dunes"
    feature_m: float = length_m("Spacing", 160, slider=(1, 2000), help="From crest to crest.")
    height_m: float = setting(14, "Height", "m", lo=0, hi=2000, slider=(0, 150))
    wind: float = bearing(
        "Wind from", 250, help="The side that it blows from; the steep side lies away from it."
    )
    winding: float = percent("Winding", 45, help="How much the crests bend.")
    broken: float = percent("Broken", 50, help="How much the crests rise, sink and end.")
    sharp: float = percent("Sharpness", 50, help="Keenness of the crests.")
    small: float = percent(
        "Small dunes", 30, help="Height of the smaller dunes that ride on the large ones."
    )
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)
    east_m: float = place_m("Moved east", 0, slider=(-2000, 2000), fold="Lie")
    north_m: float = place_m("Moved north", 0, slider=(-2000, 2000), fold="Lie")
    stretch: float = setting(
        1,
        "Stretch",
        "×",
        lo=0.1,
        hi=10,
        slider=(0.2, 5),
        scale="log",
        step=0.01,
        fold="Lie",
        help="Longer crests.",
    )

    def frame(self, plot: Plot) -> Frame:
        """Where a mask bound to the dunes lies."""
        return Frame(
            plot.width_m / 2 + self.east_m,
            plot.depth_m / 2 + self.north_m,
            plot.width_m * self.stretch,
            plot.depth_m,
            self.wind,
        )


def _train(grid: Grid, spacing: float, height: float, p: Dunes, seed: int, lay: Lay) -> np.ndarray:
    """One size of dunes, 0..height.

    Each rises to its crest over the windward side and falls at the angle of rest behind it.

    The phase runs down the wind, bent by noise; amplitude by noise too, so that crests end.
    """
    a = np.deg2rad(p.wind + 180)  # towards which it blows
    bend = source.fbm(grid, spacing * 1.9, 3, 0.42, seed=seed + 3, lay=lay) * np.float32(
        p.winding / 100 * 0.5
    )
    fine = source.fbm(grid, spacing * 0.7, 2, 0.4, seed=seed + 5, lay=lay) * np.float32(
        p.winding / 100 * 0.035
    )
    x = (grid.xs() - p.east_m) * (np.sin(a) / spacing)
    y = (grid.ys() - p.north_m) * (np.cos(a) / spacing)
    phase = (x[None, :] + y[:, None]) + bend + fine
    phase = (phase - np.floor(phase)).astype(np.float32)
    size = source.fbm(grid, spacing * 1.9, 3, 0.45, seed=seed + 11, lay=lay)
    strong = np.float32(1) + np.float32(p.broken / 100) * np.clip(
        size * np.float32(0.55) - np.float32(0.35), -1, 0.4
    )
    lee = np.float32(np.clip(height / (SLIP * spacing), 0.1, 0.5))
    up, down = phase / (1 - lee), (1 - phase) / lee
    keen = np.float32(0.5 + p.sharp / 100)
    rise = np.minimum(up, 1)
    rise = rise + (rise * rise * (3 - 2 * rise) - rise) * (np.float32(1.5) - keen)
    fall = np.minimum(down, 1)
    fall = np.where(
        fall < np.float32(0.25), 2 * fall * fall, fall - np.float32(0.125)
    ) / np.float32(0.875)  # a rounded foot
    return np.where(phase < 1 - lee, rise, fall) * strong * np.float32(height)


@landforms.add(
    Dunes,
    reach=at_place,
    offers=[
        Offer(
            "dunes",
            "Dunes",
            "drifted by wind",
            first=lambda c: {
                "feature_m": c.nice(c.reach * 0.12),
                "height_m": c.nice(c.reach * 0.014),
                "seed": c.seed,
            },
            group="Noise",
        )
    ],
    subtitle="{feature_m} m apart, wind from {wind}°",
)
def heights(p: Dunes, below: Below) -> Shape:
    """Transverse dunes in m from 0 up, in two sizes: windward sides gentle, slip faces at about 33
    degrees (Bagnold 1941).
    """
    lay = source.Lay(p.east_m, p.north_m, (p.wind + 90) % 360, p.stretch)
    seed = below.seed(p.seed)
    field = _train(below.grid, p.feature_m, p.height_m, p, seed, lay)
    if p.small > 0 and p.feature_m > 12 * below.grid.spacing:
        part = np.clip(1 - field / np.float32(max(p.height_m, 1e-3)) * np.float32(0.8), 0, 1)
        field = (
            field
            + _train(
                below.grid, p.feature_m * 0.23, p.height_m * 0.23 * p.small / 50, p, seed + 77, lay
            )
            * part
        )
    return Shape(field.astype(np.float32, copy=False))
