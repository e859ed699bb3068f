"""An order to build and the manifest that answers it."""

from pydantic import Field

from ...core.air.things.lamp import LampLight
from ...core.shots.opening import Opening
from .shape import ApiModel, shape_of

OpeningLine = shape_of(Opening, "OpeningLine")


class BuildOrder(ApiModel):
    document: dict | None = Field(
        None,
        description="A document that is not kept yet, as while a slider is dragged; else the head.",
    )
    grid: str = Field("view", pattern="^(draft|view)$")
    client: str = Field("", max_length=64)


class GridShape(ApiModel):
    nx: int
    ny: int
    spacing: float
    east_m: float = 0
    north_m: float = 0


class LandDraft(ApiModel):
    """The land alone, at a draft's fineness: what a hand that drags it sees first."""

    grid: GridShape
    heights: str = Field(description="float32 m, row 0 north.")
    lowest: float
    highest: float


class SownLine(ApiModel):
    id: str
    key: str
    kinds: list[str] = Field(
        description="The kinds of the mix with look and tint, as in kind~look~tint."
    )
    count: int
    counts: list[int] = Field(description="Of each kind of the mix; empty while it is not placed.")
    wished: int = Field(description="What its amount asks for, were the whole plot open to it.")
    room: float | None = Field(
        description="The most per 100 m² that the least distances leave room for."
    )
    capped: bool = Field(description="The least distance leaves no room for the wanted density.")
    tile_m: float
    tiles: list[list[int]] = Field(
        description="For each tile with plants: column, row, first plant, end."
    )


class FarSownLine(ApiModel):
    """What one sowing gives beyond the plot."""

    id: str
    key: str
    kinds: list[str]
    tile_m: float
    tiles: list[list[int]]


class WaveTile(ApiModel):
    """One square tile of waves."""

    side_m: float
    turn: float = Field(description="Radians, counter-clockwise.")
    steep: float = Field(description="Mean square of its slopes.")
    band: list[float] = Field(description="Least and greatest wave number, radians per m.")


class SeaLine(ApiModel):
    """The waves of a water (core/water/spectrum.py, surf.py)."""

    high_m: float
    long_m: float
    peak: float = Field(description="Omega of the highest waves, as they run by themselves.")
    period_s: float = Field(description="Of the highest waves as shown.")
    drift: list[float] = Field(
        description="Of its foam: east and north in m/s; seconds after which it is back, or 0."
    )
    comes_back: int = Field(description="Waves until the first comes again; 0 never.")
    tiles: list[WaveTile]
    waves: str = Field(
        description="For each tile 128 by 128 float32 of real part, imaginary part, omega."
    )


class WakeLine(ApiModel):
    """A wake (core/water/wake.py): bow east and north in m, bearing in degrees."""

    east: float
    north: float
    toward: float
    long_m: float
    broad_m: float
    speed_ms: float
    high_m: float
    of: str = Field(description="The piece that makes it, by id, if any.")


class EddyLine(ApiModel):
    """What stones do to a stream (core/water/eddies.py): half floats of four, rows downstream."""

    key: str
    rows: int
    columns: int
    long_m: float


class WaterLine(ApiModel):
    id: str
    key: str = Field(
        description="Of a stream: float32 of east, north, level, speed, whiteness at each point. "
        "Of others: half floats over the posts: time to the shore in s, share under water, how far "
        "the shore lies open, depth in m."
    )
    sea: SeaLine
    around: str = Field(
        description="float32 (n, 6) of what stands in it and of falls that strike it: east, north, "
        "radius, level, how far its foam reaches, all in m, and how much it is."
    )
    wakes: list[WakeLine]
    ice: str = Field(description="Half floats over the posts: thickness in m; nothing where none.")
    eddies: EddyLine | None
    runs: bool = Field(description="It is a stream.")
    wet_m2: float
    wet_m3: float
    told: list[str] = Field(description="What a person should know of it.")
    bounds: list[float] | None = Field(
        description="West, south, east, north of a pool; none for one that runs to the horizon."
    )


class PieceLine(ApiModel):
    id: str
    kind: str = Field(description="With its look.")
    up_m: float


class MistLine(ApiModel):
    """A mist: its map (float32, 128 by 128 of cover and top in m) over west, south, east, north."""

    key: str
    bounds: list[float]
    base_m: float
    soft_m: float
    k: float


class CardLine(ApiModel):
    """A card: where it stands and how it is lit; its picture is sRGB bytes with cover."""

    id: str
    picture: str
    columns: int
    rows: int
    place: list[float]
    width_m: float
    height_m: float
    faces: float | None = Field(description="The bearing that it faces; none: the eye.")
    shines: float
    hazed: bool
    shadow: bool


LampLine = shape_of(LampLight, "LampLine")


class FarLine(ApiModel):
    grid: GridShape
    heights: str
    colour: str = Field(description="RGBA bytes: square root of linear colour.")


class GroundLine(ApiModel):
    """How the view draws a material."""

    id: str
    tune: list[float] = Field(
        description="What its tint, lightness, hue and saturation make of linear colour: the nine "
        "numbers of colour = matrix @ colour, by columns."
    )
    means: list[float] = Field(
        description="Means of its maps: linear colour and height, then normal, roughness, shade."
    )


class Cost(ApiModel):
    plants: int
    full_triangles: int
    full_megabytes: float
    plant_megabytes: float = Field(
        description="Memory that plants, stones and their kinds take in the view."
    )


class Lacking(ApiModel):
    path: str
    message: str


class Manifest(ApiModel):
    """Where a build's products are: fetch each key from /api/products/KEY, raw and
    little-endian.
    """

    grid: GridShape
    draft: bool
    lowest: float
    highest: float
    mean: float = Field(description="Mean height in m: the level on which clouds' shade is told.")
    heights: str
    weights: str
    ground: list[GroundLine]
    tone: str = Field(
        description="RGBA bytes: square root of the ground's mean linear colour; alpha 0 where "
        "nothing lies."
    )
    shore: str
    cover: str
    open: str = Field(description="Bytes: part of the sky that each post sees, 0..255.")
    colour: list[float] = Field(
        description="Mean linear colour of the land as it shows, told coarsely, so that light is "
        "not made anew for every edit."
    )
    beyond: list[FarLine] = Field(
        description="Far land: the ring next to the plot, then the one around it."
    )
    water: list[WaterLine]
    mists: list[MistLine]
    cards: list[CardLine]
    lamps: list[LampLine]  # type: ignore[valid-type]
    shares: dict[str, float]
    sown: list[SownLine]
    far_sown: list[FarSownLine] = Field(description="Woods beyond the plot; none in a draft.")
    pieces: list[PieceLine]
    pictures: dict[str, str]
    lacking: list[Lacking] = Field(
        description="Conditions that name something that is gone; each asks nothing until mended."
    )
    opening: OpeningLine = Field(  # type: ignore[valid-type]
        description="The eye that a scene without shots opens with."
    )
    slope_bins: list[float]
    height_bins: list[float]
    cost: Cost
    seconds: dict[str, float]
