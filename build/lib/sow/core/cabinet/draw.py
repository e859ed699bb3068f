"""A small rasteriser: pictures of kinds, for far cards and for the drawers."""

import numpy as np
from numba import njit

from .kind import SHEET, linear, srgb_bytes
from .mesh import Mesh


@njit(cache=True, nogil=True)
def _raster(xy, depth, normals, uv, colour, faces, sheet, light, rgb, alpha, zbuf):
    height, width = alpha.shape
    for f in range(len(faces)):
        a = faces[f, 0]
        b = faces[f, 1]
        c = faces[f, 2]
        area = (xy[b, 0] - xy[a, 0]) * (xy[c, 1] - xy[a, 1]) - (xy[c, 0] - xy[a, 0]) * (
            xy[b, 1] - xy[a, 1]
        )
        if abs(area) < 1e-9:
            continue
        x0 = max(int(min(xy[a, 0], xy[b, 0], xy[c, 0])), 0)
        x1 = min(int(max(xy[a, 0], xy[b, 0], xy[c, 0])) + 1, width - 1)
        y0 = max(int(min(xy[a, 1], xy[b, 1], xy[c, 1])), 0)
        y1 = min(int(max(xy[a, 1], xy[b, 1], xy[c, 1])) + 1, height - 1)
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                px, py = x + 0.5, y + 0.5
                wb = (
                    (px - xy[a, 0]) * (xy[c, 1] - xy[a, 1])
                    - (xy[c, 0] - xy[a, 0]) * (py - xy[a, 1])
                ) / area
                wc = (
                    (xy[b, 0] - xy[a, 0]) * (py - xy[a, 1])
                    - (px - xy[a, 0]) * (xy[b, 1] - xy[a, 1])
                ) / area
                wa = 1 - wb - wc
                if wa < 0 or wb < 0 or wc < 0:
                    continue
                z = wa * depth[a] + wb * depth[b] + wc * depth[c]
                if z <= zbuf[y, x]:
                    continue
                u = wa * uv[a, 0] + wb * uv[b, 0] + wc * uv[c, 0]
                r = g = bl = 1.0
                if u >= 0:
                    v = wa * uv[a, 1] + wb * uv[b, 1] + wc * uv[c, 1]
                    sx = min(max(int(u * sheet.shape[1]), 0), sheet.shape[1] - 1)
                    sy = min(max(int(v * sheet.shape[0]), 0), sheet.shape[0] - 1)
                    if sheet[sy, sx, 3] < 0.5:
                        continue
                    r = sheet[sy, sx, 0]
                    g = sheet[sy, sx, 1]
                    bl = sheet[sy, sx, 2]
                n0 = wa * normals[a, 0] + wb * normals[b, 0] + wc * normals[c, 0]
                n1 = wa * normals[a, 1] + wb * normals[b, 1] + wc * normals[c, 1]
                n2 = wa * normals[a, 2] + wb * normals[b, 2] + wc * normals[c, 2]
                shade = light[3] + (1 - light[3]) * max(
                    0.0, n0 * light[0] + n1 * light[1] + n2 * light[2]
                )
                zbuf[y, x] = z
                alpha[y, x] = 1.0
                rgb[y, x, 0] = (
                    shade * r * (wa * colour[a, 0] + wb * colour[b, 0] + wc * colour[c, 0])
                )
                rgb[y, x, 1] = (
                    shade * g * (wa * colour[a, 1] + wb * colour[b, 1] + wc * colour[c, 1])
                )
                rgb[y, x, 2] = (
                    shade * bl * (wa * colour[a, 2] + wb * colour[b, 2] + wc * colour[c, 2])
                )


def picture(
    mesh: Mesh,
    sheet: np.ndarray,
    size: int,
    width_m: float,
    height_m: float,
    light=(-0.35, -0.6, 0.72, 0.55),
    over: int = 3,
) -> np.ndarray:
    """The mesh seen level from the south, uint8 sRGB (size, size, 4), its box stretched to the
    square.

    `light` is a direction and a share of light that comes from all round.
    """
    n = size * over
    xy = np.c_[
        (mesh.positions[:, 0] / width_m + 0.5) * n, (1 - mesh.positions[:, 2] / height_m) * n
    ].astype(np.float64)
    rgb = np.zeros((n, n, 3))
    alpha = np.zeros((n, n))
    z = np.full((n, n), -1e9)
    ready = np.dstack([linear(sheet[..., :3]), sheet[..., 3] / np.float32(255)]).astype(np.float32)
    _raster(
        xy,
        -mesh.positions[:, 1].astype(np.float64),
        mesh.normals,
        mesh.uv,
        mesh.colour,
        mesh.faces,
        ready,
        np.array(light, np.float64),
        rgb,
        alpha,
        z,
    )
    shrink = lambda a: a.reshape(size, over, size, over, -1).mean((1, 3))
    cover = shrink(alpha)[..., 0]
    colour = shrink(rgb) / np.maximum(cover, 1e-6)[..., None]
    return np.dstack([srgb_bytes(bleed(colour, cover)), (cover * 255).astype(np.uint8)])


@njit(cache=True, nogil=True)
def _spread(colour, known, rounds):
    """Each round gives what is not known the mean of its known neighbours, in place."""
    rows, columns, channels = colour.shape
    for _ in range(rounds):
        before = known.copy()
        for y in range(rows):
            for x in range(columns):
                if before[y, x]:
                    continue
                count = 0
                for step in range(4):
                    ny = (y + (1 if step == 0 else -1 if step == 1 else 0)) % rows
                    nx = (x + (1 if step == 2 else -1 if step == 3 else 0)) % columns
                    if before[ny, nx]:
                        if count == 0:
                            colour[y, x] = 0.0
                        colour[y, x] += colour[ny, nx]
                        count += 1
                if count:
                    colour[y, x] /= count
                    known[y, x] = True


def bleed(colour: np.ndarray, cover: np.ndarray, rounds: int = 8) -> np.ndarray:
    """Spreads colour under transparent parts, so that smaller copies of a picture get no dark
    rim.
    """
    colour, known = colour.copy(), cover > 0.02
    mean = colour[known].mean(0) if known.any() else np.zeros(colour.shape[-1])
    _spread(colour, known, rounds)
    colour[~known] = mean
    return colour


def empty_sheet() -> np.ndarray:
    """A sheet without pictures, uint8 RGBA (512, 1024, 4), transparent."""
    return np.zeros(SHEET + (4,), np.uint8)


def add_cards(sheet: np.ndarray, nearest: list[Mesh], width_m: float, height_m: float) -> None:
    """Draws each variant's far card into the right half of the sheet, unlit but for the shade
    within.
    """
    for i, mesh in enumerate(nearest):
        y, x = 256 * (i // 2), 512 + 256 * (i % 2)
        sheet[y : y + 256, x : x + 256] = picture(
            mesh, sheet, 256, width_m, height_m, (-0.2, -0.5, 0.8, 0.75), 2
        )
