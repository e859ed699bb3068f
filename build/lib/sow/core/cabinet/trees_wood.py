"""More trees of woods and hedges, and oaks of other ages than that of `trees`. Leaves as measured
in Stace 2019 (New Flora of the British Isles, 4th edition).
"""

from dataclasses import replace

import numpy as np

from .growth.barks import ridged, smooth
from .growth.foliage import pinnate, pointed, rhombic
from .tree import Form, Tree, dome, egg, tree
from .trees import OAK

BEECH = Tree(
    height=16.0,
    colour=(0.04, 0.068, 0.016),
    bark=smooth((0.27, 0.265, 0.25), (0.1, 0.1, 0.095), 21, 0.3),
    leaf=rhombic(0.07, 0.045, 0.48),
    form=Form(
        crown_from=0.2,
        spread=0.32,
        girth_m=0.45,
        profile=egg(0.45),
        leader=0.6,
        marks=1700,
        rise=0.14,
        wander=0.12,
        shoots=15000,
        shoot_m=0.3,
        on_shoot=14,
        hang=0.12,
        card_m=1.0,
        cards=1000,
    ),
    picture={"leaves": 14, "length": 32, "breadth": 22, "twigs": 12},
    autumn=(0.3, 0.13, 0.025),
)
tree("beech", "Beech", BEECH, "broadleaf wood large")

tree(
    "ash",
    "Ash",
    Tree(
        height=14.0,
        colour=(0.048, 0.074, 0.022),
        bark=ridged((0.27, 0.26, 0.23), (0.1, 0.095, 0.085), 22, 0.25, 0.012),
        leaf=pinnate(0.26, 0.075, 0.026, 5),
        form=Form(
            crown_from=0.26,
            spread=0.3,
            girth_m=0.38,
            profile=egg(0.5),
            leader=0.65,
            marks=1100,
            rise=0.26,
            wander=0.12,
            shoots=2400,
            shoot_m=0.22,
            on_shoot=6,
            hang=0.06,
            opposite=True,
            card_m=1.0,
            cards=820,
        ),
        picture={"leaves": 15, "length": 36, "breadth": 15, "pairs": True, "twigs": 10},
        autumn=(0.3, 0.25, 0.03),
    ),
    "broadleaf wood hedge large",
)
tree(
    "hazel",
    "Hazel",
    Tree(
        height=4.5,
        colour=(0.05, 0.082, 0.02),
        bark=smooth((0.25, 0.2, 0.14), (0.1, 0.08, 0.06), 23, 0.12),
        leaf=pointed(0.085, 0.07, 0.55, 0.2),
        form=Form(
            crown_from=0.1,
            spread=0.46,
            girth_m=0.18,
            profile=dome,
            leader=0.72,
            marks=800,
            rise=0.3,
            wander=0.14,
            stems=6,
            shoots=2500,
            shoot_m=0.3,
            on_shoot=6,
            hang=0.12,
            card_m=0.5,
            cards=700,
        ),
        picture={"leaves": 10, "length": 62, "breadth": 52, "twigs": 9},
        autumn=(0.36, 0.26, 0.03),
    ),
    "broadleaf wood hedge shrub",
)
tree(
    "aspen",
    "Aspen",
    Tree(
        height=12.0,
        colour=(0.058, 0.086, 0.028),
        bark=smooth((0.36, 0.37, 0.31), (0.1, 0.1, 0.085), 24, 0.1),
        leaf=rhombic(0.045, 0.045, 0.42),
        form=Form(
            crown_from=0.25,
            spread=0.2,
            girth_m=0.24,
            profile=egg(0.4),
            leader=0.94,
            marks=1100,
            rise=0.34,
            wander=0.1,
            shoots=5600,
            shoot_m=0.26,
            on_shoot=9,
            hang=0.14,
            card_m=0.66,
            cards=760,
        ),
        picture={"leaves": 13, "length": 30, "breadth": 30, "twigs": 10},
        autumn=(0.46, 0.32, 0.02),
    ),
    "broadleaf wood light",
)
tree(
    "elder",
    "Elder",
    Tree(
        height=3.4,
        colour=(0.04, 0.066, 0.018),
        bark=ridged((0.3, 0.27, 0.21), (0.1, 0.085, 0.07), 25, 0.15, 0.008),
        leaf=pinnate(0.16, 0.07, 0.03, 2),
        form=Form(
            crown_from=0.14,
            spread=0.42,
            girth_m=0.16,
            profile=dome,
            leader=0.6,
            marks=600,
            rise=0.26,
            wander=0.24,
            stems=4,
            shoots=1200,
            shoot_m=0.24,
            on_shoot=6,
            hang=0.1,
            opposite=True,
            card_m=0.46,
            cards=520,
        ),
        picture={"leaves": 11, "length": 50, "breadth": 24, "pairs": True, "twigs": 9},
        autumn=(0.22, 0.19, 0.03),
    ),
    "broadleaf hedge shrub garden",
)

AGES = (
    (
        "oak-sapling",
        "Oak, a sapling",
        2.4,
        replace(
            OAK.form,
            crown_from=0.2,
            spread=0.28,
            girth_m=0.035,
            profile=egg(0.5),
            leader=0.95,
            marks=160,
            wander=0.16,
            shoots=260,
            card_m=0.4,
            cards=130,
        ),
    ),
    (
        "oak-young",
        "Oak, young",
        7.0,
        replace(
            OAK.form,
            crown_from=0.2,
            spread=0.32,
            girth_m=0.18,
            profile=egg(0.5),
            leader=0.75,
            marks=800,
            wander=0.18,
            shoots=2800,
            card_m=0.7,
            cards=620,
        ),
    ),
    (
        "oak-old",
        "Oak, old",
        16.0,
        replace(
            OAK.form,
            crown_from=0.12,
            spread=0.52,
            girth_m=1.25,
            leader=0.3,
            marks=1500,
            wander=0.36,
            shoots=20000,
            card_m=1.2,
            cards=980,
            dead=0.12,
            broken=6,
        ),
    ),
)
for _name, _label, _height, _form in AGES:
    _variants = 2 if _name == "oak-old" else 3  # so rich a crown takes hundreds of megabytes
    _made = replace(OAK, height=_height, form=_form, variants=_variants)
    tree(_name, _label, _made, "broadleaf wood oak age")

IVIED = replace(
    OAK,
    height=14.0,
    ivy_m=7.5,
    form=replace(
        OAK.form,
        crown_from=0.3,
        spread=0.36,
        girth_m=0.6,
        leader=0.6,
        shoots=11000,
        dead=0.08,
        broken=2,
    ),
)
tree("oak-ivied", "Oak with ivy", IVIED, "broadleaf wood oak ivy damp")

# as they grow among others: a long bare bole, a narrow crown up in the light
BEECH_IN_STAND = replace(
    BEECH,
    height=22.0,
    form=replace(
        BEECH.form,
        crown_from=0.46,
        spread=0.16,
        girth_m=0.38,
        profile=egg(0.6),
        leader=0.92,
        marks=1200,
        shoots=9000,
        cards=900,
        dead=0.1,
    ),
)
OAK_IN_STAND = replace(
    OAK,
    height=18.0,
    form=replace(
        OAK.form,
        crown_from=0.42,
        spread=0.2,
        girth_m=0.42,
        profile=egg(0.55),
        leader=0.86,
        marks=1200,
        shoots=8000,
        dead=0.14,
        broken=1,
    ),
)
tree("beech-in-stand", "Beech of a stand", BEECH_IN_STAND, "broadleaf wood large forest")
tree("oak-in-stand", "Oak of a stand", OAK_IN_STAND, "broadleaf wood large forest oak")

tree(
    "beech-young",
    "Beech, young",
    replace(
        BEECH,
        height=6.0,
        form=replace(
            BEECH.form,
            crown_from=0.1,
            spread=0.34,
            girth_m=0.1,
            leader=0.9,
            marks=800,
            shoots=2800,
            card_m=0.6,
            cards=620,
        ),
    ),
    "broadleaf wood hedge age",
)


def burr(t: np.ndarray) -> np.ndarray:
    """The crown of a pollard: a round head on a bare stem."""
    return np.sqrt(np.clip(1 - (2 * t - 1) ** 2, 0, 1))


tree(
    "pollard",
    "Pollard willow",
    Tree(
        height=7.0,
        colour=(0.07, 0.092, 0.046),
        bark=ridged((0.24, 0.21, 0.17), (0.06, 0.052, 0.045), 26, 0.25, 0.02),
        leaf=rhombic(0.08, 0.016, 0.45),
        form=Form(
            crown_from=0.32,
            spread=0.3,
            girth_m=0.6,
            profile=burr,
            leader=0.3,
            marks=900,
            rise=0.4,
            wander=0.08,
            shoots=6000,
            shoot_m=0.45,
            on_shoot=13,
            hang=0.18,
            card_m=0.7,
            cards=700,
        ),
        picture={"leaves": 16, "length": 46, "breadth": 12, "twigs": 11},
        autumn=(0.3, 0.25, 0.04),
    ),
    "broadleaf wet stream",
)
