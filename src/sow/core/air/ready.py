"""Ready lights: sun, clouds, haze and exposure that go together. Each names what differs from a
plain light; all else goes back to it.
"""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..document.data import Table, WrongField, misnamed, read_data, taken_as
from ..errors import SceneError
from .light import Light


@dataclass(frozen=True)
class ReadyLight:
    """A light by name; `values` are fields of `Light`."""

    name: str
    label: str
    values: dict[str, Any]


lights: dict[str, ReadyLight] = {}

# What a ready light leaves as it is: the wind, the plot's place and height.
KEPT = {"wind_from", "latitude", "longitude", "moment", "altitude_m"}


def ready(name: str, label: str, **values: Any) -> None:
    """Registers a ready light."""
    lights[name] = ReadyLight(name, label, values)


def in_full(light: ReadyLight) -> dict[str, Any]:
    """All fields that a ready light sets: its own and, for the rest, those of a plain light."""
    plain = Light().model_dump(mode="json", exclude=KEPT)
    return {**plain, "ready": light.name, "sun_by": "bearing", **light.values}


@taken_as("light")
def take(name: str, table: Table) -> None:
    """A ready light of a data file: its label, and fields of `Light`."""
    values = {k: v for k, v in table.items() if k != "label"}
    for key in values:
        if key not in Light.model_fields:
            raise WrongField(misnamed(key, list(Light.model_fields)), key)
    Light.model_validate(values)
    if name in lights:
        raise SceneError(f"the ready light '{name}' is registered twice")
    ready(name, str(table.get("label", name)), **values)


read_data(Path(__file__).parent / "ready.toml")
