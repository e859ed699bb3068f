"""A sowing drawn small: from above over the part of the plot where it is thickest, or as it stands
before a viewpoint.
"""

import cv2
import numpy as np
from scipy.ndimage import uniform_filter

from ..air.light import haze_share
from ..build import Build
from ..cabinet import worn
from ..cabinet.draw import picture
from ..cabinet.kind import srgb_bytes
from ..planting.sowing import seen_colour
from ..survey.sight import hidden_by

ACROSS = 22  # mean distances between plants over a window
MOST = 2500  # plants drawn before a viewpoint, the largest on the picture first


def window(
    build: Build, index: int, place: tuple[float, float] | None = None
) -> tuple[float, float, float, float]:
    """West, south, east, north (m) of a square that holds some hundred plants, about a place or
    about where the sowing is thickest.
    """
    s, plot = build.scene.planting[index], build.scene.plot
    per_m2 = max(
        s.density / 100 if s.layout in ("natural", "clumped") else 1 / (s.gap_m * s.row_m), 1e-5
    )
    side = float(
        np.clip(ACROSS / np.sqrt(per_m2), 6 * build.grid.spacing, max(plot.width_m, plot.depth_m))
    )
    held = build.sowing_mask(index)
    if place is None:
        if s.layout in ("given", "line") or held is None:
            p = build.plants(index) if s.layout in ("given", "line") else None
            place = (
                (float(np.median(p.east)), float(np.median(p.north)))
                if p is not None and len(p)
                else (plot.width_m / 2, plot.depth_m / 2)
            )
        else:
            mean = uniform_filter(held, max(1, round(side / build.grid.spacing)), mode="constant")
            r, c = np.unravel_index(int(np.argmax(mean)), mean.shape)
            place = (float(build.grid.xs()[c]), float(build.grid.ys()[r]))
    x, y = (
        float(np.clip(v, side / 2, max(n - side / 2, side / 2)))
        for v, n in zip(place, (plot.width_m, plot.depth_m))
    )
    return x - side / 2, y - side / 2, x + side / 2, y + side / 2


def sown_from_above(
    build: Build, index: int, tone: np.ndarray, size: int, place=None
) -> np.ndarray:
    """Canopies in their colours over the ground, each with its shade to the north-west, uint8
    (size, size, 3). `tone` is the ground, 0..255 (ny, nx, 3).
    """
    west, south, east, north = window(build, index, place)
    over = 2
    n = size * over
    rows = build.grid.rows_of(np.linspace(north, south, n))
    cols = build.grid.cols_of(np.linspace(west, east, n))
    across, down = np.meshgrid(cols, rows)
    out = cv2.remap(
        np.asarray(tone, np.float32),
        across.astype(np.float32),
        down.astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    out = np.ascontiguousarray(np.clip(out * 1.25, 0, 255))
    p = build.plants_within(index, (west, south, east, north))
    kinds = [worn(k)[0] for k in build.names(index)]
    tones = [
        np.float64(srgb_bytes(np.clip(np.array(seen_colour(k)) * 1.4, 0, 1)))
        for k in build.names(index)
    ]
    k = n / (east - west)
    order = np.argsort(p.size * np.array([x.height_m for x in kinds])[p.kind])
    for pass_ in (0, 1):
        for i in order:
            x = (p.east[i] - west) * k
            y = (north - p.north[i]) * k
            kind = kinds[p.kind[i]]
            r = max(1.0, kind.reach_m * p.size[i] * k)
            if pass_ == 0:
                d = min(kind.height_m * p.size[i] * k * 0.5, 4 * r)
                cv2.circle(
                    out,
                    (round(x - d * 0.5), round(y - d * 0.5)),
                    round(r),
                    tuple(float(v) * 0.4 for v in tone.reshape(-1, 3).mean(0)),
                    -1,
                    cv2.LINE_AA,
                )
            else:
                c = tones[p.kind[i]] * (0.82 + 0.36 * float(p.tint[i]))
                cv2.circle(out, (round(x), round(y)), round(r), tuple(c * 0.8), -1, cv2.LINE_AA)
                cv2.circle(
                    out,
                    (round(x + 0.2 * r), round(y + 0.2 * r)),
                    max(1, round(r * 0.62)),
                    tuple(np.minimum(c * 1.15, 255)),
                    -1,
                    cv2.LINE_AA,
                )
    small = cv2.resize(out, (size, size), interpolation=cv2.INTER_AREA)
    return np.clip(small, 0, 255).astype(np.uint8)


def stand_before(
    drawn: np.ndarray, build: Build, index: int, pose: dict, haze_m: float
) -> np.ndarray:
    """Pastes a sowing's plants, as the cabinet draws them, over a picture that `from_shot` drew
    from the same pose.
    """
    rows, cols = drawn.shape[:2]
    reach = 400.0
    x0, y0 = float(pose["east"]), float(pose["north"])
    p = build.plants_within(index, (x0 - reach, y0 - reach, x0 + reach, y0 + reach))
    kinds = [worn(k) for k in build.names(index)]
    tall = np.array([k[0].height_m for k in kinds])[p.kind] * p.size
    b = np.deg2rad(float(pose["bearing"]))
    tilt = np.deg2rad(float(pose["tilt"]))
    dx = p.east - x0
    dy = p.north - y0
    dz = p.up - float(pose["up"])
    ahead = dx * np.sin(b) + dy * np.cos(b)
    aside = dx * np.cos(b) - dy * np.sin(b)
    scale = cols * float(pose["focal"]) / 36
    with np.errstate(divide="ignore", invalid="ignore"):
        px = tall / ahead * scale
        x = cols / 2 + aside / ahead * scale
        y = rows / 2 - (np.tan(np.arctan2(dz, ahead) - tilt)) * scale
    ground = build.heights[
        np.clip(np.rint(build.grid.rows_of(y0)).astype(int), 0, build.grid.ny - 1),
        np.clip(np.rint(build.grid.cols_of(x0)).astype(int), 0, build.grid.nx - 1),
    ]
    hidden = hidden_by(
        build.heights, build.grid, x0, y0, max(0.3, float(pose["up"]) - float(ground))
    )
    r, c = (
        np.clip(np.rint(v).astype(int), 0, n - 1)
        for v, n in (
            (build.grid.rows_of(p.north), build.grid.ny),
            (build.grid.cols_of(p.east), build.grid.nx),
        )
    )
    ok = np.flatnonzero(
        (ahead > 0.8) & (px > 1.2) & (x > -px) & (x < cols + px) & (hidden[r, c] < tall * 0.6)
    )
    ok = ok[np.argsort(-px[ok])[:MOST]]
    out = drawn.astype(np.float32)
    sprites: dict = {}
    for i in ok[np.argsort(-ahead[ok])]:
        k, v = int(p.kind[i]), int(p.variant[i])
        if (k, v) not in sprites:
            kind, look, tint = kinds[k]
            mesh = kind.shape(look).levels[v % len(kind.shape(look).levels)][0]
            side = max(
                2.08 * float(np.abs(mesh.positions[:, :2]).max()),
                1.04 * float(mesh.positions[:, 2].max()),
            )
            face = picture(mesh, kind.shape(look).sheet, 96, side, side).astype(np.float32)
            if tint is not None:
                face[..., :3] *= np.clip(tint, 0, 4) ** (1 / 2.2)
            sprites[k, v] = (face, side / kind.height_m)
        face, wide = sprites[k, v]
        n = int(np.clip(px[i] * wide, 2, 400))
        left, top = int(x[i] - n / 2), int(y[i] - n)
        l = max(left, 0)
        t = max(top, 0)
        rr = min(left + n, cols)
        bb = min(top + n, rows)
        if l >= rr or t >= bb:
            continue
        small = cv2.resize(face, (n, n), interpolation=cv2.INTER_AREA)[
            t - top : bb - top, l - left : rr - left
        ]
        share = small[..., 3:] / 255
        fog = haze_share(max(haze_m, 50.0), ahead[i])
        out[t:bb, l:rr] += share * (
            small[..., :3] * (0.9 + 0.25 * (p.tint[i] - 0.5)) * (1 - fog)
            + 205 * fog
            - out[t:bb, l:rr]
        )
    return np.clip(out, 0, 255).astype(np.uint8)
