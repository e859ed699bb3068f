"""Grasses, sedges, reeds and the flowers that grow as tufts with heads."""

from dataclasses import dataclass

import numpy as np

from .blade import blade, corolla, tuft, tuftlet
from .low import low_kind
from .mesh import Mesh


@dataclass(frozen=True)
class Heads:
    """What stands on the stalks of a tuft: about `number` heads of a size in m, their colour and
    that of the stalk's tip linear. With `petals` each is a flower, with `spike` that many small
    ones run down the stalk.
    """

    colour: tuple[float, float, float]
    size_m: float
    number: int
    stem: tuple[float, float, float]
    petals: int = 0
    spike: int = 0

    def on_stalks(self, seed: int, share: float, height: float, radius: float, low) -> list[Mesh]:
        """Stalks with their heads over a tuft of a height and radius in m."""
        rng = np.random.default_rng(seed)
        parts = []
        for _ in range(max(2, int(self.number * (0.5 + share / 2)))):
            a = rng.uniform(0, 2 * np.pi)
            r = radius * 1.2 * np.sqrt(rng.uniform())
            tall = height * rng.uniform(1.0, 1.35)
            bend = rng.uniform(0.1, 0.55)
            foot = (r * np.cos(a), r * np.sin(a), 0)
            stalk = blade(foot, a, tall, bend, 0.006, low, self.stem)
            parts.append(stalk)
            if self.spike:
                parts += self._spike(stalk, rng)
                continue
            tip = stalk.positions[-1] + (0, 0, -self.size_m * 0.4)
            if self.petals:
                size = self.size_m * rng.uniform(0.85, 1.1)
                parts += corolla(tip, size, self.petals, self.colour, rng)
            else:
                size = self.size_m * rng.uniform(0.7, 1.15)
                parts.append(tuftlet(tip, size, self.colour, rng))
        return parts

    def _spike(self, stalk: Mesh, rng: np.random.Generator) -> list[Mesh]:
        """Small heads from the tip of a stalk downward, the smallest at the tip."""
        n = (len(stalk.positions) - 1) // 2
        middle = (stalk.positions[:n] + stalk.positions[n : 2 * n]) / 2
        path = np.vstack([middle, stalk.positions[-1:]])[::-1]
        along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
        parts = []
        for k in range(self.spike):
            down = k * self.size_m * 1.15
            at = np.array([np.interp(down, along, path[:, i]) for i in range(3)])
            at = at + rng.normal(0, 0.15 * self.size_m, 3)
            grown = 0.4 + 0.6 * min(1, 1.6 * k / self.spike)
            size = self.size_m * grown * rng.uniform(0.85, 1.15)
            colour = np.asarray(self.colour) * rng.uniform(0.8, 1.15)
            parts.append(tuftlet(at, size, colour, rng, 4))
        return parts


def grass(
    name,
    label,
    height,
    count,
    radius,
    lean,
    breadth,
    low,
    high,
    dry=None,
    dry_share=0.0,
    cover=0.05,
    far=(7, 16),
    heads: Heads | None = None,
    family="",
    tags="",
):
    """Registers a grass, sedge or reed of a height in m: `count` blades from a foot of a radius in
    m, their colours linear from `low` at the foot to `high` at the tip, a share of them dry.
    """

    def build(seed, share):
        blades = max(5, int(count * share))
        broad = breadth / share**0.6
        parts = tuft(seed, blades, height, radius, lean, broad, low, high, dry, dry_share)
        if heads:
            parts += heads.on_stalks(seed + 9, share, height, radius, low)
        return Mesh.joined(parts)

    low_kind(
        name,
        label,
        family=family or ("flower" if heads else "grass"),
        height=height,
        reach=radius * 2,
        cover=cover,
        colour=tuple(0.35 * a + 0.5 * b for a, b in zip(low, high)),
        build=build,
        far=far,
        tags=tags,
    )


grass(
    "turf-grass",
    "Short grass",
    height=0.16,
    count=26,
    radius=0.09,
    lean=0.9,
    breadth=0.012,
    low=(0.03, 0.045, 0.012),
    high=(0.14, 0.175, 0.045),
    dry=(0.3, 0.26, 0.12),
    dry_share=0.2,
    cover=0.05,
    far=(5, 12),
)


grass(
    "moor-grass",
    "Moor grass",
    height=0.48,
    count=46,
    radius=0.11,
    lean=1.25,
    breadth=0.011,
    low=(0.05, 0.06, 0.02),
    high=(0.25, 0.215, 0.09),
    dry=(0.46, 0.37, 0.18),
    dry_share=0.5,
    cover=0.2,
    far=(9, 22),
)


grass(
    "cotton-grass",
    "Cotton grass",
    height=0.32,
    count=24,
    radius=0.12,
    lean=0.8,
    breadth=0.009,
    low=(0.035, 0.05, 0.016),
    high=(0.17, 0.17, 0.06),
    dry=(0.24, 0.13, 0.06),
    dry_share=0.3,
    cover=0.1,
    far=(9, 24),
    heads=Heads(colour=(0.85, 0.83, 0.77), size_m=0.026, number=8, stem=(0.14, 0.12, 0.05)),
    family="grass",
    tags="sedge wet bog",
)


grass(
    "harebell",
    "Harebell",
    height=0.22,
    count=9,
    radius=0.06,
    lean=0.7,
    breadth=0.007,
    low=(0.03, 0.05, 0.015),
    high=(0.09, 0.13, 0.04),
    cover=0.02,
    far=(6, 14),
    heads=Heads(colour=(0.16, 0.17, 0.62), size_m=0.016, number=6, stem=(0.07, 0.1, 0.03)),
)


grass(
    "tormentil",
    "Tormentil",
    height=0.09,
    count=16,
    radius=0.1,
    lean=1.3,
    breadth=0.016,
    low=(0.03, 0.05, 0.015),
    high=(0.08, 0.13, 0.03),
    cover=0.03,
    far=(5, 11),
    heads=Heads(colour=(0.78, 0.6, 0.03), size_m=0.014, number=9, stem=(0.08, 0.1, 0.03)),
)


grass(
    "meadow-grass",
    "Meadow grass",
    height=0.62,
    count=34,
    radius=0.1,
    lean=0.75,
    breadth=0.008,
    low=(0.035, 0.055, 0.016),
    high=(0.17, 0.185, 0.06),
    dry=(0.4, 0.31, 0.15),
    dry_share=0.25,
    cover=0.14,
    far=(9, 22),
    heads=Heads(colour=(0.3, 0.24, 0.14), size_m=0.011, number=12, stem=(0.22, 0.2, 0.08), spike=8),
    family="grass",
    tags="meadow hay tall",
)


grass(
    "rush",
    "Soft rush",
    height=0.75,
    count=42,
    radius=0.08,
    lean=0.5,
    breadth=0.007,
    low=(0.03, 0.045, 0.014),
    high=(0.09, 0.12, 0.035),
    dry=(0.3, 0.22, 0.1),
    dry_share=0.15,
    cover=0.16,
    far=(10, 26),
    heads=Heads(colour=(0.13, 0.08, 0.035), size_m=0.022, number=12, stem=(0.09, 0.115, 0.035)),
    family="grass",
    tags="rush wet",
)


grass(
    "sedge",
    "Tufted sedge",
    height=0.55,
    count=60,
    radius=0.1,
    lean=1.45,
    breadth=0.012,
    low=(0.03, 0.048, 0.014),
    high=(0.13, 0.165, 0.045),
    dry=(0.32, 0.24, 0.1),
    dry_share=0.2,
    cover=0.24,
    far=(9, 24),
    heads=Heads(
        colour=(0.075, 0.05, 0.03), size_m=0.011, number=7, stem=(0.1, 0.11, 0.04), spike=5
    ),
    family="grass",
    tags="sedge wet fen",
)


grass(
    "reed",
    "Common reed",
    height=2.0,
    count=26,
    radius=0.16,
    lean=0.42,
    breadth=0.03,
    low=(0.06, 0.07, 0.025),
    high=(0.17, 0.19, 0.06),
    dry=(0.42, 0.34, 0.18),
    dry_share=0.2,
    cover=0.2,
    far=(22, 60),
    heads=Heads(
        colour=(0.16, 0.095, 0.07), size_m=0.034, number=8, stem=(0.22, 0.2, 0.08), spike=8
    ),
    family="grass",
    tags="reed water shore",
)


grass(
    "fescue",
    "Fescue",
    height=0.26,
    count=54,
    radius=0.06,
    lean=0.95,
    breadth=0.005,
    low=(0.05, 0.065, 0.035),
    high=(0.16, 0.19, 0.1),
    dry=(0.42, 0.36, 0.2),
    dry_share=0.4,
    cover=0.06,
    far=(6, 14),
    heads=Heads(colour=(0.33, 0.24, 0.15), size_m=0.007, number=7, stem=(0.25, 0.2, 0.1), spike=5),
    family="grass",
    tags="dry alpine turf",
)


grass(
    "buttercup",
    "Buttercup",
    height=0.42,
    count=12,
    radius=0.1,
    lean=0.9,
    breadth=0.016,
    low=(0.025, 0.045, 0.012),
    high=(0.075, 0.125, 0.03),
    cover=0.04,
    far=(7, 17),
    heads=Heads(
        colour=(0.82, 0.58, 0.01), size_m=0.018, number=9, stem=(0.07, 0.11, 0.03), petals=5
    ),
    tags="meadow flower yellow",
)


grass(
    "oxeye",
    "Oxeye daisy",
    height=0.5,
    count=10,
    radius=0.09,
    lean=0.8,
    breadth=0.014,
    low=(0.025, 0.042, 0.014),
    high=(0.07, 0.11, 0.032),
    cover=0.04,
    far=(8, 19),
    heads=Heads(
        colour=(0.82, 0.82, 0.78), size_m=0.03, number=6, stem=(0.06, 0.1, 0.03), petals=14
    ),
    tags="meadow flower white",
)


grass(
    "clover",
    "Red clover",
    height=0.26,
    count=16,
    radius=0.11,
    lean=1.2,
    breadth=0.024,
    low=(0.025, 0.05, 0.014),
    high=(0.08, 0.14, 0.035),
    cover=0.05,
    far=(6, 14),
    heads=Heads(colour=(0.46, 0.13, 0.3), size_m=0.02, number=8, stem=(0.06, 0.1, 0.03)),
    tags="meadow flower red",
)


grass(
    "foxglove",
    "Foxglove",
    height=0.8,
    count=12,
    radius=0.14,
    lean=1.3,
    breadth=0.06,
    low=(0.03, 0.05, 0.016),
    high=(0.1, 0.15, 0.05),
    cover=0.1,
    far=(12, 30),
    heads=Heads(
        colour=(0.48, 0.11, 0.32), size_m=0.03, number=2, stem=(0.07, 0.11, 0.035), spike=14
    ),
    tags="wood edge flower tall",
)


grass(
    "meadowsweet",
    "Meadowsweet",
    height=0.8,
    count=18,
    radius=0.13,
    lean=0.8,
    breadth=0.03,
    low=(0.03, 0.048, 0.015),
    high=(0.085, 0.13, 0.035),
    cover=0.12,
    far=(12, 28),
    heads=Heads(colour=(0.72, 0.66, 0.46), size_m=0.03, number=14, stem=(0.1, 0.085, 0.04)),
    tags="wet meadow flower cream",
)


grass(
    "saxifrage",
    "Cushion saxifrage",
    height=0.07,
    count=40,
    radius=0.11,
    lean=1.1,
    breadth=0.014,
    low=(0.03, 0.05, 0.018),
    high=(0.1, 0.145, 0.05),
    cover=0.04,
    far=(4, 9),
    heads=Heads(
        colour=(0.72, 0.5, 0.62), size_m=0.011, number=14, stem=(0.12, 0.12, 0.05), petals=5
    ),
    tags="alpine scree flower cushion",
)
