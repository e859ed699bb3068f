"""Leaves that an eye stands among: those near by are drawn in curves, with rib and stalk."""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from ..cabinet.rounded import MOST_FACES, PALE, Rounded, rounded
from .bodies import Body, Copies
from .views import View

SHOWS_PX = 16.0  # length on the picture from which on a leaf's corners would be seen
LONGEST_M = 0.35  # of leaves that are looked at
MOST_PLANTS = 24  # that are drawn so, the nearest first
MOST_LEAVES = 30_000  # of one plant
LEAST_M = 0.012  # long
SAMPLE = 6000  # faces by which the length of a body's leaves is told


def with_near_leaves(copies: Copies, view: View) -> Iterable[Copies]:
    """The copies as they are, and those by themselves whose leaves come close to the eye."""
    leafy = [i for i, body in enumerate(copies.bodies) if body.surface.through > 0]
    away = _away(copies, leafy, view.eye)
    plain = np.ones(len(copies.at), bool)
    pixels = view.focal_px / SHOWS_PX
    if (away < LONGEST_M * pixels).any():
        long = {k: leaf_length(copies.bodies[k]) for k in leafy}
        reach = pixels * _size(copies.at)
        some = np.argsort(away)[:MOST_PLANTS]
        for i in some[away[some] < reach[some] * max(long.values())]:
            bodies = list(copies.bodies)
            for k in leafy:
                finer = finer_near(bodies[k], copies.at[i], view.eye, reach[i] * long[k])
                if finer is not None:
                    bodies[k] = finer
                    plain[i] = False
            if not plain[i]:
                yield replace(copies, bodies=bodies, at=copies.at[i : i + 1])
    if plain.all():
        yield copies
    elif plain.any():
        yield replace(copies, at=copies.at[plain])


def _away(copies: Copies, leafy: list[int], eye: np.ndarray) -> np.ndarray:
    """How far the box about its leaves is from the eye, for each copy in m, endless without."""
    if not leafy:
        return np.full(len(copies.at), np.inf)
    every = [copies.bodies[k].positions for k in leafy]
    low = np.min([p.min(0) for p in every], 0)
    high = np.max([p.max(0) for p in every], 0)
    at = np.linalg.solve(copies.at[:, :3, :3], (np.asarray(eye) - copies.at[:, :3, 3])[..., None])
    off = np.maximum(np.maximum(low - at[..., 0], at[..., 0] - high), 0)
    return np.linalg.norm(off, axis=1) * _size(copies.at)


def _size(matrices: np.ndarray) -> np.ndarray:
    """How large what stands by matrices (..., 4, 4) is beside itself."""
    return np.cbrt(np.abs(np.linalg.det(matrices[..., :3, :3])))


def _local(matrix: np.ndarray, place: np.ndarray) -> np.ndarray:
    return np.linalg.solve(matrix[:3, :3], np.asarray(place) - matrix[:3, 3])


def leaf_length(body: Body) -> float:
    """About how long the leaves of a body are, m, by those that come first."""
    faces = body.faces[:SAMPLE].astype(np.int64)
    posts = faces.max() + 1
    of = _parts(faces, posts)
    lows, highs = np.full((of.max() + 1, 3), np.inf), np.full((of.max() + 1, 3), -np.inf)
    np.minimum.at(lows, of, body.positions[:posts])
    np.maximum.at(highs, of, body.positions[:posts])
    return min(float(np.quantile(np.linalg.norm(highs - lows, axis=1), 0.8)), LONGEST_M)


def _parts(faces: np.ndarray, posts: int) -> np.ndarray:
    """The number of the part that each post is in, of those that no face joins."""
    links = np.concatenate([faces[:, :2], faces[:, 1:]])
    graph = coo_array((np.ones(len(links), bool), links.T), (posts, posts))
    return connected_components(graph, directed=False)[1]


def finer_near(body: Body, matrix: np.ndarray, eye: np.ndarray, reach: float) -> Body | None:
    """A body whose leaves within `reach` m of an eye are drawn finer, or None where there are none.
    It stands by `matrix` (4, 4).
    """
    if body.colour is None:
        return None
    size = _size(matrix)
    away = np.linalg.norm(body.positions - _local(matrix, eye), axis=1) * size
    if away.min() > reach:
        return None
    made: list[tuple[np.ndarray, np.ndarray, np.ndarray]] = []
    taken = np.zeros(len(body.faces), bool)
    for posts, faces in _leaves(body, away < reach):
        each = body.positions[posts].astype(float)
        if np.ptp(each[0], 0).max() * size < LEAST_M:
            continue
        finer = rounded(each[0], body.faces[faces[0]].astype(int) - posts[0, 0])
        if finer is None:
            continue
        taken[faces.ravel()] = True
        made.append(_set_in(finer, each, body.colour[faces]))
    if not made:
        return None
    kept = ~taken
    places, corners, colours = [body.positions], [body.faces[kept]], [body.colour[kept]]
    for more, faces, colour in made:
        corners.append((faces + sum(len(p) for p in places)).astype(np.uint32))
        places.append(more)
        colours.append(colour)
    return replace(
        body,
        positions=np.concatenate(places).astype(np.float32),
        faces=np.concatenate(corners),
        colour=np.concatenate(colours).astype(np.float32),
        normals=None,
    )


def _leaves(body: Body, near: np.ndarray) -> Iterable[tuple[np.ndarray, np.ndarray]]:
    """The leaves that reach into `near` posts, alike ones together: posts (n, k), faces (n, m)."""
    ends = body.faces.astype(np.int64)
    of = _parts(ends, len(body.positions))
    face_of = of[ends[:, 0]]
    count = np.bincount(face_of, minlength=of.max() + 1)
    wanted = np.zeros(of.max() + 1, bool)
    wanted[of[near]] = True
    wanted &= (count > 1) & (count <= MOST_FACES)
    some = np.flatnonzero(wanted[face_of])
    order = some[np.argsort(face_of[some], kind="stable")]
    parts = np.split(order, np.flatnonzero(np.diff(face_of[order])) + 1) if len(order) else []
    alike: dict[tuple, list[tuple[int, np.ndarray]]] = {}
    for faces in parts[:MOST_LEAVES]:
        first = int(ends[faces].min())
        shape = ends[faces] - first
        alike.setdefault((shape.max() + 1, shape.tobytes()), []).append((first, faces))
    for (posts, _), found in alike.items():
        firsts = np.array([first for first, _ in found])
        yield firsts[:, None] + np.arange(posts), np.stack([faces for _, faces in found])


def _set_in(
    finer: Rounded, each: np.ndarray, colour: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Finer leaves in the place of plain ones (n, k, 3) of colours (n, m, 3): posts, faces, colours
    of faces. What is not green, as a petal, has no rib.
    """
    n, k = len(each), len(finer.weights)
    places = np.einsum("kv,nvc->nkc", finer.weights, each)
    mean = colour.mean((0, 1))
    green = mean[1] > mean[0] and mean[1] > mean[2]
    upto = len(finer.faces) if green else finer.ribs
    faces = finer.faces[None, :upto] + k * np.arange(n)[:, None, None]
    pale = np.where(np.arange(upto) < finer.ribs, 1.0, PALE)
    tone = colour.mean(1)[:, None] * pale[None, :, None]
    return places.reshape(-1, 3), faces.reshape(-1, 3), tone.reshape(-1, 3)
