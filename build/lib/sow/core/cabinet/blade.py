"""Single blades, tufts of them, and the heads and flowers that stand on a stalk."""

import numpy as np

from .mesh import Mesh, frame


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
