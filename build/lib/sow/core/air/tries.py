"""Lights to try against one another: the ready ones, one day's hours, others around this one."""

import datetime as dt
from dataclasses import dataclass
from typing import Any

from ..errors import SceneError
from ..hashing import name_seed
from .light import Light, sun_angles
from .panorama import RECIPES
from .ready import in_full, lights
from .sun import moment_of, sun_through_day

SHEET = 12
LOWEST_DEG = -4.0  # below it a day's light is not worth a picture


@dataclass(frozen=True)
class Try:
    """A light with what it is called on the sheet; `values` is the light in full."""

    label: str
    values: dict[str, Any]


def _with(light: Light, **changed: Any) -> dict[str, Any]:
    return {**light.model_dump(mode="json"), **changed}


def ready_ones(light: Light) -> list[Try]:
    """Every ready light, as it would be laid into this scene."""
    return [Try(x.label, _with(light, **in_full(x))) for x in lights.values()]


def through_the_day(light: Light) -> list[Try]:
    """Twelve moments from first light to last, at the light's place and day. Raises SceneError
    where the sun does not rise on that day.
    """
    day = sun_through_day(light.latitude, light.longitude, light.moment, 288)
    up = [hour for hour, _, height in day if height > LOWEST_DEG]
    if not up:
        raise SceneError(
            "The sun does not rise there on that day.", "light.moment", "Choose another day."
        )
    start = moment_of(light.moment).replace(hour=0, minute=0, second=0, microsecond=0)
    out = []
    for i in range(SHEET):
        hour = up[0] + (up[-1] - up[0]) * i / (SHEET - 1)
        minutes = round(hour * 12) * 5
        when = start + dt.timedelta(minutes=minutes)
        out.append(
            Try(when.strftime("%H:%M"), _with(light, sun_by="date", moment=when.isoformat()))
        )
    return out


def around(light: Light, spread: float = 1.0, turn: int = 0) -> list[Try]:
    """This light and eleven others near it: sun, clouds and air moved a little, by a seed. `spread`
    is how far, 0..1; each `turn` gives others. Raises SceneError when the spread is no share.
    """
    if not 0 < spread <= 1:
        raise SceneError("The spread is a share.", "spread", "Give 0 to 1.")
    bearing, height = sun_angles(light)
    out = [Try("as now", _with(light))]
    for i in range(1, SHEET):
        part = lambda name: (name_seed(f"{turn} {i}", name, 0) % 2000 / 1000 - 1) * spread
        sun = round((bearing + 70 * part("bearing")) % 360, 1)
        up = round(min(88.0, max(1.5, height * 2.2 ** part("height"))), 1)
        values = _with(
            light,
            sun_by="bearing",
            sun_bearing=sun,
            sun_height=up,
            clouds=round(min(100.0, max(0.0, light.clouds + 45 * part("clouds")))),
            veil=round(min(100.0, max(0.0, light.veil + 40 * part("veil")))),
            cloud_seed=(light.cloud_seed + i + 11 * turn) % 100,
            cloud_size_m=float(f"{min(9000.0, light.cloud_size_m * 2 ** part('size')):.2g}"),
            haze_m=float(f"{min(400000.0, light.haze_m * 3.5 ** part('haze')):.2g}"),
            dust=round(min(2500.0, (light.dust + 5) * 3 ** part("dust"))),
        )
        out.append(Try(f"{round(up)}° from {round(sun)}°, clouds {values['clouds']} %", values))
    return out


def panoramas(light: Light) -> list[Try]:
    """This light, and it under each panorama that ships with the sun in its own place."""
    out = [Try("as now", _with(light))]
    for name, (label, made) in RECIPES.items():
        sun = {"sun_bearing": made["sun_bearing"], "sun_height": made["sun_height"]}
        values = _with(light, panorama=name, panorama_turn=0, sun_by="bearing", **sun)
        out.append(Try(label, values))
        turned = {**sun, "sun_bearing": (made["sun_bearing"] + 120) % 360}
        values = _with(light, panorama=name, panorama_turn=120, sun_by="bearing", **turned)
        out.append(Try(f"{label}, turned 120°", values))
    return out


MODES = {"panorama": panoramas, "ready": ready_ones, "day": through_the_day, "around": around}


def differing(light: Light) -> list[str]:
    """Labels of the settings in which a light is no longer the ready one that it was made from."""
    made = lights.get(light.ready)
    if made is None:
        return []
    plain = Light.model_validate({**light.model_dump(), **in_full(made)})
    return [
        field.title or name
        for name, field in Light.model_fields.items()
        if name in in_full(made) and getattr(light, name) != getattr(plain, name)
    ]
