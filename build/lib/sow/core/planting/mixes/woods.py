"""Mixes of woods and of avenues."""

from ..mixing import STONES, UPRIGHT, mix_preset


@mix_preset(
    "birch-wood",
    "Birch wood",
    "Birches that thin towards an edge of young ones, bracken and ferns under them, logs "
    "on the floor.",
)
def birch_wood(m):
    """Birches with their undergrowth."""
    return [
        m.sow(
            "Birches",
            {"birch": 84, "rowan": 16},
            3.2,
            2.3,
            m.gentle(32, 0.85),
            m.patches(52, 0.12, 2),
            stance={**UPRIGHT, "wind": 2},
        ),
        m.sow(
            "Young birches",
            {"birch": (80, {"size": 38}), "thorn": (20, {"size": 45})},
            3.5,
            1.1,
            m.near(1, 2.5, 11, 2.5),
            m.patches(55, 0.03, 4),
            stance=UPRIGHT,
        ),
        m.sow(
            "Fallen wood",
            {"log": 65, "stump": 35},
            0.35,
            1.5,
            m.near(1, 0, 6, 2),
            stance={"sway": 2, "lean": 90, "smallest": 60},
        ),
        m.sow(
            "Bracken and ferns",
            {"bracken": 70, "male-fern": 30},
            22,
            0.7,
            m.near(1, 0, 14, 5),
            m.patches(50, 0.03, 6),
            stance={"edge": 55},
        ),
        m.sow(
            "Bilberry",
            {"bilberry": 80, "foxglove": 20},
            14,
            0.45,
            m.near(1, 0, 8, 3),
            m.patches(45, 0.02, 7),
            stance={"edge": 60},
        ),
        m.sow(
            "Wood grass",
            {"turf-grass": 60, "moor-grass": 40},
            150,
            0.14,
            m.near(1, 0, 18, 6),
            filler=True,
        ),
    ]


@mix_preset(
    "alder-carr",
    "Alder carr",
    "Alders and willows with their feet in the wet, sedge and meadowsweet below.",
)
def alder_carr(m):
    """Alders on wet ground."""
    wet = m.damp(0.16)
    shore = [{**m.shore(-60, 1.4, 0.8, 40), "join": "any"}] if m.wet else []
    return [
        m.sow("Alders", {"alder": 70, "willow": 30}, 4, 1.9, wet, *shore, stance=UPRIGHT),
        m.sow(
            "Dead wood", {"log": 75, "snag": 25}, 0.3, 1.5, m.near(1, 0, 5, 2), stance={"sway": 4}
        ),
        m.sow(
            "Sedge",
            {"sedge": 55, "rush": 25, "meadowsweet": 12, "male-fern": 8},
            70,
            0.35,
            m.near(1, 0, 9, 3),
            stance={"edge": 60},
            wet=False,
        ),
        m.sow(
            "Carr grass",
            {"moor-grass": 50, "meadow-grass": 50},
            110,
            0.16,
            m.near(1, 0, 13, 4),
            filler=True,
        ),
    ]


@mix_preset(
    "juniper-slope",
    "Juniper slope",
    "Junipers on the middling slopes, thin turf and slabs between them.",
)
def juniper_slope(m):
    """Juniper on dry slopes."""
    low, high = m.at("slope", 0.35), min(m.at("slope", 0.9), 38)
    m.told.append(f"between {low:.0f}° and {high:.0f}°")
    band = {"kind": "slope", "low": round(low, 1), "high": round(high, 1), "soft": 4}
    return [
        m.sow(
            "Junipers",
            {"juniper": 88, "thorn": 12},
            1.1,
            1.6,
            band,
            layout="clumped",
            clump_m=round(max(m.longer * 0.06, 12), 1),
            clump_share=35,
            stance={**UPRIGHT, "smallest": 45, "wind": 6},
        ),
        m.sow(
            "Slabs",
            {"rock-slab": 60, "boulder": 25, "cobble": 15},
            1.6,
            0.8,
            band,
            m.patches(40, 0.04, 3),
            stance=STONES,
        ),
        m.sow(
            "Thin turf",
            {"fescue": 85, "tormentil": 9, "harebell": 6},
            130,
            0.14,
            band,
            m.patches(70, 0.03, 5),
            filler=True,
        ),
    ]


@mix_preset(
    "tree-avenue",
    "Tree avenue",
    "Two rows of oaks along a line across the land, mown verge between, tall grass outside.",
)
def tree_avenue(m):
    """Trees along a line."""
    plot = m.site.plot
    line = f"{m.prefix}-line"
    m.marks.append(
        {
            "id": line,
            "name": "Avenue",
            "kind": "line",
            "points": [
                [round(plot.width_m * a, 1), round(plot.depth_m * b, 1)]
                for a, b in ((0.5, 0.04), (0.46, 0.35), (0.53, 0.66), (0.5, 0.96))
            ],
            "clearing": True,
            "clear_m": 1.6,
            "clear_soft_m": 1.2,
            "clear_except": [],
        }
    )
    m.told.append("along the line “Avenue”, which may be bent on the map")
    reach = {"kind": "near-line", "mark": line, "within_m": 14, "soft": 5}
    return [
        m.sow(
            "Avenue oaks",
            {"oak": 100},
            1,
            0,
            layout="line",
            line=line,
            gap_m=11,
            offset_m=7,
            jitter=6,
            keeps_off=100,
            stance={"smallest": 85, "largest": 110, "sway": 1},
        ),
        m.sow(
            "Verge", {"turf-grass": 84, "clover": 8, "tormentil": 8}, 260, 0.12, reach, filler=True
        ),
        m.sow(
            "Tall grass",
            {"meadow-grass": 88, "oxeye": 7, "buttercup": 5},
            150,
            0.15,
            {**reach, "within_m": 26, "soft": 12},
            {**reach, "within_m": 8, "join": "except"},
            filler=True,
        ),
    ]


@mix_preset(
    "pine-wood",
    "Old pine wood",
    "Tall pines far apart, young ones in the gaps, heather and bilberry on the floor.",
)
def pine_wood(m):
    """Pines with heath below."""
    return [
        m.sow(
            "Pines",
            {"pine": 100},
            1.0,
            4,
            m.gentle(34, 0.9),
            m.patches(62, 0.12, 5),
            stance={**UPRIGHT, "smallest": 75},
        ),
        m.sow(
            "Young pines",
            {"pine": (70, {"size": 26}), "birch": (30, {"size": 45})},
            1.2,
            1.6,
            m.near(1, 5, 16, 4),
            m.patches(40, 0.03, 2),
            stance=UPRIGHT,
        ),
        m.sow(
            "Dead wood",
            {"log": 50, "stump": 25, "snag": 25},
            0.25,
            2,
            m.near(1, 0, 10, 3),
            stance={"smallest": 70},
        ),
        m.sow(
            "Heather and bilberry",
            {"heather": 48, "bilberry": 52},
            34,
            0.5,
            m.near(1, 0, 18, 6),
            m.patches(68, 0.03, 7),
            stance={"edge": 55},
        ),
        m.sow("Floor grass", {"moor-grass": 100}, 60, 0.22, m.near(1, 0, 20, 6), filler=True),
    ]
