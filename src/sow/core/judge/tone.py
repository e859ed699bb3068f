"""Colours of sowings, compared and pulled towards one another."""

import numpy as np

from ..build import Build
from ..cabinet import kind_of
from ..cabinet.kind import linear, srgb_bytes
from ..errors import SceneError
from ..planting.sowing import name_of, seen_colour


def mean_tone(build: Build, index: int) -> np.ndarray:
    """A sowing's mean linear colour as it shows, by the parts of its mix and the ground that each
    hides.
    """
    mix = build.scene.planting[index].mix
    weight = np.array([max(p.share, 1e-6) * kind_of(p.kind).cover_m2 for p in mix])
    tones = np.array([seen_colour(name_of(p, build.scene.season)) for p in mix])
    return (tones * weight[:, None]).sum(0) / weight.sum()


def toned(
    build: Build, index: int, towards: str, amount: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray, list[tuple[str, float]]]:
    """Own mean, the other's, the mean as pulled (linear), and for each part of the mix a tint
    (#rrggbb) and a lightness in % that pull it by `amount` (0..1). The ratio of the two means is
    laid on every part alike, so kinds of one mix keep their differences.
    """
    own = mean_tone(build, index)
    if towards == "ground":
        held, shares = build.sowing_mask(index), build.ground()
        if not len(shares):
            raise SceneError("There is no ground to match.", "towards", "Add a material first.")
        weight = np.ones(build.grid.shape, np.float32) if held is None else held
        total = max(float(weight.sum(dtype=np.float64)), 1e-9)
        other = sum(
            float((s * weight).sum(dtype=np.float64)) / total * m
            for s, m in zip(shares, np.array(build.means()))
        )
    else:
        at = next((i for i, s in enumerate(build.scene.planting) if s.id == towards), None)
        if at is None or at == index:
            raise SceneError(
                "There is no such other sowing.", "towards", "Choose another of the planting."
            )
        other = mean_tone(build, at)
    ratio = (np.clip(other, 1e-4, None) / np.clip(own, 1e-4, None)) ** amount
    parts = []
    for p in build.scene.planting[index].mix:
        now = np.array([int(p.tint[i : i + 2], 16) for i in (1, 3, 5)], np.uint8)
        tone = linear(now) * p.bright / 100 * ratio
        most = float(tone.max())
        code = srgb_bytes(np.clip(tone / most, 0, 1))
        parts.append(
            (
                "#{:02x}{:02x}{:02x}".format(*tuple(int(v) for v in code)),
                float(np.clip(round(most * 100, 1), 5, 1000)),
            )
        )
    return own, other, own * ratio, parts
