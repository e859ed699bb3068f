"""Ground textures by recipe: tileable colour, height, normal, roughness and hollow shade.

Each recipe takes the number of its variant, which shifts its seeds and, as its own tones say, its
colours. Colour, height and roughness of one recipe come from the same fields, so that they agree.
"""

import numpy as np

from .kind import Ground, grounds, linear, srgb_bytes


def ground(
    name,
    label,
    tones=((1, 1, 1), (1.12, 1.02, 0.86), (0.8, 0.88, 0.92)),
    directed=False,
    grown=False,
    lies="",
):
    """Registers a recipe with a variant for each tone (linear multipliers of its colour)."""

    def keep(make):
        for v, tone in enumerate(tones):
            own = name if v == 0 else f"{name}-{v + 1}"
            grounds[own] = Ground(
                own,
                label if v == 0 else f"{label} {v + 1}",
                lambda v=v, tone=tone: _toned(make(1000 * v), tone),
                directed,
                name,
                grown,
                lies,
            )
        return make

    return keep


def _toned(maps, tone):
    colour, detail = maps
    if tuple(tone) == (1, 1, 1):
        return colour, detail
    return np.dstack(
        [
            srgb_bytes(np.clip(linear(colour[..., :3]) * np.asarray(tone, np.float32), 0, 1)),
            colour[..., 3],
        ]
    ), detail
