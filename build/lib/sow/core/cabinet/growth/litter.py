"""What trees let fall, as patches that lie on the ground: leaves, needles, cones, twigs."""

from collections.abc import Callable, Sequence

import numpy as np

from ..mesh import Mesh, Part
from .foliage import Leaf, pointed, set_out

Patch = Callable[[np.random.Generator, float, float], list[Part]]
Colours = Sequence[tuple[float, float, float]]
THROUGH = 0.4  # of a dead leaf's light comes through
TWIGS = ((0.12, 0.095, 0.075), (0.16, 0.13, 0.1))
CONE_SIDES, CONE_RINGS = 7, 6


def strewn(rng, radius: float, leaf: Leaf, number: int, colours: Colours, lift=0.012) -> Mesh:
    """Flat things that lie as they fell, in a round patch."""
    turn, r = rng.uniform(0, 6.28, number), radius * np.sqrt(rng.uniform(0, 1, number))
    at = np.stack([r * np.cos(turn), r * np.sin(turn), rng.uniform(0.002, lift, number)], 1)
    way = np.stack([*rng.normal(0, 1, (2, number)), rng.normal(0, 0.18, number)], 1)
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    up = np.array((0, 0, 1.0)) + rng.normal(0, 0.3, (number, 3))
    palette = np.asarray(colours)[rng.integers(0, len(colours), number)]
    tone = rng.uniform(0.7, 1.25, (number, 1))
    return set_out(leaf, at, way, up, rng.uniform(0.6, 1.15, number), palette * tone)


def over(radius: float, per_m2: float, dense: float) -> int:
    """How many lie in a patch."""
    return max(3, int(np.pi * radius * radius * per_m2 * dense))


def _cones(rng, radius: float, number: int, long_m: float) -> Mesh:
    """Cones that lie about: spindles, ribbed by their scales."""
    t = np.linspace(0, 1, CONE_RINGS)
    wide = 0.2 * np.sin(np.pi * np.clip(0.08 + 0.86 * t, 0, 1)) ** 0.8
    turn = np.arange(CONE_SIDES) * 2 * np.pi / CONE_SIDES
    ribs = 1 + 0.25 * ((np.arange(CONE_RINGS)[:, None] + np.arange(CONE_SIDES)) % 2)
    places = np.stack(
        [
            wide[:, None] * ribs * np.cos(turn),
            np.broadcast_to(t[:, None], ribs.shape),
            wide[:, None] * ribs * np.sin(turn),
        ],
        -1,
    ).reshape(-1, 3)
    faces = []
    for i in range(CONE_RINGS - 1):
        for k in range(CONE_SIDES):
            a, b = CONE_SIDES * i + k, CONE_SIDES * i + (k + 1) % CONE_SIDES
            faces += [(a, b, b + CONE_SIDES), (a, b + CONE_SIDES, a + CONE_SIDES)]
    cone = Leaf(places, np.array(faces), long_m, 0.4 * long_m)
    return strewn(rng, radius, cone, number, ((0.17, 0.11, 0.07), (0.22, 0.15, 0.1)), 0.2 * long_m)


def leaves_shed(leaf: Leaf, fresh: tuple[float, float, float] | None) -> Patch:
    """Fallen leaves of a broad-leaved tree, brown and some still in the colour of their autumn,
    with twigs.
    """
    brown: list[tuple[float, float, float]] = [(0.22, 0.14, 0.075), (0.29, 0.19, 0.1)]
    brown += [(0.16, 0.11, 0.07), (0.35, 0.25, 0.14)]
    tones = brown if fresh is None else [*brown, fresh]
    area = max(leaf.area_m2(), 1e-6)

    def make(rng, radius, dense):
        many = over(radius, min(0.55 / area, 5000), dense)
        lie = strewn(rng, radius, leaf, many, tones, 0.03)
        stems = pointed(0.14, 0.004, 0.5, 0.05)
        twigs = strewn(rng, radius, stems, over(radius, 40, dense), TWIGS, 0.03)
        return [Part(Mesh.joined([lie, twigs]), None, THROUGH, 0.6, True)]

    return make


def needles_shed(needle: Leaf, cone_m: float) -> Patch:
    """Fallen needles of a conifer, cones and twigs."""
    tones = ((0.21, 0.12, 0.06), (0.27, 0.17, 0.09), (0.16, 0.1, 0.06))

    def make(rng, radius, dense):
        lie = strewn(rng, radius, needle, over(radius, 5200, dense), tones, 0.02)
        stems = pointed(0.12, 0.004, 0.5, 0.05)
        twigs = strewn(rng, radius, stems, over(radius, 60, dense), TWIGS, 0.03)
        cones = _cones(rng, radius, over(radius, 7, dense), cone_m)
        return [Part(Mesh.joined([lie, twigs, cones]), None, THROUGH, 0.7, True)]

    return make
