"""Outlines of crowns: the radius 0..1 over the height 0..1, by name for data files."""

from collections.abc import Callable

import numpy as np

from ..recipes import maker

Profile = Callable[[np.ndarray], np.ndarray]


@maker
def egg(low: float = 0.35) -> Profile:
    """A crown that is broadest at `low` of its height and narrows to its top."""
    power = np.log(0.5) / np.log(low)
    return lambda t: np.sin(np.pi * np.clip(0.06 + 0.9 * t**power, 0, 1)) ** 0.75


@maker
def dome() -> Profile:
    """A broad crown, round on top."""
    round_ = lambda t: np.sqrt(np.clip(1 - (1.12 * t - 0.22) ** 2 * 1.2, 0, 1))
    return lambda t: round_(t) * np.clip(0.5 + 2 * t, 0, 1)


@maker
def burr() -> Profile:
    """The crown of a pollard: a round head on a bare stem."""
    return lambda t: np.sqrt(np.clip(1 - (2 * t - 1) ** 2, 0, 1))


@maker
def parasol() -> Profile:
    """A flat-topped crown that spreads like a parasol."""
    return lambda t: np.clip(0.16 + 1.3 * t**0.8, 0, 1) * np.where(t > 0.97, 0.8, 1.0)


@maker
def wave(low: float, high: float, power: float = 1.0) -> Profile:
    """A crown whose outline is the part from `low` to `high` of half a sine's wave."""
    return lambda t: np.sin(np.pi * np.clip(low + (high - low) * t, 0, 1)) ** power


@maker
def spire(power: float, foot: float) -> Profile:
    """A crown that narrows from its foot to its top."""
    return lambda t: (1 - t) ** power + foot
