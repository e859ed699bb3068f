"""Sun, sky, clouds, haze and exposure: the settings of a scene's light."""

from typing import Literal

import numpy as np
from pydantic import Field, field_validator

from ..document.entry import Strict
from ..document.fields import bearing, colour, length_m, percent, setting, shown
from ..errors import SceneError
from .sun import direction, moment_of, sun_place

DATED = {"sun_by": ["date"]}
FREE = {"sun_by": ["bearing"]}


class Light(Strict):
    ready: str = Field("", max_length=40, title="Made from")
    sun_by: Literal["bearing", "date"] = Field(
        "bearing",
        title="Sun by",
        json_schema_extra=shown(labels={"bearing": "bearing and height", "date": "place and date"}),
    )
    sun_bearing: float = bearing("Sun bearing", 225, only=FREE)
    sun_height: float = setting(28, "Sun height", "°", lo=-18, hi=90, slider=(-10, 90), only=FREE)
    moment: str = Field(
        "2026-06-21T15:00:00+02:00",
        max_length=40,
        title="Moment",
        description="Date, time and offset from universal time.",
        json_schema_extra=shown(only=DATED),
    )
    latitude: float = setting(50, "Latitude", "°", lo=-90, hi=90, only=DATED)
    longitude: float = setting(10, "Longitude", "°", lo=-180, hi=180, only=DATED)
    body: Literal["sun", "moon"] = Field(
        "sun",
        title="Lit by",
        description="A full moon is four hundred thousand times weaker.",
        json_schema_extra=shown(labels={"sun": "the sun", "moon": "a full moon"}),
    )
    sun_strength: float = percent("Sun strength", 100, hi=1000, slider=(0, 250))
    sun_tint: str = colour("#ffffff", "Sun tint", fold="Sun")
    sun_size: float = setting(
        0.53,
        "Apparent size",
        "°",
        lo=0.05,
        hi=20,
        slider=(0.1, 8),
        scale="log",
        fold="Sun",
        help="How soft the shadows are.",
    )
    sky_strength: float = percent("Sky light", 100, hi=1000, slider=(0, 250))
    exposure: float = setting(
        0,
        "Exposure",
        "EV",
        lo=-8,
        hi=8,
        slider=(-3, 3),
        step=0.05,
        help="Beside what a light meter on the ground would say.",
    )
    white_k: float = setting(
        5600,
        "White",
        "K",
        lo=1700,
        hi=25000,
        slider=(2500, 12000),
        scale="log",
        step=50,
        help="Light of this warmth comes out white; a higher number makes a warmer picture.",
    )
    clouds: float = percent("Heaps of cloud", 35)
    cloud_size_m: float = length_m(
        "Size", 700, lo=50, hi=10000, slider=(150, 4000), fold="Heaps of cloud"
    )
    cloud_base_m: float = length_m(
        "Base above the land", 1100, lo=50, slider=(200, 4000), fold="Heaps of cloud"
    )
    cloud_thick_m: float = length_m(
        "Thickness", 700, lo=20, slider=(100, 5000), fold="Heaps of cloud"
    )
    cloud_seed: int = setting(
        1, "Cloud seed", "", lo=0, hi=9999, slider=(0, 99), step=1, fold="Heaps of cloud"
    )
    cloud_drift_m: float = setting(
        0,
        "Drifted with the wind",
        "m",
        lo=-200000,
        hi=200000,
        slider=(0, 10000),
        fold="Heaps of cloud",
    )
    layer: float = percent("Layer of cloud", 0)
    layer_size_m: float = length_m(
        "Size", 1500, lo=100, hi=20000, slider=(300, 8000), fold="Layer of cloud"
    )
    layer_base_m: float = length_m(
        "Base above the land", 2200, lo=50, slider=(300, 6000), fold="Layer of cloud"
    )
    layer_thick_m: float = length_m(
        "Thickness", 350, lo=20, slider=(50, 2000), fold="Layer of cloud"
    )
    layer_ends_m: float = setting(
        0,
        "Ends towards the sun after",
        "m",
        lo=0,
        hi=100000,
        slider=(0, 20000),
        fold="Layer of cloud",
        help="A bright strip lies beyond; 0: it runs on.",
    )
    veil: float = percent("Veil of high cloud", 10)
    veil_base_m: float = length_m(
        "Height", 8000, lo=1000, slider=(4000, 12000), fold="Veil of high cloud"
    )
    bank: float = percent("One bank of cloud", 0)
    bank_bearing: float = bearing("Stands at", 0, fold="One bank of cloud")
    bank_away_m: float = length_m(
        "Away", 12000, lo=1000, hi=100000, slider=(3000, 40000), fold="One bank of cloud"
    )
    bank_width_m: float = length_m(
        "Width", 9000, lo=200, hi=100000, slider=(1000, 40000), fold="One bank of cloud"
    )
    bank_base_m: float = length_m(
        "Base above the land", 900, lo=50, slider=(200, 4000), fold="One bank of cloud"
    )
    bank_thick_m: float = length_m(
        "Thickness", 3200, lo=50, slider=(300, 9000), fold="One bank of cloud"
    )
    panorama: str = Field(
        "",
        max_length=80,
        title="Panorama",
        description="A picture all around for the sky, instead of air and clouds.",
        json_schema_extra=shown(file="panorama"),
    )
    panorama_turn: float = bearing("Turned", 0, given="panorama")
    panorama_level: float = setting(
        0, "Horizon raised", "°", lo=-45, hi=45, slider=(-15, 15), given="panorama"
    )
    panorama_ev: float = setting(
        0, "Its strength", "EV", lo=-12, hi=12, slider=(-4, 4), step=0.1, given="panorama"
    )
    wind_from: float = bearing(
        "Wind from", 240, help="Clockwise from north; sowings may lean off it."
    )
    air: float = percent(
        "Air",
        100,
        hi=600,
        slider=(20, 300),
        fold="Air",
        help="How strongly it dims and reddens a low sun, and how blue the sky is.",
    )
    dust: float = percent(
        "Dust in the air",
        100,
        hi=3000,
        slider=(0, 1000),
        fold="Air",
        help="0 is mountain air after rain; 1000 a dusty summer.",
    )
    ozone: float = percent(
        "Ozone", 100, hi=600, slider=(0, 300), fold="Air", help="The blue of the sky at dusk."
    )
    altitude_m: float = setting(
        200, "Above the sea", "m", lo=-400, hi=9000, slider=(0, 4000), fold="Air"
    )
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
    haze_base_m: float = setting(
        0,
        "Haze lies on",
        "m",
        lo=-2000,
        hi=9000,
        slider=(-100, 500),
        fold="Haze",
        help="Height above the lowest ground from which it thins.",
    )
    haze_from_m: float = setting(
        0, "Haze begins at", "m", lo=0, hi=100000, slider=(0, 2000), fold="Haze"
    )
    haze_glow: float = percent("Brighter towards the sun", 60, slider=(0, 100), fold="Haze")
    shafts: float = percent(
        "Light shafts",
        0,
        fold="Haze",
        help="Where cloud, ridge or crowns keep the sun from the haze.",
    )
    haze_tint: str = colour("#ffffff", "Haze tint", fold="Haze")

    @field_validator("moment")
    @classmethod
    def _is_a_moment(cls, text: str) -> str:
        try:
            moment_of(text)
        except SceneError as e:
            raise ValueError(f"{e.message} {e.advice}") from None
        return text


def sun_direction(light: Light) -> np.ndarray:
    """Unit vector (east, north, up) towards the sun. Raises SceneError where its moment or place
    cannot be.
    """
    return direction(*sun_angles(light))


def sun_angles(light: Light) -> tuple[float, float]:
    """Bearing and height of the sun in degrees; by date the height is the one that is seen."""
    if light.sun_by == "bearing":
        return light.sun_bearing, light.sun_height
    place = sun_place(light.latitude, light.longitude, moment_of(light.moment, "light.moment"))
    return place.bearing_deg, place.height_refracted_deg


# ln 50: at the distance "seen to" a dark thing keeps a fiftieth of its contrast (Koschmieder 1924)
KOSCHMIEDER = 3.912
