"""Mixes of heath, whole and burnt."""

from ..mixing import STONES, UPRIGHT, mix_preset


@mix_preset(
    "heath",
    "Heath",
    "Heather in swathes, bilberry below it, gorse here and there, moor grass between.",
)
def heath(m):
    """Heather, bilberry and grasses."""
    return [
        m.sow(
            "Gorse",
            {"gorse": 1},
            0.25,
            1.4,
            m.gentle(26),
            layout="clumped",
            clump_m=round(m.longer * 0.05, 1),
            clump_share=22,
            stance=UPRIGHT,
        ),
        m.sow(
            "Heather",
            {"heather": 78, "bilberry": 22},
            38,
            0.5,
            m.gentle(34, 0.92),
            m.patches(58, 0.05, 3),
            stance={"edge": 55, "lean": 25},
        ),
        m.sow(
            "Stones",
            {"boulder": 12, "rock-slab": 18, "cobble": 70},
            0.8,
            0.6,
            m.patches(35, 0.06, 8),
            stance=STONES,
        ),
        m.sow(
            "Moor grass",
            {"moor-grass": 80, "fescue": 20},
            120,
            0.16,
            m.patches(60, 0.03, 5),
            filler=True,
        ),
    ]


@mix_preset(
    "burnt-heath",
    "Burnt heath",
    "Charred stems after a fire, ash-grey birches, bracken and grass coming back in patches.",
)
def burnt_heath(m):
    """Heath after fire."""
    ground = m.gentle(34, 0.92)
    return [
        m.sow(
            "Burnt trees",
            {
                "birch": (60, {"look": "burnt"}),
                "snag": (20, {"look": "burnt"}),
                "pine": (20, {"look": "burnt", "size": 70}),
            },
            0.4,
            3.5,
            ground,
            m.patches(45, 0.1, 3),
            stance={**UPRIGHT, "sway": 4},
        ),
        m.sow(
            "Burnt heather",
            {"heather": (70, {"look": "burnt"}), "gorse": (30, {"look": "burnt", "size": 80})},
            22,
            0.6,
            ground,
            m.patches(62, 0.05, 5),
        ),
        m.sow(
            "Regrowth",
            {"bracken": (40, {"look": "spring", "size": 60}), "moor-grass": 60},
            45,
            0.35,
            ground,
            m.patches(38, 0.03, 8),
            filler=True,
        ),
        m.sow(
            "Bared stones",
            {"cobble": 70, "rock-slab": 30},
            1.6,
            0.5,
            ground,
            m.patches(40, 0.04, 2),
            stance=STONES,
        ),
    ]
