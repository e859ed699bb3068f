"""A family of kinds: corals, and one of them."""

import numpy as np

from sow.core.cabinet.family import Family, add
from sow.core.cabinet.kind import Kind, KindShape, kinds
from sow.core.cabinet.mesh import Mesh

add(Family("toy-coral", "Toy corals", symbol="dot", footing=0.5, dense_per_100_m2=3))
COLOUR = (0.6, 0.2, 0.25)


def shape(look: str) -> KindShape:
    """A cone of four sides."""
    corners = np.array([(-0.3, -0.3, 0), (0.3, -0.3, 0), (0.3, 0.3, 0), (-0.3, 0.3, 0), (0, 0, 1)])
    sides = [(0, 1, 4), (1, 2, 4), (2, 3, 4), (3, 0, 4)]
    mesh = Mesh.of(corners.astype(float), sides, COLOUR)
    return KindShape([[mesh, mesh]], np.full((512, 1024, 4), 255, np.uint8), (60.0,))


kinds["toy-cone"] = Kind(
    "toy-cone", "Toy cone", "toy-coral", 1.0, 0.4, 0.2, COLOUR, range(1), shape, ("summer",)
)
