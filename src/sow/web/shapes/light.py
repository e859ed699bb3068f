"""A light as the view draws it."""

from pydantic import Field

from .shape import Shape


class LightOrder(Shape):
    """A light over a plot: its settings, the ground's mean linear colour and lowest height (m), the
    plot's longer side (m), and how fine the sky's picture is wanted.
    """

    light: dict
    ground: list[float] = Field(min_length=3, max_length=3)
    lowest: float = Field(ge=-20000, le=20000)
    side_m: float = Field(gt=0, le=1_000_000)
    stage: str = Field("rest", pattern="^(draft|rest|fine)$")


class HazeLine(Shape):
    """Extinction of haze at its base and of the air for each colour (1/m); heights in m."""

    k: float
    top_m: float
    base_m: float
    from_m: float
    air: list[float]


class LightLine(Shape):
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
    tone: str = Field(description="RGBA half floats, (32, 64): what a long way of haze shows.")
    shade: str = Field(description="Bytes, (128, 128): part of the sun that clouds let through.")
    shade_m: float = Field(description="Half the side of what the shade covers.")
    unit_kcd: float
    exposure: list[float]
    sun_size: float


class SunPathOrder(Shape):
    light: dict


class SunHour(Shape):
    hour: float
    bearing: float
    height: float


class SunPath(Shape):
    """The sun through its day, by the light's own place and offset from universal time."""

    day: str
    bearing: float
    height: float
    hours: list[SunHour]
