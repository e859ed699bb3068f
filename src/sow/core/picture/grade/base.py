"""What all steps of grading share."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np

from ...document.entry import Entry, Register
from ...document.fields import for_shot

steps = Register("step of grading")
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])


class Graded(Entry):
    """A step acts on light before the film, or on what the film `shows` (0..1 for a screen); one
    that `spreads` looks beyond the pixel itself, or asks where it lies.
    """

    acts_on: ClassVar[Literal["light", "shown"]] = "light"
    spreads: ClassVar[bool] = False
    kind: str = ""
    shot: str = for_shot()

    @property
    def as_film(self) -> float:
        """How far it stands instead of the film, 0..1: then it takes light coded as ACEScct."""
        return 0.0

    def with_rasters(self, load: Callable[[str], np.ndarray]) -> "Graded":
        """The step with the rasters that it names at hand."""
        return self


@dataclass(frozen=True)
class GradedFrame:
    """Where a picture's pixels lie in their frame: of its whole `width` and `height` in px, those
    from `left` and `top` on; a seed for what is left to chance.
    """

    width: int
    height: int
    left: int = 0
    top: int = 0
    seed: int = 1


def bright(light: np.ndarray) -> np.ndarray:
    """Luminance of light (..., 3), with its last axis kept."""
    return (light @ LUMINANCE.astype(light.dtype))[..., None]


def steps_of(entries: list, shot: str, load: Callable[[str], np.ndarray]) -> list:
    """The steps that hold for a shot, in their order, with the rasters that they name at hand;
    `load` gives one by its name. Raises SceneError where it is missing.
    """
    return [e.with_rasters(load) for e in entries if e.on and e.shot in ("", shot)]


Step = Callable[[Graded, np.ndarray, GradedFrame], np.ndarray]
