"""A rowing boat: a clinker hull by its lines, with stem, transom, thwarts and oars."""

import numpy as np

from .mesh import Mesh, smooth_normals, tube
from .stuff import METRES, PLANK_BOX, box
from .things import thing

STRAKES = 7
LAP_M = 0.014  # how far the lower edge of a strake stands out over the one below
FULLEST = 0.45  # of its length from the stern
TAR, PAINT, INSIDE, BARE = 0.42, 1.55, 0.8, 1.15  # tones of the planks
BOARD_M = 0.18  # breadth of a board of the bottom


def _lines(u: np.ndarray) -> tuple[np.ndarray, ...]:
    """Of places along the hull, 0 at the stern to 1 at the bow: half the breadth at the sheer, the
    heights of keel and sheer, and how far ahead each lies, all in m.
    """
    aft = np.clip(1 - u / FULLEST, 0, 1)
    fore = np.clip((u - FULLEST) / (1 - FULLEST), 0, 1)
    half = 0.70 - 0.24 * aft**2 - 0.685 * fore**2.3
    keel = -0.12 + 0.08 * aft**3 + 0.16 * fore**5
    sheer = 0.36 + 0.12 * aft**2 + 0.34 * fore**2.2
    return half, keel, sheer, -1.6 + 3.05 * u, -1.85 + 3.8 * u


def _point(u: np.ndarray, a: float, inner: float = 0.0) -> np.ndarray:
    """Points of the hull's right side (n, 3) at a share `a` of the way from keel to sheer, `inner`
    m within its skin.
    """
    half, keel, sheer, low, high = _lines(u)
    hard = 0.72 + 0.55 * np.clip((u - 0.5) / 0.5, 0, 1) ** 1.5  # the bow is sharp below
    out = np.maximum(half * np.sin(a * np.pi / 2) ** hard - inner, 0.004)
    up = keel + (sheer - keel) * (1 - np.cos(a * np.pi / 2)) ** 0.85 + 0.3 * inner * (1 - a)
    ahead = low + (high - low) * a**0.6
    return np.column_stack([out, ahead, up])


def _strip(low: np.ndarray, high: np.ndarray, tone: float, at: float = 0.0) -> Mesh:
    """A plank between two lines of points (n, 3), seen from where `low` to `high` lies upward and
    the lines run to the left; its grain runs along it.
    """
    n = len(low)
    u0, v0, u1, v1 = PLANK_BOX
    along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(low, axis=0), axis=1))])
    v = v0 + (v1 - v0) * np.abs((along / METRES["plank"][1] + at + 1) % 2 - 1)
    u = u0 + (u1 - u0) * (at % 0.8 + np.array((0.02, 0.1)))
    points = np.concatenate([low, high])
    faces = []
    for i in range(n - 1):
        faces += [(i + 1, i, n + i), (i + 1, n + i, n + i + 1)]
    uv = np.concatenate([np.column_stack([np.full(n, side), v]) for side in u])
    return Mesh.of(points, faces, tone, smooth_normals(points, np.array(faces)), uv)


def _mirrored(mesh: Mesh) -> Mesh:
    points, normals = mesh.positions * (-1, 1, 1), mesh.normals * (-1, 1, 1)
    return Mesh.of(points, mesh.faces[:, ::-1], mesh.colour, normals, mesh.uv)


def _side(u: np.ndarray) -> list[Mesh]:
    """The planks of the right side, without and within."""
    parts = []
    for k in range(STRAKES):
        a, b = k / STRAKES, (k + 1) / STRAKES
        low, high = _point(u, a), _point(u, b)
        under = low.copy()
        low[:, 0] += LAP_M * (k > 0) * np.clip((1 - u) * 6, 0, 1)
        low[:, 2] -= LAP_M * (k > 0)
        tone = PAINT if k == STRAKES - 1 else TAR * (1.12 if k % 2 else 0.94)
        parts.append(_strip(low, high, tone, 0.31 * k))
        if k:
            parts.append(_strip(under, low, 0.5 * tone, 0.31 * k))
        within = _point(u, a, 0.025), _point(u, b, 0.025)
        parts.append(_strip(*within[::-1], INSIDE * (1.1 if k % 2 else 0.95), 0.47 * k))
    skin, lining = _point(u, 1.0), _point(u, 1.0, 0.05)
    rise = np.array((0, 0, 0.028))
    out = skin + (0.02, 0, 0)
    parts += [
        _strip(out, out + rise, BARE),
        _strip(out + rise, lining + rise, 1.1 * BARE, 0.2),
        _strip(lining + rise, lining, BARE),
    ]
    return parts


def _transom() -> Mesh:
    """The board that closes the stern."""
    a = np.linspace(0, 1, STRAKES + 1)
    rim = np.concatenate([_point(np.zeros(1), share) for share in a])
    left = rim[::-1] * (-1, 1, 1)
    points = np.concatenate([rim, left])
    n = len(points)
    faces = [(k, k + 1, n - 2 - k) for k in range(STRAKES)]
    faces += [(k, n - 2 - k, n - 1 - k) for k in range(STRAKES)]
    both = faces + [f[::-1] for f in faces]
    u0, v0, u1, v1 = PLANK_BOX
    uv = np.column_stack(
        [u0 + (u1 - u0) * (points[:, 2] + 0.2), v0 + (v1 - v0) * (points[:, 0] + 0.7) / 2.4]
    )
    normals = np.broadcast_to((0, -1.0, 0.2), points.shape)
    return Mesh.of(points, both, 0.9 * PAINT, normals, uv)


def _oar(side: int, sides: int) -> list[Mesh]:
    """An oar shipped along the thwarts."""
    path = np.array([(0.22 * side, -1.4, 0.3), (0.22 * side, 0.55, 0.34)])
    loom = tube(path, np.array((0.022, 0.018)), sides, BARE, PLANK_BOX, 2.4)
    x, y, z = path[1]
    blade = box((x - 0.06, y, z - 0.008), (x + 0.06, y + 0.55, z + 0.008), "plank", PAINT)
    return [loom, blade]


def _boat(share: float) -> Mesh:
    u = np.linspace(0, 1, 17 if share == 1 else 8)
    sides = 8 if share == 1 else 4
    right = Mesh.joined(_side(u))
    parts = [right, _mirrored(right), _transom()]
    keel = np.column_stack([0 * u, _lines(u)[3], _lines(u)[1] - 0.02])
    stem = np.concatenate([_point(np.ones(1), a) for a in np.linspace(0, 1, 6)]) * (0, 1, 1)
    stem = np.concatenate([keel[-1:], stem, stem[-1:] + (0, 0.03, 0.1)])
    parts.append(tube(keel, np.full(len(keel), 0.03), sides, TAR, PLANK_BOX, 2.4))
    parts.append(tube(stem, np.full(len(stem), 0.034), sides, 0.8 * PAINT, PLANK_BOX, 2.4))
    for at in (0.14, 0.46, 0.72):
        place = _point(np.array([at]), 0.72)[0]
        w, y, z = place[0] - 0.07, place[1], place[2]
        deep = 0.19 if at < 0.2 else 0.12
        parts.append(box((-w, y - deep, z - 0.03), (w, y + deep, z), "plank", 1.25))
    for k in (-1, 0, 1):
        x = k * BOARD_M
        low, high = (x - 0.08, -1.1, 0.03), (x + 0.08, 0.6, 0.05)
        parts.append(box(low, high, "plank", 1.0 + 0.06 * k))
    for side in (-1, 1):
        parts += _oar(side, sides)
    return Mesh.joined(parts)


thing(
    "boat",
    "Rowing boat",
    height=0.8,
    reach=1.95,
    build=_boat,
    colour=(0.13, 0.12, 0.1),
    tags="water timber shore",
    feet=[(0, y, 0.6) for y in (-1.3, -0.45, 0.45, 1.3)],
)
