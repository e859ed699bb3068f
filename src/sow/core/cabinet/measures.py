"""What kinds measure in nature, for plants of the open upland of a temperate land, beside what was
grown.
"""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from ..document.data import Table, built, taken_as
from .kind import Kind
from .mesh import Mesh, Part

Range = tuple[float, float]
WITHIN = 0.15  # by which a measure may lie outside its range
BREAST_M = 1.3
BAND_M = 0.03  # about it, of which posts are taken
SIDE_BY_SIDE_M = 0.026


@dataclass(frozen=True)
class Measures:
    """Ranges in m: height, diameter of the stem at breast height, length and breadth of a leaf (of
    a leaflet where it is cut into some); leaf area index of a crown; and where they are from.
    """

    height: Range
    leaf_long: Range | None = None
    leaf_broad: Range | None = None
    stem: Range | None = None
    leaf_area: Range | None = None
    source: str = "Stace 2019"


MEASURES: dict[str, Measures] = {}


@taken_as("measure")
def take(name: str, table: Table) -> None:
    """What a kind measures, from a data file (`measured.toml`)."""
    MEASURES[name] = built(Measures, table, {})


@dataclass(frozen=True)
class Measured:
    """One measure of a kind: what it is, what was grown in m, and its range in nature."""

    name: str
    grown: float
    range: Range

    @property
    def off(self) -> float:
        """How far it lies outside its range, as a part of the nearer end; 0 within."""
        low, high = self.range
        return max(0.0, (low - self.grown) / low, (self.grown - high) / high)


def stem_m(mesh: Mesh) -> float:
    """Diameter in m of the thickest stem at breast height (of low trees at a seventh of their
    height, below their branches), from the posts of its bark: those of one stem lie side by side.
    """
    z = mesh.positions[:, 2]
    over = min(BREAST_M, float(z.max()) / 7)
    ring = mesh.positions[np.abs(z - over) < BAND_M][:, :2]
    if not len(ring):
        return 0.0
    pairs = cKDTree(ring).query_pairs(SIDE_BY_SIDE_M, output_type="ndarray")
    joined = coo_matrix((np.ones(len(pairs)), pairs.T), (len(ring), len(ring)))
    count, stem = connected_components(joined, directed=False)
    wide = [float(np.ptp(ring[stem == k], axis=0).mean()) for k in range(count)]
    return max(wide)


def leaf_m(mesh: Mesh, posts: int) -> tuple[float, float]:
    """Mean length and breadth in m of leaves that have so many posts each, the first of them at
    their foot.
    """
    each = mesh.positions.reshape(-1, posts, 3).astype(np.float64)
    from_foot = np.linalg.norm(each - each[:, :1], axis=2)
    tip = from_foot.argmax(1)
    ends = each[np.arange(len(each)), tip]
    way = ends - each[:, 0]
    long = np.linalg.norm(way, axis=1)
    way /= np.maximum(long, 1e-9)[:, None]
    off = each - each[:, :1]
    off -= (off * way[:, None]).sum(2, keepdims=True) * way[:, None]
    return float(long.mean()), float(2 * np.linalg.norm(off, axis=2).max(1).mean())


def leaf_area_index(leaves: Mesh) -> float:
    """Area of one side of leaves over that of the circle that holds 95 % of their posts."""
    at = leaves.positions[leaves.faces]
    faces = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    reach = float(np.quantile(np.hypot(*leaves.positions[:, :2].T), 0.95))
    return float(np.linalg.norm(faces, axis=1).sum() / 2 / (np.pi * reach**2))


def measured(kind: Kind, parts: list[Part] | None = None) -> list[Measured]:
    """The stated measures of a kind beside what its first variant grew to, whose `parts` are given
    where they are there already.
    """
    stated = MEASURES.get(kind.name)
    if stated is None or kind.nearest is None:
        return []
    parts = parts or kind.parts(0)
    top = max(float(part.mesh.positions[:, 2].max()) for part in parts)
    out = [Measured("height", top, stated.height)]
    if stated.stem:
        out.append(Measured("stem", stem_m(parts[0].mesh), stated.stem))
    if stated.leaf_long and parts[-1].unit:
        long, broad = leaf_m(parts[-1].mesh, parts[-1].unit)
        out.append(Measured("leaf's length", long, stated.leaf_long))
        if stated.leaf_broad:
            out.append(Measured("leaf's breadth", broad, stated.leaf_broad))
    if stated.leaf_area:
        index = leaf_area_index(parts[-1].mesh)
        out.append(Measured("leaf area index", index, stated.leaf_area))
    return out
