"""Things of gardens and yards: a stool, a lantern on its post, a palisade, a water butt."""

import numpy as np

from .mesh import Mesh, turned
from .stuff import box, quad
from .things import thing

IRON = (0.03, 0.03, 0.032)
PANE = (0.85, 0.62, 0.3)


def _ring(z: float, radius: float, sides: int) -> np.ndarray:
    a = np.linspace(0, 2 * np.pi, sides + 1)
    return np.column_stack([radius * np.cos(a), radius * np.sin(a), np.full(len(a), z)])


def _staves(rings: list[np.ndarray], tone: float) -> list[Mesh]:
    """Planks from ring to ring, each a little lighter or darker than the next."""
    return [
        quad([low[k], low[k + 1], high[k + 1], high[k]], "plank", tone * (0.92 + 0.16 * (k % 2)))
        for low, high in zip(rings, rings[1:])
        for k in range(len(low) - 1)
    ]


def _disc(ring: np.ndarray, colour) -> Mesh:
    """A flat lid within a ring."""
    points = np.concatenate([ring[:-1], [[0, 0, ring[0, 2]]]])
    sides = len(ring) - 1
    faces = [(sides, k, (k + 1) % sides) for k in range(sides)]
    up = np.broadcast_to((0, 0, 1.0), (len(points), 3))
    return Mesh.of(points, faces, colour, up)


def _roof(foot: np.ndarray, top: float, colour) -> Mesh:
    """A pyramid over a ring."""
    parts = []
    for a, b in zip(foot, foot[1:]):
        corners = np.array([a, b, [0, 0, top]])
        normal = np.cross(corners[1] - corners[0], corners[2] - corners[0])
        normal = np.broadcast_to(normal / np.linalg.norm(normal), (3, 3))
        parts.append(Mesh.of(corners, [(0, 1, 2)], colour, normal))
    return Mesh.joined(parts)


def _plain(mesh: Mesh, colour) -> Mesh:
    """A mesh in one colour, without its picture."""
    mesh.uv[:] = -1
    mesh.colour = np.broadcast_to(np.float32(colour), mesh.colour.shape) * mesh.colour
    return mesh


def _stool(share):
    """A round seat on three splayed legs."""
    sides = 16 if share == 1 else 8
    rings = [_ring(0.4, 0.17, sides), _ring(0.45, 0.17, sides)]
    parts = [*_staves(rings, 1.15), _disc(rings[1], (0.21, 0.18, 0.14))]
    splay = np.array([[1, 0, -0.24], [0, 1, 0], [0, 0, 1]])
    for k in range(3):
        leg = box((0.18, -0.02, 0), (0.22, 0.02, 0.41), "plank", 0.9, splay)
        parts.append(leg.moved(turned(k * 2 * np.pi / 3)))
    return Mesh.joined(parts)


def _lantern(share):
    """A lamp behind four panes on an iron post."""
    iron = lambda lo, hi: _plain(box(lo, hi, "plank"), IRON)
    parts = [iron((-0.09, -0.09, -0.2), (0.09, 0.09, 0.12))]
    parts.append(iron((-0.028, -0.028, 0.1), (0.028, 0.028, 1.5)))
    parts.append(iron((-0.13, -0.13, 1.5), (0.13, 0.13, 1.54)))
    half, low, high = 0.11, 1.54, 1.84
    turn = np.pi / 4 + np.arange(5) * np.pi / 2
    corner = lambda r, z: np.column_stack([r * np.cos(turn), r * np.sin(turn), np.full(5, z)])
    foot, head = corner(half * 1.41, low), corner(half * 1.2, high)
    for k in range(4):
        pane = quad([foot[k], foot[k + 1], head[k + 1], head[k]], "plank")
        parts.append(_plain(pane, PANE))
        x, y = foot[k, :2]
        shear = np.array([[1, 0, -0.15 * x / half], [0, 1, -0.15 * y / half], [0, 0, 1]])
        bar = iron((-0.012, -0.012, 0), (0.012, 0.012, high - low))
        parts.append(bar.moved(shear).moved(shift=(x, y, low)))
    parts.append(_roof(corner(half * 1.75, high), high + 0.15, IRON))
    parts.append(iron((-0.015, -0.015, high + 0.12), (0.015, 0.015, high + 0.21)))
    return Mesh.joined(parts)


def _palisade(share, seed=5, length=3.0):
    """Stakes set close, hewn to points, with two rails behind."""
    rng, parts = np.random.default_rng(seed), []
    x = -length / 2
    while x < length / 2 - 0.04:
        wide = rng.uniform(0.1, 0.15)
        tall = rng.uniform(1.62, 1.84)
        lean = np.array([[1, 0, rng.normal(0, 0.012)], [0, 1, rng.normal(0, 0.02)], [0, 0, 1]])
        tone = rng.uniform(0.75, 1.2)
        stake = box((0, -0.05, -0.4), (wide - 0.012, 0.05, tall), "plank", tone)
        ends = np.array([[0, -0.05], [1, -0.05], [1, 0.05], [0, 0.05], [0, -0.05]])
        foot = np.column_stack([(ends[:, 0] - 0.5) * (wide - 0.012), ends[:, 1], np.zeros(5)])
        tip = _roof(foot, rng.uniform(0.12, 0.2), np.array((0.3, 0.25, 0.17)) * tone)
        tip = tip.moved(shift=((wide - 0.012) / 2, 0, tall))
        parts.append(Mesh.joined([stake, tip]).moved(lean).moved(shift=(x, 0, 0)))
        x += wide
    for z in (0.5, 1.3):
        rail = box((-length / 2, 0.05, z), (length / 2, 0.1, z + 0.11), "plank", 0.85)
        parts.append(rail)
    return Mesh.joined(parts)


def _butt(share):
    """A barrel for rain, of staves with iron hoops, full to a hand below its rim."""
    sides = 18 if share == 1 else 9
    heights = np.array([-0.02, 0.22, 0.45, 0.68, 0.9])
    radii = np.array([0.25, 0.3, 0.315, 0.3, 0.255])
    rings = [_ring(z, r, sides) for z, r in zip(heights, radii)]
    parts = _staves(rings, 0.95)
    for z in (0.1, 0.3, 0.6, 0.8):
        r = float(np.interp(z, heights, radii)) + 0.006
        hoop = Mesh.joined(_staves([_ring(z, r, sides), _ring(z + 0.035, r, sides)], 1))
        parts.append(_plain(hoop, IRON))
    inside = [_ring(0.9, 0.255, sides)[::-1], _ring(0.78, 0.27, sides)[::-1]]
    parts += _staves(inside[::-1], 0.4)
    parts.append(_disc(_ring(0.78, 0.27, sides), (0.012, 0.016, 0.014)))
    return Mesh.joined(parts)


thing(
    "stool",
    "Stool",
    height=0.45,
    reach=0.24,
    build=_stool,
    colour=(0.19, 0.165, 0.13),
    far=(15, 50),
    tags="seat timber garden yard",
)

thing(
    "lantern",
    "Lantern on its post",
    height=2.05,
    reach=0.2,
    build=_lantern,
    colour=(0.12, 0.09, 0.06),
    far=(20, 80),
    tags="light iron garden street",
    feet=[(0, 0, 0.1)],
)

thing(
    "palisade",
    "Palisade, 3 m",
    height=1.95,
    reach=1.5,
    build=_palisade,
    colour=(0.2, 0.17, 0.13),
    variants=3,
    far=(30, 110),
    tags="timber boundary stakes fence",
    cover=0.5,
    feet=[(x, 0, 0.1) for x in (-1.4, -0.7, 0, 0.7, 1.4)],
)

thing(
    "water-butt",
    "Water butt",
    height=0.9,
    reach=0.33,
    build=_butt,
    colour=(0.16, 0.14, 0.11),
    far=(20, 70),
    tags="barrel timber garden yard",
)
