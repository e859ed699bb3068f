"""A water of a scene: where it lies, how clear it is, its waves, its shore."""

from typing import Literal

from pydantic import Field

from ..document.entry import Entry
from ..document.fields import bearing, colour, length_m, percent, seed, setting, shown

STANDS = {"reach": ["everywhere", "pool"]}
BY_HEIGHT = {"raised": ["height"]}
BY_WIND = {"raised": ["wind"]}


class Water(Entry):
    kind: Literal["standing"] = "standing"
    level_m: float = setting(
        0,
        "Level",
        "m",
        lo=-12000,
        hi=12000,
        slider=("lowest", "highest"),
        step=0.01,
        only=STANDS,
    )
    reach: Literal["everywhere", "pool", "stream"] = Field(
        "everywhere",
        title="Reach",
        json_schema_extra=shown(
            labels={"everywhere": "all low ground", "pool": "one pool", "stream": "a stream"}
        ),
    )
    mark: str = Field(
        "",
        max_length=64,
        title="Line",
        json_schema_extra=shown({"reach": ["stream"]}, mark="line"),
    )
    width_m: float = length_m(
        "Width",
        4,
        hi=5000,
        slider=(0.3, 60),
        only={"reach": ["stream"]},
        help="As far as it may spread; its banks hold it closer.",
    )
    deep_m: float = length_m(
        "Depth",
        0.35,
        lo=0.01,
        hi=200,
        slider=(0.05, 5),
        only={"reach": ["stream"]},
        help="Of the water over its bed, along the line.",
    )
    east_m: float = setting(
        500, "Pool east", "m", lo=-100000, hi=100000, slider=(0, "width"), only={"reach": ["pool"]}
    )
    north_m: float = setting(
        500, "Pool north", "m", lo=-100000, hi=100000, slider=(0, "depth"), only={"reach": ["pool"]}
    )
    clear_m: float = length_m(
        "Clear to",
        1.5,
        lo=0.02,
        hi=100,
        slider=(0.1, 20),
        fold="Colour",
        help="Depth at which the bed is all but lost from sight.",
    )
    through: str = colour("#7c7c7c", "Bed's light there", fold="Colour")
    tint: str = colour("#2e3a33", "Its own colour", fold="Colour")
    mirror: float = percent("Mirrors", 100, hi=200, fold="Colour")
    glitter: float = percent("Glitter", 100, hi=300, fold="Colour")
    raised: Literal["height", "wind"] = Field(
        "height",
        title="Waves by",
        json_schema_extra=shown(fold="Waves", labels={"height": "height", "wind": "wind, fetch"}),
    )
    waves_cm: float = setting(
        2,
        "Wave height",
        "cm",
        lo=0,
        hi=1500,
        slider=(0, 300),
        only=BY_HEIGHT,
        fold="Waves",
        help="Significant: the mean of the highest third.",
    )
    wave_m: float = setting(
        0,
        "Wave length",
        "m",
        lo=0,
        hi=600,
        slider=(0, 120),
        only=BY_HEIGHT,
        fold="Waves",
        help="Of the highest waves; 0 suits their height.",
    )
    wind_ms: float = setting(
        6, "Wind", "m/s", lo=0, hi=60, slider=(0, 25), only=BY_WIND, fold="Waves"
    )
    fetch_m: float = length_m(
        "Fetch",
        2000,
        lo=1,
        hi=2_000_000,
        slider=(20, 500_000),
        only=BY_WIND,
        fold="Waves",
        help="Open water over which the wind has blown.",
    )
    waves_from: float = bearing("Come from", 225, fold="Waves", only=STANDS)
    spread: float = percent("Spread", 40, fold="Waves", help="0 runs one way, 100 nearly all.")
    chop: float = percent("Choppy", 60, hi=150, fold="Waves", help="Draws crests together.")
    speed: float = percent("Speed", 100, lo=0, hi=400, slider=(0, 200), fold="Waves")
    wave_seed: int = seed(1, "Seed", fold="Waves")
    loop_s: float = setting(
        0,
        "Comes back after",
        "s",
        lo=0,
        hi=600,
        slider=(0, 30),
        fold="Waves",
        help="So that a moving picture can be shown again and again; 0 never.",
    )
    surf: float = percent(
        "Waves run in",
        100,
        hi=200,
        fold="Shore",
        only=STANDS,
        help="To the shore, along its own direction.",
    )
    foam: float = percent("Foam", 100, hi=300, fold="Shore")
    around: float = percent(
        "Foam around things", 100, hi=300, fold="Shore", help="Stones and pieces that stand in it."
    )
    spray: float = percent("Spray of falls", 100, hi=300, fold="Shore", only={"reach": ["stream"]})
    frozen: float = percent(
        "Frozen", 0, fold="Ice", only=STANDS, help="From the shore; 100 is all of it."
    )
    ice_cm: float = setting(
        25, "Thickness", "cm", lo=1, hi=500, slider=(1, 120), fold="Ice", only=STANDS
    )
    snow: float = percent("Snow on it", 35, fold="Ice", only=STANDS)
    cracks: float = percent("Cracks, bubbles", 60, fold="Ice", only=STANDS)
    wake: str = Field(
        "",
        max_length=64,
        title="Outline",
        description="An area at the waterline of what moves through it. A piece that floats has "
        "a wake by its own speed.",
        json_schema_extra=shown(STANDS, fold="Wake", mark="area"),
    )
    wake_toward: float = bearing("Runs to", 0, fold="Wake", only=STANDS, given="wake")
    wake_ms: float = setting(
        3, "Speed", "m/s", lo=0.3, hi=30, slider=(0.3, 12), fold="Wake", only=STANDS, given="wake"
    )
