"""Grasses, sedges, reeds and the flowers that grow as tufts with heads."""

from dataclasses import dataclass, replace

import numpy as np

from .blade import blade, corolla, tuft, tuftlet
from .growth import heads as grown
from .growth.blades import Blades, lying, scattered
from .growth.foliage import Leaf, set_out
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
