"""Mixes of meadows and shores."""

from ..mixing import STONES, UPRIGHT, mix_preset


@mix_preset(
    "wet-meadow",
    "Wet meadow",
    "Rush and sedge in the hollows, meadowsweet and buttercups where it is a little drier.",
)
def wet_meadow(m):
    """Sedges and herbs on wet ground."""
    return [
        m.sow(
            "Willow",
            {"willow": 1},
            0.12,
            3,
            m.damp(0.2),
            layout="clumped",
            clump_m=round(max(m.longer * 0.05, 10), 1),
            clump_share=16,
            stance=UPRIGHT,
        ),
        m.sow(
            "Rush and sedge",
            {"rush": 48, "sedge": 40, "cotton-grass": 12},
            60,
            0.35,
            m.damp(0.22),
            m.patches(65, 0.03, 4),
            stance={"edge": 65},
        ),
        m.sow(
            "Meadowsweet",
            {"meadowsweet": 55, "buttercup": 45},
            26,
            0.3,
            m.damp(0.35),
            m.patches(38, 0.03, 6),
        ),
        m.sow(
            "Meadow", {"meadow-grass": 80, "turf-grass": 20}, 160, 0.14, m.gentle(18), filler=True
        ),
    ]


@mix_preset(
    "hay-meadow",
    "Hay meadow",
    "Tall grass in flower with daisies, buttercups and clover in drifts, on gentle ground.",
)
def hay_meadow(m):
    """Grasses and flowers."""
    gentle = m.gentle(20)
    return [
        m.sow("Daisies", {"oxeye": 70, "harebell": 30}, 45, 0.18, gentle, m.patches(32, 0.03, 3)),
        m.sow(
            "Buttercups", {"buttercup": 75, "clover": 25}, 60, 0.18, gentle, m.patches(40, 0.04, 9)
        ),
        m.sow("Clover", {"clover": 100}, 30, 0.2, gentle, m.patches(30, 0.02, 12)),
        m.sow(
            "Hay",
            {"meadow-grass": 85, "fescue": 15},
            420,
            0.1,
            gentle,
            filler=True,
            stance={"wind": 7, "sway": 6},
        ),
        m.sow(
            "Hedge thorns",
            {"thorn": 70, "bramble": 30},
            0.12,
            2.5,
            {**gentle, "invert": True},
            m.patches(40, 0.05, 5),
            stance=UPRIGHT,
        ),
    ]


@mix_preset(
    "reed-shore",
    "Reed shore",
    "Reeds standing in the shallows, rush and sedge above the line, willows behind.",
)
def reed_shore(m):
    """Reeds along the water."""
    if not m.wet:
        m.told.append("this land has no water: the wettest ground stands for the shore")
        edge = m.damp(0.06)
        bank = m.damp(0.14)
        behind = m.damp(0.26)
    else:
        edge = m.shore(-1.1, 0.15, 0.35, 60)
        bank = m.shore(-0.1, 0.9, 0.5, 40)
        behind = m.shore(0.3, 3, 1.2, 60)
    return [
        m.sow(
            "Willows",
            {"willow": 75, "alder": 25},
            0.5,
            2.6,
            behind,
            m.patches(45, 0.04, 4),
            stance=UPRIGHT,
        ),
        m.sow(
            "Reeds",
            {"reed": 100},
            260,
            0.22,
            edge,
            m.patches(72, 0.03, 2),
            wet=True,
            stance={"edge": 55, "wind": 5},
        ),
        m.sow(
            "Rush and sedge",
            {"rush": 50, "sedge": 40, "meadowsweet": 10},
            90,
            0.3,
            bank,
            stance={"edge": 60},
        ),
        m.sow(
            "Shore stones",
            {"cobble": 45, "pebble": 55},
            50,
            0.12,
            bank,
            m.patches(35, 0.02, 9),
            stance={**STONES, "sink_cm": 2},
        ),
    ]
