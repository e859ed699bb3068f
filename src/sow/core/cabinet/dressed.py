"""A kind in its dress: which look it wears, its tint and its lightness, and how that is written.

Files, products and the page name a dressed kind by one string, such as "birch~autumn~ffddaa~120".
It is written and read here alone (and read in the page by `api/dressed.ts`).
"""

from dataclasses import dataclass

import numpy as np

from .kind import linear

BETWEEN = "~"
PLAIN_LOOK = "summer"
PLAIN_TINT = "#ffffff"


@dataclass(frozen=True)
class Dressed:
    """A kind by its name, its look, its `tint` as in "#ffddaa" and its lightness in %."""

    kind: str
    look: str = PLAIN_LOOK
    tint: str = PLAIN_TINT
    bright: float = 100.0

    @staticmethod
    def read(name: str) -> "Dressed":
        """What a string says; what it leaves out is plain."""
        kind, look, tint, bright = (name.split(BETWEEN) + ["", "", ""])[:4]
        return Dressed(
            kind,
            look or PLAIN_LOOK,
            f"#{tint}" if tint else PLAIN_TINT,
            float(bright or 100.0),
        )

    @property
    def toned(self) -> bool:
        """Whether its own colours are changed."""
        return self.tint.lower() != PLAIN_TINT or self.bright != 100

    @property
    def tone(self) -> np.ndarray | None:
        """A linear multiplier (3,) of its colours, or None where they are its own."""
        if not self.toned:
            return None
        parts = [int(self.tint[i : i + 2], 16) for i in (1, 3, 5)]
        return linear(np.array(parts, np.uint8)) * (self.bright / 100)

    def __str__(self) -> str:
        parts = [self.kind]
        if self.look != PLAIN_LOOK or self.toned:
            parts.append(self.look)
        if self.toned:
            parts.append(self.tint[1:].lower())
        if self.bright != 100:
            parts.append(f"{self.bright:g}")
        return BETWEEN.join(parts)
