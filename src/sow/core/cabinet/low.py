"""Registering a low plant: its levels, its far card and its looks."""

from dataclasses import replace

import numpy as np

from .draw import add_cards, empty_sheet
from .kind import Kind, KindShape, kinds
from .looks import LOOKS, herb
from .mesh import Mesh, far_card


def low_kind(
    name,
    label,
    family,
    height,
    reach,
    cover,
    colour,
    build,
    far,
    sheet=None,
    variants=3,
    tags="",
    dress=herb,
    mean=None,
    nearest=None,
    nearest_m=14.0,
):
    """`build(seed, share)` gives a mesh with about that share of its parts; `dress(mesh, look)`
    gives it a look. `nearest(seed)` gives its parts leaf by leaf, for stills that see it nearer
    than `nearest_m`.
    """

    def parts(look, variant, share=1.0):
        made = nearest(31 * variant + 3)
        return [replace(part, mesh=dress(part.mesh, look)) for part in made]

    def make(look):
        page = sheet(look) if sheet else empty_sheet()
        build_ = lambda seed, share: dress(build(seed, share), look)
        near = [build_(31 * v + 3, 1.0) for v in range(variants)]
        width = 2 * max(np.abs(m.positions[:, :2]).max() for m in near) * 1.02
        top = max(m.positions[:, 2].max() for m in near) * 1.02
        add_cards(page, near, width, top)
        return KindShape(
            [[near[v], build_(31 * v + 3, 0.4), far_card(v, width, top)] for v in range(variants)],
            page,
            far,
        )

    def means(look):
        one = Mesh.of(np.zeros((1, 3)), np.zeros((0, 3)), colour, np.array([[0, 0, 1.0]]))
        return tuple(float(c) for c in dress(one, look).colour[0])

    kinds[name] = Kind(
        name,
        label,
        family,
        height,
        reach,
        cover,
        colour,
        range(variants),
        make,
        LOOKS,
        mean or means,
        tags,
        nearest=parts if nearest else None,
        nearest_m=nearest_m if nearest else 0.0,
    )
