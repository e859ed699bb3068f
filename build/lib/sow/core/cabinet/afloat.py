"""Plants that lie on the water: a patch of water lilies."""

import numpy as np

from .blade import corolla
from .low import low_kind
from .mesh import Mesh, Part

PAD = (0.045, 0.09, 0.025)
EDGE = (0.1, 0.085, 0.03)  # of older pads
PETAL = (0.72, 0.7, 0.66)
HIGH_M = 0.09


def _pad(rng, at, radius, sides) -> Mesh:
    """A round leaf, notched to its stalk, its rim a little raised."""
    notch = 0.2
    first = rng.uniform(0, 2 * np.pi)
    a = first + np.linspace(notch, 2 * np.pi - notch, sides)
    waves = 1 + 0.03 * np.sin(5 * a + rng.uniform(0, 6))
    old = rng.uniform() ** 2
    tone = (np.array(PAD) * (1 - old) + np.array(EDGE) * old) * rng.uniform(0.75, 1.2)
    rows, tones = [np.array([[0, 0, 0.006]])], [np.array([tone * 1.15])]
    for share, rise in ((0.55, 0.008), (0.93, 0.006), (1.0, 0.014)):
        r = radius * share * waves
        rows.append(np.column_stack([r * np.cos(a), r * np.sin(a), np.full(sides, rise)]))
        veins = 0.9 + 0.14 * (np.arange(sides) % 2)
        tones.append(tone * veins[:, None] * (1.0 if share < 1 else 0.8))
    faces = [(0, 1 + k, 2 + k) for k in range(sides - 1)]
    for ring in range(2):
        low, high = 1 + ring * sides, 1 + (ring + 1) * sides
        for k in range(sides - 1):
            faces += [(low + k, high + k, high + k + 1), (low + k, high + k + 1, low + k + 1)]
    points = np.concatenate(rows) + np.array([*at, rng.uniform(0, 0.006)])
    lean = rng.normal(0, 0.03, 2)
    normal = np.broadcast_to((*lean, 1.0), points.shape)
    return Mesh.of(points, faces, np.concatenate(tones), normal)


def _lily(seed, share, sides=13) -> Mesh:
    """Pads that hardly lie over one another, some with a flower between them."""
    rng = np.random.default_rng(seed)
    placed: list[tuple[float, float, float]] = []
    for _ in range(160):
        radius = rng.uniform(0.07, 0.15)
        away, turn = 0.75 * np.sqrt(rng.uniform()), rng.uniform(0, 2 * np.pi)
        x, y = away * np.cos(turn), away * np.sin(turn)
        if all(np.hypot(x - u, y - v) > 0.86 * (radius + r) for u, v, r in placed):
            placed.append((x, y, radius))
    kept = placed[: max(4, int(len(placed) * share))]
    parts = [_pad(rng, (x, y), radius, sides) for x, y, radius in kept]
    for x, y, radius in kept[:: max(1, len(kept) // 4)]:
        at = np.array([x + 0.9 * radius, y, 0.02])
        for k, (size, petals) in enumerate(((0.085, 8), (0.065, 8), (0.045, 7))):
            parts += corolla(at + (0, 0, 0.018 * k), size, petals, PETAL, rng)
    return Mesh.joined(parts)


def _near(seed) -> list[Part]:
    return [Part(_lily(seed, 1.0, 33), None, 0.25, 0.35, False)]


low_kind(
    "water-lily",
    "Water lilies",
    "flower",
    HIGH_M,
    0.9,
    1.6,
    PAD,
    _lily,
    (10, 36),
    tags="water pool afloat white stands on the water",
    nearest=_near,
)
