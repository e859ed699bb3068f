"""Kinds bent along an arc, as a wall round a court: what is long is cut across, so that it follows
the arc smoothly, and each slice is carried to its place there.
"""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from .feet import stretched
from .kind import MARK, Kind, KindShape
from .mesh import Mesh, Part

SLICE_DEG = 6.0  # of the arc, between cuts
LEAST_DEG = 0.1  # less is straight


@dataclass(frozen=True)
class Arc:
    """A bend by `degrees` (to the left of its length where positive) over the length from `low` to
    `high` (m) along the axis 0 (east) or 1 (north).
    """

    degrees: float
    axis: int
    low: float
    high: float

    @property
    def radius_m(self) -> float:
        """Of the arc that the middle line is laid along; its sign tells to which hand."""
        return (self.high - self.low) / np.deg2rad(self.degrees)

    def cuts(self) -> np.ndarray:
        """Where along its length it is cut, m."""
        count = max(2, int(np.ceil(abs(self.degrees) / SLICE_DEG)) + 1)
        return np.linspace(self.low, self.high, count)[1:-1]

    def carried(self, places: np.ndarray) -> np.ndarray:
        """Places (n, 3) laid along the arc; the middle of the length stays where it is."""
        along = places[:, self.axis] - (self.low + self.high) / 2
        aside = places[:, 1 - self.axis] * self._hand
        angle = along / self.radius_m
        out = places.copy()
        reach = self.radius_m - aside
        out[:, self.axis] = reach * np.sin(angle) + (self.low + self.high) / 2
        out[:, 1 - self.axis] = (self.radius_m - reach * np.cos(angle)) * self._hand
        return out

    def turned(self, vectors: np.ndarray, places: np.ndarray) -> np.ndarray:
        """Vectors (n, 3) at these unbent places, turned with them."""
        angle = (places[:, self.axis] - (self.low + self.high) / 2) / self.radius_m
        along = vectors[:, self.axis]
        aside = vectors[:, 1 - self.axis] * self._hand
        out = vectors.copy()
        out[:, self.axis] = along * np.cos(angle) - aside * np.sin(angle)
        out[:, 1 - self.axis] = (along * np.sin(angle) + aside * np.cos(angle)) * self._hand
        return out

    @property
    def _hand(self) -> float:
        """The left of an axis that runs north is west."""
        return 1.0 if self.axis == 0 else -1.0


def sliced(mesh: Mesh, axis: int, at: float) -> Mesh:
    """A mesh with every face that crosses the plane at `at` (m) along an axis cut in three."""
    side = np.sign(mesh.positions[:, axis] - np.float32(at))
    sides = side[mesh.faces]
    crossing = (sides.min(1) < 0) & (sides.max(1) > 0)
    if not crossing.any():
        return mesh
    faces, told = mesh.faces[crossing].astype(np.int64), sides[crossing]
    # the corner that is alone on its side comes first; one on the plane counts to the others
    alone = np.where((told > 0).sum(1) == 1, np.argmax(told, 1), np.argmin(told, 1))
    order = (alone[:, None] + np.arange(3)) % 3
    a, b, c = np.take_along_axis(faces, order, 1).T
    columns = {k: v for k, v in vars(mesh).items() if v is not None and k != "faces"}

    def between(p: np.ndarray, q: np.ndarray) -> dict[str, np.ndarray]:
        # from the lower end, so that faces which share an edge are cut at the same place
        p, q = np.where(side[p] < side[q], (p, q), (q, p))
        from_p, to_q = mesh.positions[p, axis], mesh.positions[q, axis]
        t = ((at - from_p) / (to_q - from_p)).astype(np.float32)
        mix = lambda v: v[p] + (v[q] - v[p]) * (t if v.ndim == 1 else t[:, None])
        return {k: v[p] if k == "surface" else mix(v) for k, v in columns.items()}

    first, second = between(a, b), between(a, c)
    count, new = len(mesh.positions), len(a)
    d, e = count + np.arange(new), count + new + np.arange(new)
    cut = np.concatenate([np.stack(f, 1) for f in ((a, d, e), (d, b, c), (d, c, e))])
    joined = {k: np.concatenate([v, first[k], second[k]]) for k, v in columns.items()}
    every = np.concatenate([mesh.faces[~crossing], cut]).astype(np.uint32)
    return replace(mesh, faces=every, **joined)


def bent_mesh(mesh: Mesh, arc: Arc, slices: bool = True) -> Mesh:
    """A mesh laid along an arc."""
    for at in arc.cuts() if slices else ():
        mesh = sliced(mesh, arc.axis, float(at))
    return replace(
        mesh,
        positions=arc.carried(mesh.positions).astype(np.float32),
        normals=arc.turned(mesh.normals, mesh.positions).astype(np.float32),
    )


def _sized(mesh: Mesh, sizes: np.ndarray) -> Mesh:
    normals = mesh.normals / sizes
    length = np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-9)
    return replace(
        mesh,
        positions=(mesh.positions * sizes).astype(np.float32),
        normals=(normals / length).astype(np.float32),
    )


def bent_name(kind: str, degrees: float, wide: float, deep: float, tall: float) -> str:
    """The name of a kind that is bent by so many degrees, once it has its three sizes (%)."""
    if abs(degrees) < LEAST_DEG:
        return kind
    return f"{kind}{MARK}{degrees:g}x{wide:g}x{deep:g}x{tall:g}"


def told_bend(told: str) -> tuple[float, tuple[float, float, float]]:
    """Degrees and three sizes (%) of the part of a name behind MARK. Raises ValueError."""
    degrees, wide, deep, tall = (float(v) for v in told.split("x"))
    return degrees, (wide, deep, tall)


@lru_cache(32)
def bent_kind(kind: Kind, degrees: float, percent: tuple[float, float, float]) -> Kind:
    """A kind with its three sizes (%), bent along its longer side."""
    sizes = np.array(percent, np.float32) / 100
    nearest = [row[0].positions for row in kind.shape().levels]
    places = np.concatenate(nearest) * sizes
    low, high = places.min(0), places.max(0)
    axis = 0 if high[0] - low[0] >= high[1] - low[1] else 1
    arc = Arc(degrees, axis, float(low[axis]), float(high[axis]))
    laid = lambda mesh, slices=True: bent_mesh(_sized(mesh, sizes), arc, slices)

    @lru_cache(4)
    def make(look: str) -> KindShape:
        shape = kind.shape(look)
        levels = [
            # the last of several is a card that faces the eye
            [laid(m) if not n or n < len(row) - 1 else _sized(m, sizes) for n, m in enumerate(row)]
            for row in shape.levels
        ]
        return KindShape(levels, shape.sheet, shape.far_m, tuple(map(laid, shape.casts)))

    def parts(look: str, variant: int, share: float) -> list[Part]:
        assert kind.nearest is not None
        made = kind.nearest(look, variant, share)
        return [replace(part, mesh=laid(part.mesh, False)) for part in made]

    reach = float(np.linalg.norm(arc.carried(places)[:, :2], axis=1).max())
    return replace(
        kind,
        name=bent_name(kind.name, degrees, *percent),
        height_m=float(kind.height_m * sizes[2]),
        reach_m=reach,
        make=make,
        feet=bent_feet(kind, arc, sizes),
        nearest=parts if kind.nearest else None,
    )


def bent_feet(kind: Kind, arc: Arc, sizes: np.ndarray) -> tuple[tuple[float, float, float], ...]:
    """The discs that nothing else may stand in, along the arc."""
    feet = stretched(kind.footing(), float(sizes[0]), float(sizes[1]))
    laid = arc.carried(np.column_stack([feet[:, :2], np.zeros(len(feet))]))
    return tuple((float(x), float(y), float(r)) for (x, y, _), r in zip(laid, feet[:, 2]))
