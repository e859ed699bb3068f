"""What kinds measure in nature, for plants of the open upland of a temperate land, beside what was
grown. Ranges from Stace 2019 (New Flora of the British Isles, 4th edition) unless told otherwise.
"""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

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
    a leaflet where it is cut into some); and where they are from.
    """

    height: Range
    leaf_long: Range | None = None
    leaf_broad: Range | None = None
    stem: Range | None = None
    source: str = "Stace 2019"


EAST_AFRICA = "Flora of Tropical East Africa"

# stems of young and open-grown trees: Matthews & Mackie 2006 (Forest Mensuration), by their height
MEASURES: dict[str, Measures] = {
    "birch": Measures((6, 12), (0.025, 0.055), (0.02, 0.045), (0.09, 0.2)),
    "rowan": Measures((4, 10), (0.1, 0.2), None, (0.06, 0.2)),
    "thorn": Measures((2, 8), (0.015, 0.05), (0.015, 0.05), (0.06, 0.25)),
    "oak": Measures((8, 20), (0.07, 0.13), (0.04, 0.08), (0.25, 0.7)),
    "alder": Measures((6, 18), (0.03, 0.09), (0.03, 0.08), (0.1, 0.35)),
    "willow": Measures((2, 6), (0.02, 0.09), (0.01, 0.035), (0.03, 0.15)),
    "pine": Measures((10, 25), (0.03, 0.08), None, (0.2, 0.6)),
    "spruce": Measures((10, 30), (0.01, 0.025), None, (0.2, 0.6)),
    "juniper": Measures((1, 5), (0.008, 0.02), None, None),
    "snag": Measures((4, 15), None, None, (0.15, 0.5), "as the trees that it was"),
    "heather": Measures((0.15, 0.6)),
    "gorse": Measures((0.6, 2.5)),
    "bilberry": Measures((0.1, 0.6)),
    "bramble": Measures((0.5, 2.5)),
    "bracken": Measures((0.4, 1.8)),
    "male-fern": Measures((0.4, 1.3)),
    "turf-grass": Measures((0.05, 0.25)),
    "moor-grass": Measures((0.3, 1.2)),
    "cotton-grass": Measures((0.2, 0.6)),
    "meadow-grass": Measures((0.4, 1.2)),
    "rush": Measures((0.4, 1.2)),
    "sedge": Measures((0.3, 1.0)),
    "reed": Measures((1.5, 3.5)),
    "fescue": Measures((0.15, 0.5)),
    "harebell": Measures((0.15, 0.5)),
    "tormentil": Measures((0.05, 0.3)),
    "buttercup": Measures((0.3, 1.0)),
    "oxeye": Measures((0.2, 0.75)),
    "clover": Measures((0.1, 0.6)),
    "foxglove": Measures((0.5, 2.0)),
    "meadowsweet": Measures((0.6, 1.2)),
    "saxifrage": Measures((0.03, 0.15)),
    "beech": Measures((12, 30), (0.04, 0.09), (0.03, 0.06), (0.3, 0.8)),
    "beech-young": Measures((4, 9), (0.04, 0.09), (0.03, 0.06), (0.06, 0.15)),
    "ash": Measures((10, 25), (0.2, 0.35), None, (0.25, 0.6)),
    "hazel": Measures((3, 6), (0.05, 0.12), (0.05, 0.1), (0.03, 0.15)),
    "aspen": Measures((8, 20), (0.025, 0.06), (0.025, 0.06), (0.12, 0.4)),
    "elder": Measures((2, 6), (0.1, 0.25), None, (0.04, 0.2)),
    "oak-sapling": Measures((1, 4), (0.07, 0.13), (0.04, 0.08), (0.015, 0.06)),
    "oak-young": Measures((5, 10), (0.07, 0.13), (0.04, 0.08), (0.1, 0.25)),
    "oak-old": Measures((12, 22), (0.07, 0.13), (0.04, 0.08), (0.9, 2.0)),
    "oak-ivied": Measures((8, 20), (0.07, 0.13), (0.04, 0.08), (0.4, 0.9)),
    # in a stand: Hamilton & Christie 1971 (Forest Management Tables), middling yield
    "oak-in-stand": Measures((15, 24), (0.07, 0.13), (0.04, 0.08), (0.3, 0.55)),
    "beech-in-stand": Measures((18, 28), (0.05, 0.1), (0.03, 0.07), (0.28, 0.5)),
    "pollard": Measures((5, 12), (0.05, 0.1), (0.008, 0.025), (0.3, 1.0)),
    "lime": Measures((8, 20), (0.03, 0.08), (0.03, 0.08), (0.2, 0.5)),
    "maple": Measures((5, 12), (0.04, 0.1), (0.05, 0.11), (0.15, 0.4)),
    "apple": Measures((3, 8), (0.04, 0.1), (0.025, 0.06), (0.12, 0.35)),
    "cherry": Measures((4, 12), (0.06, 0.12), (0.03, 0.06), (0.1, 0.35)),
    "poplar": Measures((12, 30), (0.04, 0.1), (0.04, 0.1), (0.3, 0.8)),
    "umbrella-thorn": Measures((3, 12), (0.015, 0.04), None, (0.12, 0.5), EAST_AFRICA),
    "tamarisk": Measures((2, 6), None, None, (0.04, 0.25), "Zohary 1973"),
    "olive": Measures((3, 10), (0.03, 0.08), (0.007, 0.02), (0.2, 0.8), "Zohary 1973"),
    "saxaul": Measures((1.5, 6), None, None, (0.06, 0.4), "Zohary 1973"),
    "date-palm": Measures((6, 20), None, None, (0.3, 0.6), "Dransfield and others 2008"),
    "fan-palm": Measures((2, 8), None, None, (0.2, 0.5), "Dransfield and others 2008"),
    "cypress": Measures((8, 25), None, None, (0.15, 0.6)),
    "yew": Measures((4, 15), (0.015, 0.03), None, (0.15, 1.0)),
    "bluebell": Measures((0.2, 0.5)),
    "poppy": Measures((0.25, 0.7)),
    "thistle": Measures((0.5, 1.5)),
    "nettle": Measures((0.5, 1.5)),
    "dandelion": Measures((0.05, 0.4)),
    "plantain": Measures((0.1, 0.5)),
    "primrose": Measures((0.06, 0.2)),
    "cow-parsley": Measures((0.6, 1.5)),
    "iris": Measures((0.5, 1.5)),
    "reed-mace": Measures((1.5, 2.8)),
    "seagrass": Measures((0.2, 1.0)),
    "bladder-wrack": Measures((0.15, 1.0)),
    "marram": Measures((0.5, 1.2)),
    "water-lily": Measures((0.02, 0.15)),
    "box": Measures((0.3, 5), (0.012, 0.03), (0.006, 0.015)),
    "rose": Measures((0.5, 2.0), (0.06, 0.15)),
    "lavender": Measures((0.3, 0.9)),
}

_BROADLEAF = (
    "oak oak-young oak-old oak-ivied oak-in-stand beech beech-young beech-in-stand "
    "ash rowan alder hazel elder thorn willow lime"
)
_OPEN = "birch aspen maple apple cherry pollard"
_DRY = "umbrella-thorn tamarisk"
# area of one side of all leaves over the ground that a crown hides: Asner, Scurlock and Hicke 2003,
# Global synthesis of leaf area index observations
LEAF_AREA: dict[str, Range] = {
    **dict.fromkeys(_BROADLEAF.split(), (2.4, 7.0)),
    **dict.fromkeys(_OPEN.split(), (2.0, 5.0)),
    **dict.fromkeys(_DRY.split(), (0.5, 1.5)),
    "pine": (2.0, 5.0),
    "spruce": (3.5, 9.0),
    "olive": (1.2, 3.5),
}


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
    if kind.name in LEAF_AREA:
        index = leaf_area_index(parts[-1].mesh)
        out.append(Measured("leaf area index", index, LEAF_AREA[kind.name]))
    return out
