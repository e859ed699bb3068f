"""Mixes of stones and of what grows among them."""

from ..mixing import STONES, UPRIGHT, mix_preset


@mix_preset(
    "boulder-field",
    "Boulder field",
    "Fallen blocks below the steep ground, boulders between them, small stones in the gaps.",
)
def boulder_field(m):
    """Boulders with what grows between."""
    steep, near = m.steep(0.28, 14), m.patches(45, 0.09, 3)
    return [
        m.sow(
            "Blocks",
            {"fallen-block": 70, "boulder": (30, {"size": 190})},
            2.6,
            2.2,
            steep,
            near,
            stance={**STONES, "sink_cm": 35, "smallest": 60, "largest": 170},
        ),
        m.sow(
            "Boulders",
            {"boulder": 70, "rock-slab": 30},
            16,
            0.85,
            steep,
            near,
            stance={**STONES, "edge": 45},
        ),
        m.sow(
            "Cobbles",
            {"cobble": 80, "pebble": 20},
            70,
            0.22,
            m.near(1, 0, 7, 3),
            stance={**STONES, "sink_cm": 4, "edge": 50},
        ),
        m.sow(
            "Between the stones",
            {"fescue": 60, "bracken": 12, "bilberry": 28},
            45,
            0.3,
            m.near(1, 1.5, 14, 4),
            m.patches(50, 0.02, 7),
            filler=True,
        ),
    ]


@mix_preset(
    "scree-alpines",
    "Scree with alpines",
    "Sharp stones on the steep, cushions of saxifrage and tufts of fescue that hold on among them.",
)
def scree_alpines(m):
    """Small plants on scree."""
    steep = m.steep(0.35, 18)
    return [
        m.sow(
            "Slabs",
            {"rock-slab": 55, "boulder": 45},
            2.2,
            1.0,
            steep,
            m.patches(40, 0.05, 2),
            stance=STONES,
        ),
        m.sow(
            "Scree",
            {"cobble": 60, "pebble": 40},
            110,
            0.14,
            steep,
            m.patches(65, 0.04, 4),
            filler=True,
            stance={**STONES, "sink_cm": 2},
        ),
        m.sow(
            "Alpines",
            {"saxifrage": 55, "harebell": 15, "tormentil": 30},
            30,
            0.25,
            steep,
            layout="clumped",
            clump_m=3.5,
            clump_share=25,
            stance={"lean": 60},
        ),
        m.sow(
            "Fescue",
            {"fescue": 100},
            40,
            0.25,
            steep,
            m.patches(45, 0.02, 6),
            filler=True,
            stance={"lean": 30},
        ),
        m.sow(
            "Low junipers",
            {"juniper": (100, {"size": 45})},
            0.25,
            1.6,
            m.steep(0.5, 12),
            m.patches(30, 0.04, 8),
            stance={**UPRIGHT, "wind": 14},
        ),
    ]
