"""The film: scene light to what a screen shows, by OpenColorIO's built-in transforms.

The view holds the same film, with whatever is graded pixel by pixel, as a table behind a logarithm,
sampled between its entries.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import PyOpenColorIO as ocio  # noqa: N813  (its own name is longer than its use)

from .grade.base import Graded, GradedFrame, bright, steps
from .grade.tables import applied

CONFIG = "ocio://cg-config-v4.0.0_aces-v2.0_ocio-v2.5"
SCENE = "Linear Rec.709 (sRGB)"
DISPLAY = "sRGB - Display"
ACES = "ACES 2.0 - SDR 100 nits (Rec.709)"
PLAIN = "Un-tone-mapped"
LOWEST_STOP, HIGHEST_STOP = -9.5, 7.0  # of the table, about middle grey
GREY = 0.18
SIDE = 65
NORMAL = 2.4  # what middling light is lifted by, so that a grey card comes out as on paper


@dataclass(frozen=True)
class Response:
    """How a film answers light: of each stop from middle grey so much is `kept`, since outdoors
    shade is five stops below the sky; the saturation of what it takes in; the built-in transform
    that shows it. `shoulder` is the value from which a plain one bends light to stay below white.
    """

    label: str
    note: str
    kept: float = 0.9
    saturation: float = 1.0
    shows: str = ACES
    shoulder: float = 0.0


RESPONSES: dict[str, Response] = {
    "aces": Response("ACES 2", "the open standard's own"),
    "soft": Response("Soft", "open shade, gentle lights", kept=0.72, saturation=0.94),
    "plain": Response("Plain", "light as it is, bent only near white", 0.8, 1.0, PLAIN, 0.55),
    "deep": Response("Deep", "dark shade, full colours", kept=1.0, saturation=1.12),
}


@lru_cache(maxsize=4)
def _processor(shows: str) -> ocio.CPUProcessor:
    config = ocio.Config.CreateFromFile(CONFIG)
    shown = ocio.DisplayViewTransform(src=SCENE, display=DISPLAY, view=shows)
    return config.getProcessor(shown).getDefaultCPUProcessor()


def developed(light: np.ndarray, response: str = "aces") -> np.ndarray:
    """Exposed scene light (..., 3) in linear Rec.709 as sRGB values, float32 0..1."""
    film = RESPONSES[response]
    lifted = np.maximum(np.asarray(light) * (NORMAL / GREY), 0) ** film.kept * GREY
    if film.saturation != 1.0:
        grey = bright(lifted)
        lifted = np.maximum(grey + (lifted - grey) * film.saturation, 0)
    if film.shoulder:
        over = np.maximum(lifted - film.shoulder, 0)
        room = 1 - film.shoulder
        lifted = np.minimum(lifted, film.shoulder) + room * over / (room + over)
    return np.clip(applied(_processor(film.shows), lifted), 0, 1)


def graded(
    light: np.ndarray,
    response: str = "aces",
    grade: list[Graded] | None = None,
    frame: GradedFrame | None = None,
) -> np.ndarray:
    """Exposed scene light (height, width, 3) as sRGB values, float32 0..1: the steps that act on
    light, the film, the steps that act on what it shows, each in its order. Without a `frame` those
    that look beyond a pixel are left out.
    """
    here = [e for e in grade or [] if frame is not None or not e.spreads]
    at = frame or GradedFrame(1, 1)
    out = np.asarray(light, np.float32)
    for e in here:
        if e.acts_on == "light":
            out = steps.functions[e.kind](e, out, at)
    light = out
    out = developed(light, response)
    for e in here:
        if e.as_film:
            own = steps.functions[e.kind](e, coded(light), at)
            out = out + (own - out) * np.float32(e.as_film)
        elif e.acts_on == "shown":
            out = steps.functions[e.kind](e, out, at)
    return np.asarray(out, np.float32)


@lru_cache(maxsize=1)
def _to_acescct() -> ocio.CPUProcessor:
    config = ocio.Config.CreateFromFile(CONFIG)
    return config.getProcessor(SCENE, "ACEScct").getDefaultCPUProcessor()


def coded(light: np.ndarray) -> np.ndarray:
    """Light (..., 3) in linear Rec.709 as ACEScct, float32."""
    return applied(_to_acescct(), light)


@lru_cache(maxsize=1)
def _to_acescg() -> ocio.CPUProcessor:
    config = ocio.Config.CreateFromFile(CONFIG)
    return config.getProcessor(SCENE, "ACEScg").getDefaultCPUProcessor()


def in_acescg(light: np.ndarray) -> np.ndarray:
    """Light (..., 3) in linear Rec.709 as ACEScg, float32."""
    return applied(_to_acescg(), light)


def axis() -> np.ndarray:
    """The light that a table's entries stand for along each of its axes, float64 (SIDE,)."""
    stops = np.linspace(LOWEST_STOP, HIGHEST_STOP, SIDE)
    light = GREY * 2.0**stops / NORMAL
    light[0] = 0
    return light


def table(
    response: str = "aces", grade: list[Graded] | None = None, exposure: float = 0.0
) -> np.ndarray:
    """Film and grade as a table, uint8 (SIDE, SIDE, SIDE, 4) with blue outermost and red innermost;
    its axes are log2(light * NORMAL / GREY) from the lowest to the highest stop; the light is shown
    `exposure` stops brighter.
    """
    along = axis() * 2.0**exposure
    blue, green, red = np.meshgrid(along, along, along, indexing="ij")
    light = np.stack([red, green, blue], -1).reshape(SIDE, SIDE * SIDE, 3)
    shown = graded(light, response, grade).reshape(SIDE, SIDE, SIDE, 3)
    opaque = np.ones(shown.shape[:3] + (1,), np.float32)
    return np.rint(np.concatenate([shown, opaque], -1) * 255).astype(np.uint8)


def bytes_of(light: np.ndarray, response: str = "aces") -> np.ndarray:
    """Exposed scene light as a picture, uint8 (..., 3)."""
    return np.rint(developed(light, response) * 255).astype(np.uint8)
