"""Waters as bodies: their surface over the ground they flood, with waves and the bed below."""

from functools import lru_cache

import numpy as np
from scipy.ndimage import binary_dilation, distance_transform_edt

from ..build import Build
from ..cabinet.kind import linear
from ..plot import grid_faces
from ..water.standing import Water
from .bodies import Body, Surface
from .fan import whole_squares

TILE_M = 9.0  # over which a pattern of waves repeats
TILE_PX = 512
MOST_PX = 2048
GRAVITY = 9.81  # m/s2
BED = 1.6  # ways through the water there and back, as in the view


def steepness(waves_cm: float) -> float:
    """Root mean square slope of water whose waves are so high, after the mean square slopes that
    wind raises (Cox & Munk 1954: 0.003 when it is calm, 0.005 more for each m/s).
    """
    return float(np.sqrt(0.0006 + 0.0022 * min(waves_cm, 30.0) / 1.5))


@lru_cache(8)
def wave_leans(steep: float, seed: int, at_s: float = 0.0) -> np.ndarray:
    """Normals of small waves in every direction as 0..1, float32 (TILE_PX, TILE_PX, 3), that repeat
    without a seam: sines of random phase whose heights fall with their length, `steep` in the root
    mean square of their slopes. Each runs at the speed of its length in deep water, so that the
    whole has moved after `at_s` seconds.
    """
    rng = np.random.default_rng(seed)
    x = np.arange(TILE_PX) / TILE_PX * 2 * np.pi
    dx = np.zeros((TILE_PX, TILE_PX))
    dy = np.zeros((TILE_PX, TILE_PX))
    for _ in range(60):
        k = rng.uniform(2, 34)
        turn = rng.normal(0.6, 0.8)
        kx, ky = round(k * np.cos(turn)), round(k * np.sin(turn))
        wave = np.hypot(kx, ky)
        turns = np.sqrt(GRAVITY * wave * 2 * np.pi / TILE_M)
        if wave < 1:
            continue
        high = (2.0 / wave) ** 1.4 * rng.uniform(0.4, 1)
        slope = (
            high
            * 2
            * np.pi
            / TILE_M
            * np.cos(kx * x[None, :] + ky * x[:, None] + rng.uniform(0, 2 * np.pi) - turns * at_s)
        )
        dx += slope * kx
        dy += slope * ky
    size = steep / np.sqrt((dx**2 + dy**2).mean())
    n = np.dstack([-dx * size, dy * size, np.ones_like(dx)])
    n /= np.linalg.norm(n, axis=2, keepdims=True)
    return (n * 0.5 + 0.5).astype(np.float32)


def water_bodies(build: Build, ground: np.ndarray, at_s: float = 0.0) -> list[Body]:
    """Each water of a scene as a body; `ground` is the colour of its bed at each post (ny, nx,
    3); its waves have run for `at_s` seconds.
    """
    level, masks = build.water()
    out = []
    for i, (water, wet) in enumerate(zip(build.scene.water, masks)):
        if water.on and wet.any():
            own = np.where(wet, level, np.nan)
            out.append(_body(build, water, own, wet, ground, i, at_s))
    return out


def _body(
    build: Build,
    water: Water,
    level: np.ndarray,
    wet: np.ndarray,
    ground: np.ndarray,
    seed: int,
    at_s: float,
) -> Body:
    near = binary_dilation(wet, iterations=2, structure=np.ones((3, 3)))
    _, (rows, columns) = distance_transform_edt(~wet, return_indices=True)
    z = level[rows, columns]
    grid = build.grid
    x, y = np.meshgrid(grid.xs(), grid.ys())
    faces = grid_faces(*grid.shape, whole_squares(near))
    used, faces = np.unique(faces, return_inverse=True)
    places = np.stack([x, y, z], -1).reshape(-1, 3)[used]
    depth = np.clip(z - build.heights, 0, None)
    corners = faces.reshape(-1, 3)
    deep = depth.ravel()[used][corners].mean(1)
    bed = ground.reshape(-1, 3)[used][corners].mean(1)
    tint = linear(np.array([int(water.tint[i : i + 2], 16) for i in (1, 3, 5)], np.uint8))
    through = np.exp(-BED * deep / water.clear_m)[:, None]
    colour = np.clip(bed * 0.55 * through + 0.45 * tint * (1 - through), 0.002, 0.9)
    uv = np.stack([places[:, 0], -places[:, 1]], 1) / TILE_M
    rough = 0.0016 + min(water.waves_cm / 1000, 0.02)
    leans = wave_leans(steepness(water.waves_cm), seed, at_s)
    surface = Surface(None, leans, rough=float(rough), mirrors=True)
    normals = np.tile(np.array([0, 0, 1], np.float32), (len(places), 1))
    corners = corners.astype(np.uint32)
    uv = uv.astype(np.float32)
    return Body(places, corners, surface, normals, uv, colour, f"water {water.name}")
