"""What comes in and what goes out: rasters, ready lands, files handed over."""

from pydantic import Field

from .shape import ApiModel, Problem


class RasterInfo(ApiModel):
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


class LandLine(ApiModel):
    name: str
    label: str
    note: str
    width_m: float
    relief_m: float


class RawGuess(ApiModel):
    columns: int
    rows: int
    type: str
    order: str


class Borrow(ApiModel):
    source: int = Field(description="The scene whose land is taken, at its head.")


class BorrowedLand(ApiModel):
    raster: str
    name: str
    width_m: float
    depth_m: float
    source: str


class HandOver(ApiModel):
    posts: int = Field(ge=33, le=4097)
    files: dict[str, dict] = Field(
        default_factory=dict, description="Options of each exporter by its name."
    )


class HandOverForecast(ApiModel):
    megabytes: float
    seconds: float = Field(description="On this machine, as the last hand-over showed its pace.")
    plants: int
    triangles: int = Field(description="Of the land in full.")


class HandOverLine(ApiModel):
    id: str
    state: str
    step: str
    share: float
    problem: Problem | None = None
    report: dict | None = None
