"""Things made by hand: masonry, thatch and timber, each with a picture of its stuff on its sheet;
and wood that has fallen.
"""

import cv2
import numpy as np

from .draw import add_cards, empty_sheet
from .kind import Kind, Shape, kinds, srgb_bytes
from .leaf import BARK_BOX, bark, lay
from .looks import charred, snowed
from .mesh import Mesh, far_card, tube, turned
from .stone import boulder

STONE_BOX = (0.002, 0.004, 0.248, 0.496)
THATCH_BOX = (0.252, 0.004, 0.37, 0.496)
PLANK_BOX = (0.002, 0.504, 0.248, 0.99)
METRES = {"stone": (STONE_BOX, 4.0), "thatch": (THATCH_BOX, 9.2), "plank": (PLANK_BOX, 2.4)}


def _masonry(seed, w, h) -> np.ndarray:
    """Rubble laid in rough courses with dark joints, linear (h, w, 3)."""
    rng = np.random.default_rng(seed)
    y = 0
    out = np.full((h, w, 3), 0.035)
    while y < h:
        tall, x = int(rng.integers(9, 19)), -int(rng.integers(0, 20))
        while x < w:
            wide = int(rng.integers(14, 44))
            tone = (
                np.array((0.27, 0.25, 0.22))
                * rng.uniform(0.65, 1.25)
                * np.array([rng.uniform(0.95, 1.12), 1, rng.uniform(0.88, 1.02)])
            )
            edge = np.array(
                [
                    (x + 2, y + 2 + rng.integers(0, 3)),
                    (x + wide // 2, y + 1),
                    (x + wide - 1, y + 2 + rng.integers(0, 3)),
                    (x + wide - 1, y + tall - 1),
                    (x + wide // 2, y + tall),
                    (x + 2, y + tall - 1),
                ]
            )
            cv2.fillPoly(
                out, [np.array(edge).astype(np.int32)], tuple(map(float, tone)), cv2.LINE_AA
            )
            x += wide
        y += tall
    grain = cv2.GaussianBlur(rng.normal(size=(h, w)), (0, 0), 1.1)
    return cv2.GaussianBlur(out, (0, 0), 0.7) * np.clip(1 + 0.5 * grain, 0.4, 1.6)[..., None]


def _streaked(seed, w, h, tone, across, depth, boards=0) -> np.ndarray:
    """Straw or wood: grain that runs down the picture, with boards parted by dark lines."""
    rng = np.random.default_rng(seed)
    grain = cv2.GaussianBlur(rng.normal(size=(h, w)), (0, 0), across, sigmaY=22)
    fine = cv2.GaussianBlur(rng.normal(size=(h, w)), (0, 0), 0.6, sigmaY=6)
    out = (
        np.asarray(tone)
        * np.clip(1 + depth * (grain / grain.std() * 0.6 + fine / fine.std() * 0.5), 0.25, 1.9)[
            ..., None
        ]
    )
    for k in range(boards):
        x = int(k * w / boards)
        out[:, x : x + int(w / boards)] *= rng.uniform(0.8, 1.15)
        out[:, x : x + 3] *= 0.3
    return out


def _sheet() -> np.ndarray:
    sheet = empty_sheet()
    for box, picture in (
        (STONE_BOX, _masonry(3, 256, 256)),
        (THATCH_BOX, _streaked(4, 124, 256, (0.26, 0.215, 0.14), 0.8, 0.42)),
        (PLANK_BOX, _streaked(5, 256, 256, (0.2, 0.175, 0.14), 1.5, 0.22, 8)),
    ):
        x = round(box[0] * 1024) - (2 if box[0] < 0.01 else 2)
        y = round(box[1] * 512) - 2
        sheet[y : y + picture.shape[0], x : x + picture.shape[1]] = np.dstack(
            [srgb_bytes(picture), np.full(picture.shape[:2], 255, np.uint8)]
        )
    return sheet


def quad(corners, stuff, tone=1.0, shift=0.0) -> Mesh:
    """Four corners, round from the lower left as seen from outside; its stuff in true size, as far
    as the picture goes.
    """
    c = np.array(corners, float)
    (u0, v0, u1, v1), metres = METRES[stuff]
    wide = float(np.linalg.norm(c[1] - c[0]))
    tall = float(np.linalg.norm(c[3] - c[0]))
    su = (u1 - u0) * min(1, wide / metres)
    sv = (v1 - v0) * min(1, tall / metres)
    a = u0 + shift * max(0, u1 - u0 - su)
    b = v1 - shift * max(0, v1 - v0 - sv)
    n = np.cross(c[1] - c[0], c[3] - c[0])
    return Mesh.of(
        c,
        [(0, 1, 2), (0, 2, 3)],
        np.full(3, tone),
        np.broadcast_to(n / np.linalg.norm(n), (4, 3)),
        [(a, b), (a + su, b), (a + su, b - sv), (a, b - sv)],
    )


def box(lo, hi, stuff, tone=1.0, matrix=None, shift=0.0) -> Mesh:
    """An upright box; the long way of planks runs along its tallest side."""
    (x0, y0, z0), (x1, y1, z1) = lo, hi
    p = lambda x, y, z: (x, y, z)
    faces = [
        [p(x0, y0, z0), p(x1, y0, z0), p(x1, y0, z1), p(x0, y0, z1)],
        [p(x1, y1, z0), p(x0, y1, z0), p(x0, y1, z1), p(x1, y1, z1)],
        [p(x0, y1, z0), p(x0, y0, z0), p(x0, y0, z1), p(x0, y1, z1)],
        [p(x1, y0, z0), p(x1, y1, z0), p(x1, y1, z1), p(x1, y0, z1)],
        [p(x0, y0, z1), p(x1, y0, z1), p(x1, y1, z1), p(x0, y1, z1)],
    ]
    long_x = x1 - x0 > z1 - z0
    long_y = y1 - y0 > max(z1 - z0, x1 - x0)
    out = []
    for i, f in enumerate(faces):
        lying = stuff == "plank" and (
            (i < 2 and long_x) or (i in (2, 3) and long_y) or (i == 4 and (x1 - x0) > (y1 - y0))
        )
        out.append(
            quad(
                f[1:] + f[:1] if lying else f,
                stuff,
                tone * (1.1 if i == 4 else 0.92 if i in (2, 3) else 1),
                shift,
            )
        )
    mesh = Mesh.joined(out)
    return mesh if matrix is None else mesh.moved(matrix)


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


def _boat(share):
    """A clinker boat of six strakes a side, drawn up or afloat."""
    parts, n = [], 14 if share == 1 else 7
    t = np.linspace(-1, 1, n)
    half = 0.72 * (1 - np.abs(t) ** 2.6) ** 0.8 + 0.015
    keel = -0.12 + 0.16 * np.abs(t) ** 3
    sheer = 0.46 + 0.2 * t**2
    strakes = 6

    def at(i, k, side, inner=0.0):
        a = k / strakes
        return np.array(
            (
                side * max(half[i] * np.sin(a * np.pi / 2) ** 0.75 - inner, 0.0),
                t[i] * 1.95,
                keel[i] + (sheer[i] - keel[i]) * (1 - np.cos(a * np.pi / 2)) ** 0.85 + inner * 0.4,
            )
        )

    for side in (-1, 1):
        for k in range(strakes):
            for i in range(n - 1):
                f = [at(i, k, side), at(i + 1, k, side), at(i + 1, k + 1, side), at(i, k + 1, side)]
                parts.append(
                    quad(
                        (f if side > 0 else f[1::-1] + f[:1:-1]),
                        "plank",
                        (0.9 if k % 2 else 1.05) * (1.15 if k == strakes - 1 else 1),
                    )
                )
                g = [
                    at(i, k, side, 0.03),
                    at(i + 1, k, side, 0.03),
                    at(i + 1, k + 1, side, 0.03),
                    at(i, k + 1, side, 0.03),
                ]
                parts.append(quad((g[1::-1] + g[:1:-1] if side > 0 else g), "plank", 0.7))
    for y in (-0.9, 0.1, 1.0):
        w = float(np.interp(y / 1.95, t, half)) * 0.92
        parts.append(box((-w, y - 0.12, 0.27), (w, y + 0.12, 0.31), "plank", 1.25))
    return Mesh.joined(parts)


def thing(
    name,
    label,
    height,
    reach,
    build,
    colour,
    variants=1,
    far=(30, 110),
    family="thing",
    tags="",
    cover=None,
    sheet=_sheet,
    feet=(),
):
    """`build(share[, seed])` gives the mesh; with several variants it is given a seed as well."""

    def make(look):
        def one(v, share):
            mesh = build(share, 7 * v + 2) if variants > 1 else build(share)
            return (
                snowed(mesh, 0.9, 0.25)
                if look == "snow"
                else charred(mesh)
                if look == "burnt"
                else mesh
            )

        near, page = [one(v, 1) for v in range(variants)], sheet()
        width = 2 * max(np.abs(m.positions[:, :2]).max() for m in near) * 1.02
        top = max(m.positions[:, 2].max() for m in near) * 1.02
        add_cards(page, near, width, top)
        return Shape(
            [[near[v], one(v, 0.4), far_card(v, width, top)] for v in range(variants)], page, far
        )

    kinds[name] = Kind(
        name,
        label,
        family,
        height,
        reach,
        cover or 3 * reach * reach,
        colour,
        range(variants),
        make,
        ("summer", "snow", "burnt"),
        tags=tags,
        feet=tuple(feet),
    )


thing(
    "cottage",
    "Cottage",
    5.8,
    4.6,
    _cottage,
    (0.2, 0.18, 0.15),
    far=(90, 260),
    tags="house building thatch",
    feet=[(x, y, 1.5) for x in (-3.4, -1.7, 0, 1.7, 3.4) for y in (-1.3, 1.3)],
)
thing(
    "wall",
    "Dry stone wall, 3 m",
    1.25,
    1.5,
    _wall,
    (0.24, 0.23, 0.2),
    variants=3,
    far=(30, 110),
    tags="stone boundary sheepfold",
    cover=1.6,
    feet=[(x, 0, 0.36) for x in (-1.3, -0.65, 0, 0.65, 1.3)],
)
thing(
    "fence",
    "Rail fence, 3 m",
    1.15,
    1.5,
    _fence,
    (0.18, 0.16, 0.13),
    variants=3,
    far=(30, 110),
    tags="timber boundary",
    cover=0.4,
    feet=[(-1.5, 0, 0.08), (0, 0, 0.08)],
)
thing("bench", "Bench", 0.95, 0.9, _bench, (0.18, 0.16, 0.13), tags="seat timber")
thing(
    "flagstone",
    "Flagstone",
    0.08,
    0.45,
    lambda share, seed: boulder(
        seed, 3 if share == 1 else 2, (0.45, 0.36, 0.075), 9, 20, 0.02, (0, 0, 0.0)
    ),
    (0.25, 0.24, 0.22),
    variants=4,
    far=(10, 40),
    tags="paving stone path",
    sheet=empty_sheet,
)
thing(
    "boat",
    "Rowing boat",
    0.66,
    1.9,
    _boat,
    (0.18, 0.16, 0.13),
    tags="water timber shore",
    feet=[(0, y, 0.6) for y in (-1.3, -0.45, 0.45, 1.3)],
)


def _log(share, seed):
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
    0.5,
    2.2,
    _log,
    (0.13, 0.115, 0.09),
    variants=4,
    far=(22, 70),
    family="wood",
    tags="deadwood fallen",
    cover=1.4,
    sheet=_bark,
    feet=[(x, 0, 0.25) for x in (-1.6, -1.1, -0.55, 0, 0.55, 1.1, 1.6)],
)
thing(
    "stump",
    "Stump",
    0.45,
    0.4,
    _stump,
    (0.15, 0.13, 0.1),
    variants=4,
    far=(16, 50),
    family="wood",
    tags="deadwood cut",
    sheet=_bark,
)
