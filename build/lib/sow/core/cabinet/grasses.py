"""Grasses, sedges, reeds and herbs of the open upland. Measures as in Stace 2019 (New Flora of the
British Isles, 4th edition).
"""

from .grass import Heads, grass
from .growth.foliage import lobed, pinnate, pointed

grass(
    "turf-grass",
    "Short grass",
    height=0.16,
    count=26,
    radius=0.09,
    lean=0.9,
    breadth=0.012,
    low=(0.03, 0.045, 0.012),
    high=(0.14, 0.175, 0.045),
    dry=(0.3, 0.26, 0.12),
    dry_share=0.2,
    cover=0.05,
    far=(5, 12),
)


grass(
    "moor-grass",
    "Moor grass",
    height=0.48,
    count=46,
    radius=0.11,
    lean=1.25,
    breadth=0.011,
    low=(0.05, 0.06, 0.02),
    high=(0.25, 0.215, 0.09),
    dry=(0.46, 0.37, 0.18),
    dry_share=0.5,
    cover=0.2,
    far=(9, 22),
)


grass(
    "cotton-grass",
    "Cotton grass",
    height=0.32,
    count=24,
    radius=0.12,
    lean=0.8,
    breadth=0.009,
    low=(0.035, 0.05, 0.016),
    high=(0.17, 0.17, 0.06),
    dry=(0.24, 0.13, 0.06),
    dry_share=0.3,
    cover=0.1,
    far=(9, 24),
    heads=Heads(
        colour=(0.85, 0.83, 0.77), size_m=0.026, number=8, stem=(0.14, 0.12, 0.05), form="cotton"
    ),
    family="grass",
    tags="sedge wet bog",
)


grass(
    "harebell",
    "Harebell",
    height=0.22,
    count=9,
    radius=0.06,
    lean=0.7,
    breadth=0.007,
    low=(0.03, 0.05, 0.015),
    high=(0.09, 0.13, 0.04),
    cover=0.02,
    far=(6, 14),
    heads=Heads(
        colour=(0.21, 0.19, 0.4), size_m=0.013, number=6, stem=(0.07, 0.1, 0.03), form="bells"
    ),
)


grass(
    "tormentil",
    "Tormentil",
    height=0.09,
    count=16,
    radius=0.1,
    lean=1.3,
    breadth=0.016,
    low=(0.03, 0.05, 0.015),
    high=(0.08, 0.13, 0.03),
    cover=0.03,
    far=(5, 11),
    heads=Heads(colour=(0.78, 0.6, 0.03), size_m=0.01, number=9, stem=(0.08, 0.1, 0.03), petals=4),
    leaf=lobed(0.028, 0.03, 3),
)


grass(
    "meadow-grass",
    "Meadow grass",
    height=0.62,
    count=34,
    radius=0.1,
    lean=0.75,
    breadth=0.008,
    low=(0.035, 0.055, 0.016),
    high=(0.17, 0.185, 0.06),
    dry=(0.4, 0.31, 0.15),
    dry_share=0.25,
    cover=0.14,
    far=(9, 22),
    heads=Heads(colour=(0.3, 0.24, 0.14), size_m=0.011, number=12, stem=(0.22, 0.2, 0.08), spike=8),
    family="grass",
    tags="meadow hay tall",
)


grass(
    "rush",
    "Soft rush",
    height=0.75,
    count=42,
    radius=0.08,
    lean=0.5,
    breadth=0.007,
    low=(0.03, 0.045, 0.014),
    high=(0.09, 0.12, 0.035),
    dry=(0.3, 0.22, 0.1),
    dry_share=0.15,
    cover=0.16,
    far=(10, 26),
    heads=Heads(colour=(0.13, 0.08, 0.035), size_m=0.022, number=12, stem=(0.09, 0.115, 0.035)),
    family="grass",
    tags="rush wet",
)


grass(
    "sedge",
    "Tufted sedge",
    height=0.55,
    count=60,
    radius=0.1,
    lean=1.45,
    breadth=0.012,
    low=(0.03, 0.048, 0.014),
    high=(0.13, 0.165, 0.045),
    dry=(0.32, 0.24, 0.1),
    dry_share=0.2,
    cover=0.24,
    far=(9, 24),
    heads=Heads(
        colour=(0.075, 0.05, 0.03), size_m=0.011, number=7, stem=(0.1, 0.11, 0.04), spike=5
    ),
    family="grass",
    tags="sedge wet fen",
)


grass(
    "reed",
    "Common reed",
    height=2.0,
    count=26,
    radius=0.16,
    lean=0.42,
    breadth=0.03,
    low=(0.06, 0.07, 0.025),
    high=(0.17, 0.19, 0.06),
    dry=(0.42, 0.34, 0.18),
    dry_share=0.2,
    cover=0.2,
    far=(22, 60),
    heads=Heads(
        colour=(0.16, 0.095, 0.07), size_m=0.034, number=8, stem=(0.22, 0.2, 0.08), spike=8
    ),
    family="grass",
    tags="reed water shore",
)


grass(
    "fescue",
    "Fescue",
    height=0.26,
    count=54,
    radius=0.06,
    lean=0.95,
    breadth=0.005,
    low=(0.05, 0.065, 0.035),
    high=(0.16, 0.19, 0.1),
    dry=(0.42, 0.36, 0.2),
    dry_share=0.4,
    cover=0.06,
    far=(6, 14),
    heads=Heads(colour=(0.33, 0.24, 0.15), size_m=0.007, number=7, stem=(0.25, 0.2, 0.1), spike=5),
    family="grass",
    tags="dry alpine turf",
)


grass(
    "buttercup",
    "Buttercup",
    height=0.42,
    count=12,
    radius=0.1,
    lean=0.9,
    breadth=0.016,
    low=(0.025, 0.045, 0.012),
    high=(0.075, 0.125, 0.03),
    cover=0.04,
    far=(7, 17),
    heads=Heads(
        colour=(0.82, 0.58, 0.01), size_m=0.018, number=9, stem=(0.07, 0.11, 0.03), petals=5
    ),
    tags="meadow flower yellow",
    leaf=lobed(0.06, 0.06, 3),
)


grass(
    "oxeye",
    "Oxeye daisy",
    height=0.5,
    count=10,
    radius=0.09,
    lean=0.8,
    breadth=0.014,
    low=(0.025, 0.042, 0.014),
    high=(0.07, 0.11, 0.032),
    cover=0.04,
    far=(8, 19),
    heads=Heads(
        colour=(0.82, 0.82, 0.78), size_m=0.03, number=6, stem=(0.06, 0.1, 0.03), petals=14
    ),
    tags="meadow flower white",
    leaf=lobed(0.06, 0.022, 5),
)


grass(
    "clover",
    "Red clover",
    height=0.26,
    count=16,
    radius=0.11,
    lean=1.2,
    breadth=0.024,
    low=(0.025, 0.05, 0.014),
    high=(0.08, 0.14, 0.035),
    cover=0.05,
    far=(6, 14),
    heads=Heads(colour=(0.46, 0.13, 0.3), size_m=0.02, number=8, stem=(0.06, 0.1, 0.03)),
    tags="meadow flower red",
    leaf=pinnate(0.035, 0.022, 0.015, 1),
)


grass(
    "foxglove",
    "Foxglove",
    height=0.8,
    count=12,
    radius=0.14,
    lean=1.3,
    breadth=0.06,
    low=(0.03, 0.05, 0.016),
    high=(0.1, 0.15, 0.05),
    cover=0.1,
    far=(12, 30),
    heads=Heads(
        colour=(0.48, 0.11, 0.32),
        size_m=0.03,
        number=2,
        stem=(0.07, 0.11, 0.035),
        spike=14,
        form="bells",
    ),
    tags="wood edge flower tall",
    leaf=pointed(0.2, 0.08, 0.45),
)


grass(
    "meadowsweet",
    "Meadowsweet",
    height=0.8,
    count=18,
    radius=0.13,
    lean=0.8,
    breadth=0.03,
    low=(0.03, 0.048, 0.015),
    high=(0.085, 0.13, 0.035),
    cover=0.12,
    far=(12, 28),
    heads=Heads(colour=(0.72, 0.66, 0.46), size_m=0.03, number=14, stem=(0.1, 0.085, 0.04)),
    tags="wet meadow flower cream",
    leaf=pinnate(0.22, 0.075, 0.04, 3),
)


grass(
    "saxifrage",
    "Cushion saxifrage",
    height=0.07,
    count=40,
    radius=0.11,
    lean=1.1,
    breadth=0.014,
    low=(0.03, 0.05, 0.018),
    high=(0.1, 0.145, 0.05),
    cover=0.04,
    far=(4, 9),
    heads=Heads(
        colour=(0.72, 0.5, 0.62), size_m=0.011, number=14, stem=(0.12, 0.12, 0.05), petals=5
    ),
    tags="alpine scree flower cushion",
    leaf=pointed(0.012, 0.006, 0.6, 0.1),
)
