"""A shot: a viewpoint with its lens, kept at its height above the ground when the land changes."""

from collections.abc import Callable
from typing import Literal

import numpy as np
from pydantic import Field

from ..document.entry import Entry
from ..document.fields import length_m, percent, place_m, setting, shown

NEAREST_FOCUS_M = 0.1
ANGLES, PLACE = {"aim_by": ["angles"]}, {"aim_by": ["place"]}
Ground = Callable[[float, float], float]


class Shot(Entry):
    east_m: float = place_m("East", 500, slider=(0, "width"))
    north_m: float = place_m("North", 500, slider=(0, "depth"))
    eye_m: float = length_m("Above ground", 1.7, slider=(0.2, 200))
    aim_by: Literal["angles", "place"] = Field(
        "angles",
        title="Aim",
        json_schema_extra=shown(labels={"angles": "bearing and tilt", "place": "on a place"}),
    )
    bearing: float = setting(0, "Bearing", "°", lo=0, hi=360, only=ANGLES)
    tilt: float = setting(
        0, "Tilt", "°", lo=-90, hi=90, slider=(-45, 45), help="Above the horizon.", only=ANGLES
    )
    aim_east_m: float = place_m("Aim east", 500, slider=(0, "width"), only=PLACE)
    aim_north_m: float = place_m("Aim north", 500, slider=(0, "depth"), only=PLACE)
    aim_over_m: float = setting(
        1.5,
        "Aim over the ground",
        "m",
        lo=-50,
        hi=5000,
        slider=(0, 50),
        only=PLACE,
        help="Kept when the land changes, as the eye's own height is.",
    )
    focal_mm: float = setting(
        28,
        "Focal length",
        "mm",
        lo=8,
        hi=1200,
        slider=(12, 200),
        scale="log",
        help="On a frame 36 mm wide.",
    )
    shift_up: float = percent(
        "Lens shift up",
        0,
        lo=-60,
        hi=60,
        fold="Lens",
        help="Of the frame's width: moves the picture without tilting the eye, so that uprights "
        "stay upright.",
    )
    shift_aside: float = percent("Lens shift aside", 0, lo=-60, hi=60, fold="Lens")
    aperture: float = setting(
        0,
        "Aperture",
        "f/",
        lo=0,
        hi=64,
        slider=(0, 22),
        step=0.1,
        fold="Lens",
        help="Of a lens on a frame 36 mm wide; 0 keeps all sharp.",
    )
    focus_by: Literal["distance", "place"] = Field(
        "distance",
        title="Focus",
        json_schema_extra=shown(
            fold="Lens", labels={"distance": "at a distance", "place": "on a place"}
        ),
    )
    focus_m: float = length_m(
        "Focus",
        20,
        lo=0.1,
        hi=1e6,
        slider=(0.3, 500),
        only={"focus_by": ["distance"]},
        fold="Lens",
    )
    focus_east_m: float = place_m(
        "Focus east", 500, slider=(0, "width"), only={"focus_by": ["place"]}, fold="Lens"
    )
    focus_north_m: float = place_m(
        "Focus north", 500, slider=(0, "depth"), only={"focus_by": ["place"]}, fold="Lens"
    )
    focus_over_m: float = setting(
        0.3,
        "Focus over the ground",
        "m",
        lo=-50,
        hi=5000,
        slider=(0, 20),
        only={"focus_by": ["place"]},
        fold="Lens",
    )
    exposure: float = setting(
        0, "Exposure", "EV", lo=-12, hi=12, slider=(-4, 4), step=0.05, fold="Lens"
    )
    film: Literal["aces", "soft", "plain", "deep"] = Field(
        "aces",
        title="Film",
        json_schema_extra=shown(
            labels={"aces": "ACES 2", "soft": "soft", "plain": "plain", "deep": "deep"}
        ),
    )
    reference: str = Field(
        "",
        max_length=80,
        title="Reference",
        description="A picture to compare with or to match, laid over the face.",
        json_schema_extra=shown(file="reference"),
    )
    width_px: int = setting(1920, "Width", "px", lo=64, hi=8192, slider=(320, 4096), step=1)
    height_px: int = setting(1080, "Height", "px", lo=64, hi=8192, slider=(240, 4096), step=1)


def field_of_view(shot: Shot) -> tuple[float, float]:
    """Angles of view across and up, in degrees, of a 36 mm wide frame."""
    across = 2 * np.arctan(18 / shot.focal_mm)
    up = 2 * np.arctan(np.tan(across / 2) * shot.height_px / shot.width_px)
    return float(np.rad2deg(across)), float(np.rad2deg(up))


def opening_m(shot: Shot) -> float:
    """Radius of the lens's opening in m; 0 where all is sharp."""
    return shot.focal_mm / shot.aperture / 2000 if shot.aperture > 0 else 0.0


def eye_over(shot: Shot, ground: Ground) -> np.ndarray:
    """Where a shot's eye stands: east, north, up in m."""
    return np.array([shot.east_m, shot.north_m, ground(shot.east_m, shot.north_m) + shot.eye_m])


def aimed(shot: Shot, ground: Ground) -> Shot:
    """The shot with bearing and tilt told, where it is aimed on a place."""
    if shot.aim_by != "place":
        return shot
    up = ground(shot.aim_east_m, shot.aim_north_m) + shot.aim_over_m
    east, north, rise = np.array([shot.aim_east_m, shot.aim_north_m, up]) - eye_over(shot, ground)
    flat = float(np.hypot(east, north))
    if flat < 1e-6 and abs(rise) < 1e-6:
        return shot.model_copy(update={"aim_by": "angles"})
    bearing = float(np.degrees(np.arctan2(east, north)) % 360)
    tilt = float(np.degrees(np.arctan2(rise, flat)))
    return shot.model_copy(update={"aim_by": "angles", "bearing": bearing, "tilt": tilt})


def beyond_frame(
    shot: Shot, eye: np.ndarray, east: np.ndarray, north: np.ndarray, up: np.ndarray
) -> np.ndarray:
    """Metres by which places in m lie outside what the frame of a shot spans, 0 within, of their
    shape; its lens, tilt and shift counted. The shot is `aimed`.
    """
    right, above, ahead = axes(shot.bearing, shot.tilt)
    x, y, z = east - eye[0], north - eye[1], up - eye[2]
    along = lambda axis: x * axis[0] + y * axis[1] + z * axis[2]
    deep, across, high = along(ahead), along(right), along(above)
    half = 18 / shot.focal_mm
    half_up = half * shot.height_px / shot.width_px
    aside_, raised = shot.shift_aside / 50 * half, shot.shift_up / 50 * half
    out = np.maximum(-deep, 0.0)
    sides = (
        (across - (aside_ + half) * deep, aside_ + half),
        ((aside_ - half) * deep - across, half - aside_),
        (high - (raised + half_up) * deep, raised + half_up),
        ((raised - half_up) * deep - high, half_up - raised),
    )
    for gap, slope in sides:
        out = np.maximum(out, gap / np.hypot(1, slope))
    return out


def axes(bearing: float, tilt: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Right, up and ahead of an eye that looks along a bearing and a tilt in degrees, level."""
    b, t = np.deg2rad(bearing), np.deg2rad(tilt)
    ahead = np.array([np.sin(b) * np.cos(t), np.cos(b) * np.cos(t), np.sin(t)])
    right = np.array([np.cos(b), -np.sin(b), 0.0])
    return right, np.cross(right, ahead), ahead


def focus_of(shot: Shot, eye: np.ndarray, ground: Ground) -> float:
    """The distance in m along its axis at which a shot is sharp, from its eye (east, north, up);
    `ground` gives the height of the ground at a place.
    """
    if shot.focus_by == "distance":
        return shot.focus_m
    up = ground(shot.focus_east_m, shot.focus_north_m) + shot.focus_over_m
    way = np.array([shot.focus_east_m, shot.focus_north_m, up]) - eye
    shot = aimed(shot, ground)
    return float(max(way @ axes(shot.bearing, shot.tilt)[2], NEAREST_FOCUS_M))


def sharp_between(
    shot: Shot, focus_m: float | None = None, blur_px: float = 1.0
) -> tuple[float, float]:
    """The nearest and farthest distance in m whose points stay within `blur_px` on the picture
    (thin lens); infinity where there is no end.
    """
    radius = opening_m(shot)
    if radius <= 0:
        return 0.0, float("inf")
    f = shot.focal_mm / 1000
    circle = blur_px * 0.036 / shot.width_px
    reach = 2 * radius * f / circle  # the hyperfocal distance, less the focal length
    focus = shot.focus_m if focus_m is None else focus_m
    near = reach * focus / (reach + focus)
    return near, reach * focus / (reach - focus) if focus < reach else float("inf")


def aside(shot: Shot, dx, dy) -> tuple[np.ndarray, float]:
    """Degrees by which places `dx` east and `dy` north of a shot lie beside its axis, and half of
    what its frame spans.
    """
    return np.abs((np.degrees(np.arctan2(dx, dy)) - shot.bearing + 180) % 360 - 180), float(
        np.degrees(np.arctan(18 / shot.focal_mm))
    )
