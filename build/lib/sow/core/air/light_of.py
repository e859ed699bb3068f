"""One light for all that shows a scene: sun, sky picture, haze, shade of clouds, exposure."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from ..cabinet.keep import from_folder
from ..cache import Cache, key_of
from . import clouds as cloud
from .atmosphere import Tables, sun_at_ground, tables_between, tables_of
from .clouded import DRAFT_ROWS, REST_ROWS, Behind, clouded, clouds_before, clouds_of, one_by_one
from .clouds import Heard, unheard
from .gases import SUN_KLUX, Gases
from .harmonics import directions, from_panorama, irradiance
from .haze import Haze, haze_light, haze_of, shaded_light, tone
from .light import Light, sun_direction
from .panorama import RECIPES, from_raster, laid, recipe_picture
from .sky import clear_sky
from .white import balance

MOON = 2.5e-6  # a full moon beside the sun (Allen 1973)
METER_KLUX = 120.0  # light on the ground at which exposure needs no help
MIDDLING, FAVOURS = 0.18, 0.4  # ground at which exposure needs no help, and how far it goes
ADAPTS = 0.9  # how far an eye follows when light grows less
SHADE_SIDE = 128
SHADE_ROOM = 1.6  # sides of the plot that the shade of clouds is found for


@dataclass(frozen=True)
class Daylight:
    """The light of a scene. Radiances are told in units of `unit_kcd` (kcd/m2), which a light meter
    on the ground would set to a middling picture; all in linear Rec.709.

    `sun` unit vector to it; `sunlight` (3) irradiance of a plane turned to it; `sky` panorama
    float32 (rows, 2 rows, 3) without the sun's disc; `numbers` (9, 3) irradiance by harmonics;
    `tone` of haze by direction, `shaded` (3) that of haze in a shade; `shade` of clouds on the
    ground within `shade_m` of the middle.
    """

    light: Light
    sun: np.ndarray
    sunlight: np.ndarray
    sky: np.ndarray
    numbers: np.ndarray
    haze: Haze
    tone: np.ndarray
    shaded: np.ndarray
    shade: np.ndarray
    shade_m: float
    unit_kcd: float
    behind: Behind | None = None

    @property
    def exposure(self) -> np.ndarray:
        """What a radiance in units is multiplied with before the film, float64 (3)."""
        return 2.0**self.light.exposure * balance(self.light.white_k)


def linear(hex_colour: str) -> np.ndarray:
    """An sRGB colour as linear light, float64 (3)."""
    v = np.array([int(hex_colour[i : i + 2], 16) / 255 for i in (1, 3, 5)])
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


def tint_of(hex_colour: str) -> np.ndarray:
    """A tint that keeps the lightness: linear, with a mean of one."""
    c = linear(hex_colour)
    return c / max(float(c @ (0.2126, 0.7152, 0.0722)), 1e-3)


def gases_of(light: Light, ground: np.ndarray) -> Gases:
    """The air of a light over ground of this mean colour (told coarsely, so that tables keep)."""
    red, green, blue = np.clip(np.round(np.asarray(ground) * 20) / 20, 0.05, 0.9).tolist()
    return Gases(light.air / 100, light.dust / 100, light.ozone / 100, (red, green, blue))


@lru_cache(maxsize=8)
def _tables(gases: Gases) -> Tables:
    return tables_between(gases, _over_grey)


@lru_cache(maxsize=8)
def _over_grey(gases: Gases) -> Tables:
    arrays = ("packed", "through", "beam", "scattered", "flat")
    return from_folder(
        f"air-{key_of('air', vars(gases))}",
        lambda: tables_of(gases),
        lambda made: {name: getattr(made, name) for name in arrays},
        lambda plain: Tables(gases, **plain),
    )


def daylight(
    light: Light,
    ground: np.ndarray,
    lowest_m: float,
    side_m: float,
    cache: Cache,
    rows: int = REST_ROWS,
    panorama: np.ndarray | None = None,
    tell: Heard = unheard,
    panorama_key: str = "",
) -> Daylight:
    """The light of a scene, made once for its content.

    `ground` is the mean linear colour of the land, `lowest_m` its lowest height, `side_m` the
    longer side of the plot, `rows` those of the sky picture (twice as many columns); `panorama` the
    picture that the light names and `panorama_key` stands for its content; `tell` hears how much
    of the clouds is done. Raises SceneError where the sun's moment or place cannot be.
    """
    gases = gases_of(light, ground)
    sun = sun_direction(light)
    told = light.model_dump(
        exclude={"exposure", "white_k", "moment", "latitude", "longitude", "sun_by"}
    )
    key = key_of("daylight", told, sun.tolist(), vars(gases), lowest_m, side_m, rows, panorama_key)
    # the meter reads the coarse sky, so that a finer one is no brighter
    unit = None
    if rows > DRAFT_ROWS:
        coarse = daylight(
            light, ground, lowest_m, side_m, cache, DRAFT_ROWS, panorama, panorama_key=panorama_key
        )
        unit = coarse.unit_kcd
    make = lambda: _made(light, gases, sun, lowest_m, side_m, rows, unit, panorama, tell)
    made = cache.once(key, make)
    return Daylight(**{**vars(made), "light": light})


def _made(
    light: Light,
    gases: Gases,
    sun: np.ndarray,
    lowest_m: float,
    side_m: float,
    rows: int,
    unit: float | None,
    panorama: np.ndarray | None,
    tell: Heard,
) -> Daylight:
    tables = _tables(gases)
    altitude = light.altitude_m / 1000
    body = MOON if light.body == "moon" else 1.0
    strength = body * light.sun_strength / 100 * tint_of(light.sun_tint)
    above = SUN_KLUX * strength
    direct = sun_at_ground(tables, sun[2], altitude) * above
    clear = clear_sky(tables, sun, rows, altitude) * (body * light.sky_strength / 100)
    own_mean = np.zeros(3)
    if panorama is None:
        sky, veiled, own_mean = clouded(light, tables, sun, above, clear, tell)
    else:
        found = laid(light, panorama, rows)
        sky, veiled = found.sky * (light.sky_strength / 100), 1.0
        clear = sky.astype(np.float32)
        if found.sunlight.max() > 0:
            direct = found.sunlight * light.sun_strength / 100 * tint_of(light.sun_tint)
    haze = haze_of(light, lowest_m)
    vectors, solid = directions(*sky.shape[:2])
    mean_sky = np.einsum("rck,r->k", sky, solid) / (4 * np.pi)
    # forward light of the haze still counts as the sun's
    sunlight = direct * np.exp(-0.5 * min(float(haze.upward(sun[2])), 20.0)) * veiled
    lights = direct * veiled, mean_sky, tint_of(light.haze_tint)
    shines = haze_light(light, sun, *lights)
    _lay_haze(sky, haze, shines, vectors)
    numbers = irradiance(sky)
    shade_m = SHADE_ROOM * side_m / 2
    shading = [c for c in clouds_of(light) if c.kind != cloud.VEIL and panorama is None]
    if rows > DRAFT_ROWS:
        sunlit = cloud.shade(shading, sun, shade_m)
    else:
        coarse = cloud.shade(shading, sun, shade_m, SHADE_SIDE // 2, 8)
        sunlit = cv2.resize(coarse, (SHADE_SIDE, SHADE_SIDE), interpolation=cv2.INTER_LINEAR)
    unit = unit or _unit(_meter(sun, sunlight * float(sunlit.mean()), numbers), gases)
    return Daylight(
        light,
        sun,
        sunlight / unit,
        (sky / unit).astype(np.float32),
        numbers / unit,
        haze,
        tone(haze, shines, clear) / np.float32(unit),
        shaded_light(light, *lights) / unit,
        sunlit,
        shade_m,
        unit,
        Behind(tables, above, clear, own_mean, shines) if panorama is None else None,
    )


def panorama_of(light: Light, load: Callable[[str], np.ndarray]) -> np.ndarray | None:
    """The picture that a light names for its sky, if it does: one that ships, or one that `load`
    gives by its name, float32 (rows, 2 rows, 3). Raises SceneError.
    """
    if not light.panorama:
        return None
    if light.panorama in RECIPES:
        return recipe_picture(light.panorama, _by_recipe)
    return from_raster(load(light.panorama))


def _by_recipe(light: Light, rows: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    made = daylight(light, np.full(3, 0.15), 0.0, 1000.0, Cache(1 << 28), rows)
    shows = made.sunlight * float(made.shade.mean())
    return made.sky, made.sun, shows


def _unit(meter_klux: float, gases: Gases) -> float:
    """The radiance (kcd/m2) that a light meter would set to one over ground of this colour."""
    shows = float(np.array(gases.ground) @ (0.2126, 0.7152, 0.0722))
    dark = np.clip((shows / MIDDLING) ** FAVOURS, 0.55, 1.5)  # dark land is shown a little lighter
    return float(METER_KLUX / np.pi * (meter_klux / METER_KLUX) ** ADAPTS * dark)


def _meter(sun: np.ndarray, sunlight: np.ndarray, numbers: np.ndarray) -> float:
    """Light (klux) on the ground and on what stands on it, as a meter would take it."""
    flat = numbers[0] * 0.282095 + numbers[2] * 0.488603 + numbers[6] * 0.630784
    turned = 0.35 + 0.65 * max(float(sun[2]), 0.0)
    return max(float((flat + sunlight * turned) @ (0.2126, 0.7152, 0.0722)), 1e-7)


def sky_along(
    lit: Daylight, rays: np.ndarray, fine: float = 1.4, tell: Heard = unheard
) -> np.ndarray:
    """The sky of a light along unit directions (rows, columns, 3), in the light's units, float32 of
    their shape: as fine as they are where clouds are marched through, from the panorama where the
    sky is a picture. `tell` hears how much of the clouds is done, 0..1.
    """
    b = lit.behind
    if b is None:
        return from_panorama(lit.sky, rays)
    rise = rays[..., 2].astype(np.float64)
    clear = from_panorama(b.clear, rays)
    told = one_by_one(tell, len(clouds_of(lit.light)))
    march = lambda c: cloud.along(c, lit.sun, rays, fine, next(told))
    sky = clouds_before(lit.light, b, lit.sun, clear, rise, march)[0]
    passes = np.exp(-lit.haze.upward(rise))[..., None]
    hazed = sky * passes + from_panorama(b.shines, rays) * (1 - passes)
    return (hazed / lit.unit_kcd).astype(np.float32)


def _lay_haze(sky: np.ndarray, haze: Haze, shines: np.ndarray, vectors: np.ndarray) -> None:
    """Lays the haze before the sky, so that land that fades ends in what lies behind it."""
    rows, columns = sky.shape[:2]
    broad = np.concatenate([shines[:, -1:], shines, shines[:, :1]], 1).astype(np.float32)
    k = columns // shines.shape[1]
    smooth = cv2.resize(broad, (broad.shape[1] * k, rows), interpolation=cv2.INTER_LINEAR)
    smooth = smooth[:, k:-k]
    passes = np.exp(-haze.upward(vectors[..., 2]))[..., None]
    sky[:] = sky * passes + smooth * (1 - passes)
