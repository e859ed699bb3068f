"""Grasses, sedges, reeds and the flowers that grow as tufts with heads."""

from dataclasses import dataclass, replace

import numpy as np

from .blade import blade, corolla, tuft, tuftlet
from .growth import heads as grown
from .growth.blades import Blades, lying, scattered
from .growth.foliage import Leaf, lobed, pinnate, pointed, set_out
from .low import low_kind
from .mesh import Mesh, Part

STRAW = (0.34, 0.27, 0.14)
THATCH_FROM_M = 0.12  # height from which a grass keeps dead leaves about its foot


@dataclass(frozen=True)
class Heads:
    """What stands on the stalks of a tuft: about `number` heads of a size in m, their colour and
    that of the stalk's tip linear. With `petals` each is a flower, with `spike` that many small
    ones run down the stalk. `form` names what it is seen near: rays, bells, globe, cotton,
    spikelets.
    """

    colour: tuple[float, float, float]
    size_m: float
    number: int
    stem: tuple[float, float, float]
    petals: int = 0
    spike: int = 0
    form: str = ""

    def near(
        self, seed: int, height: float, radius: float, low, leaf: Leaf | None = None
    ) -> list[Mesh]:
        """Stalks with their heads, and with small leaves where they bear any, as they are seen
        near.
        """
        rng = np.random.default_rng(seed)
        n = max(2, self.number)
        stalks = scattered(rng, n, 1.2 * radius, 1.35 * height, 0.0035, 0.5, low, self.stem, 0.9)
        stalks.long_m[:] = height * rng.uniform(1.0, 1.35, n)
        spine, ways, _ = stalks.spine(6)
        tips, way = spine[:, -1], ways[:, -1]
        size = self.size_m
        form = self.form or ("rays" if self.petals else "spikelets" if self.spike else "globe")
        wood = stalks.mesh(6)
        if leaf is not None:
            wood = Mesh.joined([wood, _up_the_stem(rng, spine, ways, leaf, self.stem)])
        way = way * 0.6 + np.array((0, 0, 1.0))
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        if form == "rays":
            return [wood, grown.rayed(rng, tips, way, size, self.petals, self.colour)]
        if form == "cotton":
            return [wood, grown.cotton(rng, tips, size, self.colour)]
        if form == "globe":
            return [wood, grown.globe(rng, tips, way, size, self.colour)]
        if form == "bells":
            return [wood, self._bells(rng, spine)]
        loose = 2.2 if self.spike > 6 else 0.6
        number = max(10, 4 * self.spike)
        return [wood, grown.spikelets(rng, spine, 0.8 * size, number, self.colour, loose)]

    def _bells(self, rng: np.random.Generator, spine: np.ndarray) -> Mesh:
        """Bells at the tips, or down the upper half of the stalks where they stand in a spike."""
        count = max(1, self.spike)
        t = np.linspace(1.0, 0.5 if count > 1 else 1.0, count) * (spine.shape[1] - 1)
        i = np.minimum(t.astype(int), spine.shape[1] - 2)
        f = (t - i)[None, :, None]
        at = (spine[:, i] * (1 - f) + spine[:, i + 1] * f).reshape(-1, 3)
        turn = rng.normal(0.8, 0.9, len(at))
        out = np.stack([np.cos(turn), np.sin(turn), np.full(len(at), -0.75)], 1)
        out /= np.linalg.norm(out, axis=1, keepdims=True)
        size = 1.3 * self.size_m
        return grown.bells(rng, at + 0.1 * size * out, out, size, self.colour)

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


def _up_the_stem(rng: np.random.Generator, spine, ways, leaf: Leaf, colour) -> Mesh:
    """Leaves along stalks, smaller towards the tip."""
    at, along = spine[:, 1:5].reshape(-1, 3), ways[:, 1:5].reshape(-1, 3)
    turn = rng.uniform(0, 6.28, len(at))
    way = 0.7 * along + np.stack([np.cos(turn), np.sin(turn), np.zeros(len(at))], 1)
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    size = np.tile((0.7, 0.55, 0.4, 0.28), len(spine)) * rng.uniform(0.7, 1.1, len(at))
    up = np.broadcast_to(np.array((0, 0, 1.0)), at.shape)
    tone = np.asarray(colour) * rng.uniform(0.8, 1.25, (len(at), 1))
    return set_out(leaf, at, way, up, size, tone)


def _shaded(blades: Blades) -> Blades:
    """Blades a little browner at the very foot, where they are sheathed."""
    return replace(blades, low=blades.low * np.array((1.1, 0.95, 0.8)))


def _herb(
    rng: np.random.Generator, leaf: Leaf, count: int, radius: float, height: float, low, high
) -> list[Mesh]:
    """Leaves on stalks about a foot, and fewer and smaller ones up the stems."""
    many = 2 * count
    stalks = scattered(rng, many, 0.4 * radius, 0.45 * height, 0.002, 1.1, low, high, 1.0, 0.7)
    tips, ways = stalks.tips(4)
    way = ways * np.array((1, 1, 0.4)) + rng.normal(0, 0.12, ways.shape)
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    up = np.array((0, 0, 1.0)) + rng.normal(0, 0.2, ways.shape)
    size = rng.uniform(0.55, 1.1, many)
    tone = np.asarray(high) * rng.uniform(0.75, 1.2, (many, 1))
    return [stalks.mesh(4), set_out(leaf, tips, way, up, size, tone)]


def _sward(rng: np.random.Generator, radius: float, height: float, low, high, dry) -> list[Mesh]:
    """What closes to the ground between the tufts: fine short grass, and thatch of dead leaves
    where it grows tall.
    """
    wide = 2.6 * radius + 0.06
    number = int(2600 * wide * wide + 60)
    short = min(0.075, 0.45 * height)
    green = 0.75 * np.asarray(high) + 0.25 * np.asarray(low)
    parts = [scattered(rng, number, wide, short, 0.0022, 1.1, low, green, 0.1).mesh(4)]
    if height > THATCH_FROM_M:
        straw = np.asarray(STRAW if dry is None else dry) * 0.8
        parts.append(lying(rng, number // 2, 0.8 * wide, 0.5 * height, straw).mesh(4))
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
    leaf: Leaf | None = None,
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

    def nearest(seed):
        rng = np.random.default_rng(seed + 400)
        if leaf is not None:
            parts = _herb(rng, leaf, count, radius, height, low, high)
            if heads:
                parts += heads.near(seed + 9, height, radius, high, leaf)
            return [Part(Mesh.joined(parts), None, 0.5, 0.5, True)]
        fine = min(0.6 * breadth, 0.007) if breadth < 0.02 else 0.75 * breadth
        many = int(count * (2.6 if fine < 0.02 else 1.2))
        blades = _shaded(scattered(rng, many, radius, height, fine, lean, low, high))
        parts = [blades.mesh(7)]
        if dry is not None and dry_share > 0:
            some = max(3, int(many * dry_share))
            parts.append(scattered(rng, some, radius, height, fine, 1.3 * lean, dry, dry).mesh(7))
        if family != "flower" and not (heads and not family):
            parts += _sward(rng, radius, height, low, high, dry)
        if heads:
            parts += heads.near(seed + 9, height, radius, high)
        return [Part(Mesh.joined(parts), None, 0.5, 0.5, True)]

    low_kind(
        name,
        label,
        nearest=nearest,
        nearest_m=10 + 18 * height,
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
    heads=Heads(
        colour=(0.85, 0.83, 0.77), size_m=0.026, number=8, stem=(0.14, 0.12, 0.05), form="cotton"
    ),
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
    heads=Heads(
        colour=(0.21, 0.19, 0.4), size_m=0.013, number=6, stem=(0.07, 0.1, 0.03), form="bells"
    ),
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
    heads=Heads(colour=(0.78, 0.6, 0.03), size_m=0.01, number=9, stem=(0.08, 0.1, 0.03), petals=4),
    leaf=lobed(0.028, 0.03, 3),
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
    leaf=lobed(0.06, 0.06, 3),
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
    leaf=lobed(0.06, 0.022, 5),
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
    leaf=pinnate(0.035, 0.022, 0.015, 1),
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
        colour=(0.48, 0.11, 0.32),
        size_m=0.03,
        number=2,
        stem=(0.07, 0.11, 0.035),
        spike=14,
        form="bells",
    ),
    tags="wood edge flower tall",
    leaf=pointed(0.2, 0.08, 0.45),
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
    leaf=pinnate(0.22, 0.075, 0.04, 3),
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
    leaf=pointed(0.012, 0.006, 0.6, 0.1),
)
