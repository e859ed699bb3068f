"""Blades of grass as they are: folded along the keel, bent by their weight, curled and twisted."""

from dataclasses import dataclass

import numpy as np

from ..mesh import Mesh

KEEL = 0.32  # of its half breadth, by which the keel of a blade lies below its edges


@dataclass(frozen=True)
class Blades:
    """Many blades: feet (n, 3) in m, bearings (n,) in radians that they bend towards, lengths and
    breadths (n,) in m, `bend` (n,) radians from upright at the tip, `twist` (n,) radians about
    itself on the way, linear colours at the foot and at the tip (n, 3).
    """

    foot: np.ndarray
    bearing: np.ndarray
    long_m: np.ndarray
    broad_m: np.ndarray
    bend: np.ndarray
    twist: np.ndarray
    low: np.ndarray
    high: np.ndarray

    def spine(self, steps: int, stiff: float = 1.5) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Places (n, steps + 1, 3) along the blades, their unit ways, and the unit vectors across
        them, before their twist.
        """
        t = np.linspace(0, 1, steps + 1)
        angle = self.bend[:, None] * t[None] ** stiff
        d = np.stack([np.cos(self.bearing), np.sin(self.bearing), np.zeros(len(self.foot))], 1)
        side = np.stack([-d[:, 1], d[:, 0], d[:, 2]], 1)
        way = np.sin(angle)[..., None] * d[:, None] + np.cos(angle)[..., None] * np.array((0, 0, 1))
        step = (self.long_m / steps)[:, None, None] * 0.5 * (way[:, 1:] + way[:, :-1])
        places = np.concatenate([np.zeros((len(d), 1, 3)), np.cumsum(step, 1)], 1)
        return places + self.foot[:, None], way, np.broadcast_to(side[:, None], way.shape)

    def mesh(self, steps: int = 6, stiff: float = 1.5) -> Mesh:
        """Two halves of each blade, that meet in its keel."""
        places, way, side = self.spine(steps, stiff)
        t = np.linspace(0, 1, steps + 1)
        turn = self.twist[:, None] * t[None]
        up = np.cross(side, way)
        across = np.cos(turn)[..., None] * side + np.sin(turn)[..., None] * up
        over = np.cross(across, way)
        wide = (self.broad_m / 2)[:, None] * np.minimum(0.75 + t, 1.0) * (1 - t**2.2) ** 0.75
        wide = np.maximum(wide, 1e-5)[..., None]
        keel = places - KEEL * wide * over
        rings = np.stack([places - wide * across, keel, places + wide * across], 2)
        n, k = len(places), steps + 1
        one = []
        for i in range(steps):
            for j in (0, 1):
                a = 3 * i + j
                one += [(a, a + 1, a + 4), (a, a + 4, a + 3)]
        faces = (np.array(one)[None] + 3 * k * np.arange(n)[:, None, None]).reshape(-1, 3)
        tone = self.low[:, None] + (self.high - self.low)[:, None] * t[None, :, None]
        colour = np.repeat(tone, 3, 1).reshape(-1, 3)
        normals = np.repeat(over, 3, 1).reshape(-1, 3)
        none = np.full((n * 3 * k, 2), -1.0)
        return Mesh.of(rings.reshape(-1, 3), faces, colour, normals, none)

    def tips(self, steps: int = 6, stiff: float = 1.5) -> tuple[np.ndarray, np.ndarray]:
        """Places (n, 3) and unit ways of the tips."""
        places, way, _ = self.spine(steps, stiff)
        return places[:, -1], way[:, -1]


def scattered(
    rng: np.random.Generator,
    number: int,
    radius_m: float,
    long_m: float,
    broad_m: float,
    bend: float,
    low,
    high,
    outward: float = 0.6,
    uneven: float = 0.5,
    twist: float = 1.4,
) -> Blades:
    """Blades about a foot of a radius, bent outward as far as `outward` tells (0..1), their lengths
    down to `1 - uneven` of the full one.
    """
    turn = rng.uniform(0, 2 * np.pi, number)
    r = radius_m * np.sqrt(rng.uniform(0, 1, number))
    foot = np.stack([r * np.cos(turn), r * np.sin(turn), np.full(number, -0.01)], 1)
    bearing = np.where(
        rng.uniform(0, 1, number) < outward,
        turn + rng.normal(0, 0.6, number),
        rng.uniform(0, 2 * np.pi, number),
    )
    tone = rng.uniform(0.72, 1.25, (number, 1))
    hue = 1 + rng.normal(0, 0.07, (number, 1)) * np.array((1.0, 0.2, -0.5))
    return Blades(
        foot,
        bearing,
        long_m * (1 - uneven * rng.uniform(0, 1, number) ** 1.4),
        broad_m * rng.uniform(0.65, 1.2, number),
        bend * rng.uniform(0.2, 1.2, number),
        rng.normal(0, twist, number),
        np.asarray(low) * tone * hue,
        np.asarray(high) * tone * hue,
    )


def lying(rng: np.random.Generator, number: int, radius_m: float, long_m: float, colour) -> Blades:
    """Dead leaves of former years that lie about a foot: thatch."""
    turn = rng.uniform(0, 2 * np.pi, number)
    r = radius_m * np.sqrt(rng.uniform(0, 1, number))
    lift = rng.uniform(0.0, 0.025, number)
    tone = rng.uniform(0.55, 1.2, (number, 1))
    return Blades(
        np.stack([r * np.cos(turn), r * np.sin(turn), lift], 1),
        rng.uniform(0, 2 * np.pi, number),
        long_m * rng.uniform(0.4, 1.1, number),
        np.full(number, 0.0035),
        rng.uniform(1.5, 2.1, number),
        rng.normal(0, 2.5, number),
        np.asarray(colour) * tone * 0.8,
        np.asarray(colour) * tone,
    )
