"""Sowing on the surface of a piece: even places on its triangles, each square to its own face."""

from dataclasses import replace

import numpy as np
from scipy.spatial import cKDTree

from ..cabinet.mesh import turned
from .formed import form_of, sizes_of


def solid(piece: dict, surface: str = "") -> tuple[np.ndarray, np.ndarray]:
    """A piece's triangles as it stands: corners (n, 3, 3) in m east, north, up, and unit normals
    (n, 3); of one `surface` of a model brought in, by its name.
    """
    kind = form_of(piece)
    mesh = kind.shape().levels[piece["variant"]][0]
    if surface:
        names = kind.surfaces
        number = names.index(surface) if surface in names else -1
        mesh = replace(
            mesh,
            faces=mesh.faces[mesh.surface[mesh.faces[:, 0]] == number]
            if mesh.surface is not None
            else mesh.faces[:0],
        )
    a = -np.deg2rad(piece["turn"])
    sizes = sizes_of(piece)
    if piece.get("mirrored"):
        sizes = sizes * (-1, 1, 1)
    foot = piece["east_m"], piece["north_m"], piece["up_m"]
    place = (mesh.positions * sizes) @ turned(a).T + foot
    corners = place[mesh.faces.astype(np.int64)]
    n = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) * (
        -1 if piece.get("mirrored") else 1
    )
    length = np.linalg.norm(n, axis=1)
    keep = length > 1e-9
    return corners[keep], n[keep] / length[keep, None]


def on_surface(
    piece: dict,
    density: float,
    apart_m: float,
    steep: tuple[float, float],
    lowest_m: float,
    seed: int,
    surface: str = "",
) -> tuple[np.ndarray, np.ndarray]:
    """Places (n, 3) and normals (n, 3) over the faces whose steepness (degrees, 0 level and up, 90
    a wall) lies in a band, and that are at most `lowest_m` above the piece's foot: `density` per
    m², no two nearer than `apart_m`. Faces are weighted by area (Turk 1990).
    """
    corners, normals = solid(piece, surface)
    tilt = np.degrees(np.arccos(np.clip(normals[:, 2], -1, 1)))
    area = 0.5 * np.linalg.norm(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
    )
    ok = (
        (tilt >= steep[0])
        & (tilt <= steep[1])
        & (corners[:, :, 2].min(1) <= piece["up_m"] + lowest_m)
    )
    area = np.where(ok, area, 0)
    rng = np.random.default_rng(seed)
    count = int(density * area.sum() * (1.6 if apart_m else 1))
    if count == 0 or area.sum() == 0:
        return np.empty((0, 3)), np.empty((0, 3))
    at = np.searchsorted(
        np.cumsum(area) / area.sum(), rng.random(min(count, 400_000)), "right"
    ).clip(0, len(area) - 1)
    u, v = rng.random(len(at)), rng.random(len(at))
    flip = u + v > 1
    u, v = np.where(flip, 1 - u, u), np.where(flip, 1 - v, v)
    c = corners[at]
    p = c[:, 0] + u[:, None] * (c[:, 1] - c[:, 0]) + v[:, None] * (c[:, 2] - c[:, 0])
    n = normals[at]
    low = p[:, 2] <= piece["up_m"] + lowest_m
    p, n = p[low], n[low]
    if apart_m > 0 and len(p):
        alive = np.ones(len(p), bool)
        for i, j in sorted(map(tuple, cKDTree(p).query_pairs(apart_m, output_type="ndarray"))):
            if alive[i]:
                alive[j] = False
        p, n = p[alive], n[alive]
    most = int(density * area.sum() + 0.5)
    return p[:most], n[:most]


def top_at(piece: dict, east: float, north: float) -> float:
    """The highest point of a piece's surface at a place (m), or minus infinity beside it."""
    corners, _ = solid(piece)
    a = corners[:, 0]
    b = corners[:, 1]
    c = corners[:, 2]
    d = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (b[:, 1] - a[:, 1])
    with np.errstate(divide="ignore", invalid="ignore"):
        u = ((east - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (north - a[:, 1])) / d
        v = ((b[:, 0] - a[:, 0]) * (north - a[:, 1]) - (east - a[:, 0]) * (b[:, 1] - a[:, 1])) / d
        hit = (u >= 0) & (v >= 0) & (u + v <= 1) & (np.abs(d) > 1e-12)
    return float(
        (a[hit, 2] + u[hit] * (b[hit, 2] - a[hit, 2]) + v[hit] * (c[hit, 2] - a[hit, 2])).max(
            initial=-np.inf
        )
    )
