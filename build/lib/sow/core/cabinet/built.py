"""Things made by hand: a cottage, walls, fences, a bench, flagstones."""

import numpy as np

from .draw import empty_sheet
from .mesh import Mesh, turned
from .stone import boulder
from .stuff import STONE_BOX, box, quad
from .things import thing


def _cottage(share):
    w = 4.2
    d = 2.5
    h = 2.3
    top = 4.7
    parts = [
        quad([(-w, -d, -0.4), (w, -d, -0.4), (w, -d, h), (-w, -d, h)], "stone"),
        quad([(w, d, -0.4), (-w, d, -0.4), (-w, d, h), (w, d, h)], "stone", 0.95),
        quad([(-w, d, -0.4), (-w, -d, -0.4), (-w, -d, h), (-w, d, h)], "stone", 0.92, 0.4),
        quad([(w, -d, -0.4), (w, d, -0.4), (w, d, h), (w, -d, h)], "stone", 0.92, 0.7),
    ]
    for s in (-1, 1):  # gables, as triangles
        pos = (
            [(s * w, -s * -d, h), (s * w, -s * d, h), (s * w, 0, top)]
            if s < 0
            else [(w, -d, h), (w, d, h), (w, 0, top)]
        )
        u = STONE_BOX
        parts.append(
            Mesh.of(
                pos,
                [(0, 1, 2)],
                np.full(3, 0.92),
                np.broadcast_to((s, 0, 0), (3, 3)),
                [(u[0], u[3]), (u[2], u[3]), ((u[0] + u[2]) / 2, u[1] + 0.2)],
            )
        )
    over = 0.45
    steps = 5 if share == 1 else 2
    for s in (-1, 1):  # thatch, rounded at the ridge
        for k in range(steps):
            t0, t1 = k / steps, (k + 1) / steps
            y = lambda t: -s * (d + over) * (1 - t)
            z = lambda t: h - 0.32 + (top + 0.35 - h + 0.32) * t**0.92
            a, b = (-(w + 0.3), y(t0), z(t0)), (w + 0.3, y(t0), z(t0))
            c, e = (w + 0.3, y(t1), z(t1)), (-(w + 0.3), y(t1), z(t1))
            parts.append(
                quad(
                    [a, b, c, e] if s > 0 else [b, a, e, c],
                    "thatch",
                    0.85 + 0.2 * t1,
                    (0.37 * k) % 1,
                )
            )
        a = (-(w + 0.3), -s * (d + over), h - 0.32)
        b = (w + 0.3, -s * (d + over), h - 0.32)
        low = [(p[0], p[1] + s * 0.1, p[2] - 0.28) for p in (a, b)]
        parts.append(
            quad([low[0], low[1], b, a] if s > 0 else [low[1], low[0], a, b], "thatch", 0.5)
        )
    dark = lambda lo, hi, tone: box(lo, hi, "plank", tone)
    parts += [
        dark((-0.5, -d - 0.04, 0), (0.5, -d + 0.1, 1.95), 0.55),
        box((-0.66, -d - 0.07, 1.95), (0.66, -d + 0.1, 2.15), "stone", 1.15),
    ]
    for x in (-2.6, 2.5):
        parts += [
            box((x - 0.52, -d - 0.05, 0.86), (x + 0.52, -d + 0.1, 1.86), "plank", 1.9),
            Mesh.of(
                [
                    (x - 0.44, -d - 0.06, 0.94),
                    (x + 0.44, -d - 0.06, 0.94),
                    (x + 0.44, -d - 0.06, 1.78),
                    (x - 0.44, -d - 0.06, 1.78),
                ],
                [(0, 1, 2), (0, 2, 3)],
                (0.015, 0.02, 0.026),
                np.broadcast_to((0, -1.0, 0), (4, 3)),
            ),
        ]
        parts.append(box((x - 0.03, -d - 0.075, 0.94), (x + 0.03, -d - 0.05, 1.78), "plank", 1.9))
    parts += [
        box((w - 1.0, -0.45, h), (w + 0.02, 0.45, top + 1.1), "stone", 0.95, shift=0.5),
        box((w - 0.72, -0.2, top + 1.1), (w - 0.28, 0.2, top + 1.45), "stone", 0.7),
    ]
    return Mesh.joined(parts)


def _wall(share, seed=2, length=3.0, height=1.15):
    """Dry stone: courses of stones that narrow upwards, with a cope set on edge."""
    rng = np.random.default_rng(seed)
    z = -0.15
    detail = 1 if share == 1 else 0
    parts = [
        box((-length / 2, -0.2, -0.3), (length / 2, 0.2, height - 0.16), "stone", 0.3)
    ]  # the dark between the stones
    while z < height - 0.2:
        tall = rng.uniform(0.15, 0.25)
        x = -length / 2 + rng.uniform(-0.15, 0)
        while x < length / 2 - 0.05:
            wide = rng.uniform(0.26, 0.6)
            deep = 0.32 - 0.1 * z / height
            for side in (-1, 1):
                parts.append(
                    _grey(
                        boulder(
                            int(rng.integers(1e6)),
                            detail,
                            (wide * 0.58, deep * 0.6, tall * 0.62),
                            14,
                            22,
                            0.03,
                            (x + wide / 2, side * deep * 0.42, z + tall / 2),
                        ),
                        rng,
                    )
                )
            x += wide
        z += tall * 0.96
    for x in np.arange(-length / 2 + 0.05, length / 2, 0.17):
        parts.append(
            _grey(
                boulder(
                    int(rng.integers(1e6)),
                    detail,
                    (0.1, 0.22, 0.16),
                    9,
                    14,
                    0.04,
                    (x + rng.normal(0, 0.015), 0, z + 0.1),
                    turned(rng.normal(0, 0.1)),
                ),
                rng,
            )
        )
    return Mesh.joined(parts)


def _grey(mesh, rng):
    mesh.colour = np.float32(mesh.colour * rng.uniform(0.7, 1.15))
    return mesh


def _fence(share, seed=5, length=3.0):
    rng, parts = np.random.default_rng(seed), []
    for x in (-length / 2, 0):
        a = rng.normal(0, 0.03)
        parts.append(
            box(
                (x - 0.06, -0.06, -0.5),
                (x + 0.06, 0.06, 1.15),
                "plank",
                rng.uniform(0.8, 1.1),
                np.array([[1, 0, a], [0, 1, rng.normal(0, 0.02)], [0, 0, 1]]),
            )
        )
    for z in (0.45, 0.95):
        for x in (-length / 2, 0):
            parts.append(
                box(
                    (x - 0.08, 0.06, z - 0.06 + rng.normal(0, 0.015)),
                    (x + length / 2 + 0.08, 0.1, z + 0.06 + rng.normal(0, 0.015)),
                    "plank",
                    rng.uniform(0.8, 1.15),
                    shift=rng.uniform(),
                )
            )
    return Mesh.joined(parts)


def _bench(share):
    parts = [
        box(
            (-0.85, -0.24 + 0.17 * k, 0.41),
            (0.85, -0.1 + 0.17 * k, 0.46),
            "plank",
            1.15,
            shift=k / 3,
        )
        for k in range(3)
    ]
    parts += [
        box((-0.85, 0.3, 0.6 + 0.19 * k), (0.85, 0.34, 0.74 + 0.19 * k), "plank", 1.1, shift=k / 2)
        for k in range(2)
    ]
    for x in (-0.7, 0.62):
        parts += [
            box((x, -0.22, -0.1), (x + 0.08, -0.14, 0.42), "plank", 0.9),
            box((x, 0.24, -0.1), (x + 0.08, 0.32, 0.93), "plank", 0.9),
            box((x, -0.22, 0.33), (x + 0.08, 0.3, 0.41), "plank", 0.85),
        ]
    return Mesh.joined(parts)


thing(
    "cottage",
    "Cottage",
    height=5.8,
    reach=4.6,
    build=_cottage,
    colour=(0.2, 0.18, 0.15),
    far=(90, 260),
    tags="house building thatch",
    feet=[(x, y, 1.5) for x in (-3.4, -1.7, 0, 1.7, 3.4) for y in (-1.3, 1.3)],
)


thing(
    "wall",
    "Dry stone wall, 3 m",
    height=1.25,
    reach=1.5,
    build=_wall,
    colour=(0.24, 0.23, 0.2),
    variants=3,
    far=(30, 110),
    tags="stone boundary sheepfold",
    cover=1.6,
    feet=[(x, 0, 0.36) for x in (-1.3, -0.65, 0, 0.65, 1.3)],
)


thing(
    "fence",
    "Rail fence, 3 m",
    height=1.15,
    reach=1.5,
    build=_fence,
    colour=(0.18, 0.16, 0.13),
    variants=3,
    far=(30, 110),
    tags="timber boundary",
    cover=0.4,
    feet=[(-1.5, 0, 0.08), (0, 0, 0.08)],
)

thing(
    "bench",
    "Bench",
    height=0.95,
    reach=0.9,
    build=_bench,
    colour=(0.18, 0.16, 0.13),
    tags="seat timber",
)


thing(
    "flagstone",
    "Flagstone",
    height=0.08,
    reach=0.45,
    build=lambda share, seed: boulder(
        seed, 3 if share == 1 else 2, (0.45, 0.36, 0.075), 9, 20, 0.02, (0, 0, 0.0)
    ),
    colour=(0.25, 0.24, 0.22),
    variants=4,
    far=(10, 40),
    tags="paving stone path",
    sheet=empty_sheet,
)
