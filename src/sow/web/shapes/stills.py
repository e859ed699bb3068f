"""Stills: what is ordered, and how far each is."""

from typing import Literal

from pydantic import Field

from ...core.picture.order import Order
from ...core.shots.shot import Shot
from .shape import ApiModel, DocumentOrder


class NewStill(ApiModel):
    shot: Shot
    order: Order
    document: dict | None = None


class StillForecast(ApiModel):
    seconds: float
    width_px: int
    height_px: int
    passes: int
    frames: int


class StillWish(ApiModel):
    wish: Literal["run", "pause", "stop"]


class StillLine(ApiModel):
    id: str
    of_scene: int
    name: str
    order: Order
    shot: str
    doing: Literal["waiting", "running", "paused", "stopped", "done", "failed"]
    step: str
    share: float
    seconds: float
    left: float | None
    noise: float | None = Field(description="As a part of the range of the screen.")
    files: list[str]
    trouble: str
    advice: str
    note: str = Field(description="What was not as wished, though it goes on.")
    shown: int = Field(description="How often its picture so far has changed.")


class LensOrder(DocumentOrder):
    shot: Shot


class LensLine(ApiModel):
    """What a shot's lens sees and where it is sharp (m; none is infinity or all)."""

    across_deg: float
    up_deg: float
    focus_m: float
    sharp_from_m: float
    sharp_to_m: float | None
    opening_mm: float


class StillChoices(ApiModel):
    """What a still may be ordered with, in words."""

    sizes: dict[str, tuple[int, int]]
    qualities: dict[str, str]
    passes: dict[str, int]
    projections: list[str]
    names: dict[str, dict[str, str]]
    lacking: str
