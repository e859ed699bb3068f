"""What travels as JSON: the bodies and answers of the API."""
from pydantic import BaseModel, ConfigDict, Field

from ..core.hand.stroke import Brush
from ..core.scene import Scene


class Shape(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Problem(Shape):
    """An error (RFC 9457). `path` is the field of the document that is wrong, `advice` what to do."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    path: str = ""
    advice: str = ""


class NewScene(Shape):
    document: Scene


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
    accept_plants: bool = Field(False, description="Go on although the scene will hold more than five million plants.")


class GoTo(Shape):
    revision: int


class Snapshot(Shape):
    revision: int
    name: str = Field(min_length=1, max_length=80)


class Step(Shape):
    id: int
    parent: int | None
    label: str
    snapshot: str | None
    made: str


class RasterInfo(Shape):
    raster: str
    name: str
    rows: int
    columns: int
    dtype: str
    lowest: float
    highest: float
    spacing_m: float | None = Field(None, description="Metres between posts, where the file tells them.")
    filled: int = Field(0, description="Posts without data that were filled from around them.")


class BuildOrder(Shape):
    document: dict | None = Field(None, description="A document that is not kept yet, as while a slider is dragged; else the head.")
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
    count: int
    capped: bool = Field(description="The least distance leaves no room for the wanted density.")
    tile_m: float
    tiles: list[list[int]] = Field(description="For each tile with plants: column, row, first plant, end.")


class WaterLine(Shape):
    id: str
    key: str
    wet_m2: float
    bounds: list[float] | None = Field(description="West, south, east, north of a pool; none for one that runs to the horizon.")


class PieceLine(Shape):
    id: str
    up_m: float


class FarLine(Shape):
    grid: GridShape
    heights: str
    colour: str = Field(description="RGBA bytes: square root of linear colour.")


class SurveyOrder(Shape):
    document: dict | None = None
    grid: str = Field("view", pattern="^(draft|view)$")
    kind: str = Field(max_length=40, description="A sheet's name, or “shows” for where one landform shows.")
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
    pose: SketchPose | None = Field(None, description="A viewpoint; without it the picture is from above.")
    width_px: int = Field(200, ge=32, le=800)
    height_px: int = Field(130, ge=32, le=800)
    fine: bool = False


class TransectOrder(Shape):
    document: dict | None = None
    line: list[float] = Field(min_length=4, max_length=4, description="East and north of the two ends, in m.")
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
    most: list[int] = Field(description="Index of the material with the largest share at each sample, -1 when bare.")
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
    points: list[list[float]] = Field(min_length=1, max_length=4000, description="East, north and weight of each point.")


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
    full_seconds: float


class Manifest(Shape):
    """Where a build's products are: fetch each key from /api/products/KEY, raw and little-endian."""

    grid: GridShape
    draft: bool
    lowest: float
    highest: float
    heights: str
    weights: str
    cover: str
    beyond: list[FarLine] = Field(description="Far land: the ring next to the plot, then the one around it.")
    water: list[WaterLine]
    shares: dict[str, float]
    sown: list[SownLine]
    pieces: list[PieceLine]
    pictures: dict[str, str]
    slope_bins: list[float]
    height_bins: list[float]
    cost: Cost
    seconds: dict[str, float]


class HandOver(Shape):
    posts: int = Field(ge=33, le=4097)
    ground_px: int = Field(2048, ge=64, le=8192)


class Job(Shape):
    id: str
    state: str
    step: str
    share: float
    problem: Problem | None = None
    report: dict | None = None
