"""What travels as JSON: the bodies and answers of the API."""

from dataclasses import MISSING, fields
from typing import Literal, get_type_hints

from pydantic import BaseModel, ConfigDict, Field, create_model

from ..core.hand.stroke import Brush
from ..core.plot import Plot
from ..core.scene import Scene


class Shape(BaseModel):
    model_config = ConfigDict(extra="forbid")


def shape_of(record: type, name: str) -> type[Shape]:
    """A shape with the fields of one of the core's records (a dataclass), so that they are told
    once; `name` is how the page knows it.
    """
    known = get_type_hints(record)
    return create_model(
        name,
        __base__=Shape,
        __doc__=record.__doc__,
        **{
            f.name: (known[f.name], ... if f.default is MISSING else f.default)
            for f in fields(record)
        },
    )


class Problem(Shape):
    """An error (RFC 9457).

    `path` is the field of the document that is wrong, `advice` what to do.
    """

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    path: str = ""
    advice: str = ""


class DocumentOrder(Shape):
    document: dict | None = None


class NewScene(Shape):
    document: Scene


class WorkOrder(DocumentOrder):
    """What a work is asked with, on a document that may not be kept yet."""

    values: dict = Field(default_factory=dict)


class WorkAnswer(Shape):
    """The document that a work made; an empty label means that nothing was changed."""

    document: Scene
    label: str
    chosen: str | None
    told: str
    several: list[str]


class OfferLine(Shape):
    """One line of a menu: its heading, and whether a picture of it is drawn."""

    key: str
    label: str
    note: str
    group: str
    pictured: bool


class PlotOrder(Shape):
    """A plot whose cost is asked for."""

    width_m: float
    depth_m: float
    posts: int


class PlotCost(Shape):
    """What a plot costs in full, before anything stands on it."""

    spacing_m: float
    triangles: int
    megabytes: float
    seconds: float
    walk_minutes: float


class NewPlotOrder(Shape):
    """A new scene's name and plot, and whether it begins with rolling ground."""

    name: str
    plot: Plot
    rolling: bool


class ProofPlanOrder(DocumentOrder):
    """The chosen entry, and the setting to vary: about `middle`, over `spread` of its slider."""

    entry: str | None = None
    setting: int | None = None
    middle: float | None = None
    spread: float = 1
    turn: int = 0


class ProofChoice(Shape):
    """A setting that may be varied: where it stands, its label and unit."""

    path: list[str | int]
    label: str
    unit: str
    seed: bool


class ProofPlan(Shape):
    """The settings of an entry that may be varied, and twelve values of the chosen one."""

    owner: str
    entry: str
    sowing: bool
    choices: list[ProofChoice]
    setting: int
    now: float
    values: list[float]


class SceneState(Shape):
    id: int
    name: str
    revision: int
    document: Scene
    label: str
    kept: str
    undo: str | None
    redo: str | None
    steps: int


class SceneLine(Shape):
    id: int
    name: str
    kept: str
    sample: str | None


class Edit(Shape):
    base: int = Field(description="The revision that the edit was made on; it must be the head.")
    label: str = Field(min_length=1, max_length=120)
    document: dict
    accept_plants: bool = Field(
        False, description="Go on although the scene will hold more than five million plants."
    )


class GoTo(Shape):
    revision: int


class Snapshot(Shape):
    revision: int
    name: str = Field(max_length=80)
    note: str = Field("", max_length=2000)


class Step(Shape):
    id: int
    parent: int | None
    label: str
    snapshot: str | None
    note: str
    made: str
    current: bool = Field(
        description="On the way from the first step to the newest of the course that is followed."
    )


class UsageAnswer(Shape):
    revisions: int
    snapshots: int
    documents: int = Field(description="Bytes of the documents.")
    rasters: int = Field(description="Bytes of the rasters that they refer to.")
    database: int = Field(description="Bytes of the whole store, all scenes.")


class Prune(Shape):
    keep: int = Field(ge=1, le=100000, description="How many of the newest steps stay.")


class CompareOrder(Shape):
    a: int
    b: int


class PartDifference(Shape):
    part: str
    added: list[str]
    removed: list[str]
    changed: list[str]


class PartLine(Shape):
    id: int
    part: str
    name: str
    made: str


class NewPart(Shape):
    scene: int
    part: str
    name: str = Field(min_length=1, max_length=80)


class TakePart(Shape):
    document: dict | None = None
    drawer: int | None = Field(
        None, description="A part of the own drawer; else a scene or a revision."
    )
    scene: int | None = None
    revision: int | None = None
    part: str = ""
    add: bool = Field(
        False,
        description="Its entries come after those that are there; else they take their place.",
    )


class RasterInfo(Shape):
    raster: str
    name: str
    rows: int
    columns: int
    dtype: str
    lowest: float
    highest: float
    spacing_m: float | None = Field(
        None, description="Metres between posts, where the file tells them."
    )
    filled: int = Field(0, description="Posts without data that were filled from around them.")


class BuildOrder(Shape):
    document: dict | None = Field(
        None,
        description="A document that is not kept yet, as while a slider is dragged; else the head.",
    )
    grid: str = Field("view", pattern="^(draft|view)$")
    client: str = Field("", max_length=64)


class GridShape(Shape):
    nx: int
    ny: int
    spacing: float
    east_m: float = 0
    north_m: float = 0


class SownLine(Shape):
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


class WaterLine(Shape):
    id: str
    key: str
    wet_m2: float
    bounds: list[float] | None = Field(
        description="West, south, east, north of a pool; none for one that runs to the horizon."
    )


class PieceLine(Shape):
    id: str
    kind: str = Field(description="With its look.")
    up_m: float


class FarLine(Shape):
    grid: GridShape
    heights: str
    colour: str = Field(description="RGBA bytes: square root of linear colour.")


class SurveyOrder(Shape):
    document: dict | None = None
    grid: str = Field("view", pattern="^(draft|view)$")
    kind: str = Field(
        max_length=40, description="A sheet's name, or “shows” for where one landform shows."
    )
    entry: str = Field("", max_length=64)
    latitude: float = Field(50, ge=-90, le=90)
    day: int = Field(172, ge=1, le=366)


class SurveyAnswer(Shape):
    key: str
    label: str
    unit: str
    log: bool
    help: str
    grid: GridShape
    low: float = Field(description="The 1st per cent, where the scale begins.")
    high: float = Field(description="The 99th per cent.")
    lowest: float
    highest: float
    mean: float
    bins: list[float]


class CompareAnswer(Shape):
    differences: list[PartDifference]
    heights: SurveyAnswer | None = Field(
        description="The second less the first, in m; none when the plots differ."
    )
    raised_m3: float
    lowered_m3: float
    plants: list[int] = Field(description="Plants of the first and the second.")


class SheetLine(Shape):
    kind: str
    label: str
    unit: str
    help: str


class SketchPose(Shape):
    east: float
    north: float
    up: float | None = None
    eye: float | None = None
    bearing: float
    tilt: float
    focal: float = Field(ge=4, le=2000)


class ProofOrder(Shape):
    document: dict
    pose: SketchPose | None = Field(
        None, description="A viewpoint; without it the picture is from above."
    )
    width_px: int = Field(200, ge=32, le=800)
    height_px: int = Field(130, ge=32, le=800)
    fine: bool = False
    clothed: bool = Field(
        False, description="From above, the ground in the colours of its materials."
    )
    sowing: str = Field("", description="A sowing to draw on the land, by its id.")
    east: float | None = Field(
        None, description="With `north`: the place about which a sowing is drawn from above."
    )
    north: float | None = None


class TransectOrder(Shape):
    document: dict | None = None
    line: list[float] = Field(
        min_length=4, max_length=4, description="East and north of the two ends, in m."
    )
    samples: int = Field(400, ge=16, le=4000)
    reach_m: float | None = Field(None, gt=0, le=1000)
    times: float = Field(1, gt=0, le=100, description="Exaggeration of heights in the drawing.")


class TransectPlant(Shape):
    along: float
    foot: float
    height: float
    kind: str
    off: float


class TransectAnswer(Shape):
    length: float
    east: list[float]
    north: list[float]
    height: list[float]
    water: list[float | None]
    slope: list[float]
    names: list[str]
    most: list[int] = Field(
        description="Index of the material with the largest share at each sample, -1 when bare."
    )
    plants: list[TransectPlant]


class MeasureLine(Shape):
    name: str
    label: str
    value: float | None
    low: float
    high: float
    unit: str
    source: str
    advice: str
    tells: bool
    fits: bool


class LandLine(Shape):
    name: str
    label: str
    note: str
    width_m: float
    relief_m: float


class StrokeChunk(Shape):
    seq: int = Field(ge=0, description="Number of this part of the stroke, from 0.")
    base: int
    entry: str = Field(max_length=64)
    brush: Brush
    points: list[list[float]] = Field(
        min_length=1, max_length=4000, description="East, north and weight of each point."
    )


class MaskOrder(Shape):
    document: dict | None = None
    mark: str = Field(max_length=64)
    how: Literal["full", "empty", "where", "union", "common", "without"]
    other: str = Field("", max_length=64)


class ZoneLine(Shape):
    colour: str
    share: float
    raster: str


class MaskPicture(Shape):
    key: str = Field(description="Bytes 0..255 at each post of the view grid.")
    grid: GridShape
    share: float


class IsolineOrder(Shape):
    document: dict | None = None
    east: float
    north: float


class StrokeEnd(Shape):
    label: str = Field("", max_length=120)


class RawGuess(Shape):
    columns: int
    rows: int
    type: str
    order: str


class ContourLine(Shape):
    height_m: float
    points: list[list[float]]


class Borrow(Shape):
    source: int = Field(description="The scene whose land is taken, at its head.")


class BorrowedLand(Shape):
    raster: str
    name: str
    width_m: float
    depth_m: float
    source: str


class Cost(Shape):
    plants: int
    full_triangles: int
    full_megabytes: float
    plant_megabytes: float = Field(
        description="Memory that plants, stones and their kinds take in the view."
    )


class Lacking(Shape):
    path: str
    message: str


class Manifest(Shape):
    """Where a build's products are: fetch each key from /api/products/KEY, raw and
    little-endian.
    """

    grid: GridShape
    draft: bool
    lowest: float
    highest: float
    heights: str
    weights: str
    shore: str
    cover: str
    beyond: list[FarLine] = Field(
        description="Far land: the ring next to the plot, then the one around it."
    )
    water: list[WaterLine]
    shares: dict[str, float]
    sown: list[SownLine]
    pieces: list[PieceLine]
    pictures: dict[str, str]
    lacking: list[Lacking] = Field(
        description="Conditions that name something that is gone; each asks nothing until mended."
    )
    slope_bins: list[float]
    height_bins: list[float]
    cost: Cost
    seconds: dict[str, float]


class HandOver(Shape):
    posts: int = Field(ge=33, le=4097)
    files: dict[str, dict] = Field(
        default_factory=dict, description="Options of each exporter by its name."
    )


class HandOverForecast(Shape):
    megabytes: float
    seconds: float = Field(description="On this machine, as the last hand-over showed its pace.")
    plants: int
    triangles: int = Field(description="Of the land in full.")


class Job(Shape):
    id: str
    state: str
    step: str
    share: float
    problem: Problem | None = None
    report: dict | None = None


class Named(Shape):
    name: str
    label: str


class ConditionKind(Shape):
    kind: str
    label: str
    stage: str


class SheetKind(Shape):
    """A measure of the survey; `log` draws it on a scale of ratios."""

    kind: str
    label: str
    unit: str
    help: str
    log: bool
    stage: str


class HandleFields(Shape):
    """The fields that grips on the map change."""

    across: str
    along: str
    round: bool


class EntryFacts(Shape):
    """What is shown of a kind of entry: a template under its name, its grips on the map."""

    subtitle: str
    handles: HandleFields | None


class FamilyFacts(Shape):
    """A family of kinds, as the cabinet and the view know it."""

    name: str
    label: str
    symbol: str
    leafy: bool
    foot_tone: bool
    large: bool
    loose: bool
    told_apart: bool
    sown: bool
    patched: bool


class ExporterFacts(Shape):
    """An exporter, with the JSON Schema of its options."""

    name: str
    title: str
    help: str
    options: dict


class LeftOut(Shape):
    """A file of SOW_EXTRA that could not be had, and why."""

    file: str
    message: str


class Catalogue(Shape):
    scene: dict
    conditions: list[ConditionKind]
    sheets: list[SheetKind]
    entries: dict[str, EntryFacts]
    families: list[FamilyFacts]
    lights: list[Named]
    looks: list[str]
    seasons: list[str]
    exporters: list[ExporterFacts]
    left_out: list[LeftOut]
