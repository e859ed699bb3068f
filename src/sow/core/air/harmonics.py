"""Light that arrives from all sides, as nine numbers a colour.

Ramamoorthi & Hanrahan (2001), "An efficient representation for irradiance environment maps".
"""

from functools import lru_cache

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
