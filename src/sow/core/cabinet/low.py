"""Low plants: shrubs, grasses, ferns and flowers, built of single stems and blades."""

import cv2
import numpy as np

from .draw import add_cards, empty_sheet
from .kind import Kind, Shape, kinds
from .leaf import LEAF_BOX, finish, lay
from .looks import LOOKS, herb, snowed
from .mesh import Mesh, cards, far_card, frame


def blade(base, azimuth, length, lean, breadth, low, high, segments=3) -> Mesh:
    """A blade that bends over: `lean` is the angle from upright at its tip, in radians; colours
    from foot to tip.
    """
    t = np.linspace(0, 1, segments + 1)
    bend = lean * t**1.3
    d = np.array([np.cos(azimuth), np.sin(azimuth), 0])
    side = np.array([-d[1], d[0], 0])
    step = length / segments
    out = np.concatenate([[0], np.cumsum(np.sin(bend[1:]) * step)])
    up = np.concatenate([[0], np.cumsum(np.cos(bend[1:]) * step)])
    path = np.asarray(base) + out[:, None] * d + up[:, None] * (0, 0, 1)
    wide = breadth / 2 * (1 - t) ** 0.7
    pos = np.concatenate(
        [path[:-1] - wide[:-1, None] * side, path[:-1] + wide[:-1, None] * side, path[-1:]]
    )
    n = segments
    faces = [f for i in range(n - 1) for f in ((i, n + i, n + i + 1), (i, n + i + 1, i + 1))] + [
        (n - 1, 2 * n - 1, 2 * n)
    ]
    low, high = np.asarray(low), np.asarray(high)
    tone = low + (high - low) * t[:, None]
    normal = np.array([0.35 * d[0], 0.35 * d[1], 0.9])
    return Mesh.of(
        pos,
        faces,
        np.concatenate([tone[:-1], tone[:-1], tone[-1:]]),
        np.broadcast_to(normal, (len(pos), 3)),
    )


def tuft(seed, count, length, radius, lean, breadth, low, high, dry=None, dry_share=0.0):
    """Blades about a foot."""
    rng = np.random.default_rng(seed)
    parts = []
    for _ in range(count):
        a = rng.uniform(0, 2 * np.pi)
        r = radius * np.sqrt(rng.uniform())
        tone = rng.uniform(0.7, 1.25)
        end = np.asarray(dry if dry is not None and rng.uniform() < dry_share else high) * tone
        parts.append(
            blade(
                (r * np.cos(a), r * np.sin(a), -0.01),
                a + rng.normal(0, 0.7),
                length * rng.uniform(0.55, 1.05),
                lean * rng.uniform(0.25, 1.15),
                breadth * rng.uniform(0.7, 1.2),
                np.asarray(low) * tone,
                end,
            )
        )
    return parts


def tuftlet(p, size, colour, rng, n=7) -> Mesh:
    """A soft ball of crossing diamonds: cotton heads, small flowers."""
    parts = []
    for _ in range(n):
        d = rng.normal(size=3)
        d /= np.linalg.norm(d)
        a, b = frame(d)
        a = a * size * rng.uniform(0.5, 1)
        b = b * size * rng.uniform(0.3, 0.6)
        pos = [p + a, p + b, p - a, p - b]
        parts.append(
            Mesh.of(
                pos,
                [(0, 1, 2), (0, 2, 3)],
                np.asarray(colour) * rng.uniform(0.8, 1.1),
                np.broadcast_to((0, 0, 1), (4, 3)),
            )
        )
    return Mesh.joined(parts)


def corolla(p, size, petals, colour, rng) -> list[Mesh]:
    """A flat flower with rays about a yellow eye, a little tilted."""
    tilt, a0 = rng.normal(0, 0.3, 2), rng.uniform(0, 2 * np.pi)
    n = np.array([tilt[0], tilt[1], 1.0])
    n /= np.linalg.norm(n)
    x, y = frame(n)
    out = []
    for k in range(petals):
        a = a0 + 2 * np.pi * k / petals
        d = np.cos(a) * x + np.sin(a) * y
        w = (-np.sin(a) * x + np.cos(a) * y) * size * min(0.5, 2.2 / petals)
        pos = [p + d * size * 0.2, p + d * size * 0.7 + w, p + d * size, p + d * size * 0.7 - w]
        out.append(
            Mesh.of(
                pos,
                [(0, 1, 2), (0, 2, 3)],
                np.asarray(colour) * rng.uniform(0.88, 1.08),
                np.broadcast_to(n, (4, 3)),
            )
        )
    eye = [
        p + n * size * 0.12 + size * 0.26 * (np.cos(t) * x + np.sin(t) * y)
        for t in np.arange(6) * np.pi / 3
    ]
    out.append(
        Mesh.of(
            eye,
            [(0, 1, 2), (0, 2, 3), (0, 3, 4), (0, 4, 5)],
            (0.62, 0.42, 0.03),
            np.broadcast_to(n, (6, 3)),
        )
    )
    return out


def _register(
    name,
    label,
    family,
    height,
    reach,
    cover,
    colour,
    build,
    far,
    sheet=None,
    variants=3,
    tags="",
    dress=herb,
    mean=None,
):
    """`build(seed, share)` gives a mesh with about that share of its parts; `dress(mesh, look)`
    gives it a look.
    """

    def make(look):
        page = sheet(look) if sheet else empty_sheet()
        build_ = lambda seed, share: dress(build(seed, share), look)
        near = [build_(31 * v + 3, 1.0) for v in range(variants)]
        width = 2 * max(np.abs(m.positions[:, :2]).max() for m in near) * 1.02
        top = max(m.positions[:, 2].max() for m in near) * 1.02
        add_cards(page, near, width, top)
        return Shape(
            [[near[v], build_(31 * v + 3, 0.4), far_card(v, width, top)] for v in range(variants)],
            page,
            far,
        )

    def means(look):
        one = Mesh.of(np.zeros((1, 3)), np.zeros((0, 3)), colour, np.array([[0, 0, 1.0]]))
        return tuple(float(c) for c in dress(one, look).colour[0])

    kinds[name] = Kind(
        name,
        label,
        family,
        height,
        reach,
        cover,
        colour,
        range(variants),
        make,
        LOOKS,
        mean or means,
        tags,
    )


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
    heads=None,
    family="",
    tags="",
    petals=0,
    spike=0,
):
    """Registers a grass, sedge or reed of a height in m."""

    def build(seed, share):
        parts = tuft(
            seed,
            max(5, int(count * share)),
            height,
            radius,
            lean,
            breadth / share**0.6,
            low,
            high,
            dry,
            dry_share,
        )
        if heads:
            rng = np.random.default_rng(seed + 9)
            colour, size, number, stem = heads
            for _ in range(max(2, int(number * (0.5 + share / 2)))):
                a = rng.uniform(0, 2 * np.pi)
                r = radius * 1.2 * np.sqrt(rng.uniform())
                tall = height * rng.uniform(1.0, 1.35)
                bend = rng.uniform(0.1, 0.55)
                stalk = blade((r * np.cos(a), r * np.sin(a), 0), a, tall, bend, 0.006, low, stem)
                head = stalk.positions[-1] + (0, 0, -size * 0.4)
                parts.append(stalk)
                if spike:  # down along the stalk, smaller towards its tip
                    n = (len(stalk.positions) - 1) // 2
                    path = np.vstack(
                        [
                            (stalk.positions[:n] + stalk.positions[n : 2 * n]) / 2,
                            stalk.positions[-1:],
                        ]
                    )[::-1]
                    far = np.concatenate(
                        [[0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))]
                    )
                    for k in range(spike):
                        at = np.array(
                            [np.interp(k * size * 1.15, far, path[:, i]) for i in range(3)]
                        ) + rng.normal(0, 0.15 * size, 3)
                        parts.append(
                            tuftlet(
                                at,
                                size
                                * (0.4 + 0.6 * min(1, 1.6 * k / spike))
                                * rng.uniform(0.85, 1.15),
                                np.asarray(colour) * rng.uniform(0.8, 1.15),
                                rng,
                                4,
                            )
                        )
                elif petals:
                    parts += corolla(head, size * rng.uniform(0.85, 1.1), petals, colour, rng)
                else:
                    parts.append(tuftlet(head, size * rng.uniform(0.7, 1.15), colour, rng))
        return Mesh.joined(parts)

    mean = tuple(0.35 * a + 0.5 * b for a, b in zip(low, high))
    _register(
        name,
        label,
        family or ("flower" if heads else "grass"),
        height,
        radius * 2,
        cover,
        mean,
        build,
        far,
        tags=tags,
    )


grass(
    "turf-grass",
    "Short grass",
    0.16,
    26,
    0.09,
    0.9,
    0.012,
    (0.03, 0.045, 0.012),
    (0.14, 0.175, 0.045),
    (0.3, 0.26, 0.12),
    0.2,
    cover=0.05,
    far=(5, 12),
)
grass(
    "moor-grass",
    "Moor grass",
    0.48,
    46,
    0.11,
    1.25,
    0.011,
    (0.05, 0.06, 0.02),
    (0.25, 0.215, 0.09),
    (0.46, 0.37, 0.18),
    0.5,
    cover=0.2,
    far=(9, 22),
)
grass(
    "cotton-grass",
    "Cotton grass",
    0.32,
    24,
    0.12,
    0.8,
    0.009,
    (0.035, 0.05, 0.016),
    (0.17, 0.17, 0.06),
    (0.24, 0.13, 0.06),
    0.3,
    cover=0.1,
    far=(9, 24),
    heads=((0.85, 0.83, 0.77), 0.026, 8, (0.14, 0.12, 0.05)),
    family="grass",
    tags="sedge wet bog",
)
grass(
    "harebell",
    "Harebell",
    0.22,
    9,
    0.06,
    0.7,
    0.007,
    (0.03, 0.05, 0.015),
    (0.09, 0.13, 0.04),
    cover=0.02,
    far=(6, 14),
    heads=((0.16, 0.17, 0.62), 0.016, 6, (0.07, 0.1, 0.03)),
)
grass(
    "tormentil",
    "Tormentil",
    0.09,
    16,
    0.1,
    1.3,
    0.016,
    (0.03, 0.05, 0.015),
    (0.08, 0.13, 0.03),
    cover=0.03,
    far=(5, 11),
    heads=((0.78, 0.6, 0.03), 0.014, 9, (0.08, 0.1, 0.03)),
)


grass(
    "meadow-grass",
    "Meadow grass",
    0.62,
    34,
    0.1,
    0.75,
    0.008,
    (0.035, 0.055, 0.016),
    (0.17, 0.185, 0.06),
    (0.4, 0.31, 0.15),
    0.25,
    cover=0.14,
    far=(9, 22),
    heads=((0.3, 0.24, 0.14), 0.011, 12, (0.22, 0.2, 0.08)),
    spike=8,
    family="grass",
    tags="meadow hay tall",
)
grass(
    "rush",
    "Soft rush",
    0.75,
    42,
    0.08,
    0.5,
    0.007,
    (0.03, 0.045, 0.014),
    (0.09, 0.12, 0.035),
    (0.3, 0.22, 0.1),
    0.15,
    cover=0.16,
    far=(10, 26),
    heads=((0.13, 0.08, 0.035), 0.022, 12, (0.09, 0.115, 0.035)),
    family="grass",
    tags="rush wet",
)
grass(
    "sedge",
    "Tufted sedge",
    0.55,
    60,
    0.1,
    1.45,
    0.012,
    (0.03, 0.048, 0.014),
    (0.13, 0.165, 0.045),
    (0.32, 0.24, 0.1),
    0.2,
    cover=0.24,
    far=(9, 24),
    heads=((0.075, 0.05, 0.03), 0.011, 7, (0.1, 0.11, 0.04)),
    spike=5,
    family="grass",
    tags="sedge wet fen",
)
grass(
    "reed",
    "Common reed",
    2.0,
    26,
    0.16,
    0.42,
    0.03,
    (0.06, 0.07, 0.025),
    (0.17, 0.19, 0.06),
    (0.42, 0.34, 0.18),
    0.2,
    cover=0.2,
    far=(22, 60),
    heads=((0.16, 0.095, 0.07), 0.034, 8, (0.22, 0.2, 0.08)),
    spike=8,
    family="grass",
    tags="reed water shore",
)
grass(
    "fescue",
    "Fescue",
    0.26,
    54,
    0.06,
    0.95,
    0.005,
    (0.05, 0.065, 0.035),
    (0.16, 0.19, 0.1),
    (0.42, 0.36, 0.2),
    0.4,
    cover=0.06,
    far=(6, 14),
    heads=((0.33, 0.24, 0.15), 0.007, 7, (0.25, 0.2, 0.1)),
    spike=5,
    family="grass",
    tags="dry alpine turf",
)
grass(
    "buttercup",
    "Buttercup",
    0.42,
    12,
    0.1,
    0.9,
    0.016,
    (0.025, 0.045, 0.012),
    (0.075, 0.125, 0.03),
    cover=0.04,
    far=(7, 17),
    heads=((0.82, 0.58, 0.01), 0.018, 9, (0.07, 0.11, 0.03)),
    petals=5,
    tags="meadow flower yellow",
)
grass(
    "oxeye",
    "Oxeye daisy",
    0.5,
    10,
    0.09,
    0.8,
    0.014,
    (0.025, 0.042, 0.014),
    (0.07, 0.11, 0.032),
    cover=0.04,
    far=(8, 19),
    heads=((0.82, 0.82, 0.78), 0.03, 6, (0.06, 0.1, 0.03)),
    petals=14,
    tags="meadow flower white",
)
grass(
    "clover",
    "Red clover",
    0.26,
    16,
    0.11,
    1.2,
    0.024,
    (0.025, 0.05, 0.014),
    (0.08, 0.14, 0.035),
    cover=0.05,
    far=(6, 14),
    heads=((0.46, 0.13, 0.3), 0.02, 8, (0.06, 0.1, 0.03)),
    tags="meadow flower red",
)
grass(
    "foxglove",
    "Foxglove",
    0.8,
    12,
    0.14,
    1.3,
    0.06,
    (0.03, 0.05, 0.016),
    (0.1, 0.15, 0.05),
    cover=0.1,
    far=(12, 30),
    heads=((0.48, 0.11, 0.32), 0.03, 2, (0.07, 0.11, 0.035)),
    spike=14,
    tags="wood edge flower tall",
)
grass(
    "meadowsweet",
    "Meadowsweet",
    0.8,
    18,
    0.13,
    0.8,
    0.03,
    (0.03, 0.048, 0.015),
    (0.085, 0.13, 0.035),
    cover=0.12,
    far=(12, 28),
    heads=((0.72, 0.66, 0.46), 0.03, 14, (0.1, 0.085, 0.04)),
    tags="wet meadow flower cream",
)
grass(
    "saxifrage",
    "Cushion saxifrage",
    0.07,
    40,
    0.11,
    1.1,
    0.014,
    (0.03, 0.05, 0.018),
    (0.1, 0.145, 0.05),
    cover=0.04,
    far=(4, 9),
    heads=((0.72, 0.5, 0.62), 0.011, 14, (0.12, 0.12, 0.05)),
    petals=5,
    tags="alpine scree flower cushion",
)


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


_register(
    "bracken",
    "Bracken",
    "fern",
    0.75,
    0.55,
    0.75,
    (0.13, 0.115, 0.03),
    _fronds,
    (16, 45),
    dress=rusting,
    tags="slope heath wood",
)
_register(
    "male-fern",
    "Male fern",
    "fern",
    0.7,
    0.45,
    0.5,
    (0.065, 0.1, 0.025),
    lambda seed, share: _fronds(seed, share, 13, 0.04, 1.12, 0.75, (0.075, 0.125, 0.03)),
    (16, 40),
    dress=rusting,
    tags="wood shade wet",
)


def _shrub(seed, share, height, reach, sprays, leaf_m, tip, tip_share, body):
    """A mound of upright sprays; `tip` colours the outermost, in flower."""
    rng = np.random.default_rng(seed)
    leaves = []
    count = max(10, int(sprays * share))
    size = leaf_m / share**0.45
    for _ in range(count):
        a, r = rng.uniform(0, 2 * np.pi), np.sqrt(rng.uniform())
        up = np.sqrt(max(0.0, 1 - r * r)) * rng.uniform(0.35, 1)
        p = np.array([r * np.cos(a) * reach, r * np.sin(a) * reach, up * height * 0.78])
        d = np.array([np.cos(a) * r * 0.8, np.sin(a) * r * 0.8, 0.9]) + rng.normal(0, 0.25, 3)
        d /= np.linalg.norm(d)
        side, other = frame(d)
        w = rng.uniform(0, np.pi)
        shade = 0.42 + 0.58 * np.clip(p[2] / (height * 0.78), 0, 1)
        tone = shade * rng.uniform(0.75, 1.2)
        colour = np.asarray(tip if rng.uniform() < tip_share * shade else body) * tone
        normal = np.array([np.cos(a) * r * 0.6, np.sin(a) * r * 0.6, 0.8])
        leaves.append(
            (
                p,
                (side * np.cos(w) + other * np.sin(w)) * size * 0.5,
                d * size * 0.5,
                colour,
                normal / np.linalg.norm(normal),
            )
        )
    centre, right, up, tint, normal = (np.array([l[i] for l in leaves]) for i in range(5))
    return cards(centre, right, up, LEAF_BOX, tint, normal)


def needles(seed, needle, number):
    """Upright shoots thick with short leaves, in white to be tinted: uint8 (384, 384, 4)."""
    rng = np.random.default_rng(seed)
    n = 768
    canvas = np.zeros((n, n, 4), np.float32)
    for _k in range(9):
        x0 = n * rng.uniform(0.35, 0.65)
        x1 = n * rng.uniform(0.06, 0.94)
        y1 = n * rng.uniform(0.02, 0.3)
        cv2.line(canvas, (int(x0), n - 2), (int(x1), int(y1)), (0.35, 0.28, 0.22, 1), 6)
        for _j in range(number):
            t = rng.uniform(0.12, 1) ** 0.8
            x, y = x0 + (x1 - x0) * t, n - (n - y1) * t
            a, l = rng.uniform(0, 2 * np.pi), needle * rng.uniform(0.5, 1.1)
            tone = rng.uniform(0.45, 1.15) * (0.55 + 0.45 * t)
            cv2.line(
                canvas,
                (int(x), int(y)),
                (int(x + l * np.cos(a)), int(y + l * np.sin(a))),
                (tone, tone, tone, 1),
                6,
            )
    return finish(canvas, 2)


def shrub(
    name,
    label,
    height,
    reach,
    sprays,
    leaf_m,
    body,
    tip,
    tip_share,
    needle=26,
    number=60,
    far=(10, 32),
    cover=None,
    tags="",
):
    """Registers a shrub of a height and reach in m."""
    mean = tuple(0.62 * (b + (t - b) * tip_share * 0.8) for b, t in zip(body, tip))

    def dress(mesh, look):  # in flower in summer (and autumn, as heather is); out of it browner
        if look in ("winter", "snow"):
            mesh.colour = np.float32(
                mesh.colour * 0.35
                + 0.65 * mesh.colour.mean(1, keepdims=True) * np.array((1.35, 0.95, 0.65)) * 0.85
            )
        elif look == "autumn":
            mesh.colour = np.float32(
                mesh.colour * 0.7
                + 0.3 * mesh.colour.mean(1, keepdims=True) * np.array((1.5, 0.9, 0.6))
            )
        elif look == "spring":
            mesh.colour = np.float32(
                mesh.colour * 0.3
                + 0.7 * mesh.colour.mean(1, keepdims=True) * np.array((0.95, 1.25, 0.6))
            )
        elif look in ("dead", "burnt"):
            mesh.colour = np.float32(
                mesh.colour.mean(1, keepdims=True)
                * (np.array((1.5, 0.95, 0.55)) * 0.8 if look == "dead" else 0.22)
            )
        return snowed(mesh, 0.5, 0.8) if look == "snow" else mesh

    _register(
        name,
        label,
        "shrub",
        height,
        reach,
        cover or 2.6 * reach * reach,
        mean,
        lambda seed, share: _shrub(
            seed, share, height, reach, sprays, leaf_m, tip, tip_share, body
        ),
        far,
        lambda look: lay(empty_sheet(), needles(5, needle, number)),
        dress=dress,
        tags=tags,
    )


shrub(
    "heather",
    "Heather",
    0.42,
    0.42,
    78,
    0.3,
    (0.1, 0.085, 0.04),
    (0.3, 0.125, 0.215),
    0.58,
    far=(12, 34),
    tags="heath evergreen purple",
)
shrub(
    "gorse",
    "Gorse",
    1.2,
    0.85,
    130,
    0.5,
    (0.055, 0.075, 0.026),
    (0.55, 0.36, 0.03),
    0.2,
    needle=34,
    far=(22, 60),
    tags="heath thorn yellow",
)
shrub(
    "bilberry",
    "Bilberry",
    0.28,
    0.36,
    60,
    0.24,
    (0.075, 0.115, 0.035),
    (0.24, 0.085, 0.045),
    0.14,
    needle=30,
    far=(9, 26),
    tags="heath wood berries",
)
shrub(
    "bramble",
    "Bramble",
    0.8,
    0.9,
    110,
    0.4,
    (0.04, 0.062, 0.02),
    (0.11, 0.05, 0.025),
    0.12,
    needle=44,
    number=44,
    far=(16, 44),
    tags="wood edge thorn thicket",
)
