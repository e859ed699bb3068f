"""What stands and lies on a ground that is seen at the foot: blades, shoots, leaves, twigs, stones.

Each recipe makes one round patch of it; stills lay many of them side by side.
"""

from collections.abc import Callable

import numpy as np

from .growth.blades import lying, scattered
from .growth.foliage import lobed, pointed
from .growth.litter import Patch, over, strewn
from .mesh import Mesh, Part
from .stone import boulder

swards: dict[str, Patch] = {}
LEAF, RIGID = 0.5, 0.0  # light that comes through


def sward(name: str) -> Callable[[Patch], Patch]:
    """Registers the recipe of a ground: it is given a source of chance, the radius of the patch in
    m, and how dense it is wanted, 0..1.
    """

    def keep(make: Patch) -> Patch:
        swards[name] = make
        return make

    return keep


def _grass(rng, radius, number, long_m, broad_m, colours, low, bend=1.2) -> list[Mesh]:
    """Blades of several colours, in equal parts."""
    out = []
    for colour in colours:
        some = max(2, int(number / len(colours)))
        blades = scattered(rng, some, radius, long_m, broad_m, bend, low, colour, 0.1, 0.7)
        out.append(blades.mesh(4))
    return out


def _stems(rng, radius, number, long_m, colours) -> Mesh:
    """Thin dry stems that lie about."""
    return strewn(rng, radius, pointed(long_m, 0.03 * long_m, 0.5, 0.05), number, colours, 0.02)


def _stones(rng, radius, number, least_m, most_m, colours) -> Mesh:
    """Loose stones, most of them small, sunk by a third."""
    parts = []
    for _ in range(number):
        size = least_m * (most_m / least_m) ** (rng.uniform() ** 1.8)
        turn, r = rng.uniform(0, 6.28), radius * np.sqrt(rng.uniform())
        half = size / 2 * np.array((1.0, rng.uniform(0.65, 0.95), rng.uniform(0.45, 0.75)))
        angle = rng.uniform(0, 6.28)
        spin = np.array(
            [[np.cos(angle), -np.sin(angle), 0], [np.sin(angle), np.cos(angle), 0], [0, 0, 1.0]]
        )
        place = (r * np.cos(turn), r * np.sin(turn), 0.15 * size)
        detail = 2 if size > 0.03 else 1
        stone = boulder(int(rng.integers(1 << 30)), detail, half, 12, 7, 0.03, place, spin)
        colour = np.asarray(colours[rng.integers(0, len(colours))]) * rng.uniform(0.7, 1.25)
        stone.colour = (stone.colour / 0.18 * colour).astype(np.float32)
        parts.append(stone)
    return Mesh.joined(parts)


def _leafy(*meshes: Mesh) -> list[Part]:
    return [Part(Mesh.joined(list(meshes)), None, LEAF, 0.5, True)]


@sward("turf")
def turf(rng, radius, dense):
    """Short grazed grass with a little clover and dead leaf."""
    green = [(0.13, 0.165, 0.04), (0.17, 0.185, 0.055), (0.1, 0.14, 0.03), (0.12, 0.15, 0.05)]
    low = (0.06, 0.065, 0.02)
    many = over(radius, 4200, dense)
    herb = strewn(rng, radius, pointed(0.012, 0.009, 0.6), many // 12, [(0.07, 0.12, 0.03)], 0.03)
    dry = lying(rng, many // 7, radius, 0.045, (0.3, 0.25, 0.13)).mesh(3)
    return _leafy(*_grass(rng, radius, many, 0.06, 0.0026, green, low), herb, dry)


@sward("mat-grass")
def mat_grass(rng, radius, dense):
    """Wiry grass, half of it bleached, over thatch."""
    tones = [(0.33, 0.27, 0.12), (0.25, 0.215, 0.085), (0.18, 0.18, 0.06), (0.4, 0.33, 0.17)]
    many = over(radius, 3200, dense)
    blades = _grass(rng, radius, many, 0.14, 0.002, tones, (0.1, 0.085, 0.04), 1.5)
    thatch = lying(rng, many // 3, radius, 0.11, (0.38, 0.31, 0.17)).mesh(4)
    return _leafy(*blades, thatch)


@sward("dry-grass")
def dry_grass(rng, radius, dense):
    """Bleached grass of last year."""
    tones = [(0.5, 0.4, 0.2), (0.4, 0.32, 0.15), (0.58, 0.48, 0.27), (0.2, 0.21, 0.07)]
    many = over(radius, 2600, dense)
    blades = _grass(rng, radius, many, 0.19, 0.0026, tones, (0.2, 0.155, 0.08), 1.6)
    return _leafy(*blades, lying(rng, many // 2, radius, 0.16, (0.48, 0.39, 0.22)).mesh(4))


@sward("heath")
def heath(rng, radius, dense):
    """Young heather, wavy grass and twigs among moss."""
    shoots = [(0.1, 0.085, 0.04), (0.13, 0.1, 0.045), (0.09, 0.1, 0.04), (0.24, 0.115, 0.15)]
    many = over(radius, 3000, dense)
    blades = _grass(rng, radius, many, 0.075, 0.0034, shoots, (0.06, 0.045, 0.03), 0.9)
    low, high = (0.12, 0.1, 0.05), (0.3, 0.25, 0.12)
    grass = scattered(rng, many // 6, radius, 0.16, 0.0016, 1.5, low, high)
    dead = _stems(rng, radius, many // 20, 0.08, [(0.1, 0.075, 0.06)])
    return _leafy(*blades, grass.mesh(5), dead)


@sward("moss")
def moss(rng, radius, dense):
    """Cushions of bog moss: dense small stars."""
    tones = [(0.13, 0.15, 0.035), (0.17, 0.17, 0.05), (0.09, 0.12, 0.025), (0.2, 0.11, 0.06)]
    many = over(radius, 6500, dense)
    blades = _grass(rng, radius, many, 0.026, 0.0042, tones, (0.07, 0.075, 0.025), 1.3)
    return _leafy(*blades)


@sward("leaf-litter")
def leaf_litter(rng, radius, dense):
    """Fallen leaves, curled, and twigs."""
    tones = [(0.24, 0.14, 0.07), (0.32, 0.2, 0.09), (0.18, 0.11, 0.065), (0.4, 0.27, 0.11)]
    many = over(radius, 420, dense)
    oak = strewn(rng, radius, lobed(0.09, 0.055, 4), many // 2, tones, 0.035)
    birch = strewn(rng, radius, pointed(0.05, 0.04, 0.35, 0.6), many, tones, 0.03)
    return _leafy(oak, birch, _stems(rng, radius, many // 5, 0.16, [(0.12, 0.095, 0.075)]))


@sward("heather-litter")
def heather_litter(rng, radius, dense):
    """Dead twigs and shed leaves of heather."""
    tones = [(0.15, 0.115, 0.095), (0.2, 0.16, 0.13), (0.11, 0.08, 0.065), (0.26, 0.215, 0.18)]
    many = over(radius, 1300, dense)
    bits = strewn(rng, radius, pointed(0.006, 0.003), 2 * many, [(0.14, 0.1, 0.07)], 0.008)
    return _leafy(_stems(rng, radius, many, 0.09, tones), bits)


@sward("peat")
def peat(rng, radius, dense):
    """Bare peat with a little straw."""
    many = over(radius, 90, dense)
    return _leafy(_stems(rng, radius, many, 0.08, [(0.16, 0.125, 0.075), (0.09, 0.07, 0.045)]))


def _stony(per_m2: float, least_m: float, most_m: float, colours) -> Patch:
    def make(rng, radius, dense):
        number = over(radius, per_m2, dense)
        return [Part(_stones(rng, radius, number, least_m, most_m, colours), None, RIGID, 0.9)]

    return make


GREY = [(0.24, 0.23, 0.21), (0.19, 0.18, 0.165), (0.28, 0.25, 0.21), (0.16, 0.16, 0.16)]
sward("gravel")(_stony(700, 0.008, 0.05, GREY))
sward("scree")(_stony(130, 0.03, 0.2, GREY))
sward("cobbles")(_stony(90, 0.03, 0.14, GREY))
sward("granite")(_stony(14, 0.01, 0.06, GREY))
sward("sandstone")(_stony(14, 0.01, 0.05, [(0.36, 0.25, 0.15), (0.42, 0.31, 0.2)]))
