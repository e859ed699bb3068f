"""A kind of as many variants as a kind's file may hold."""

from sow.core.cabinet.kind import Kind, KindShape, kinds

MANY = 32


def shape(look: str) -> KindShape:
    """The toy cone again and again."""
    cone = kinds["toy-cone"].shape(look)
    return KindShape([cone.levels[0] for _ in range(MANY)], cone.sheet, cone.far_m)


kinds["toy-many"] = Kind(
    "toy-many",
    "Toy many",
    "toy-coral",
    1.0,
    0.4,
    0.2,
    (0.6, 0.2, 0.25),
    range(MANY),
    shape,
    ("summer",),
)
