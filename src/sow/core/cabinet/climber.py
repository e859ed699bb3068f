"""Creepers: leaves that lie on a surface and the stems that carry them up it. East is across the
surface, up is up it, and it faces south.
"""

import numpy as np

from .draw import add_cards, empty_sheet
from .kind import Kind, KindShape, kinds
from .leaf import LEAF_BOX, lay, sprig
from .looks import LOOKS, held, leaf_colour
from .mesh import Mesh, cards, far_card, tube

BARE_STEM = (0.1, 0.08, 0.06)


def grow(seed, wide, tall, stems, leaf_m, thick, share=1.0):
    """Stems that wander upwards from the foot and fork, each set with sprays that lie flat and
    overlap like tiles.
    """
    rng = np.random.default_rng(seed)
    parts = []
    leaves = []
    heads = [(rng.uniform(-0.3, 0.3) * wide, -0.05, rng.normal(0, 0.25)) for _ in range(stems)]
    while heads:
        x, z, a = heads.pop()
        path = [(x, 0.0, z)]
        while z < tall * rng.uniform(0.75, 1.05) and abs(x) < wide / 2:
            a = 0.8 * a + rng.normal(0, 0.28)
            x, z = x + np.sin(a) * 0.12, z + max(np.cos(a), 0.2) * 0.12
            path.append((x, -0.015, z))
            if len(heads) < 9 and rng.uniform() < 0.09:
                heads.append((x, z, a + rng.choice((-1, 1)) * rng.uniform(0.5, 1.1)))
            for _ in range(2):
                draw = rng.uniform()
                tone = rng.uniform(0.7, 1.2)
                w = rng.normal(0, 0.6)
                p = np.array(
                    (x + rng.normal(0, 0.1), -thick * rng.uniform(0.15, 1), z + rng.normal(0, 0.08))
                )
                if draw > share:
                    continue
                s = leaf_m / np.sqrt(share) * rng.uniform(0.8, 1.2)
                up = np.array((np.sin(w), -0.35, np.cos(w)))
                right = np.array((np.cos(w), 0, -np.sin(w)))
                leaves.append(
                    (p, right * s / 2, up * s / 2, np.full(3, tone), (0.2 * np.sin(w), -0.85, 0.45))
                )
            if len(path) > 60:
                break
        if len(path) > 2 and share == 1:
            parts.append(
                tube(
                    np.array(path),
                    np.linspace(0.016, 0.004, len(path)),
                    4,
                    BARE_STEM,
                    (-1, -1, -1, -1),
                )
            )
    centre, right, up, tone, normal = (np.array([l[i] for l in leaves]) for i in range(5))
    return Mesh.joined([*parts, cards(centre, right, up, LEAF_BOX, tone, normal)])


def creeper(name, label, wide, tall, colour, autumn, evergreen, leaf, tags, **form):
    """Registers a creeper, `wide` and `tall` in m, that grows up a wall."""

    def make(look):
        sheet = lay(
            empty_sheet(),
            sprig(
                leaf_colour(colour, look, autumn, evergreen), 9, **leaf, kept=held(look, evergreen)
            ),
        )
        near = [grow(13 * v + 4, wide, tall, **form) for v in range(3)]
        mid = [grow(13 * v + 4, wide, tall, share=0.35, **form) for v in range(3)]
        top = max(m.positions[:, 2].max() for m in near) * 1.02
        add_cards(sheet, near, wide * 1.3, top)
        return KindShape(
            [[near[v], mid[v], far_card(v, wide * 1.3, top)] for v in range(3)], sheet, (14, 50)
        )

    means = lambda look: tuple(0.6 * c for c in leaf_colour(colour, look, autumn, evergreen))
    kinds[name] = Kind(
        name,
        label,
        "climber",
        tall,
        wide / 2,
        0.2,
        means("summer"),
        range(3),
        make,
        LOOKS,
        means,
        tags,
    )


creeper(
    "ivy",
    "Ivy",
    1.6,
    2.2,
    (0.022, 0.042, 0.013),
    None,
    True,
    {"leaves": 18, "length": 40, "breadth": 40},
    "wall climber evergreen",
    stems=4,
    leaf_m=0.34,
    thick=0.12,
)
creeper(
    "vine",
    "Wild vine",
    2.2,
    2.6,
    (0.05, 0.085, 0.02),
    (0.32, 0.03, 0.015),
    False,
    {"leaves": 16, "length": 52, "breadth": 48},
    "wall climber red autumn",
    stems=3,
    leaf_m=0.44,
    thick=0.16,
)
