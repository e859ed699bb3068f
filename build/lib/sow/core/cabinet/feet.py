"""The feet of things that are stretched."""

from collections.abc import Sequence

import numpy as np

MOST_STRETCHED = 40  # discs that stand for one that is stretched


def stretched(feet: Sequence[tuple[float, float, float]], wide: float, deep: float) -> np.ndarray:
    """Discs (x, y, radius) of a thing that is so many times as wide and deep, float64 (n, 3): a
    disc that becomes an ellipse is a row of discs along it.
    """
    least, most = min(wide, deep), max(wide, deep)
    along = np.array([1.0, 0.0]) if wide > deep else np.array([0.0, 1.0])
    out = []
    for x, y, r in feet:
        steps = int(np.clip(np.ceil((most - least) / max(least, 1e-9)), 0, MOST_STRETCHED))
        for t in np.linspace(-1, 1, steps + 1) if steps else [0.0]:
            at = np.array([x * wide, y * deep]) + along * t * r * (most - least)
            out.append((at[0], at[1], r * least))
    return np.array(out, np.float64).reshape(-1, 3)
