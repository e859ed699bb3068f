"""Palms: an unbranched stem and a crown of fronds. Measures as in Dransfield and others 2008
(Genera Palmarum, 2nd edition).
"""

from dataclasses import replace

import numpy as np

from .draw import add_cards, empty_sheet
from .growth.barks import ridged
from .growth.bush import fronds
from .growth.foliage import Leaf, lobed, pinnate, pointed
from .growth.skin import Bark, finer, flared, tube
from .kind import Kind, KindShape, kinds, srgb_bytes
from .leaf import BARK_BOX, lay
from .looks import charred, snowed
from .mesh import Mesh, Part, far_card

SIZES = (1.0, 0.82, 1.12)
LEAF_LIGHT = 1.7  # a frond's own light beside that of a crown


def _stem(seed: int, height: float, radius: float) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    lean = rng.normal(0, 0.05, 2)
    t = np.linspace(0, 1, 9)[:, None]
    path = np.concatenate([lean * height * t**1.6, -0.15 + (height + 0.15) * t], 1)
    return path, radius * np.interp(t[:, 0], [0, 0.12, 0.9, 1], [1.2, 1, 0.9, 1.15])


def _crown(seed: int, number: int, long_m: float, pinna: Leaf, pairs: int, colour, top) -> Mesh:
    """Fronds of three ages: upright, spreading, hanging and dry."""
    straw = (0.24, 0.185, 0.1)
    parts: list[Mesh] = []
    for k, (share, rises, dry) in enumerate(
        ((0.3, 1.35, 0.0), (0.45, 0.8, 0.05), (0.25, 0.05, 0.5))
    ):
        some = max(3, int(number * share))
        parts += fronds(seed + k, some, long_m, rises, pinna, pairs, colour, straw, dry)
    return Mesh.joined(parts).moved(shift=top)


def _fewer(near: tuple[Leaf, int], view: tuple[Leaf, int], share: float) -> tuple[Leaf, int]:
    """Pinnae for a share of a palm's own, each as much broader; those of the view at last."""
    pinna, pairs = near
    kept = round(pairs * np.sqrt(share))
    if share == 1:
        return near
    if kept <= view[1]:
        return view
    broader = pairs / kept
    return replace(pinna, places=pinna.places * (broader, 1, broader)), kept


def palm(
    name: str,
    label: str,
    height: float,
    radius: float,
    number: int,
    long_m: float,
    near: tuple[Leaf, int],
    view: tuple[Leaf, int],
    colour: tuple[float, float, float],
    bark: Bark,
    tags: str,
) -> None:
    """Registers a palm of a height in m to its crown, with a stem of a radius in m and a number of
    fronds `long_m` long; `near` and `view` are their pinnae and how many pairs a frond has.
    """
    pale = tuple(LEAF_LIGHT * c for c in colour)

    def crown(variant: int, leaves: tuple[Leaf, int], tone, share: float = 1.0) -> Mesh:
        tall = height * SIZES[variant]
        path, _ = _stem(60 * variant + 1, tall, radius)
        count = max(6, int(number * share))
        return _crown(60 * variant + 1, count, long_m, *leaves, tone, path[-1])

    def level(variant: int, sides: int, share: float) -> Mesh:
        path, wide = _stem(60 * variant + 1, height * SIZES[variant], radius)
        trunk = tube(path, wide, sides, None)
        u0, v0, u1, v1 = BARK_BOX
        folded = np.abs((trunk.uv + 1) % 2 - 1)
        box = np.array((u0 + 0.004, v0 + 0.004)), np.array((u1 - u0 - 0.008, v1 - v0 - 0.008))
        trunk.uv = (box[0] + folded * box[1]).astype(np.float32)
        return Mesh.joined([trunk, crown(variant, view, colour, share)])

    def dressed(mesh: Mesh, look: str) -> Mesh:
        return (
            snowed(mesh, 0.6, 0.4) if look == "snow" else charred(mesh) if look == "burnt" else mesh
        )

    def make(look: str) -> KindShape:
        skin = bark.colour[::2, ::4][:384, :62]
        page = np.zeros((384, 62, 3))
        page[: len(skin), : skin.shape[1]] = skin
        page[len(skin) :] = skin.mean((0, 1))
        opaque = np.full((384, 62), 255, np.uint8)
        sheet = lay(empty_sheet(), None, np.dstack([srgb_bytes(page), opaque]))
        full = [dressed(level(v, 10, 0.55), look) for v in range(len(SIZES))]
        mid = [dressed(level(v, 5, 0.3), look) for v in range(len(SIZES))]
        width = 2 * max(np.abs(m.positions[:, :2]).max() for m in full) * 1.02
        top = max(m.positions[:, 2].max() for m in full) * 1.02
        add_cards(sheet, full, width, top)
        rows = [[full[v], mid[v], far_card(v, width, top)] for v in range(len(SIZES))]
        return KindShape(rows, sheet, (5 * height, 13 * height))

    def parts(look: str, variant: int, share: float = 1.0) -> list[Part]:
        coarse = 1 / np.sqrt(share)
        path, wide = finer(*_stem(60 * variant + 1, height * SIZES[variant], radius), 0.03 * coarse)
        skin = bark if share == 1 else replace(bark, deep_m=0.0)
        trunk = tube(path, flared(wide, path), max(6, int(84 / coarse)), skin)
        leaves = crown(variant, _fewer(near, view, share), pale)
        out = [Part(trunk, bark.colour), Part(leaves, None, 0.4, 0.45, True)]
        for part in out:
            part.mesh = dressed(part.mesh, look)
        return out

    kinds[name] = Kind(
        name,
        label,
        "tree",
        height + 0.45 * long_m,
        0.8 * long_m,
        1.4 * long_m * long_m,
        colour,
        range(len(SIZES)),
        make,
        ("summer", "snow", "burnt"),
        tags=tags,
        nearest=parts,
        nearest_m=24.0,
        thins=True,
    )


palm(
    "date-palm",
    "Date palm",
    7.5,
    0.2,
    64,
    2.9,
    (pointed(0.44, 0.04, 0.3, 0.3), 56),
    (pointed(0.5, 0.12, 0.3, 0.3), 9),
    (0.075, 0.09, 0.05),
    ridged((0.24, 0.185, 0.13), (0.07, 0.055, 0.04), 51, 0.0, 0.035),
    "palm wadi oasis dry",
)
palm(
    "fan-palm",
    "Fan palm",
    4.2,
    0.14,
    30,
    1.25,
    (pinnate(0.62, 0.42, 0.03, 5), 9),
    (lobed(0.62, 0.34, 3), 4),
    (0.06, 0.095, 0.03),
    ridged((0.2, 0.16, 0.12), (0.06, 0.05, 0.04), 52, 0.0, 0.03),
    "palm garden warm",
)
