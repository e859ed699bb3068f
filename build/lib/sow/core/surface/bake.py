"""A colour and a normal picture of the whole ground, baked from the materials."""

import cv2
import numpy as np
from numba import njit, prange

from ..build import Build
from ..cabinet.kind import linear, srgb_bytes
from ..sample import bicubic
from ..survey.slope import normals
from .material import tuned
from .tiling import laid, shrunk


def ground_picture(build: Build, px: int) -> np.ndarray:
    """Linear colour of the ground, float32 (py, px, 3), row 0 north, `px` along the longer side.

    Each texture repeats at its size in metres and is shrunk to the picture's own scale first.
    """
    plot = build.scene.plot
    w, h = (max(2, round(px * s / plot.longer_m)) for s in (plot.width_m, plot.depth_m))
    east = (np.arange(w) + 0.5) * plot.width_m / w
    north = plot.depth_m - (np.arange(h) + 0.5) * plot.depth_m / h
    return colour_at(build, east, north)


def normal_bytes(normals: np.ndarray) -> np.ndarray:
    """Unit normals (..., 3) as the bytes of a normal map."""
    return (np.clip(normals * 0.5 + 0.5, 0, 1) * 255 + 0.5).astype(np.uint8)


def colour_at(build: Build, east: np.ndarray, north: np.ndarray) -> np.ndarray:
    """Linear colour of the ground over a window of columns `east` and rows `north` (m), float32
    (rows, columns, 3).
    """
    return _laid(
        build,
        east,
        north,
        lambda ground: linear(ground.maps()[0][..., :3]),
        lambda m, values: tuned(m, values),
        (0.25,) * 3,
    )


def roughness_at(build: Build, east: np.ndarray, north: np.ndarray) -> np.ndarray:
    """Roughness of the ground 0..1 over a window, float32 (rows, columns)."""
    rough = _laid(
        build,
        east,
        north,
        lambda ground: ground.maps()[1][..., 2:3].astype(np.float32) / 255,
        lambda m, values: np.clip(values * (m.rough / 100), 0, 1),
        (0.9,),
    )
    return np.minimum(rough[..., 0], 1)


@njit(cache=True, nogil=True, parallel=True)
def _add(flat, here, values, part):
    """Lays values (n, channels), none below zero, by the parts of their places, in place."""
    for k in prange(len(here)):
        for channel in range(flat.shape[1]):
            flat[here[k], channel] += max(values[k, channel], np.float32(0)) * part[here[k]]


def picture_relief_at(build: Build, east: np.ndarray, north: np.ndarray) -> np.ndarray | None:
    """Height (m) that the pictures of the ground add to the look of a window, float32 (rows,
    columns); None where no material has one.
    """
    out, grid = None, build.grid
    x, y = np.meshgrid(east, north)
    for m, share in zip(build.scene.ground, build.ground()):
        if m.on and m.picture and m.picture_m:
            part = np.clip(bicubic(share, grid.rows_of(north), grid.cols_of(east)), 0, 1)
            own = (
                build.picture_at(m, x, y)[..., 3] * np.float32(m.picture_m * m.relief / 100) * part
            )
            out = own if out is None else out + own
    return out


def _laid(build: Build, east, north, channel, tune, bare) -> np.ndarray:
    """Each material's texture without visible repeat, shrunk to the picture's own scale, times its
    share. `tune` makes of a texture what the material shows of it: what it does is the same for a
    texel as for a mean of texels, so it is done before the texture is laid.
    """
    shares, grid = build.ground(), build.grid
    out = np.zeros((len(north), len(east), len(bare)), np.float32)
    if not len(shares):
        out[:] = bare
    spacing = abs(east[1] - east[0]) if len(east) > 1 else 1.0
    flat = out.reshape(-1, len(bare))
    for m, share in zip(build.scene.ground, shares):
        if not m.on or not share.any():
            continue
        part = np.clip(bicubic(share, grid.rows_of(north), grid.cols_of(east)), 0, 1).ravel()
        here = np.flatnonzero(part)  # a texture is laid where it has a share, and nowhere else
        if not len(here):
            continue
        row, column = np.divmod(here, len(east))
        x, y = east[column], north[row]
        ground = build.ground_of(m)
        texels = int(np.clip(round(m.size_m / spacing), 1, 512))
        if m.picture and len(bare) == 3:
            whole = build.picture_at(m, *np.meshgrid(east, north))
            values = tune(m, whole.reshape(-1, whole.shape[-1])[here, :3])
        else:
            texture = tune(m, shrunk(channel(ground), texels))
            values = (
                laid(texture, x, y, m.size_m, m.turn, ground.directed)
                if texels > 1
                else np.broadcast_to(texture[0, 0], (len(here), len(bare)))
            )
        _add(flat, here, np.ascontiguousarray(values, np.float32), part)
    return out


def baked(build: Build, px: int, mesh_heights: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """sRGB colour and tangent-space normals (x east, y north along the coarse mesh), both uint8
    (py, px, 3).
    """
    colour = ground_picture(build, px)
    size = colour.shape[:2]
    spread = lambda field: np.dstack(
        [
            cv2.resize(
                np.ascontiguousarray(field[..., k]), size[::-1], interpolation=cv2.INTER_LINEAR
            )
            for k in range(3)
        ]
    )
    fine = spread(normals(build.heights, build.grid.spacing))
    coarse = spread(normals(mesh_heights, build.grid.width_m / (mesh_heights.shape[1] - 1)))
    local = np.empty(size + (3,), np.float32)
    _along(fine.astype(np.float32), coarse.astype(np.float32), local)
    return srgb_bytes(colour), normal_bytes(local)


@njit(cache=True, nogil=True, parallel=True)
def _along(fine, coarse, out):
    """Normals in the frame of a coarser surface: its tangent to the east, its bitangent to the
    north, its normal.
    """
    for r in prange(out.shape[0]):
        for c in range(out.shape[1]):
            nx, ny, nz = coarse[r, c]
            size = 1 / max(np.sqrt(nx * nx + ny * ny + nz * nz), 1e-9)
            nx, ny, nz = nx * size, ny * size, nz * size
            tx, ty, tz = 1 - nx * nx, -ny * nx, -nz * nx
            size = 1 / max(np.sqrt(tx * tx + ty * ty + tz * tz), 1e-9)
            tx, ty, tz = tx * size, ty * size, tz * size
            bx, by, bz = ny * tz - nz * ty, nz * tx - nx * tz, nx * ty - ny * tx
            fx, fy, fz = fine[r, c]
            x = fx * tx + fy * ty + fz * tz
            y = fx * bx + fy * by + fz * bz
            z = fx * nx + fy * ny + fz * nz
            size = 1 / max(np.sqrt(x * x + y * y + z * z), 1e-9)
            out[r, c, 0] = x * size
            out[r, c, 1] = y * size
            out[r, c, 2] = z * size
