"""Pieces that take on the ground's own colour along their rim, so that the joint does not show."""

from dataclasses import replace

import numpy as np

from ..build import Build
from ..sample import heights_at
from ..surface.look import Laying, field_at
from ..surface.strewn import sampled
from .bodies import Body

LEANS = 0.8  # how far the rim takes on the ground's lie, where it is wholly the ground's
FINEST_M = 0.01


def blended(
    build: Build, bodies: list[Body], at: np.ndarray, blend_m: float, fine_m: float
) -> list[Body]:
    """Bodies of a piece that stands by a matrix (4, 4), in the world's own places, with the colour
    and the lie of the ground up to about `blend_m` over it; `fine_m` is the size of what is seen.
    """
    laying = Laying(build)
    return [_blended(build, laying, body, at, blend_m, max(fine_m, FINEST_M)) for body in bodies]


def _joined(build: Build, places: np.ndarray, blend_m: float) -> np.ndarray:
    """How far places (m) belong to the ground, 0..1, along an uneven rim, as in the view."""
    x, y = np.ascontiguousarray(places[:, 0]), np.ascontiguousarray(places[:, 1])
    over = places[:, 2] - heights_at(build.heights, build.grid, x, y)
    ragged = (sampled(x * 0.9, y * 0.9, 1) - 0.5) * blend_m * 0.9
    t = np.clip((over + ragged) / blend_m, 0, 1)
    return 1 - t * t * (3 - 2 * t)


def _blended(
    build: Build, laying: Laying, body: Body, at: np.ndarray, blend_m: float, fine_m: float
) -> Body:
    places = body.positions @ at[:3, :3].T + at[:3, 3]
    turned = at[:3, :3] / np.linalg.norm(at[:3, :3], axis=0)
    normals = None if body.normals is None else body.normals @ turned.T
    if normals is not None:
        ground = field_at(build, build.normals(), places[:, 0], places[:, 1])
        share = LEANS * _joined(build, places, blend_m)[:, None]
        normals = normals + share * (ground - normals)
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-9)
        normals = normals.astype(np.float32)
    placed = replace(body, positions=places.astype(np.float32), normals=normals)
    if body.colour is None:
        return placed
    middle = places[body.faces].mean(1)
    share = _joined(build, middle, blend_m)
    near = share > 0.01
    if not near.any():
        return placed
    up = field_at(build, build.normals(), middle[near, 0], middle[near, 1])
    up /= np.maximum(np.linalg.norm(up, axis=1, keepdims=True), 1e-6)
    look = laying.at(middle[near], up, fine_m)
    ground = look.colour * (0.55 + 0.45 * look.open)[:, None]
    colour = body.colour.copy()
    colour[near] += share[near, None].astype(np.float32) * (ground - colour[near])
    return replace(placed, colour=colour)
