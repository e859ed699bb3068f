"""Plants seen from afar: the colour that they show and the ground that they hide."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..cabinet import kind_of
from .sowing import name_of, seen_colour


def seen_from_afar(
    planting: Sequence[Any],
    season: str,
    masks: Sequence[np.ndarray | None],
    shape: tuple[int, int],
    area_m2: float,
    numbers: Sequence[int | None],
) -> np.ndarray:
    """Mean linear colour and share of ground hidden, float32 (ny, nx, 4), of sowings where their
    `masks` (0..1, None is everywhere) let them stand. `numbers` are those of places from files.

    Crowns that fall at random on an area hide 1 - exp(-n a) of it (Poisson); later sowings stand
    over earlier ones.
    """
    left = np.ones(shape, np.float32)
    colour = np.zeros(shape + (3,), np.float32)
    for s, held, number in reversed(list(zip(planting, masks, numbers))):
        if not s.on:
            continue
        hidden, tint = hidden_by(s, season, held, area_m2, number)
        colour += (left * hidden)[..., None] * tint
        left = left * (1 - hidden)
    hides = 1 - left
    return np.dstack([colour / np.maximum(hides, 1e-4)[..., None], hides]).astype(np.float32)


def hidden_by(
    sowing: Any, season: str, held: np.ndarray | None, area_m2: float, number: int | None
) -> tuple[np.ndarray, np.ndarray]:
    """The share of ground that a sowing hides where it is `held` (0..1, None is everywhere), and
    its mean linear colour, float32 (3).
    """
    total = sum(p.share for p in sowing.mix) or 1
    size = ((sowing.stance.smallest + sowing.stance.largest) / 200) ** 2
    each = sum(p.share / total * kind_of(p.kind).cover_m2 for p in sowing.mix) * size
    tint = sum(np.array(seen_colour(name_of(p, season))) * p.share / total for p in sowing.mix)
    per_m2 = number / area_m2 if number is not None else sowing.density / 100
    hidden = 1 - np.exp(-np.float32(per_m2 * each) * (1 if held is None else held))
    return hidden, np.asarray(tint, np.float32)
