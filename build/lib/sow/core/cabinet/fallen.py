"""Wood that has fallen or was cut: logs and stumps."""

import numpy as np

from .draw import empty_sheet
from .leaf import BARK_BOX, bark, lay
from .mesh import Mesh, tube
from .things import thing


def _drifted(share, seed):
    """A trunk that the sea has stripped and bleached."""
    return _log(share, seed + 2, mossy=0.0)


def _log(share, seed, mossy=1.0):
    """A fallen trunk with stubs of limbs, a little sunk, moss along its back."""
    rng = np.random.default_rng(seed)
    length = rng.uniform(3.2, 5)
    r = rng.uniform(0.17, 0.28)
    sides = 9 if share == 1 else 6
    x = np.linspace(-length / 2, length / 2, 9)
    path = np.c_[x, 0.12 * np.sin(x * 0.9 + seed), r * 0.75 + 0.02 * rng.normal(size=9)]
    parts = [tube(path, r * np.linspace(1, 0.6, 9), sides, (1, 1, 1), BARK_BOX, 1.6)]
    for e, end in ((-1, 0), (1, 8)):  # sawn or broken ends
        radius = r * (1 if end == 0 else 0.6)
        a = np.linspace(0, 2 * np.pi, sides, endpoint=False)
        rim = np.c_[
            np.full(sides, path[end][0]),
            path[end][1] + radius * np.cos(a),
            path[end][2] + radius * np.sin(a),
        ]
        faces = [
            (0, i + 1, (i + 1) % sides + 1) if e < 0 else (0, (i + 1) % sides + 1, i + 1)
            for i in range(sides)
        ]
        parts.append(
            Mesh.of(
                np.r_[[path[end]], rim],
                faces,
                np.r_[[(0.3, 0.22, 0.13)], np.tile((0.22, 0.16, 0.1), (sides, 1))],
                np.broadcast_to((e, 0.0, 0), (sides + 1, 3)),
            )
        )
    for _k in range(4):
        i = int(rng.integers(2, 8))
        d = np.array(
            [
                rng.uniform(0.1, 0.6),
                rng.choice((-1, 1)) * rng.uniform(0.3, 1),
                rng.uniform(0.2, 1),
            ]
        )
        d /= np.linalg.norm(d)
        stub = path[i] + d * np.linspace(0, rng.uniform(0.35, 0.8), 3)[:, None]
        parts.append(
            tube(
                stub,
                np.array((0.06, 0.045, 0.02)),
                max(4, sides - 3),
                (0.85, 0.82, 0.8),
                BARK_BOX,
                1.2,
            )
        )
    mesh = Mesh.joined(parts)
    moss = np.clip(mesh.normals[:, 2:3] * 1.6 - 0.5, 0, 1) * (
        0.4 + 0.6 * (np.sin(mesh.positions[:, :1] * 3.1 + seed) > -0.2)
    )
    moss = moss * mossy
    mesh.colour = np.float32(mesh.colour * (1 - moss) + moss * np.array((0.5, 0.75, 0.2)))
    return mesh


def _stump(share, seed):
    rng = np.random.default_rng(seed)
    sides = 12 if share == 1 else 7
    z, r = np.array((-0.2, 0.0, 0.15, 0.42)), rng.uniform(0.2, 0.34)
    trunk = tube(
        np.c_[np.zeros(4), np.zeros(4), z],
        r * np.array((1.7, 1.35, 1.08, 1.0)),
        sides,
        (1, 1, 1),
        BARK_BOX,
        1.1,
    )
    a = np.arctan2(trunk.positions[:, 1], trunk.positions[:, 0])
    flare = 1 + np.clip(0.3 - trunk.positions[:, 2:3], 0, 1) * 0.5 * np.sin(a * 5 + seed)[:, None]
    trunk.positions = np.float32(trunk.positions * np.c_[flare, flare, np.ones_like(flare)])
    trunk.positions[-(sides + 1) :, 2] += np.float32(0.05 * np.sin(a[-(sides + 1) :] * 2 + seed))
    rim = trunk.positions[-(sides + 1) : -1]
    centre = rim.mean(0)
    cut = Mesh.of(
        np.r_[[centre], centre + (rim - centre) * 0.55, rim],
        [
            f
            for i in range(sides)
            for f in (
                (0, 1 + i, 1 + (i + 1) % sides),
                (1 + i, 1 + sides + i, 1 + sides + (i + 1) % sides),
                (1 + i, 1 + sides + (i + 1) % sides, 1 + (i + 1) % sides),
            )
        ],
        np.r_[
            [(0.2, 0.145, 0.085)],
            np.tile((0.33, 0.25, 0.155), (sides, 1)),
            np.tile((0.2, 0.15, 0.1), (sides, 1)),
        ],
        np.broadcast_to((0, 0, 1.0), (1 + 2 * sides, 3)),
    )
    return Mesh.joined([trunk, cut])


_bark = lambda: lay(empty_sheet(), None, bark((0.19, 0.165, 0.135), (0.055, 0.05, 0.045), 12))


thing(
    "log",
    "Fallen log",
    height=0.5,
    reach=2.2,
    build=_log,
    colour=(0.13, 0.115, 0.09),
    variants=4,
    far=(22, 70),
    family="wood",
    tags="deadwood fallen",
    cover=1.4,
    sheet=_bark,
    feet=[(x, 0, 0.25) for x in (-1.6, -1.1, -0.55, 0, 0.55, 1.1, 1.6)],
)


thing(
    "driftwood",
    "Driftwood",
    height=0.5,
    reach=2.2,
    build=_drifted,
    colour=(0.3, 0.275, 0.24),
    variants=4,
    far=(22, 70),
    family="wood",
    tags="deadwood sea shore bleached",
    cover=1.4,
    sheet=lambda: lay(empty_sheet(), None, bark((0.36, 0.335, 0.3), (0.2, 0.18, 0.155), 7)),
    feet=[(x, 0, 0.25) for x in (-1.6, -1.1, -0.55, 0, 0.55, 1.1, 1.6)],
)


thing(
    "stump",
    "Stump",
    height=0.45,
    reach=0.4,
    build=_stump,
    colour=(0.15, 0.13, 0.1),
    variants=4,
    far=(16, 50),
    family="wood",
    tags="deadwood cut",
    sheet=_bark,
)
