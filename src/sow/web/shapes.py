"""What travels as JSON: the bodies and answers of the API."""
from pydantic import BaseModel, ConfigDict, Field

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
    beyond: str | None
    beyond_colour: str | None = Field(description="RGBA bytes: square root of the far land's linear colour.")
    beyond_grid: GridShape | None
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
