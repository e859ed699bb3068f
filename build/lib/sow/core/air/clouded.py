"""The clear sky with its clouds before it: over a panorama, or along any directions."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np

from . import clouds as cloud
from .atmosphere import Tables, sun_at_ground
from .clouds import Cloud, Heard, unheard
from .harmonics import directions
from .haze import haze_of
from .light import Light, sun_angles

DRAFT_ROWS, REST_ROWS = 128, 512  # of a sky's picture: while it is dragged, and at rest


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


def clouded(
    light: Light,
    tables: Tables,
    sun: np.ndarray,
    above: np.ndarray,
    clear: np.ndarray,
    tell: Heard = unheard,
) -> tuple[np.ndarray, float, np.ndarray]:
    """The sky with its clouds, what the veil leaves of the sun, and the clear sky's mean (3);
    `tell` hears how much is done, 0..1.
    """
    sky = clear.astype(np.float64)
    rows = clear.shape[0]
    half = rows // 2
    upper = sky[:half]
    vectors, solid = directions(rows, 2 * rows)
    vectors = vectors[:half]
    sky_mean = np.einsum("rck,r->k", upper, solid[:half]) / (2 * np.pi)
    fine = 0.5 if rows <= DRAFT_ROWS else 1.0 if rows <= REST_ROWS else 1.6
    told = one_by_one(tell, len(clouds_of(light)))
    march = lambda c: _march_of(c, sun, half, fine, next(told))
    behind = Behind(tables, above, clear, sky_mean, clear)
    sky[:half], veil = clouds_before(light, behind, sun, clear[:half], vectors[..., 2], march)
    veiled = 1.0 if veil is None else float(1 - 0.5 * veil[_nearest(vectors, sun)][0])
    return sky, veiled, sky_mean


def clouds_before(
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
    all_clouds = clouds_of(light)
    if not all_clouds:
        return out, None
    # the air before a cloud shows its own part of the clear sky's light
    whole = clear / np.maximum(1 - _air_before(light, np.full(rise.shape, 3e5), rise), 1e-3)
    # the farthest first, each before those behind it
    for i, c in reversed(list(enumerate(all_clouds))):
        kilometres = light.altitude_m / 1000 + (c.base_m + 0.5 * c.thick_m) / 1000
        above_it = [k for k in all_clouds[i + 1 :] if k.kind != cloud.VEIL]
        shaded = float(cloud.shade(above_it, sun, 15000, 24).mean()) if above_it else 1.0
        lit = sun_at_ground(tables, float(sun[2]), kilometres) * above * shaded
        below = np.array(tables.gases.ground) * (lit * max(float(sun[2]), 0) / np.pi + sky_mean)
        got = march(c)
        here = got[..., 3] < 1
        shown = got[here]
        shines = shown[:, 0:1] * lit + shown[:, 1:2] * sky_mean + shown[:, 2:3] * below
        hides = 1 - shown[:, 3:4].astype(np.float64)
        far = _air_before(light, shown[:, 4], rise[here])
        airlight = np.minimum(whole[here] * (1 - far), clear[here])
        out[here] = out[here] * (1 - hides) + shines * far + airlight * hides
        if c.kind == cloud.VEIL:
            veil = 1 - got[..., 3:4].astype(np.float64)
    return out, veil


def one_by_one(tell: Heard, count: int) -> Iterator[Heard]:
    """For each of several works of one size what hears how much of it is done."""
    for k in range(count):
        yield partial(_within, tell, k, count)


def _within(tell: Heard, k: int, count: int, share: float) -> None:
    tell((k + share) / count)


def _march_of(c: Cloud, sun: np.ndarray, half: int, fine: float, tell: Heard) -> np.ndarray:
    # clouds are soft: half the sky's fineness is enough while it is dragged, and when it is large
    quarter = half if DRAFT_ROWS <= half <= REST_ROWS // 2 else max(half // 2, 32)
    got = cloud.seen(c, sun, quarter, fine, tell)
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
