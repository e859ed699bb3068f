"""Ground that grows: turf, mats, heath, moss and their litter."""

import numpy as np

from .ground import ground
from .strew import blades, cloud, leaves, mottle, pack


@ground("turf", "Turf", grown=True)
def turf(v):
    """Short grass, seen from above."""
    colour, height = blades(
        11 + v,
        14000,
        19,
        [(0.13, 0.165, 0.04), (0.17, 0.185, 0.055), (0.1, 0.14, 0.03), (0.25, 0.22, 0.09)],
        (0.03, 0.035, 0.012),
    )
    return pack(mottle(colour, 12 + v), height, 0.035, 0.9)


@ground("mat-grass", "Mat grass", grown=True)
def mat_grass(v):
    """Coarse grass in mats."""
    colour, height = blades(
        21 + v,
        12000,
        34,
        [(0.33, 0.27, 0.12), (0.25, 0.215, 0.085), (0.18, 0.18, 0.06), (0.4, 0.33, 0.17)],
        (0.05, 0.045, 0.02),
    )
    return pack(mottle(colour, 22 + v), height, 0.045, 0.92)


@ground("heath", "Heath", grown=True)
def heath(v):
    """Low heath."""
    colour, height = blades(
        31 + v,
        16000,
        11,
        [
            (0.13, 0.095, 0.05),
            (0.17, 0.085, 0.1),
            (0.1, 0.1, 0.04),
            (0.22, 0.11, 0.15),
            (0.07, 0.05, 0.03),
        ],
        (0.02, 0.016, 0.012),
        2,
    )
    clumps = cloud(33 + v, 40, 1.4, 4)
    return pack(
        mottle(colour * np.clip(1 + 0.25 * clumps, 0.4, 1.6)[..., None], 32 + v),
        height + 0.5 * clumps,
        0.06,
        0.95,
    )


@ground("moss", "Bog moss", grown=True)
def moss(v):
    """Cushions of moss."""
    colour, height = blades(
        41 + v,
        26000,
        5,
        [(0.13, 0.15, 0.035), (0.17, 0.17, 0.05), (0.09, 0.12, 0.025), (0.2, 0.19, 0.08)],
        (0.03, 0.035, 0.01),
        2,
    )
    red = np.clip(cloud(42 + v, 14, 1.5, 2) - 0.7, 0, 1)[..., None] * 0.8
    humps = cloud(44 + v, 40, 1.6, 3)
    colour = colour * (1 - red) + colour * np.array((1.9, 0.62, 0.9)) * red
    return pack(
        mottle(colour * np.clip(1 + 0.22 * humps, 0.5, 1.6)[..., None], 43 + v),
        height * 0.5 + humps,
        0.05,
        0.95,
    )


@ground("peat", "Peat")
def peat(v):
    """Wet peat with cracks."""
    low, fine = cloud(51 + v, 24, 1.5), cloud(52 + v, 2, 0.7)
    height = 0.7 * low + 0.35 * fine
    bare = np.array((0.042, 0.029, 0.02)) * np.clip(1 + 0.3 * fine + 0.3 * low, 0.3, 2.2)[..., None]
    straw, lay = blades(53 + v, 700, 15, [(0.13, 0.1, 0.06), (0.09, 0.07, 0.045)], (0, 0, 0))
    on = np.clip(lay * 3, 0, 1)[..., None] * 0.75
    return pack(
        bare * (1 - on) + straw * on, height + lay * 0.4, 0.05, np.clip(0.55 + 0.2 * low, 0.3, 0.9)
    )


@ground("dry-grass", "Dry grass", grown=True)
def dry_grass(v):
    """Bleached grass."""
    colour, height = blades(
        101 + v,
        9000,
        46,
        [(0.5, 0.4, 0.2), (0.4, 0.32, 0.15), (0.58, 0.48, 0.27), (0.3, 0.25, 0.12)],
        (0.09, 0.07, 0.04),
    )
    fresh, lay = blades(103 + v, 1400, 18, [(0.2, 0.22, 0.07), (0.16, 0.2, 0.06)], (0, 0, 0))
    on = (lay > 0)[..., None] * np.clip(0.5 + 0.5 * cloud(104 + v, 30, 1.5, 2), 0, 1)[..., None]
    return pack(mottle(colour * (1 - on) + fresh * on, 102 + v), height, 0.04, 0.9)


@ground(
    "leaf-litter", "Leaf litter", grown=True, tones=((1, 1, 1), (1.35, 0.85, 0.6), (0.7, 0.72, 0.7))
)
def leaf_litter(v):
    """Fallen leaves."""
    colour, height = leaves(
        111 + v,
        1500,
        34,
        [
            (0.24, 0.14, 0.07),
            (0.32, 0.2, 0.09),
            (0.18, 0.11, 0.065),
            (0.28, 0.19, 0.12),
            (0.4, 0.27, 0.11),
        ],
        (0.03, 0.022, 0.016),
    )
    twig, lay = blades(113 + v, 160, 40, [(0.14, 0.11, 0.085), (0.1, 0.08, 0.06)], (0, 0, 0), 2)
    on = np.clip(lay * 3, 0, 1)[..., None] * 0.9
    return pack(
        mottle(colour * (1 - on) + twig * on, 112 + v, 0.18),
        height + 0.15 * lay,
        0.05,
        np.clip(0.8 - 0.25 * height, 0.45, 0.95),
    )


@ground("heather-litter", "Heather litter", grown=True)
def heather_litter(v):
    """Litter under heather."""
    twigs, height = blades(
        121 + v,
        5200,
        26,
        [(0.15, 0.115, 0.095), (0.2, 0.16, 0.13), (0.11, 0.08, 0.065), (0.26, 0.215, 0.18)],
        (0.035, 0.026, 0.022),
    )
    bits, lay = blades(
        122 + v,
        9000,
        5,
        [(0.17, 0.12, 0.085), (0.22, 0.13, 0.13), (0.12, 0.11, 0.055), (0.09, 0.062, 0.045)],
        (0, 0, 0),
        2,
    )
    low = cloud(123 + v, 26, 1.5, 2)
    on = np.clip(lay * 2, 0, 1)[..., None] * np.clip(0.5 - 0.5 * low, 0, 1)[..., None]
    return pack(mottle(twigs * (1 - on) + bits * on, 124 + v, 0.2), height + 0.3 * low, 0.05, 0.93)
