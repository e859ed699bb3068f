"""A sowing drawn small: from above over the part of the plot where it is thickest, or as it stands
before a viewpoint.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.ndimage import uniform_filter

from ..air.harmonics import arriving
from ..air.light import sun_angles
from ..air.light_of import Daylight
from ..build import Build
from ..cabinet import worn
from ..cabinet.draw import picture
from ..cabinet.kind import srgb_bytes
from ..planting.sowing import seen_colour
from ..sample import heights_at
from ..survey.sight import hidden_by

ACROSS = 22  # mean distances between plants over a window
REACH = 400.0  # m from the eye that plants are drawn in
FACE_PX = 96
MIX_M = 18.0  # over which a mix should stand thick
SIDE_LIGHT = 110.0  # degrees from the sun's bearing
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


@dataclass
class _Seen:
    """Plants before an eye, on a picture of so many dots: where the middle of the foot lies, height
    in dots, distance (m), tint, and the kind's number and variant.
    """

    x: np.ndarray
    y: np.ndarray
    px: np.ndarray
    ahead: np.ndarray
    tint: np.ndarray
    kind: np.ndarray
    variant: np.ndarray

    def only(self, which: np.ndarray) -> "_Seen":
        return _Seen(*(values[which] for values in vars(self).values()))


def stand_before(
    drawn: np.ndarray,
    build: Build,
    indices: list[int],
    pose: dict,
    lit: Daylight,
    clear: float = 0.0,
) -> np.ndarray:
    """Pastes the plants of some sowings, in the colours in which the cabinet draws them, over a
    picture that `from_shot` drew from the same pose in the same light; linear light, float32. What
    stands nearer than `clear` of its own height is left out.
    """
    grid = build.grid
    x0 = float(pose["east"])
    y0 = float(pose["north"])
    ground = float(heights_at(build.heights, grid, x0, y0)[0])
    eye = max(0.3, float(pose["up"]) - ground)
    hidden = hidden_by(build.heights, grid, x0, y0, eye)
    names: list[str] = []
    parts: list[_Seen] = []
    for index in indices:
        parts.append(_seen(build, index, pose, drawn.shape[:2], hidden, len(names)))
        names += build.names(index)
    columns = (np.concatenate(column) for column in zip(*(vars(p).values() for p in parts)))
    seen = _Seen(*columns)
    scale = drawn.shape[1] * float(pose["focal"]) / 36
    if clear > 0:
        seen = seen.only(seen.px * clear < scale)
    seen = seen.only(np.argsort(-seen.px)[:MOST])
    seen = seen.only(np.argsort(-seen.ahead))
    return _pasted(drawn.astype(np.float32), seen, names, lit, float(pose["up"]))


def _seen(
    build: Build, index: int, pose: dict, size: tuple[int, int], hidden: np.ndarray, first: int
) -> _Seen:
    """The plants of one sowing that show; its kinds are numbered from `first`."""
    rows, cols = size
    x0 = float(pose["east"])
    y0 = float(pose["north"])
    p = build.plants_within(index, (x0 - REACH, y0 - REACH, x0 + REACH, y0 + REACH))
    tall = np.array([worn(k)[0].height_m for k in build.names(index)])[p.kind] * p.size
    bearing = np.deg2rad(float(pose["bearing"]))
    tilt = np.deg2rad(float(pose["tilt"]))
    dx = p.east - x0
    dy = p.north - y0
    dz = p.up - float(pose["up"])
    ahead = dx * np.sin(bearing) + dy * np.cos(bearing)
    aside = dx * np.cos(bearing) - dy * np.sin(bearing)
    scale = cols * float(pose["focal"]) / 36
    with np.errstate(divide="ignore", invalid="ignore"):
        px = tall / ahead * scale
        x = cols / 2 + aside / ahead * scale
        y = rows / 2 - (np.tan(np.arctan2(dz, ahead) - tilt)) * scale
    grid = build.grid
    row = np.clip(np.rint(grid.rows_of(p.north)).astype(int), 0, grid.ny - 1)
    column = np.clip(np.rint(grid.cols_of(p.east)).astype(int), 0, grid.nx - 1)
    clear = hidden[row, column] < tall * 0.6
    shows = clear & (ahead > 0.8) & (px > 1.2) & (x > -px) & (x < cols + px)
    return _Seen(x, y, px, ahead, p.tint, p.kind + first, p.variant).only(shows)


def _face(name: str, variant: int) -> tuple[np.ndarray, float]:
    """A kind's picture, float32 linear colour with cover, and its side as a part of its height."""
    kind, look, tint = worn(name)
    shape = kind.shape(look)
    mesh = shape.levels[variant % len(shape.levels)][0]
    across = 2.08 * float(np.abs(mesh.positions[:, :2]).max())
    side = max(across, 1.04 * float(mesh.positions[:, 2].max()))
    face = picture(mesh, shape.sheet, FACE_PX, side, side).astype(np.float32) / 255
    face[..., :3] = face[..., :3] ** 2.2
    if tint is not None:
        face[..., :3] *= np.clip(tint, 0, 4)
    return face, side / kind.height_m


def _pasted(
    out: np.ndarray, seen: _Seen, names: list[str], lit: Daylight, eye_m: float
) -> np.ndarray:
    """The farthest first, each paler with its distance."""
    rows, cols = out.shape[:2]
    faces: dict[tuple[int, int], tuple[np.ndarray, float]] = {}
    upright = arriving(lit.numbers, np.array([0.0, 0.0, 1.0]))
    # pictures of kinds are lit already, a middling face by about two thirds
    arrives = (lit.sunlight * 0.55 * (float(lit.sun[2]) > 0) + upright * 0.7) / np.pi * 1.5
    tone = lit.tone[lit.tone.shape[0] // 2]
    for i in range(len(seen.x)):
        key = int(seen.kind[i]), int(seen.variant[i])
        if key not in faces:
            faces[key] = _face(names[key[0]], key[1])
        face, wide = faces[key]
        n = int(np.clip(seen.px[i] * wide, 2, 400))
        left = int(seen.x[i] - n / 2)
        top = int(seen.y[i] - n)
        l = max(left, 0)
        t = max(top, 0)
        r = min(left + n, cols)
        b = min(top + n, rows)
        if l >= r or t >= b:
            continue
        small = cv2.resize(face, (n, n), interpolation=cv2.INTER_AREA)
        part = small[t - top : b - top, l - left : r - left]
        passes = lit.haze.passes(eye_m, np.array(eye_m), np.array(seen.ahead[i]))
        own = part[..., :3] * (0.9 + 0.5 * (seen.tint[i] - 0.5)) * arrives
        colour = own * passes + tone.mean(0) * (1 - passes)
        out[t:b, l:r] += part[..., 3:] * (colour - out[t:b, l:r])
    return out


def mix_eye(build: Build, indices: list[int]) -> dict:
    """The pose of a person who looks at sowings where most of them stand thick, with the sun at the
    side.
    """
    grid = build.grid
    plot = build.scene.plot
    wide = max(1, round(MIX_M / grid.spacing))
    thick = np.zeros(grid.shape, np.float32)
    for index in indices:
        held = build.sowing_mask(index)
        thick += 1 if held is None else uniform_filter(held, wide, mode="constant")
    tall = max(worn(k)[0].height_m for index in indices for k in build.names(index))
    back = float(np.clip(2.2 * tall + 5, 7, 45))
    edge = max(1, round((back + 10) / grid.spacing))
    inner = np.s_[edge : max(grid.ny - edge, edge + 1), edge : max(grid.nx - edge, edge + 1)]
    row, column = np.unravel_index(int(np.argmax(thick[inner])), thick[inner].shape)
    east = float(grid.xs()[column + edge])
    north = float(grid.ys()[row + edge])
    bearing = (sun_angles(build.scene.light)[0] + SIDE_LIGHT) % 360
    turn = np.deg2rad(bearing)
    x = float(np.clip(east - back * np.sin(turn), 1, plot.width_m - 1))
    y = float(np.clip(north - back * np.cos(turn), 1, plot.depth_m - 1))
    here = heights_at(build.heights, grid, np.array([x, east]), np.array([y, north]))
    up = float(here[0]) + 1.7 + 0.08 * tall
    tilt = float(np.rad2deg(np.arctan2(float(here[1]) + 0.38 * tall - up, back)))
    return {"east": x, "north": y, "up": up, "bearing": bearing, "tilt": tilt, "focal": 32.0}
