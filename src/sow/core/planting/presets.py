"""Planting mixes with their rules, whose bands come from the land's own distribution."""

from collections.abc import Callable

from ..surface.presets import Measures, Preset
from ..where import Site

mixes: dict[str, Preset] = {}
FILLER = 900_000  # plants that a layer of grass may bring to a scene


def mix_preset(name: str, label: str, help: str):
    """Registers a planting mix under a name, label and help."""

    def keep(make: Callable[["Mixing"], list[dict]]):
        mixes[name] = Preset(name, label, help, make)
        return make

    return keep


class Mixing(Measures):
    """Measures of the land, and the making of sowings by short words."""

    def __init__(self, site: Site, prefix: str):
        super().__init__(site)
        self.prefix = prefix
        self.count = 0
        self.marks: list[dict] = []

    def sow(
        self,
        name: str,
        mix: dict[str, float | tuple],
        density: float,
        apart: float,
        *where: dict,
        filler: bool = False,
        **more,
    ) -> dict:
        """A sowing; `mix` gives kind: parts, or kind: (parts, further fields). A filler is thinned
        so that a large plot does not drown in it.
        """
        self.count += 1
        if filler:
            most = FILLER / self.site.plot.area_m2 * 100
            if density > most:
                density = round(most, 2)
                self.told.append(
                    f"{name} thinned to {density:g} per 100 m²: more would fill the scene"
                )
        stance = {"edge": 100, **more.pop("stance", {})}
        parts = [
            {"kind": k, "share": v}
            if not isinstance(v, tuple)
            else {"kind": k, "share": v[0], **v[1]}
            for k, v in mix.items()
        ]
        return {
            "id": f"{self.prefix}-{self.count}",
            "name": name,
            "mix": parts,
            "density": density,
            "apart_m": apart,
            "where": [w for w in where if w],
            "stance": stance,
            "seed": self.count + 10,
            "group": more.pop("group", mixes[self.prefix].label),
            **more,
        }

    def near(self, index: int, low: float, high: float, soft: float, **more) -> dict:
        """Near the plants of an earlier sowing of this mix, counted from 1."""
        return {
            "kind": "near-sowing",
            "sowing": f"{self.prefix}-{index}",
            "low": low,
            "high": high,
            "soft": soft,
            **more,
        }


def mixed(name: str, site: Site) -> tuple[list[dict], list[dict], list[str]]:
    """The sowings of a mix and the marks they need as plain values, and their bands in words.

    Raises KeyError for an unknown name.
    """
    m = Mixing(site, name)
    made = mixes[name].make(m)
    return made, m.marks, m.told


UPRIGHT = {"sway": 2, "smallest": 70, "largest": 125, "edge": 60}
STONES = {"lean": 100, "sway": 25, "smallest": 40, "largest": 160, "sink_cm": 12, "tint": 0}


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
            {"boulder": 12, "slab": 18, "cobble": 70},
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
            {"slab": 60, "boulder": 25, "cobble": 15},
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
            {"block": 70, "boulder": (30, {"size": 190})},
            2.6,
            2.2,
            steep,
            near,
            stance={**STONES, "sink_cm": 35, "smallest": 60, "largest": 170},
        ),
        m.sow(
            "Boulders",
            {"boulder": 70, "slab": 30},
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
            {"slab": 55, "boulder": 45},
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
            {"cobble": 70, "slab": 30},
            1.6,
            0.5,
            ground,
            m.patches(40, 0.04, 2),
            stance=STONES,
        ),
    ]
