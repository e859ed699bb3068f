"""Outlines that an exhibit is cut to: a lattice of its ground, its rim, and what lies within."""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from scipy.spatial import Delaunay

from ..errors import SceneError

ACROSS = 181  # vertices of the ground from side to side
AROUND = 288  # vertices of a disc's rim
NARROW = 0.6  # of a lattice's spacing: nearer to the rim no vertex lies


@dataclass(frozen=True)
class Outline:
    """What is cut out: `middle` (2) east and north in m; `places` (n, 2) of vertices about it,
    `faces` (m, 3), the `rim` as a loop of vertices, counterclockwise; `holds(east, north)` tells
    which places of the plot lie within.
    """

    middle: np.ndarray
    places: np.ndarray
    faces: np.ndarray
    rim: np.ndarray
    holds: Callable[[np.ndarray, np.ndarray], np.ndarray]

    def box(self) -> tuple[np.ndarray, np.ndarray]:
        """Its least and greatest east and north in m."""
        return self.places.min(0) + self.middle, self.places.max(0) + self.middle


def square(east_m: float, north_m: float, side_m: float) -> Outline:
    """A square about a place."""
    half = side_m / 2
    steps = np.linspace(-half, half, ACROSS)
    x, y = np.meshgrid(steps, steps)
    ids = np.arange(ACROSS * ACROSS).reshape(ACROSS, ACROSS)
    a, b, c, d = ids[:-1, :-1], ids[:-1, 1:], ids[1:, 1:], ids[1:, :-1]
    faces = np.stack([a, b, c, a, c, d], -1).reshape(-1, 3)
    rim = np.concatenate([ids[0], ids[1:, -1], ids[-1, -2::-1], ids[-2:0:-1, 0]])
    middle = np.array([east_m, north_m])
    holds = lambda east, north: (
        np.maximum(np.abs(east - middle[0]), np.abs(north - middle[1])) < half
    )
    return Outline(middle, np.stack([x.ravel(), y.ravel()], 1), faces, rim, holds)


def disc(east_m: float, north_m: float, across_m: float) -> Outline:
    """A disc about a place."""
    half = across_m / 2
    angles = np.arange(AROUND) / AROUND * 2 * np.pi
    rings = ACROSS // 2
    radii = np.arange(1, rings + 1) / rings * half
    x = np.concatenate([[0.0], (radii[:, None] * np.cos(angles)).ravel()])
    y = np.concatenate([[0.0], (radii[:, None] * np.sin(angles)).ravel()])
    ids = 1 + np.arange(rings * AROUND).reshape(rings, AROUND)
    after = np.roll(ids, -1, axis=1)
    inner = np.stack([np.zeros(AROUND, int), ids[0], after[0]], 1)
    a, b, c, d = ids[:-1], ids[1:], after[1:], after[:-1]
    outer = np.stack([a, b, c, a, c, d], -1).reshape(-1, 3)
    middle = np.array([east_m, north_m])
    holds = lambda east, north: np.hypot(east - middle[0], north - middle[1]) < half
    places = np.stack([x, y], 1)
    return Outline(middle, places, np.concatenate([inner, outer]), ids[-1], holds)


def polygon(points: np.ndarray, name: str) -> Outline:
    """An area within a closed way, points (n, 2) east and north in m.

    Raises SceneError when the way crosses itself.
    """
    low, high = points.min(0), points.max(0)
    middle = (low + high) / 2
    spacing = float((high - low).max()) / (ACROSS - 1)
    rim = _even(points - middle, spacing)
    if _area(rim) < 0:
        rim = rim[::-1]
    inner = _inner(rim, spacing)
    places = np.concatenate([rim, inner])
    faces = Delaunay(places).simplices
    faces = faces[_within(rim, places[faces].mean(1))]
    cross = _turning(places, faces)
    faces = np.where(cross[:, None] < 0, faces[:, ::-1], faces)[np.abs(cross) > 1e-9 * spacing**2]
    if _edges(faces) != {(k, (k + 1) % len(rim)) for k in range(len(rim))}:
        raise SceneError(
            f"“{name}” crosses or touches itself, so nothing is cut out of it.",
            "area",
            "Draw its edge without crossings.",
        )
    holds = lambda east, north: _within(rim, np.column_stack([east, north]) - middle)
    return Outline(middle, places, faces, np.arange(len(rim)), holds)


def _even(points: np.ndarray, spacing: float) -> np.ndarray:
    """A closed way with points at its corners and at most `spacing` apart between them."""
    rows = []
    for a, b in zip(points, np.roll(points, -1, axis=0)):
        count = max(1, int(np.ceil(np.hypot(*(b - a)) / spacing)))
        rows.append(a + (b - a) * (np.arange(count) / count)[:, None])
    way = np.concatenate(rows)
    apart = np.hypot(*(way - np.roll(way, 1, axis=0)).T) > 1e-6 * spacing
    return way[apart]


def _inner(rim: np.ndarray, spacing: float) -> np.ndarray:
    """A lattice within a rim that keeps off it."""
    low, high = rim.min(0), rim.max(0)
    x, y = np.meshgrid(np.arange(low[0], high[0], spacing), np.arange(low[1], high[1], spacing))
    places = np.column_stack([x.ravel(), y.ravel()])
    edge = rim.astype(np.float32).reshape(-1, 1, 2)
    away = np.array([cv2.pointPolygonTest(edge, (float(a), float(b)), True) for a, b in places])
    return places[away > NARROW * spacing]


def _within(rim: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Which places (n, 2) lie within a rim, by how often a ray crosses it."""
    inside = np.zeros(len(places), bool)
    for a, b in zip(rim, np.roll(rim, -1, axis=0)):
        if a[1] == b[1]:
            continue
        spans = (a[1] > places[:, 1]) != (b[1] > places[:, 1])
        at = a[0] + (places[:, 1] - a[1]) / (b[1] - a[1]) * (b[0] - a[0])
        inside ^= spans & (places[:, 0] < at)
    return inside


def _area(way: np.ndarray) -> float:
    x, y = way.T
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)


def _turning(places: np.ndarray, faces: np.ndarray) -> np.ndarray:
    a, b, c = places[faces].transpose(1, 0, 2)
    return (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])


def _edges(faces: np.ndarray) -> set[tuple[int, int]]:
    """The edges that only one face has, in that face's sense."""
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]).tolist()
    known = {tuple(e) for e in edges}
    return {(a, b) for a, b in known if (b, a) not in known}
