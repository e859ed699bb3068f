"""Masks, contours and strokes of the hand."""

from typing import Literal

from pydantic import Field

from ...core.hand.stroke import Brush, Point
from .builds import GridShape
from .shape import Shape


class StrokeChunk(Shape):
    seq: int = Field(ge=0, description="Number of this part of the stroke, from 0.")
    base: int
    entry: str = Field(max_length=64)
    brush: Brush
    points: list[Point] = Field(
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


class ContourLine(Shape):
    height_m: float
    points: list[list[float]]
