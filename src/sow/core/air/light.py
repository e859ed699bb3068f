"""The sun by bearing and height, the sky, and haze by distance."""

import numpy as np
from pydantic import Field

from ..document.entry import Strict
from ..document.fields import setting


class Light(Strict):
    sun_bearing: float = setting(225, "Sun bearing", "°", lo=0, hi=360)
    wind_from: float = setting(
        240, "Wind from", "°", lo=0, hi=360, help="Clockwise from north; sowings may lean off it."
    )
    sun_height: float = setting(28, "Sun height", "°", lo=-5, hi=90, slider=(0, 90))
    sun_strength: float = setting(100, "Sun strength", "%", lo=0, hi=1000, slider=(0, 250))
    sky_strength: float = setting(100, "Sky light", "%", lo=0, hi=1000, slider=(0, 250))
    clouds: float = setting(35, "Clouds", "%", lo=0, hi=100)
    cloud_seed: int = setting(1, "Cloud seed", "", lo=0, hi=9999, slider=(0, 99), step=1)
    haze_m: float = setting(
        6000,
        "Haze: seen to",
        "m",
        lo=10,
        hi=500000,
        slider=(100, 60000),
        scale="log",
        help="Distance at which a dark thing keeps a fiftieth of its contrast.",
    )
    haze_top_m: float = setting(
        400,
        "Haze thins over",
        "m",
        lo=1,
        hi=20000,
        slider=(10, 3000),
        scale="log",
        help="Height over which the haze falls to a third.",
    )
    haze_tint: str = Field(
        "#d5dce0",
        pattern=r"^#[0-9a-fA-F]{6}$",
        title="Haze colour",
        json_schema_extra={"sow": {"colour": True}},
    )
    exposure: float = setting(0, "Exposure", "EV", lo=-8, hi=8, slider=(-3, 3), step=0.05)


def sun_direction(light: Light) -> np.ndarray:
    """Unit vector (east, north, up) towards the sun."""
    b = np.deg2rad(light.sun_bearing)
    h = np.deg2rad(light.sun_height)
    return np.array([np.sin(b) * np.cos(h), np.cos(b) * np.cos(h), np.sin(h)])


# ln 50: at the distance "seen to" a dark thing keeps a fiftieth of its contrast (Koschmieder 1924)
KOSCHMIEDER = 3.912


def haze_share(haze_m: float, distance_m: np.ndarray) -> np.ndarray:
    """Part of the light, 0..1, that haze replaces over a level distance in m; `haze_m` is how far
    one sees. The view's shader holds the same law.
    """
    return 1 - np.exp(-KOSCHMIEDER * np.asarray(distance_m) / haze_m)
