"""Trees of dry and warm lands. Leaves and growth as in Zohary 1973 (Geobotanical Foundations of the
Middle East) and the Flora of Tropical East Africa.
"""

import numpy as np

from .growth.barks import ridged
from .growth.foliage import rhombic
from .tree import Form, Tree, dome, tree


def parasol(t: np.ndarray) -> np.ndarray:
    """A flat-topped crown that spreads like a parasol."""
    return np.clip(0.16 + 1.3 * t**0.8, 0, 1) * np.where(t > 0.97, 0.8, 1.0)


tree(
    "umbrella-thorn",
    "Umbrella thorn",
    Tree(
        height=5.5,
        colour=(0.074, 0.088, 0.036),
        bark=ridged((0.2, 0.165, 0.125), (0.06, 0.05, 0.04), 31, 0.05, 0.014),
        leaf=rhombic(0.034, 0.016, 0.5),
        form=Form(
            crown_from=0.42,
            spread=0.72,
            girth_m=0.34,
            profile=parasol,
            leader=0.36,
            marks=1500,
            rise=0.04,
            wander=0.2,
            stems=2,
            shoots=10000,
            shoot_m=0.2,
            on_shoot=12,
            hang=0.0,
            card_m=0.46,
            cards=900,
        ),
        picture={"leaves": 20, "length": 20, "breadth": 9, "pairs": True, "twigs": 13},
        autumn=(0.2, 0.16, 0.06),
    ),
    "broadleaf dry thorn wadi",
)
tree(
    "tamarisk",
    "Tamarisk",
    Tree(
        height=3.6,
        colour=(0.085, 0.1, 0.062),
        bark=ridged((0.2, 0.15, 0.12), (0.07, 0.055, 0.045), 32, 0.04, 0.008),
        leaf=rhombic(0.03, 0.0045, 0.4),
        form=Form(
            crown_from=0.1,
            spread=0.46,
            girth_m=0.2,
            profile=dome,
            leader=0.6,
            marks=900,
            rise=0.24,
            wander=0.24,
            stems=5,
            shoots=5200,
            shoot_m=0.34,
            on_shoot=22,
            hang=0.4,
            card_m=0.5,
            cards=760,
        ),
        picture={"leaves": 26, "length": 22, "breadth": 5, "twigs": 14},
        autumn=(0.22, 0.16, 0.07),
    ),
    "dry wadi salt shrub pink",
)
tree(
    "olive",
    "Olive",
    Tree(
        height=5.0,
        colour=(0.075, 0.09, 0.058),
        bark=ridged((0.25, 0.235, 0.2), (0.07, 0.065, 0.055), 33, 0.12, 0.022),
        leaf=rhombic(0.056, 0.012, 0.5),
        form=Form(
            crown_from=0.26,
            spread=0.42,
            girth_m=0.55,
            profile=dome,
            leader=0.34,
            marks=900,
            rise=0.16,
            wander=0.34,
            stems=2,
            shoots=7000,
            shoot_m=0.26,
            on_shoot=14,
            hang=0.1,
            opposite=True,
            card_m=0.5,
            cards=700,
        ),
        picture={"leaves": 18, "length": 38, "breadth": 9, "twigs": 12},
        autumn=(0.07, 0.085, 0.055),
    ),
    "broadleaf dry garden orchard evergreen",
)
tree(
    "saxaul",
    "Saxaul",
    Tree(
        height=2.8,
        colour=(0.1, 0.11, 0.072),
        bark=ridged((0.26, 0.23, 0.19), (0.09, 0.08, 0.07), 34, 0.0, 0.016),
        leaf=rhombic(0.04, 0.004, 0.3),
        form=Form(
            crown_from=0.16,
            spread=0.5,
            girth_m=0.22,
            profile=dome,
            leader=0.5,
            marks=420,
            rise=0.1,
            wander=0.4,
            stems=3,
            shoots=1700,
            shoot_m=0.3,
            on_shoot=12,
            hang=0.2,
            card_m=0.5,
            cards=380,
        ),
        picture={"leaves": 18, "length": 30, "breadth": 4, "twigs": 12},
        autumn=(0.24, 0.2, 0.11),
    ),
    "dry sand shrub grey",
)
