"""Landform: noise."""

from typing import Literal

import numpy as np
from pydantic import Field

from .. import noise as source
from ..document.entry import at_place
from ..document.fields import bearing, length_m, percent, place_m, setting
from ..document.offers import Offer
from ..plot import Plot
from .base import Below, Frame, Landform, Shape, landforms

FORMS = {
    "smooth": source.fbm,
    "billow": source.billow,
    "ridged": source.ridged,
    "washed": source.damped,
}


class Pattern(Landform):
    """What every pattern that fills the plane has: size, detail, warp, and how it lies."""

    feature_m: float = length_m("Feature size", 300, hi=100000, slider=(2, 5000))
    height_m: float = setting(
        60,
        "Height",
        "m",
        lo=0,
        hi=12000,
        slider=(0, 800),
        help="From a typical hollow to a typical top.",
    )
    warp_m: float = setting(
        0, "Warp", "m", lo=0, hi=20000, slider=(0, 600), help="How far the pattern is bent."
    )
    warp_size_m: float = setting(
        0,
        "Warp size",
        "m",
        lo=0,
        hi=200000,
        slider=(0, 3000),
        help="Size of the bends; 0 is twice the feature size.",
    )
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)
    east_m: float = place_m("Moved east", 0, slider=(-2000, 2000), fold="Lie")
    north_m: float = place_m("Moved north", 0, slider=(-2000, 2000), fold="Lie")
    turn: float = bearing("Turn", 0, fold="Lie")
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
        help="Longer along its own north.",
    )

    def lay(self) -> source.Lay:
        """How the noise lies: moved, turned, stretched."""
        return source.Lay(self.east_m, self.north_m, self.turn, self.stretch)

    def frame(self, plot: Plot) -> Frame:
        """Where a mask bound to the noise lies."""
        return Frame(
            plot.width_m / 2 + self.east_m,
            plot.depth_m / 2 + self.north_m,
            plot.width_m,
            plot.depth_m * self.stretch,
            self.turn,
        )


class Noise(Pattern):
    kind: Literal["noise"] = "noise"
    form: Literal["smooth", "billow", "ridged", "washed"] = Field("smooth", title="Form")
    octaves: int = setting(7, "Octaves", "", lo=1, hi=14)
    gain: float = setting(
        0.48,
        "Gain",
        "",
        lo=0.05,
        hi=0.95,
        step=0.01,
        help="Height of each octave beside the one before.",
    )
    lacunarity: float = setting(
        2.0, "Lacunarity", "", lo=1.3, hi=4, step=0.01, help="How much finer each octave is."
    )
    sharp: float = percent(
        "Sharpness", 50, help="Keener crests and flatter floors; 50 is the plain form."
    )


@landforms.add(
    Noise,
    reach=at_place,
    offers=[
        Offer(
            "noise-smooth",
            "Smooth noise",
            "",
            first=lambda c: {
                "form": "smooth",
                "feature_m": c.nice(c.reach * 0.3),
                "height_m": c.nice(c.reach * 0.07),
                "seed": c.seed,
            },
            name="Smooth noise",
            group="Noise",
        ),
        Offer(
            "noise-billow",
            "Billow noise",
            "",
            first=lambda c: {
                "form": "billow",
                "feature_m": c.nice(c.reach * 0.35),
                "height_m": c.nice(c.reach * 0.06),
                "seed": c.seed,
            },
            name="Billow noise",
            group="Noise",
        ),
        Offer(
            "noise-ridged",
            "Ridged noise",
            "",
            first=lambda c: {
                "form": "ridged",
                "feature_m": c.nice(c.reach * 0.25),
                "height_m": c.nice(c.reach * 0.08),
                "seed": c.seed,
            },
            name="Ridged noise",
            group="Noise",
        ),
        Offer(
            "noise-washed",
            "Washed ridges",
            "",
            first=lambda c: {
                "form": "washed",
                "feature_m": c.nice(c.reach * 0.35),
                "height_m": c.nice(c.reach * 0.12),
                "seed": c.seed,
            },
            name="Washed ridges noise",
            group="Noise",
        ),
    ],
    subtitle="{form}, {feature_m} m, {octaves} octaves",
)
def heights(p: Noise, below: Below) -> Shape:
    """Noise in m: smooth noise lies about 0 (four standard deviations make `height_m`), the others
    from 0 up.
    """
    field = FORMS[p.form](
        below.grid,
        p.feature_m,
        p.octaves,
        p.gain,
        p.lacunarity,
        below.seed(p.seed),
        p.warp_m,
        p.warp_size_m,
        p.lay(),
        p.sharp / 50,
    )
    return Shape(field * np.float32(p.height_m * (0.25 if p.form == "smooth" else 1.0)))
