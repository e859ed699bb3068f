"""Ferns: fronds that arch from a crown."""

import numpy as np

from .blade import blade
from .growth.bush import fronds
from .growth.foliage import lobed, pinnate
from .looks import herb, snowed
from .low import low_kind
from .mesh import Mesh, Part


def _fronds(seed, share, number=7, rusted=0.32, upright=1.0, slim=1.0, green=(0.105, 0.155, 0.03)):
    """Fronds that arch from a crown, each a midrib with pinnae narrowing to the tip."""
    rng = np.random.default_rng(seed)
    parts = []
    for k in range(max(3, int(number * (0.45 + 0.55 * share)))):
        a = k * 2.4 + rng.normal(0, 0.3)
        length = rng.uniform(0.7, 1.05) / upright
        rise = rng.uniform(0.9, 1.35) * upright
        t = np.linspace(0, 1, 11 if share > 0.5 else 6)
        d = np.array([np.cos(a), np.sin(a), 0])
        side = np.array([-d[1], d[0], 0])
        spine = (t * length * 0.62)[:, None] * d + (rise * 0.62 * t - 0.38 * t**2.6)[:, None] * (
            0,
            0,
            1.0,
        )
        rust = rng.uniform() < rusted
        low = np.array((0.05, 0.04, 0.015))
        high = np.array((0.3, 0.145, 0.035) if rust else green) * rng.uniform(0.75, 1.2)
        for i in range(1, len(t) - 1):
            reach = 0.27 * slim * np.sin(np.pi * (0.12 + 0.88 * t[i])) ** 0.8 * (1.12 - t[i])
            wide = length / (len(t) - 1) * 0.44
            along = (spine[i + 1] - spine[i - 1]) / np.linalg.norm(spine[i + 1] - spine[i - 1])
            for s in (-1, 1):
                tip = spine[i] + s * side * reach + along * reach * 0.4 - (0, 0, reach * 0.25)
                pos = [spine[i] - along * wide, tip, spine[i] + along * wide]
                parts.append(
                    Mesh.of(
                        pos,
                        [(0, 1, 2)],
                        [low + (high - low) * 0.6, high, low + (high - low) * 0.8],
                        np.broadcast_to(np.array((0.2 * d[0], 0.2 * d[1], 0.95)), (3, 3)),
                    )
                )
        parts.append(blade((0, 0, -0.02), a, rise * 0.5, 0.5, 0.014, low, low * 2))
    return Mesh.joined(parts)


def rusting(mesh: Mesh, look: str) -> Mesh:
    """Ferns go to rust and lie down, not to straw."""
    if look in ("autumn", "winter", "snow", "dead"):
        rust = mesh.colour.sum(1, keepdims=True) / 0.29 * np.array((0.3, 0.135, 0.035))
        bright = {"autumn": 1, "dead": 0.42}.get(look, 0.6)
        mesh.colour = (rust * bright).astype(np.float32)
        if look != "autumn":
            mesh.positions = mesh.positions * np.array((1.15, 1.15, 0.4), np.float32)
        return snowed(mesh, 0.45) if look == "snow" else mesh
    return herb(mesh, look)


def _near(number, long_m, rises, pinna, pairs, rusted, green):
    """The build of a fern that is seen near, for `low_kind`."""

    def nearest(seed):
        rust = (0.26, 0.125, 0.035)
        parts = fronds(seed, number, long_m, rises, pinna, pairs, green, rust, rusted)
        return [Part(Mesh.joined(parts), None, 0.5, 0.5, True)]

    return nearest


low_kind(
    "bracken",
    "Bracken",
    family="fern",
    height=0.75,
    reach=0.55,
    cover=0.75,
    colour=(0.13, 0.115, 0.03),
    build=_fronds,
    far=(16, 45),
    dress=rusting,
    tags="slope heath wood",
    nearest=_near(7, 0.95, 1.35, pinnate(0.34, 0.06, 0.017, 13), 13, 0.25, (0.085, 0.135, 0.03)),
    nearest_m=20,
)


low_kind(
    "male-fern",
    "Male fern",
    family="fern",
    height=0.7,
    reach=0.45,
    cover=0.5,
    colour=(0.065, 0.1, 0.025),
    build=lambda seed, share: _fronds(seed, share, 13, 0.04, 1.12, 0.75, (0.075, 0.125, 0.03)),
    far=(16, 40),
    dress=rusting,
    tags="wood shade wet",
    nearest=_near(15, 0.85, 1.25, lobed(0.15, 0.032, 12), 24, 0.04, (0.095, 0.165, 0.04)),
    nearest_m=20,
)
