"""Survey sheets, transects, measures, pictures of proofs."""

from pydantic import Field

from .builds import GridShape
from .history import PartDifference
from .shape import ApiModel


class FieldOrder(ApiModel):
    """A field that was made for the page: the key of its product and its size in posts."""

    key: str = Field(max_length=64)
    nx: int = Field(ge=2, le=8193)
    ny: int = Field(ge=2, le=8193)


class IsolineQuery(FieldOrder):
    levels: list[float] = Field(max_length=400)


class SunLineOrder(FieldOrder):
    spacing: float = Field(gt=0)
    sun: list[float] = Field(
        min_length=3, max_length=3, description="Unit vector to the sun: east, north, up."
    )


class SurveyOrder(ApiModel):
    document: dict | None = None
    grid: str = Field("view", pattern="^(draft|view)$")
    kind: str = Field(
        max_length=40, description="A sheet's name, or “shows” for where one landform shows."
    )
    entry: str = Field("", max_length=64)
    latitude: float = Field(50, ge=-90, le=90)
    day: int = Field(172, ge=1, le=366)


class SurveyAnswer(ApiModel):
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


class CompareAnswer(ApiModel):
    differences: list[PartDifference]
    heights: SurveyAnswer | None = Field(
        description="The second less the first, in m; none when the plots differ."
    )
    raised_m3: float
    lowered_m3: float
    plants: list[int] = Field(description="Plants of the first and the second.")


class SketchPose(ApiModel):
    east: float
    north: float
    up: float | None = None
    eye: float | None = None
    bearing: float
    tilt: float
    focal: float = Field(ge=4, le=2000)


class ProofOrder(ApiModel):
    document: dict
    pose: SketchPose | None = Field(
        None, description="A viewpoint; without it the picture is from above."
    )
    followed: bool = Field(
        False, description="Drawn by following the light, where the renderer is installed."
    )
    shot: str = Field("", description="A shot whose film and grade are used, by its id.")
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


class MixPictureOrder(ApiModel):
    """A mix to be drawn as it stands on this land."""

    document: dict | None = None
    sowings: list[dict] = Field(min_length=1, max_length=64)
    marks: list[dict] = Field(default_factory=list, max_length=64)
    width_px: int = Field(280, ge=32, le=800)
    height_px: int = Field(120, ge=32, le=800)
    followed: bool = Field(
        False, description="Drawn by following the light, where the renderer is installed."
    )


class TransectOrder(ApiModel):
    document: dict | None = None
    line: list[float] = Field(
        min_length=4, max_length=4, description="East and north of the two ends, in m."
    )
    samples: int = Field(400, ge=16, le=4000)
    reach_m: float | None = Field(None, gt=0, le=1000)
    times: float = Field(1, gt=0, le=100, description="Exaggeration of heights in the drawing.")


class TransectPlant(ApiModel):
    along: float
    foot: float
    height: float
    kind: str
    off: float


class TransectAnswer(ApiModel):
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


class MeasureLine(ApiModel):
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
