"""Landform: noise."""
from typing import Literal

import numpy as np
from pydantic import Field

from .. import noise as source
from ..fields import setting
from .base import Below, Landform, landforms


class Noise(Landform):
    kind: Literal["noise"] = "noise"
    form: Literal["smooth", "ridged"] = Field("smooth", title="Form")
    feature_m: float = setting(300, "Feature size", "m", lo=0.05, hi=100000, slider=(2, 5000), scale="log")
    height_m: float = setting(60, "Height", "m", lo=0, hi=12000, slider=(0, 800), help="From a typical hollow to a typical top.")
    octaves: int = setting(7, "Octaves", "", lo=1, hi=14)
    gain: float = setting(0.48, "Gain", "", lo=0.05, hi=0.95, step=0.01, help="Height of each octave beside the one before.")
    lacunarity: float = setting(2.0, "Lacunarity", "", lo=1.3, hi=4, step=0.01, help="How much finer each octave is.")
    warp_m: float = setting(0, "Warp", "m", lo=0, hi=20000, slider=(0, 600), help="How far the pattern is bent.")
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)


@landforms.add(Noise)
def heights(p: Noise, below: Below) -> np.ndarray:
    """Noise in m: smooth noise lies about 0 (four standard deviations make `height_m`), ridged from 0 up."""
    seed = (p.seed + 7727 * below.plot.seed) & 0x7FFFFFFF
    make = source.fbm if p.form == "smooth" else source.ridged
    field = make(below.grid, p.feature_m, p.octaves, p.gain, p.lacunarity, seed, p.warp_m)
    return field * np.float32(p.height_m * (0.25 if p.form == "smooth" else 1.0))
