"""Masks, contours and strokes of the hand."""

from typing import Literal

from pydantic import Field

from ...core.hand.stroke import Brush, Point
from .builds import GridShape
from .shape import ApiModel


class StrokeChunk(ApiModel):
    seq: int = Field(ge=0, description="Number of this part of the stroke, from 0.")
    base: int
    entry: str = Field(max_length=64)
    brush: Brush
    points: list[Point] = Field(
        min_length=1, max_length=4000, description="East, north and weight of each point."
    )


class MaskOrder(ApiModel):
    document: dict | None = None
    mark: str = Field(max_length=64)
    how: Literal["full", "empty", "where", "union", "common", "without"]
    other: str = Field("", max_length=64)


class ZoneLine(ApiModel):
    colour: str
    share: float
    raster: str


class MaskPicture(ApiModel):
    key: str = Field(description="Bytes 0..255 at each post of the view grid.")
    grid: GridShape
    share: float


class IsolineOrder(ApiModel):
    document: dict | None = None
    east: float
    north: float


class StrokeEnd(ApiModel):
    label: str = Field("", max_length=120)


class ContourLine(ApiModel):
    height_m: float
    points: list[list[float]]
