"""Solids of a metre, for blocking out and for garden and house: sized by the three sizes of a
piece, coloured by its tint.
"""

import numpy as np

from .draw import add_cards, empty_sheet
from .kind import Kind, KindShape, kinds
from .looks import charred, snowed
from .mesh import Mesh, far_card

COLOUR = (0.42, 0.4, 0.37)  # pale plaster, which takes any tint
ALWAYS_M = 1e6  # up to which solids are drawn whole: a card could not be stretched three ways
BELOW_M = 0.25  # their walls go on into the ground, as it is never level
SLAB_M = 0.2  # thickness of a slab, half of it above its foot
TREADS = 6
ROUND = 32

Corner = tuple[float, float, float]


def _faces(polygons: list[list[Corner]], smooth: np.ndarray | None = None) -> Mesh:
    """Flat polygons, each counted round as seen from outside."""
    places: list[np.ndarray] = []
    normals: list[np.ndarray] = []
    faces: list[tuple[int, int, int]] = []
    for polygon in polygons:
        c = np.array(polygon, float)
        n = np.cross(c[1] - c[0], c[2] - c[0])
        at = len(places)
        places += list(c)
        normals += [n / np.linalg.norm(n)] * len(c)
        faces += [(at, at + k, at + k + 1) for k in range(1, len(c) - 1)]
    told = np.array(normals) if smooth is None else smooth
    colour = np.broadcast_to(COLOUR, (len(places), 3))
    return Mesh.of(np.array(places), np.array(faces), colour, told)


def prism(outline: list[tuple[float, float]], low: float, high: float) -> Mesh:
    """An outline (x, y), counted against the clock, upright between two heights."""
    n = len(outline)
    sides: list[list[Corner]] = []
    for k, (x0, y0) in enumerate(outline):
        x1, y1 = outline[(k + 1) % n]
        sides.append([(x0, y0, low), (x1, y1, low), (x1, y1, high), (x0, y0, high)])
    top: list[Corner] = [(x, y, high) for x, y in outline]
    under: list[Corner] = [(x, y, low) for x, y in reversed(outline)]
    return _faces([*sides, top, under])


def swept(section: list[tuple[float, float]]) -> Mesh:
    """An outline (y, z), counted against the clock as seen from the east, from x = -1/2 to 1/2; all
    of it is seen from its first corner.
    """
    n = len(section)
    sides: list[list[Corner]] = []
    for k, (y0, z0) in enumerate(section):
        y1, z1 = section[(k + 1) % n]
        sides.append([(0.5, y0, z0), (-0.5, y0, z0), (-0.5, y1, z1), (0.5, y1, z1)])
    east: list[Corner] = [(0.5, y, z) for y, z in section]
    west: list[Corner] = [(-0.5, y, z) for y, z in (section[0], *section[:0:-1])]
    return _faces([*sides, east, west])


SQUARE = [(-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)]


def _block() -> Mesh:
    return prism(SQUARE, -BELOW_M, 1.0)


def _slab() -> Mesh:
    return prism(SQUARE, -SLAB_M / 2, SLAB_M / 2)


def _column() -> Mesh:
    turn = np.arange(ROUND) * 2 * np.pi / ROUND
    shaft = prism([(0.5 * np.cos(a), 0.5 * np.sin(a)) for a in turn], -BELOW_M, 1.0)
    out = shaft.positions * (2, 2, 0)
    upright = np.abs(shaft.normals[:, 2:]) < 0.5
    shaft.normals = np.where(upright, out, shaft.normals).astype(np.float32)
    return shaft


def _ramp() -> Mesh:
    return swept([(-0.5, -BELOW_M), (0.5, -BELOW_M), (0.5, 1.0), (-0.5, 0.0)])


def _steps() -> Mesh:
    rise = []
    for k in range(TREADS):
        y, z = -0.5 + k / TREADS, (k + 1) / TREADS
        rise += [(y + 1 / TREADS, z), (y, z)]
    return swept([(0.5, -BELOW_M), *_climb(rise), (-0.5, -BELOW_M)])


def _climb(rise: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """From the uppermost tread down to the foot."""
    out = []
    for k in range(len(rise) - 2, -1, -2):
        out += rise[k : k + 2]
    return out


def _gable() -> Mesh:
    return swept([(-0.5, 0.0), (0.5, 0.0), (0.0, 1.0)])


def _hip() -> Mesh:
    eaves: list[Corner] = [(x, y, 0.0) for x, y in SQUARE]
    west, east = (-0.22, 0.0, 1.0), (0.22, 0.0, 1.0)
    a, b, c, d = eaves
    return _faces(
        [[a, b, east, west], [b, c, east], [c, d, west, east], [d, a, west], [d, c, b, a]]
    )


def _sheet() -> Mesh:
    return prism([(-0.5, -0.01), (0.5, -0.01), (0.5, 0.01), (-0.5, 0.01)], -BELOW_M, 1.0)


FEET = tuple((x, y, 0.24) for x in (-0.33, 0.0, 0.33) for y in (-0.33, 0.0, 0.33))
LINE = tuple((x, 0.0, 0.05) for x in np.linspace(-0.45, 0.45, 7))


def solid(name: str, label: str, build, tags: str, height: float = 1.0, feet=FEET) -> None:
    """Registers a solid; `build()` gives its mesh, a metre wide and deep."""

    def make(look: str) -> KindShape:
        mesh = build()
        if look == "snow":
            mesh = snowed(mesh, 0.9, 0.25)
        elif look == "burnt":
            mesh = charred(mesh)
        sheet = empty_sheet()
        wide, top = 2 * 0.72, float(mesh.positions[:, 2].max()) * 1.02
        add_cards(sheet, [mesh], wide, top)
        return KindShape([[mesh, mesh, far_card(0, wide, top)]], sheet, (ALWAYS_M, 2 * ALWAYS_M))

    kinds[name] = Kind(
        name,
        label,
        "solid",
        height,
        0.5,
        1.0,
        COLOUR,
        range(1),
        make,
        ("summer", "snow", "burnt"),
        tags=f"solid blocking {tags}",
        feet=feet,
    )


solid("block", "Block, 1 m", _block, "box cube wall house")
solid("slab", "Slab, 1 m", _slab, "floor terrace paving", 0.1)
solid("column", "Column, 1 m", _column, "cylinder post pillar")
solid("ramp", "Ramp, 1 m", _ramp, "wedge slope")
solid("steps", "Steps, 1 m", _steps, "stair")
solid("gable-roof", "Gable roof, 1 m", _gable, "house roof")
solid("hip-roof", "Hip roof, 1 m", _hip, "house roof")
solid("board", "Board, 1 m", _sheet, "plane panel screen hoarding", feet=LINE)
