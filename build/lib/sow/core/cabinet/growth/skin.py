"""The skin of limbs: tubes with bark that stands out, mapped without a seam."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..mesh import Mesh
from .skeleton import Skeleton

Tile = tuple[np.ndarray, np.ndarray]  # colour and height
RELIEF_FROM_M = 0.012  # radius from which bark stands out in the mesh
ROOT_FLARE = 0.75  # how much wider than its stem a tree is at its foot
FLARE_M = 2.6  # stem radii up to which it widens
MOST_SIDES = 200
OUT_OF_REACH_M = 3.0  # height from which bark is seen from some way off only
COARSER = 2.5
TWIG_M = 0.009  # radius of limbs that bend evenly, and how far apart their joints may lie
TWIG_STEP_M = 0.1


@dataclass(frozen=True)
class Bark:
    """A tile of bark that repeats both ways, rows along the limb; a tile is `long_m` along a limb
    and `wide_m` round it, and its ridges `deep_m` high.
    """

    tile: Callable[[], Tile]
    long_m: float = 0.5
    wide_m: float = 0.25
    deep_m: float = 0.01

    @property
    def colour(self) -> np.ndarray:
        """Linear colour float32 (rows, columns, 3)."""
        return self.tile()[0]

    @property
    def height(self) -> np.ndarray:
        """How far it stands out 0..1, float32 (rows, columns)."""
        return self.tile()[1]


def _rings(path: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Two unit vectors square to a path at each of its joints, carried along without a twist."""
    way = np.gradient(path, axis=0)
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    side = np.empty_like(way)
    first = np.cross(way[0], (0.0, 1.0, 0.0) if abs(way[0, 1]) < 0.9 else (1.0, 0, 0))
    side[0] = first / np.linalg.norm(first)
    for i in range(1, len(path)):
        carried = side[i - 1] - way[i] * (side[i - 1] @ way[i])
        side[i] = carried / max(float(np.linalg.norm(carried)), 1e-9)
    return side, np.cross(way, side)


def finer(path: np.ndarray, radii: np.ndarray, step_m: float) -> tuple[np.ndarray, np.ndarray]:
    """A path and its radii with a joint every `step_m`, rounded at its bends (Catmull & Rom
    1974).
    """
    long = np.linalg.norm(np.diff(path, axis=0), axis=1)
    counts = np.maximum(1, np.round(long / step_m).astype(int))
    padded = np.concatenate([2 * path[:1] - path[1:2], path, 2 * path[-1:] - path[-2:-1]])
    out, wide = [], []
    for i, n in enumerate(counts):
        a, b, c, d = padded[i : i + 4]
        t = (np.arange(n) / n)[:, None]
        out.append(
            0.5
            * (
                2 * b
                + (c - a) * t
                + (2 * a - 5 * b + 4 * c - d) * t**2
                + (3 * b - a - 3 * c + d) * t**3
            )
        )
        wide.append(radii[i] + (radii[i + 1] - radii[i]) * t[:, 0])
    return np.concatenate([*out, path[-1:]]), np.concatenate([*wide, radii[-1:]])


def tube(path: np.ndarray, radii: np.ndarray, sides: int, bark: Bark | None) -> Mesh:
    """A tapering tube along a path (n, 3) of radii (n,), its uv in tiles of the bark, which stands
    out where the limb is thick.
    """
    side, other = _rings(path)
    turn = np.linspace(0, 2 * np.pi, sides + 1)
    out = np.cos(turn)[None, :, None] * side[:, None] + np.sin(turn)[None, :, None] * other[:, None]
    along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    wide_m, long_m = (bark.wide_m, bark.long_m) if bark else (0.25, 0.5)
    times = max(1, round(2 * np.pi * float(radii.max()) / wide_m))
    u = np.broadcast_to(turn / (2 * np.pi) * times, (len(path), sides + 1))
    v = np.broadcast_to((along / long_m)[:, None], u.shape)
    r = np.broadcast_to(radii[:, None], u.shape)
    if bark is not None and radii.max() > RELIEF_FROM_M:
        rows, columns = bark.height.shape
        stands = bark.height[
            (v * rows).astype(int) % rows, (u * columns + 0.5).astype(int) % columns
        ]
        deep = np.minimum(bark.deep_m, 0.16 * radii)[:, None]
        r = r + deep * (stands - 0.5)
    places = path[:, None] + out * r[..., None]
    n = sides + 1
    at = (np.arange(len(path) - 1)[:, None] * n + np.arange(sides)[None]).ravel()
    faces = np.concatenate(
        [np.stack([at, at + 1, at + 1 + n], 1), np.stack([at, at + 1 + n, at + n], 1)]
    )
    return Mesh.of(
        places.reshape(-1, 3),
        faces,
        (1, 1, 1),
        _tube_normals(places) if r.shape[0] > 1 else out.reshape(-1, 3),
        np.stack([u, v], -1).reshape(-1, 2),
    )


def _tube_normals(places: np.ndarray) -> np.ndarray:
    """Normals of a closed tube of places (rings, sides + 1, 3), the same on both sides of its
    seam.
    """
    inner = places[:, :-1]
    round_ = np.roll(inner, -1, 1) - np.roll(inner, 1, 1)
    ahead = np.gradient(inner, axis=0)
    normal = np.cross(round_, ahead)
    normal /= np.maximum(np.linalg.norm(normal, axis=-1, keepdims=True), 1e-12)
    return np.concatenate([normal, normal[:, :1]], 1).reshape(-1, 3)


def flared(radii: np.ndarray, path: np.ndarray) -> np.ndarray:
    """Radii of a stem that widens into its roots."""
    over = np.maximum(path[:, 2] - path[0, 2], 0) / (FLARE_M * radii[0])
    return radii * (1 + ROOT_FLARE * np.exp(-2.2 * over) * np.clip(1.3 - over, 0, 1))


def limbs_of(
    skeleton: Skeleton, least_m: float, bark: Bark | None, step_m: float, grain_m: float
) -> list[Mesh]:
    """Tubes of stems and of all limbs thicker than `least_m`: a joint every `step_m` where they are
    thick, and a side for every `grain_m` of their girth, 3 at least.
    """
    out = []
    for limb in skeleton.limbs():
        path = skeleton.places[limb]
        radii = skeleton.radius[limb].copy()
        stems = skeleton.parent[limb[0]] < 0
        if not stems:
            radii[0] = min(radii[0], 1.15 * radii[1])
        thick = radii[1 if not stems else 0]
        if thick < least_m and not stems:
            continue
        coarse = COARSER if path[0, 2] > OUT_OF_REACH_M else 1.0
        step = coarse * (max(step_m, 0.6 * thick) if thick < 4 * RELIEF_FROM_M else step_m)
        if thick < TWIG_M:
            step = max(step, TWIG_STEP_M)
        path, radii = finer(path, radii, step)
        if stems:
            radii = flared(radii, path)
        sides = int(np.clip(2 * np.pi * thick / (coarse * grain_m), 3, MOST_SIDES))
        out.append(tube(path, radii, sides, bark))
    return out
