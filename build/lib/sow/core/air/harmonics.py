"""Light that arrives from all sides, as nine numbers a colour.

Ramamoorthi & Hanrahan (2001), "An efficient representation for irradiance environment maps".
"""

from functools import lru_cache

import cv2
import numpy as np

_A = np.pi * np.array([1, 2 / 3, 2 / 3, 2 / 3, 1 / 4, 1 / 4, 1 / 4, 1 / 4, 1 / 4])


@lru_cache(maxsize=8)
def directions(rows: int, columns: int) -> tuple[np.ndarray, np.ndarray]:
    """Unit vectors (east, north, up) of the texels of a full panorama, float64 (rows, columns, 3),
    and the solid angle of each row's texels in sr. Row 0 is about the zenith, column 0 about north,
    turning clockwise.
    """
    edges = np.pi * np.arange(rows + 1) / rows
    from_zenith = 0.5 * (edges[1:] + edges[:-1])
    turn = 2 * np.pi * (np.arange(columns) + 0.5) / columns
    sines = np.sin(from_zenith)[:, None]
    vectors = np.stack(
        [
            sines * np.sin(turn),
            sines * np.cos(turn),
            np.broadcast_to(np.cos(from_zenith)[:, None], (rows, columns)),
        ],
        -1,
    )
    return vectors, (np.cos(edges[:-1]) - np.cos(edges[1:])) * 2 * np.pi / columns


def from_panorama(picture: np.ndarray, rays: np.ndarray) -> np.ndarray:
    """A full panorama along unit directions (rows, columns, 3), float32 (rows, columns, 3)."""
    high, wide = picture.shape[:2]
    turn = np.arctan2(rays[..., 0], rays[..., 1]) / (2 * np.pi) % 1.0
    fall = np.arccos(np.clip(rays[..., 2], -1, 1)) / np.pi
    across = (turn * wide - 0.5).astype(np.float32)
    down = np.clip(fall * high - 0.5, 0, high - 1).astype(np.float32)
    given = np.ascontiguousarray(picture, np.float32)
    return cv2.remap(given, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)


def basis(n: np.ndarray) -> np.ndarray:
    """The nine functions of degree 0 to 2 at unit vectors (..., 3), float64 (..., 9)."""
    x, y, z = n[..., 0], n[..., 1], n[..., 2]
    return np.stack(
        [
            np.full(x.shape, 0.282095),
            0.488603 * y,
            0.488603 * z,
            0.488603 * x,
            1.092548 * x * y,
            1.092548 * y * z,
            0.315392 * (3 * z * z - 1),
            1.092548 * x * z,
            0.546274 * (x * x - y * y),
        ],
        -1,
    )


@lru_cache(maxsize=3)
def _basis_of(rows: int, columns: int) -> np.ndarray:
    return basis(directions(rows, columns)[0]).reshape(-1, 9)


def irradiance(panorama: np.ndarray) -> np.ndarray:
    """The nine numbers of a full panorama's radiance (rows, columns, 3), float64 (9, 3): their sum
    with `basis(normal)` is the irradiance of a surface with that normal.
    """
    _, solid = directions(*panorama.shape[:2])
    weighted = panorama.astype(np.float64) * solid[:, None, None]
    return _basis_of(*panorama.shape[:2]).T @ weighted.reshape(-1, 3) * _A[:, None]


def arriving(numbers: np.ndarray, normals: np.ndarray) -> np.ndarray:
    """Irradiance (..., 3) of surfaces with these unit normals (..., 3); never negative."""
    return np.maximum(basis(normals) @ numbers, 0)


def unfolded(panorama: np.ndarray, side: int) -> np.ndarray:
    """A panorama on an unfolded octahedron, float32 (side, side, 3): the middle is the zenith, the
    corners the nadir, rows go north. Shaders find a direction's place on it without an angle
    (Engelhardt & Dachsbacher 2008).
    """
    at = ((np.arange(side) + 0.5) / side - 0.5) / 0.496
    x, y = np.meshgrid(at, at)
    z = 1 - np.abs(x) - np.abs(y)
    fold = lambda a, b: (1 - np.abs(b)) * np.where(a < 0, -1.0, 1.0)
    x, y = np.where(z < 0, fold(x, y), x), np.where(z < 0, fold(y, x), y)
    turn = np.arctan2(x, y) % (2 * np.pi) / (2 * np.pi)
    down = np.arccos(np.clip(z / np.sqrt(x * x + y * y + z * z), -1, 1)) / np.pi
    rows, columns = panorama.shape[:2]
    wrapped = np.concatenate([panorama[:, -1:], panorama, panorama[:, :1]], 1).astype(np.float32)
    u = (turn * columns + 0.5).astype(np.float32)
    v = np.clip(down * rows - 0.5, 0, rows - 1).astype(np.float32)
    return cv2.remap(wrapped, u, v, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
