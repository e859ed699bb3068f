"""The plants that a sowing gives, as columns, and the ground that they stand on."""

from dataclasses import dataclass

import numpy as np

from ..cabinet import kind_of
from .sowing import FOOTED, Sowing


@dataclass
class Plants:
    """What one sowing gives: columns of equal length. `kind` indexes the mix; `rank` 0..1 orders
    any thinning.
    """

    east: np.ndarray
    north: np.ndarray
    up: np.ndarray
    turn: np.ndarray  # degrees clockwise from north
    lean: np.ndarray  # degrees from upright
    bearing: np.ndarray  # degrees, the way it leans
    size: np.ndarray  # times the kind's own size
    tint: np.ndarray  # 0..1
    rank: np.ndarray
    kind: np.ndarray
    variant: np.ndarray

    def __len__(self) -> int:
        return len(self.east)

    def only(self, which: np.ndarray) -> "Plants":
        """Those of a mask or of a list of indices."""
        return Plants(**{name: values[which] for name, values in vars(self).items()})


def nothing() -> Plants:
    """No plants at all."""
    return Plants(*(np.empty(0, t) for t in ("f8", "f8", *["f4"] * 7, "u1", "u1")))


def joined(a: Plants, b: Plants) -> Plants:
    """Plants of one sowing from two places."""
    if not len(b):
        return a
    columns = {name: np.concatenate([v, vars(b)[name]]) for name, v in vars(a).items()}
    return Plants(**columns)


def feet(sowing: Sowing, plants: Plants) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """East, north and radius (m) of the discs that plants stand on, of those that have any."""
    out = []
    for k, part in enumerate(sowing.mix):
        here = np.flatnonzero(plants.kind == k)
        for dx, dy, r in kind_of(part.kind).footing():
            if r * float(plants.size[here].max(initial=0)) < FOOTED:
                continue
            a, s = np.deg2rad(plants.turn[here]), plants.size[here]
            out.append(
                (
                    plants.east[here] + s * (dx * np.cos(a) + dy * np.sin(a)),
                    plants.north[here] + s * (dy * np.cos(a) - dx * np.sin(a)),
                    r * s,
                )
            )
    if not out:
        return np.empty(0), np.empty(0), np.empty(0)
    east, north, reach = (np.concatenate(column) for column in zip(*out))
    return east, north, reach
