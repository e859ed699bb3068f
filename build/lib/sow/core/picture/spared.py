"""Lamps that leave some things dark. The renderer's lamps light all there is; so a pass is followed
once more without such a lamp, and where a ray meets what it spares, its light is taken away again.
What the lamp's light does on its way from spared things to others stays.
"""

from collections.abc import Callable, Iterable, Sequence
from typing import TYPE_CHECKING

import numpy as np

from .views import View

if TYPE_CHECKING:
    from .stage import Stage

RAYS = 2  # along each side of a pixel, that tell how much of it is spared
Crop = tuple[int, int, int, int]


def spared_copies(told: Sequence[tuple[str, str]], names: Iterable[str]) -> np.ndarray:
    """The numbers of what stands on a stage (`Stage.told`) and belongs to these names."""
    wanted = set(names)
    return np.array([i for i, (of, _) in enumerate(told) if of in wanted], np.int32)


def shares_of(stage: "Stage", view: View, crop: Crop | None) -> dict[int, np.ndarray]:
    """For each lamp that spares something in sight, the share of each pixel that shows it, float32
    (height, width).
    """
    numbers = {i: spared_copies(stage.told, lamp.spares) for i, lamp in enumerate(stage.lamps)}
    numbers = {i: n for i, n in numbers.items() if len(n)}
    if not numbers:
        return {}
    x, y, wide, high = crop or (0, 0, view.width, view.height)
    out = {i: np.zeros((high, wide), np.float32) for i in numbers}
    steps = (np.arange(RAYS) + 0.5) / RAYS - 0.5
    for across in steps:
        for down in steps:
            rays = view.rays(across, down)[y : y + high, x : x + wide].astype(np.float64)
            which = stage.met(view.eye, rays.reshape(-1, 3)).which.reshape(high, wide)
            for i, own in numbers.items():
                out[i] += np.isin(which, own) / np.float32(RAYS * RAYS)
    return {i: share for i, share in out.items() if share.any()}


def without_spared(
    light: np.ndarray,
    shares: dict[int, np.ndarray],
    unlit: Callable[[int], np.ndarray],
) -> np.ndarray:
    """A pass's light (height, width, 3) with each lamp taken away where it spares; `unlit(i)` is
    the same pass without the i-th lamp.
    """
    out = light.copy()
    for i, share in shares.items():
        out -= share[..., None] * np.maximum(light - unlit(i), 0)
    return np.maximum(out, 0)
