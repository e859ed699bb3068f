"""A panorama for a sky: turned, levelled, its strength, and its brightest spot as the sun."""

from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from ..errors import SceneError
from .harmonics import arriving, directions, irradiance
from .light import Light

FLAT_KLUX = 14.0  # light of a panorama on flat ground at no EV
SPOT = 25.0  # what is so many times the mean of the upper half is a sun, not sky
UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True)
class Panorama:
    """A sky in kcd/m2, float64 (rows, 2 rows, 3), without its sun; what the sun gives to a plane
    turned to it (klux), and where it stands (degrees). `sunlight` is nought where there is none.
    """

    sky: np.ndarray
    sunlight: np.ndarray
    bearing_deg: float
    height_deg: float


def laid(light: Light, picture: np.ndarray, rows: int) -> Panorama:
    """A panorama (float32, (rows, 2 rows, 3), row 0 at the zenith, column 0 north) as a light lays
    it: turned clockwise, levelled, at its strength.
    """
    turned = _turned(picture, light.panorama_turn, light.panorama_level, rows)
    spot, bearing, height = spot_of(turned)
    sky = turned - spot
    flat = float(arriving(irradiance(sky), UP) @ (0.2126, 0.7152, 0.0722))
    scale = FLAT_KLUX / max(flat, 1e-9) * 2.0**light.panorama_ev
    _, solid = directions(*sky.shape[:2])
    sunlight = np.einsum("rck,r->k", spot, solid)
    return Panorama(sky * scale, sunlight * scale, bearing, height)


def spot_of(picture: np.ndarray) -> tuple[np.ndarray, float, float]:
    """The part of a panorama that is a sun's: its light above the sky's, and where its middle lies
    (bearing and height in degrees); where no spot is bright enough, nought at the brightest place.
    """
    rows, columns = picture.shape[:2]
    half = picture[: rows // 2]
    shown = half @ np.array([0.2126, 0.7152, 0.0722])
    vectors, solid = directions(rows, columns)
    weights = np.broadcast_to(solid[: rows // 2, None], shown.shape)
    plain = np.minimum(shown, np.percentile(shown, 98))  # a sun must not raise the mean
    most = SPOT * float((plain * weights).sum() / weights.sum())
    over = np.clip(1 - most / np.maximum(shown, 1e-9), 0, None)
    spot = np.zeros_like(picture)
    spot[: rows // 2] = half * over[..., None]
    found = over * shown * weights
    if found.sum() <= 0:
        soft = cv2.GaussianBlur(shown.astype(np.float32), (0, 0), max(1.0, columns / 128))
        row, column = np.unravel_index(int(np.argmax(soft)), soft.shape)
        middle = vectors[row, column]
    else:
        middle = np.einsum("rck,rc->k", vectors[: rows // 2], found)
    middle = middle / np.linalg.norm(middle)
    bearing = float(np.rad2deg(np.arctan2(middle[0], middle[1])) % 360)
    return spot, bearing, float(np.rad2deg(np.arcsin(np.clip(middle[2], -1, 1))))


def _turned(picture: np.ndarray, turn: float, level: float, rows: int) -> np.ndarray:
    """A panorama of other rows, turned clockwise and its horizon raised by degrees."""
    high, wide = picture.shape[:2]
    smaller = picture
    if rows < high:
        smaller = cv2.resize(picture, (2 * rows, rows), interpolation=cv2.INTER_AREA)
        high, wide = smaller.shape[:2]
    u = ((np.arange(2 * rows) + 0.5) / (2 * rows) - turn / 360) % 1.0 * wide - 0.5
    v = ((np.arange(rows) + 0.5) / rows + level / 180) * high - 0.5
    wrapped = np.concatenate([smaller[:, -1:], smaller, smaller[:, :1]], 1)
    across, down = np.meshgrid((u + 1).astype(np.float32), np.clip(v, 0, high - 1))
    found = cv2.remap(wrapped, across.astype(np.float32), down.astype(np.float32), cv2.INTER_LINEAR)
    return found.astype(np.float64)


def as_raster(light: np.ndarray) -> np.ndarray:
    """A panorama as the store keeps it, float32 (rows, 6 rows)."""
    return np.ascontiguousarray(light.reshape(light.shape[0], -1), np.float32)


def from_raster(values: np.ndarray) -> np.ndarray:
    """A kept panorama, float32 (rows, 2 rows, 3). Raises SceneError where it is none."""
    rows, columns = values.shape
    if columns != 6 * rows or values.dtype != np.float32:
        raise SceneError(
            "What is chosen as a panorama is a raster of another sort.",
            "light.panorama",
            "Bring its file in again.",
        )
    return values.reshape(rows, 2 * rows, 3)


# ---- panoramas that ship, made by recipe
RECIPES: dict[str, tuple[str, dict]] = {
    "ready-broken": (
        "Broken cloud, sun high in the south-west",
        {"sun_bearing": 225, "sun_height": 42, "clouds": 55, "cloud_size_m": 900, "veil": 20},
    ),
    "ready-last-sun": (
        "Last sun under a torn layer",
        {
            "sun_bearing": 280,
            "sun_height": 4,
            "clouds": 20,
            "layer": 62,
            "layer_base_m": 1900,
            "veil": 50,
            "dust": 160,
        },
    ),
    "ready-even": (
        "Even grey",
        {"sun_bearing": 180, "sun_height": 35, "clouds": 0, "layer": 100, "veil": 0},
    ),
}
RECIPE_ROWS = 512


def put_sun(sky: np.ndarray, sun: np.ndarray, sunlight: np.ndarray, size_deg: float) -> np.ndarray:
    """A panorama with the sun's disc in it: its light spread over the texels that it covers, or
    over the nearest one.
    """
    rows, columns = sky.shape[:2]
    vectors, solid = directions(rows, columns)
    nu = vectors @ sun
    inside = nu > np.cos(np.deg2rad(max(size_deg / 2, 90.0 / rows)))
    if not inside.any():
        inside = nu == nu.max()
    covers = float((inside * solid[:, None]).sum())
    out = sky.copy()
    out[inside] += (sunlight / covers).astype(out.dtype)
    return out


@lru_cache(maxsize=1)
def _kept() -> dict[str, np.ndarray]:
    return {}


def recipe_picture(name: str, make) -> np.ndarray:
    """The picture of a recipe, made once; `make(light, rows)` gives sky, sun and sunlight."""
    kept = _kept()
    if name not in kept:
        light = Light(**RECIPES[name][1])
        sky, sun, sunlight = make(light, RECIPE_ROWS)
        kept[name] = put_sun(sky, sun, sunlight, light.sun_size)
    return kept[name]
