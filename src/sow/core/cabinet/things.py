"""Registering a thing made by hand or fallen: its levels, its far card and its looks."""

import numpy as np

from .draw import add_cards
from .kind import Kind, KindShape, kinds
from .looks import charred, snowed
from .mesh import far_card
from .stuff import stuff_sheet


def thing(
    name,
    label,
    height,
    reach,
    build,
    colour,
    variants=1,
    far=(30, 110),
    family="thing",
    tags="",
    cover=None,
    sheet=stuff_sheet,
    feet=(),
):
    """`build(share[, seed])` gives the mesh; with several variants it is given a seed as well."""

    def make(look):
        def one(v, share):
            mesh = build(share, 7 * v + 2) if variants > 1 else build(share)
            return (
                snowed(mesh, 0.9, 0.25)
                if look == "snow"
                else charred(mesh)
                if look == "burnt"
                else mesh
            )

        near, page = [one(v, 1) for v in range(variants)], sheet()
        width = 2 * max(np.abs(m.positions[:, :2]).max() for m in near) * 1.02
        top = max(m.positions[:, 2].max() for m in near) * 1.02
        add_cards(page, near, width, top)
        return KindShape(
            [[near[v], one(v, 0.4), far_card(v, width, top)] for v in range(variants)], page, far
        )

    kinds[name] = Kind(
        name,
        label,
        family,
        height,
        reach,
        cover or 3 * reach * reach,
        colour,
        range(variants),
        make,
        ("summer", "snow", "burnt"),
        tags=tags,
        feet=tuple(feet),
    )
