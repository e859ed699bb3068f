"""A shot: a viewpoint with its lens, kept at its height above the ground when the land changes."""

import numpy as np

from ..document.entry import Entry
from ..document.fields import length_m, place_m, setting


class Shot(Entry):
    east_m: float = place_m("East", 500, slider=(0, "width"))
    north_m: float = place_m("North", 500, slider=(0, "depth"))
    eye_m: float = length_m("Above ground", 1.7, slider=(0.2, 200))
    bearing: float = setting(0, "Bearing", "°", lo=0, hi=360)
    tilt: float = setting(
        0, "Tilt", "°", lo=-90, hi=90, slider=(-45, 45), help="Above the horizon."
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
    width_px: int = setting(1920, "Width", "px", lo=64, hi=8192, slider=(320, 4096), step=1)
    height_px: int = setting(1080, "Height", "px", lo=64, hi=8192, slider=(240, 4096), step=1)


def field_of_view(shot: Shot) -> tuple[float, float]:
    """Angles of view across and up, in degrees, of a 36 mm wide frame."""
    across = 2 * np.arctan(18 / shot.focal_mm)
    up = 2 * np.arctan(np.tan(across / 2) * shot.height_px / shot.width_px)
    return float(np.rad2deg(across)), float(np.rad2deg(up))


def aside(shot: Shot, dx, dy) -> tuple[np.ndarray, float]:
    """Degrees by which places `dx` east and `dy` north of a shot lie beside its axis, and half of
    what its frame spans.
    """
    return np.abs((np.degrees(np.arctan2(dx, dy)) - shot.bearing + 180) % 360 - 180), float(
        np.degrees(np.arctan(18 / shot.focal_mm))
    )
