"""Ready lights: sun, clouds, haze and exposure that go together. Each names what differs from a
plain light; all else goes back to it.
"""

from dataclasses import dataclass
from typing import Any

from .light import Light


@dataclass(frozen=True)
class Ready:
    """A light by name; `values` are fields of `Light`."""

    name: str
    label: str
    values: dict[str, Any]


lights: dict[str, Ready] = {}

# What a ready light leaves as it is: the wind, the plot's place and height.
KEPT = {"wind_from", "latitude", "longitude", "moment", "altitude_m"}


def ready(name: str, label: str, **values: Any) -> None:
    """Registers a ready light."""
    lights[name] = Ready(name, label, values)


def in_full(light: Ready) -> dict[str, Any]:
    """All fields that a ready light sets: its own and, for the rest, those of a plain light."""
    plain = Light().model_dump(mode="json", exclude=KEPT)
    return {**plain, "ready": light.name, "sun_by": "bearing", **light.values}


ready(
    "clear-morning",
    "Clear morning",
    sun_bearing=110,
    sun_height=22,
    clouds=28,
    cloud_size_m=500,
    cloud_thick_m=350,
    veil=18,
    haze_m=28000,
    haze_top_m=250,
)
ready(
    "high-noon",
    "High noon",
    sun_bearing=190,
    sun_height=61,
    clouds=38,
    cloud_size_m=800,
    cloud_base_m=1500,
    cloud_thick_m=900,
    veil=0,
    haze_m=45000,
    haze_top_m=250,
)
ready(
    "low-evening",
    "Low evening",
    sun_bearing=262,
    sun_height=6,
    clouds=30,
    cloud_size_m=900,
    veil=30,
    dust=180,
    haze_m=16000,
    haze_top_m=220,
    exposure=0.2,
    white_k=6300,
)
ready(
    "after-rain",
    "After rain",
    sun_bearing=236,
    sun_height=24,
    clouds=52,
    cloud_size_m=1300,
    cloud_base_m=800,
    cloud_thick_m=1400,
    layer=35,
    dust=10,
    haze_m=90000,
    haze_top_m=400,
)
ready(
    "overcast",
    "Overcast",
    sun_bearing=200,
    sun_height=38,
    clouds=0,
    layer=100,
    layer_base_m=1100,
    layer_thick_m=700,
    veil=0,
    haze_m=9000,
    haze_top_m=500,
    white_k=6000,
    exposure=-0.3,
)
ready(
    "first-mist",
    "First mist",
    sun_bearing=96,
    sun_height=9,
    clouds=10,
    veil=30,
    haze_m=1300,
    haze_top_m=45,
    haze_glow=85,
    exposure=0.1,
    white_k=6000,
)
ready(
    "sea-haze",
    "Sea haze",
    sun_bearing=215,
    sun_height=36,
    clouds=12,
    cloud_size_m=500,
    veil=40,
    dust=300,
    haze_m=5200,
    haze_top_m=180,
    haze_glow=70,
)
ready(
    "winter-sun",
    "Winter sun",
    sun_bearing=205,
    sun_height=13,
    clouds=12,
    cloud_size_m=1200,
    cloud_thick_m=250,
    veil=55,
    dust=20,
    haze_m=38000,
    haze_top_m=300,
    white_k=5700,
)
ready(
    "storm-light",
    "Storm light with a bright strip",
    sun_bearing=252,
    sun_height=6,
    clouds=0,
    layer=100,
    layer_base_m=650,
    layer_size_m=1800,
    layer_thick_m=1100,
    layer_ends_m=5200,
    veil=0,
    haze_m=30000,
    haze_top_m=300,
    white_k=5600,
    exposure=-0.3,
)
ready(
    "moonlit",
    "Moonlit",
    body="moon",
    sun_bearing=165,
    sun_height=34,
    clouds=30,
    cloud_size_m=900,
    veil=25,
    haze_m=14000,
    haze_top_m=150,
    white_k=3900,
    exposure=-0.9,
)
ready(
    "dust",
    "Dust",
    sun_bearing=248,
    sun_height=21,
    clouds=0,
    veil=10,
    dust=900,
    haze_m=3600,
    haze_top_m=700,
    haze_tint="#f2d9ae",
    haze_glow=75,
    exposure=-0.1,
)
ready(
    "snow-light",
    "Snow light",
    sun_bearing=170,
    sun_height=19,
    clouds=0,
    layer=88,
    layer_base_m=900,
    layer_thick_m=300,
    veil=0,
    haze_m=3800,
    haze_top_m=300,
    haze_tint="#f6f9ff",
    white_k=6000,
    exposure=0.1,
)
