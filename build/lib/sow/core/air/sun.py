"""Where the sun stands, by bearing and height or by place and moment."""

import datetime as dt
from dataclasses import dataclass

import ephem
import numpy as np

from ..errors import SceneError

FIRST_YEAR, LAST_YEAR = 1900, 2200
PRESSURE_MBAR, WARMTH_C = 1010.0, 10.0  # of the air that bends light, as almanacs take it


@dataclass(frozen=True)
class SunPlace:
    """Degrees clockwise from north; degrees above the horizon, as geometry and as the air shows it
    (refraction at 1010 mbar and 10 degrees C).
    """

    bearing_deg: float
    height_deg: float
    height_refracted_deg: float


def moment_of(text: str, path: str = "moment") -> dt.datetime:
    """A moment from ISO 8601 text with its offset from UTC. Raises SceneError."""
    try:
        when = dt.datetime.fromisoformat(text.replace("Z", "+00:00"))
    except ValueError:
        raise SceneError(
            f"'{text[:40]}' is no moment.", path, "Write it as 2026-06-21T15:00:00+02:00."
        ) from None
    if when.tzinfo is None:
        raise SceneError(
            f"'{text[:40]}' does not say how far it is from universal time.",
            path,
            "Add the offset, as in 2026-06-21T15:00:00+02:00.",
        )
    if not FIRST_YEAR <= when.year <= LAST_YEAR:
        raise SceneError(
            f"The year {when.year} lies too far away.",
            path,
            f"Give a year from {FIRST_YEAR} to {LAST_YEAR}.",
        )
    return when


def sun_place(latitude: float, longitude: float, when: dt.datetime) -> SunPlace:
    """The sun as seen from a place (degrees north, degrees east), by the planetary theory VSOP87 as
    PyEphem computes it, to some seconds of arc. Raises SceneError.
    """
    if not -90 <= latitude <= 90:
        raise SceneError(
            f"There is no latitude {latitude:g}.", "latitude", "Give -90 (south) to 90 (north)."
        )
    if not -180 <= longitude <= 180:
        raise SceneError(
            f"There is no longitude {longitude:g}.", "longitude", "Give -180 (west) to 180 (east)."
        )
    bare, refracted = (_seen(latitude, longitude, when, p) for p in (0.0, PRESSURE_MBAR))
    return SunPlace(bare[0], bare[1], refracted[1])


def _seen(
    latitude: float, longitude: float, when: dt.datetime, pressure: float
) -> tuple[float, float]:
    eye = ephem.Observer()
    # the poles have no bearing: a hair beside them stands for them
    eye.lat = np.deg2rad(min(max(latitude, -89.999999), 89.999999))
    eye.lon = np.deg2rad(longitude)
    eye.date = ephem.Date(when.astimezone(dt.UTC).replace(tzinfo=None))
    eye.pressure, eye.temp = pressure, WARMTH_C
    sun = ephem.Sun(eye)
    return float(np.rad2deg(float(sun.az))), float(np.rad2deg(float(sun.alt)))


def sun_through_day(
    latitude: float, longitude: float, moment: str, steps: int = 48
) -> list[tuple[float, float, float]]:
    """Hour (0..24 in the moment's own offset), bearing and seen height of the sun over its day."""
    when = moment_of(moment)
    start = when.replace(hour=0, minute=0, second=0, microsecond=0)
    out = []
    for i in range(steps + 1):
        place = sun_place(latitude, longitude, start + dt.timedelta(hours=24 * i / steps))
        out.append((24 * i / steps, place.bearing_deg, place.height_refracted_deg))
    return out


def direction(bearing_deg: float, height_deg: float) -> np.ndarray:
    """Unit vector (east, north, up) of a bearing and a height in degrees."""
    b, h = np.deg2rad(bearing_deg), np.deg2rad(height_deg)
    return np.array([np.sin(b) * np.cos(h), np.cos(b) * np.cos(h), np.sin(h)])
