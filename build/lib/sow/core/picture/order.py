"""What a still is ordered with: its size, how fine it is, and how the world is laid into it."""

from typing import Literal

from pydantic import Field

from ..document.entry import Strict
from ..errors import SceneError

Quality = Literal["look", "good", "fine"]
Projection = Literal["flat", "curved", "panorama", "cube"]
Form = Literal["frames", "mp4", "webm"]
PROJECTIONS: tuple[Projection, ...] = ("flat", "curved", "panorama", "cube")
PASSES: dict[str, int] = {"look": 8, "good": 32, "fine": 96}
PROOF_PASSES = 3  # of small pictures
NOISE: dict[str, str] = {
    "look": "to judge light and framing; leaves are smeared",
    "good": "clean but for fine grain in leaves",
    "fine": "for print and large screens",
}
MOST_PX = 16384
MOST_S = 3600.0
MOST_FRAMES = 20_000
MOST_PIXELS = 8192 * 4608
SIZES: dict[str, tuple[int, int]] = {
    "wide": (1920, 1080),
    "square": (1600, 1600),
    "tall": (1080, 1920),
    "4K": (3840, 2160),
    "8K": (7680, 4320),
}


class Clip(Strict):
    """A moving picture as ordered: from one time to another in s, how many pictures a second, and
    whether they are written each or as a clip. `layers` writes the light of each frame as well.
    """

    from_s: float = Field(0, ge=0, le=MOST_S, title="From")
    to_s: float = Field(5, ge=0, le=MOST_S, title="To")
    fps: int = Field(24, ge=1, le=120, title="Pictures a second")
    form: Form = "mp4"
    light: bool = Field(False, title="The light of each frame, as OpenEXR")

    @property
    def times(self) -> list[float]:
        """The time of each frame in s; the end itself is not drawn, so that loops close."""
        count = max(1, round((self.to_s - self.from_s) * self.fps))
        return [self.from_s + k / self.fps for k in range(count)]


class Order(Strict):
    """A still as ordered, or a moving picture where `clip` is given. `region` are left, top, width
    and height as parts of the frame; `layers` tells that its light is written with all layers.
    """

    width_px: int = Field(1920, ge=16, le=MOST_PX, title="Width")
    height_px: int = Field(1080, ge=16, le=MOST_PX, title="Height")
    quality: Quality = "good"
    projection: Projection = "flat"
    angle: float = Field(180, ge=60, le=360, title="Angle of a curved picture, in degrees")
    bits: Literal[8, 16] = 8
    jpeg: bool = False
    names: str = Field("sides", max_length=20, title="Names of the cube's faces")
    layers: bool = Field(False, title="All layers")
    region: tuple[float, float, float, float] | None = None
    clip: Clip | None = None

    @property
    def passes(self) -> int:
        """Samples of each pixel."""
        return PASSES[self.quality]


def checked(order: Order) -> Order:
    """The order, with the shape that its projection has. Raises SceneError when too large."""
    width, height = order.width_px, order.height_px
    if order.projection == "panorama":
        height = width // 2
    elif order.projection in ("curved", "cube"):
        width = height = min(width, height)
    pixels = width * height * (6 if order.projection == "cube" else 1)
    if pixels > MOST_PIXELS * (4 if order.projection == "cube" else 1):
        raise SceneError(
            f"A still of {width:,} × {height:,} px is too large.",
            "width_px",
            f"Up to {MOST_PIXELS / 1e6:.0f} million pixels are made; 7680 × 4320 is the largest of "
            "the ready sizes.",
        )
    if order.region:
        left, top, wide, high = order.region
        inside = left >= 0 and top >= 0 and left + wide <= 1 + 1e-6 and top + high <= 1 + 1e-6
        if not inside or wide * width < 8 or high * height < 8:
            raise SceneError(
                "The region does not lie in the frame, or is under 8 px.",
                "region",
                "Give left, top, width and height as parts of the frame, 0 to 1.",
            )
    clip = order.clip
    if clip:
        _refuse_clip(clip, order.projection)
        if clip.form != "frames":  # films are written by pairs of pixels
            width, height = width // 2 * 2, height // 2 * 2
    return order.model_copy(update={"width_px": width, "height_px": height})


def _refuse_clip(clip: Clip, projection: Projection) -> None:
    if clip.to_s <= clip.from_s:
        raise SceneError(
            f"The moving picture ends at {clip.to_s:g} s and begins at {clip.from_s:g} s.",
            "clip",
            "Let it end later than it begins.",
        )
    if len(clip.times) > MOST_FRAMES:
        raise SceneError(
            f"{len(clip.times):,} frames are too many.",
            "clip",
            f"Up to {MOST_FRAMES:,} are made; take a shorter time or fewer a second.",
        )
    if projection == "cube":
        raise SceneError(
            "A moving picture is not written as a cube.",
            "projection",
            "Take a panorama: it holds the same.",
        )


def size_of(text: str) -> tuple[int, int]:
    """Width and height of “1920x1080” or of a ready size's name. Raises SceneError."""
    if text in SIZES:
        return SIZES[text]
    try:
        width, height = (int(v) for v in text.lower().replace("×", "x").split("x"))
    except ValueError:
        raise SceneError(
            f"'{text}' is no size.", "size", f"Give it as 1920x1080, or one of {', '.join(SIZES)}."
        ) from None
    if not (16 <= width <= MOST_PX and 16 <= height <= MOST_PX):
        raise SceneError(
            f"A still of {width:,} × {height:,} px is not possible.",
            "size",
            f"Give 16 to {MOST_PX:,} px for each side.",
        )
    return width, height
