"""Moments: a scene at times, as the strip of time shows and plays it."""

from pydantic import Field

from ...core.air.light import Light
from ...core.shots.shot import Shot
from .shape import ApiModel, DocumentOrder

MOST_TIMES = 2000


class MomentsOrder(DocumentOrder):
    shot: Shot
    times: list[float] = Field(max_length=MOST_TIMES)


class PieceStance(ApiModel):
    """Where a piece stands: place and height in m, turn in degrees."""

    id: str
    east_m: float
    north_m: float
    up_m: float
    turn: float


class MomentLine(ApiModel):
    """A scene at a time; its light where it differs from the scene's own."""

    at_s: float
    shot: Shot
    light: Light | None
    pieces: list[PieceStance]
    waves_s: float
    blown_s: float
    wind: float


class Moments(ApiModel):
    lasts_s: float
    moves_eye: bool
    moments: list[MomentLine]
