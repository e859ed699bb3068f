"""One light for all that shows a scene: sun, sky picture, haze, shade of clouds, exposure."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np

from ..cabinet.keep import from_folder
from ..cache import Cache, key_of
from . import clouds as cloud
from .atmosphere import Tables, sun_at_ground, tables_of
from .clouds import Cloud
from .gases import SUN_KLUX, Gases
from .harmonics import directions, from_panorama, irradiance
from .haze import Haze, haze_light, haze_of, tone
from .light import Light, sun_angles, sun_direction
from .panorama import RECIPES, from_raster, laid, recipe_picture
from .sky import clear_sky
from .white import balance

DRAFT_ROWS, REST_ROWS = 128, 512
MOON = 2.5e-6  # a full moon beside the sun (Allen 1973)
METER_KLUX = 120.0  # light on the ground at which exposure needs no help
MIDDLING, FAVOURS = 0.18, 0.4  # ground at which exposure needs no help, and how far it goes
ADAPTS = 0.9  # how far an eye follows when light grows less
SHADE_SIDE = 128
SHADE_ROOM = 1.6  # sides of the plot that the shade of clouds is found for


@dataclass(frozen=True)
class Behind:
    """What a sky is made of, to be asked along any direction: tables of the air, sunlight above it
    (3), the clear sky as a panorama and its mean (3) in kcd/m2, and what haze shows.
    """

    tables: Tables
    above: np.ndarray
    clear: np.ndarray
    mean: np.ndarray
    shines: np.ndarray


@dataclass(frozen=True)
class Daylight:
    """The light of a scene. Radiances are told in units of `unit_kcd` (kcd/m2), which a light meter
    on the ground would set to a middling picture; all in linear Rec.709.

    `sun` unit vector to it; `sunlight` (3) irradiance of a plane turned to it; `sky` panorama
    float32 (rows, 2 rows, 3) without the sun's disc; `numbers` (9, 3) irradiance by harmonics;
    `tone` of haze by direction; `shade` of clouds on the ground within `shade_m` of the middle.
    """

    light: Light
    sun: np.ndarray
    sunlight: np.ndarray
    sky: np.ndarray
    numbers: np.ndarray
    haze: Haze
    tone: np.ndarray
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
    arrays = ("packed", "through", "beam", "scattered", "flat")
    return from_folder(
        f"air-{key_of('air', vars(gases), _stamp())}",
        lambda: tables_of(gases),
        lambda made: {name: getattr(made, name) for name in arrays},
        lambda plain: Tables(gases, **plain),
    )


@lru_cache(maxsize=1)
def _stamp() -> str:
    """Of how tables are made: what was made in another way is not taken."""
    here = Path(__file__).parent
    return key_of("made", *[(here / f"{n}.py").read_text() for n in ("atmosphere", "gases")])


def clouds_of(light: Light) -> list[Cloud]:
    """The clouds of a light, the lowest first."""
    b = np.deg2rad(light.wind_from + 180)
    drift = light.cloud_drift_m * np.sin(b), light.cloud_drift_m * np.cos(b)
    out = []
    if light.clouds:
        out.append(
            Cloud(
                cloud.HEAPS,
                light.clouds / 100,
                light.cloud_size_m,
                light.cloud_base_m,
                light.cloud_thick_m,
                light.cloud_seed,
                *drift,
            )
        )
    if light.bank:
        at = np.deg2rad(light.bank_bearing)
        out.append(
            Cloud(
                cloud.BANK,
                light.bank / 100,
                float(np.clip(light.bank_thick_m / 2.5, 200, 2500)),
                light.bank_base_m,
                light.bank_thick_m,
                light.cloud_seed,
                light.bank_away_m * np.sin(at),
                light.bank_away_m * np.cos(at),
                light.bank_width_m / 2,
            )
        )
    if light.layer:
        out.append(
            Cloud(
                cloud.LAYER,
                light.layer / 100,
                light.layer_size_m,
                light.layer_base_m,
                light.layer_thick_m,
                light.cloud_seed + 5,
                *drift,
                ends_m=light.layer_ends_m,
                ends_at_deg=sun_angles(light)[0],
            )
        )
    if light.veil:
        out.append(
            Cloud(
                cloud.VEIL,
                light.veil / 100,
                1600,
                light.veil_base_m,
                400,
                light.cloud_seed + 9,
                *drift,
            )
        )
    return sorted(out, key=lambda c: c.base_m)


def daylight(
    light: Light,
    ground: np.ndarray,
    lowest_m: float,
    side_m: float,
    cache: Cache,
    rows: int = REST_ROWS,
    panorama: np.ndarray | None = None,
) -> Daylight:
    """The light of a scene, made once for its content.

    `ground` is the mean linear colour of the land, `lowest_m` its lowest height, `side_m` the
    longer side of the plot, `rows` those of the sky picture (twice as many columns); `panorama` the
    picture that the light names. Raises SceneError where the sun's moment or place cannot be.
    """
    gases = gases_of(light, ground)
    sun = sun_direction(light)
    told = light.model_dump(
        exclude={"exposure", "white_k", "moment", "latitude", "longitude", "sun_by"}
    )
    key = key_of("daylight", told, sun.tolist(), vars(gases), lowest_m, side_m, rows)
    # the meter reads the coarse sky, so that a finer one is no brighter
    unit = None
    if rows > DRAFT_ROWS:
        unit = daylight(light, ground, lowest_m, side_m, cache, DRAFT_ROWS, panorama).unit_kcd
    made = cache.once(key, lambda: _made(light, gases, sun, lowest_m, side_m, rows, unit, panorama))
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
        sky, veiled, own_mean = _clouded(light, tables, sun, above, clear)
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
    shines = haze_light(light, sun, direct * veiled, mean_sky, tint_of(light.haze_tint))
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


def _clouded(
    light: Light, tables: Tables, sun: np.ndarray, above: np.ndarray, clear: np.ndarray
) -> tuple[np.ndarray, float, np.ndarray]:
    """The sky with its clouds, what the veil leaves of the sun, and the clear sky's mean (3)."""
    sky = clear.astype(np.float64)
    rows = clear.shape[0]
    half = rows // 2
    upper = sky[:half]
    vectors, solid = directions(rows, 2 * rows)
    vectors = vectors[:half]
    sky_mean = np.einsum("rck,r->k", upper, solid[:half]) / (2 * np.pi)
    fine = 0.5 if rows <= DRAFT_ROWS else 1.0 if rows <= REST_ROWS else 1.6
    march = lambda c: _march_of(c, sun, half, fine)
    behind = Behind(tables, above, clear, sky_mean, clear)
    sky[:half], veil = _clouds_before(light, behind, sun, clear[:half], vectors[..., 2], march)
    veiled = 1.0 if veil is None else float(1 - 0.5 * veil[_nearest(vectors, sun)][0])
    return sky, veiled, sky_mean


def _clouds_before(
    light: Light,
    behind: Behind,
    sun: np.ndarray,
    clear: np.ndarray,
    rise: np.ndarray,
    march: Callable[[Cloud], np.ndarray],
) -> tuple[np.ndarray, np.ndarray | None]:
    """A clear sky (rows, columns, 3) along directions of sines `rise` with the clouds before it,
    and how far a veil hides it, if there is one. `march` goes through one kind of cloud.
    """
    out, veil = clear.astype(np.float64), None
    tables, above, sky_mean = behind.tables, behind.above, behind.mean
    # the farthest first, each before those behind it
    all_clouds = clouds_of(light)
    for i, c in reversed(list(enumerate(all_clouds))):
        kilometres = light.altitude_m / 1000 + (c.base_m + 0.5 * c.thick_m) / 1000
        above_it = [k for k in all_clouds[i + 1 :] if k.kind != cloud.VEIL]
        shaded = float(cloud.shade(above_it, sun, 15000, 24).mean()) if above_it else 1.0
        lit = sun_at_ground(tables, float(sun[2]), kilometres) * above * shaded
        below = np.array(tables.gases.ground) * (lit * max(float(sun[2]), 0) / np.pi + sky_mean)
        got = march(c)
        shines = got[..., 0:1] * lit + got[..., 1:2] * sky_mean + got[..., 2:3] * below
        hides = 1 - got[..., 3:4].astype(np.float64)
        far = _air_before(light, got[..., 4], rise)
        # the air before a cloud shows its own part of the clear sky's light
        whole = _air_before(light, np.full(rise.shape, 3e5), rise)
        airlight = clear * (1 - far) / np.maximum(1 - whole, 1e-3)
        out = out * (1 - hides) + shines * far + np.minimum(airlight, clear) * hides
        if c.kind == cloud.VEIL:
            veil = hides
    return out, veil


def sky_along(lit: Daylight, rays: np.ndarray, fine: float = 1.4) -> np.ndarray:
    """The sky of a light along unit directions (rows, columns, 3), in the light's units, float32 of
    their shape: as fine as they are where clouds are marched through, from the panorama where the
    sky is a picture.
    """
    b = lit.behind
    if b is None:
        return from_panorama(lit.sky, rays)
    rise = rays[..., 2].astype(np.float64)
    clear = from_panorama(b.clear, rays)
    march = lambda c: cloud.along(c, lit.sun, rays, fine)
    sky = _clouds_before(lit.light, b, lit.sun, clear, rise, march)[0]
    passes = np.exp(-lit.haze.upward(rise))[..., None]
    hazed = sky * passes + from_panorama(b.shines, rays) * (1 - passes)
    return (hazed / lit.unit_kcd).astype(np.float32)


def _march_of(c: Cloud, sun: np.ndarray, half: int, fine: float) -> np.ndarray:
    # clouds are soft: half the sky's fineness is enough until the full picture
    quarter = max(half // (2 if half > DRAFT_ROWS or half <= DRAFT_ROWS // 2 else 1), 32)
    got = cloud.seen(c, sun, quarter, fine)
    if quarter == half:
        return got
    wrapped = np.concatenate([got[:, -2:], got, got[:, :2]], 1)
    k = half // quarter
    size = wrapped.shape[1] * k, half
    return cv2.resize(wrapped, size, interpolation=cv2.INTER_LINEAR)[:, 2 * k : -2 * k]


def _nearest(vectors: np.ndarray, sun: np.ndarray) -> tuple[int, int]:
    rows, columns = vectors.shape[:2]
    turn = np.arctan2(sun[0], sun[1]) % (2 * np.pi)
    height = np.arcsin(np.clip(sun[2], 0, 1))
    row = int((0.5 - height / np.pi) * 2 * rows)
    return min(max(row, 0), rows - 1), int(turn / (2 * np.pi) * columns) % columns


def _air_before(light: Light, far_m: np.ndarray, rise: np.ndarray) -> np.ndarray:
    """What the clear air lets through before `far_m`, for each colour."""
    air = haze_of(light.model_copy(update={"dust": 0}), 0).air
    dust = haze_of(light.model_copy(update={"air": 0}), 0).air
    up = np.maximum(far_m * np.maximum(rise, 0.02), 1.0)
    way = lambda over: far_m * over / up * (1 - np.exp(-up / over))
    return np.exp(-way(8000.0)[..., None] * air - way(1200.0)[..., None] * dust)


def _lay_haze(sky: np.ndarray, haze: Haze, shines: np.ndarray, vectors: np.ndarray) -> None:
    """Lays the haze before the sky, so that land that fades ends in what lies behind it."""
    rows, columns = sky.shape[:2]
    broad = np.concatenate([shines[:, -1:], shines, shines[:, :1]], 1).astype(np.float32)
    k = columns // shines.shape[1]
    smooth = cv2.resize(broad, (broad.shape[1] * k, rows), interpolation=cv2.INTER_LINEAR)
    smooth = smooth[:, k:-k]
    passes = np.exp(-haze.upward(vectors[..., 2]))[..., None]
    sky[:] = sky * passes + smooth * (1 - passes)
