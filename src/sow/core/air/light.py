"""The sun by bearing and height, the sky, and haze by distance."""

import numpy as np
from pydantic import Field

from ..document.entry import Strict
from ..document.fields import bearing, length_m, percent, setting


class Light(Strict):
    sun_bearing: float = bearing("Sun bearing", 225)
    wind_from: float = bearing(
        "Wind from", 240, help="Clockwise from north; sowings may lean off it."
    )
    sun_height: float = setting(28, "Sun height", "°", lo=-5, hi=90, slider=(0, 90))
    sun_strength: float = percent("Sun strength", 100, hi=1000, slider=(0, 250))
    sky_strength: float = percent("Sky light", 100, hi=1000, slider=(0, 250))
    clouds: float = percent("Clouds", 35)
    cloud_seed: int = setting(1, "Cloud seed", "", lo=0, hi=9999, slider=(0, 99), step=1)
    haze_m: float = length_m(
        "Haze: seen to",
        6000,
        lo=10,
        hi=500000,
        slider=(100, 60000),
        help="Distance at which a dark thing keeps a fiftieth of its contrast.",
    )
    haze_top_m: float = length_m(
        "Haze thins over",
        400,
        lo=1,
        slider=(10, 3000),
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
