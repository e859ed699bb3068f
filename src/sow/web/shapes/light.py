"""A light as the view draws it."""

from typing import Literal

from pydantic import Field

from .shape import ApiModel, DocumentOrder
from .surveys import FieldOrder


class LightOrder(ApiModel):
    """A light over a plot: its settings, the ground's mean linear colour and lowest height (m), the
    plot's longer side (m), and how fine the sky's picture is wanted.
    """

    light: dict
    ground: list[float] = Field(min_length=3, max_length=3)
    lowest: float = Field(ge=-20000, le=20000)
    side_m: float = Field(gt=0, le=1_000_000)
    stage: str = Field("rest", pattern="^(draft|rest)$")
    scene: int | None = Field(None, description="Whose page hears how far the sky at rest is.")


class HazeLine(ApiModel):
    """Extinction of haze at its base and of the air for each colour (1/m); heights in m."""

    k: float
    top_m: float
    base_m: float
    from_m: float
    air: list[float]


class LightLine(ApiModel):
    """The light of a scene; radiances in units of `unit_kcd` (kcd/m2), linear Rec.709. Pictures are
    fetched from /api/products/KEY.
    """

    sun: list[float] = Field(description="Unit vector to it: east, north, up.")
    bearing: float
    height: float
    sunlight: list[float] = Field(description="Irradiance of a plane turned to the sun.")
    numbers: list[list[float]] = Field(description="Irradiance by harmonics, nine of three.")
    haze: HazeLine
    rows: int
    sky: str = Field(description="RGBA half floats, (rows, 2 rows), row 0 at the zenith.")
    tone: str = Field(
        description="RGBA half floats, (128, 128): what a long way of haze shows by direction, on "
        "an unfolded octahedron; in alpha, over the land, part of the sun that clouds let through."
    )
    shaded: list[float] = Field(description="What haze shows with in a shade.")
    shade_m: float = Field(description="Half the side of what the shade covers.")
    unit_kcd: float
    exposure: list[float]
    sun_size: float
    shafts: float = Field(description="How strongly shafts of light show, 0..1.")


class LightTriesOrder(ApiModel):
    """Lights to try: "ready", "day", "panorama" or "around"; the last by how far (0..1) and another
    dozen for each turn.
    """

    light: dict
    mode: str = Field(pattern="^(ready|day|around|panorama)$")
    spread: float = Field(0.6, gt=0, le=1)
    turn: int = Field(0, ge=0, le=10000)


class LightTry(ApiModel):
    label: str
    values: dict


class LightTold(ApiModel):
    """The ready light that a light was made from, and in what it differs from it."""

    label: str
    differs: list[str]


class KeptPicture(ApiModel):
    """A panorama or a card that was brought in."""

    raster: str
    name: str
    told: list[str]


class HorizonOrder(FieldOrder):
    spacing: float = Field(gt=0)
    east: float
    north: float
    eye_m: float = Field(1.7, ge=0, le=100000)


class Horizon(ApiModel):
    """Height of the land's skyline (degrees) by bearing, clockwise from north in even steps."""

    heights: list[float]


class SunPathOrder(ApiModel):
    light: dict


class SunHour(ApiModel):
    hour: float
    bearing: float
    height: float


class SunPath(ApiModel):
    """The sun through its day, by the light's own place and offset from universal time."""

    day: str
    bearing: float
    height: float
    hours: list[SunHour]


class FilmOrder(ApiModel):
    """A film by its name, what light is multiplied with before it (stops), and steps of grading."""

    film: Literal["aces", "soft", "plain", "deep"] = "aces"
    exposure: float = Field(0, ge=-12, le=12)
    grade: list[dict] = Field(default_factory=list, max_length=64)


class GradeTriesOrder(DocumentOrder):
    """Grades of a shot to try: ready ones, films, exposures, or around its own."""

    shot: str
    mode: Literal["ready", "films", "exposures", "around"] = "ready"


class GradeTryLine(ApiModel):
    """One try: what becomes of the shot's film and exposure, and all steps of the scene."""

    label: str
    film: str
    exposure: float
    grade: list[dict]
