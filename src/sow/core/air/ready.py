"""Ready lights: sun, clouds, haze and exposure that go together."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Ready:
    """A light by name; `values` are fields of `Light`."""

    name: str
    label: str
    values: dict[str, float | str]


lights: dict[str, Ready] = {}


def ready(name: str, label: str, **values: float | str) -> None:
    """Registers a ready light."""
    lights[name] = Ready(name, label, values)


ready(
    "clear-morning",
    "Clear morning",
    sun_bearing=110,
    sun_height=19,
    clouds=22,
    haze_m=9000,
    haze_tint="#d9dfe2",
    exposure=0,
)
ready(
    "low-evening",
    "Low evening",
    sun_bearing=262,
    sun_height=8,
    clouds=38,
    haze_m=5000,
    haze_tint="#e6d4bd",
    exposure=0.35,
)
ready(
    "overcast",
    "Overcast",
    sun_bearing=200,
    sun_height=38,
    clouds=96,
    haze_m=3800,
    haze_tint="#ccd2d3",
    exposure=0.1,
)
ready(
    "mist",
    "Mist",
    sun_bearing=130,
    sun_height=14,
    clouds=55,
    haze_m=700,
    haze_top_m=60,
    haze_tint="#dcdfdd",
    exposure=0.15,
)
