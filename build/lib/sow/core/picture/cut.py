"""Pictures of leaves cut out along their edges: triangles that need no mask.

A sheet's triangles are laid with a lattice, and each small triangle is clipped where the picture's
cover falls below a level (marching triangles; Hansen & Johnson 2005, ch. 1). What is left has the
mean colour of its place, so that rays need no picture either. Where the lattice is coarser than
the leaves, each small triangle stays or goes by chance, as often as the picture covers its place: a
crown keeps its cover and its gaps.
"""

import cv2
import numpy as np
from numba import njit

from ..cabinet.kind import linear
from ..cabinet.mesh import Mesh

EDGE = 0.42  # cover at which a leaf ends, as in the view
FINE = 11.0  # texels of a lattice that still follows leaves
# triangles of one body, about, by the lattice wished: a richer crown is cut by a coarser one
MOST = ((9.0, 700_000), (13.0, 300_000), (1e9, 150_000))
CORNER = ((0, 1, 2), (1, 2, 0), (2, 0, 1))


@njit(cache=True, nogil=True)
def _at(picture, u, v, channel):
    rows, columns = picture.shape[0], picture.shape[1]
    x = min(max(u * columns - 0.5, 0.0), columns - 1.001)
    y = min(max(v * rows - 0.5, 0.0), rows - 1.001)
    i, j = int(y), int(x)
    fy, fx = y - i, x - j
    upper = picture[i, j, channel] * (1 - fx) + picture[i, j + 1, channel] * fx
    lower = picture[i + 1, j, channel] * (1 - fx) + picture[i + 1, j + 1, channel] * fx
    return upper * (1 - fy) + lower * fy


@njit(cache=True, nogil=True)
def _cut(corners, uvs, sides, tones, picture, edge, fine, places, colours):
    """Fills triangles; gives how many. `corners` (m, 3, 3) in m; uv (m, 3, 2)."""
    made = 0
    alpha = np.zeros(3)
    point = np.zeros((3, 5))
    poly = np.zeros((4, 5))
    for f in range(len(corners)):
        n = sides[f]
        for i in range(n):
            for j in range(2 * (n - i) - 1):
                a, b = float(i), float(j // 2)
                for c in range(3):
                    if j % 2 == 0:
                        s = a + (1 if c == 1 else 0)
                        t = b + (1 if c == 2 else 0)
                    else:
                        s = a + (1 if c != 2 else 0)
                        t = b + (1 if c != 0 else 0)
                    s, t = s / n, t / n
                    r = 1 - s - t
                    for k in range(3):
                        point[c, k] = (
                            corners[f, 0, k] * r + corners[f, 1, k] * s + corners[f, 2, k] * t
                        )
                    for k in range(2):
                        point[c, 3 + k] = uvs[f, 0, k] * r + uvs[f, 1, k] * s + uvs[f, 2, k] * t
                    alpha[c] = _at(picture, point[c, 3], point[c, 4], 3)
                kept = 0
                if not fine:
                    kept = 3
                    poly[:3] = point
                    cover = (alpha[0] + alpha[1] + alpha[2]) / 3
                    h = (f * 73856093) ^ (i * 19349663) ^ (j * 83492791)
                    h = (h ^ (h >> 13)) * 1274126177 & 0xFFFFFFFF
                    if ((h ^ (h >> 16)) & 0xFFFF) / 65536.0 >= cover:
                        continue
                for c in range(3 if fine else 0):
                    d = (c + 1) % 3
                    if alpha[c] >= edge:
                        poly[kept] = point[c]
                        kept += 1
                    if (alpha[c] >= edge) != (alpha[d] >= edge):
                        m = (edge - alpha[c]) / (alpha[d] - alpha[c])
                        poly[kept] = point[c] * (1 - m) + point[d] * m
                        kept += 1
                for k in range(kept - 2):
                    if made == len(places):
                        return -1
                    u = (poly[0, 3] + poly[k + 1, 3] + poly[k + 2, 3]) / 3
                    v = (poly[0, 4] + poly[k + 1, 4] + poly[k + 2, 4]) / 3
                    for c in range(3):
                        at = 0 if c == 0 else k + c
                        places[made, c] = poly[at, :3]
                        colours[made, c] = _at(picture, u, v, c) * tones[f, c]
                    made += 1
    return made


def leaves_of(
    mesh: Mesh, here: np.ndarray, sheet: np.ndarray, texels: float
) -> tuple[np.ndarray, np.ndarray]:
    """What is left of a mesh's faces `here` (numbers) when its picture is cut out, with a lattice
    of `texels` of the sheet: places (m, 3, 3) of the triangles, their colours (m, 3).
    """
    rows, columns = sheet.shape[:2]
    faces = mesh.faces[here]
    uv = mesh.uv[faces].astype(np.float64)
    long = np.linalg.norm((uv - np.roll(uv, 1, 1)) * (columns, rows), axis=2).max(1)
    most = next(count for wished, count in MOST if texels <= wished)
    texels = max(texels, float(np.sqrt((long**2).sum() / most)))
    picture = np.dstack([linear(sheet[..., :3]), sheet[..., 3:].astype(np.float32) / 255])
    if texels > 2:
        k = int(texels) | 1
        cover = np.maximum(picture[..., 3:], 1e-4)
        colour = cv2.blur(picture[..., :3] * cover, (k, k)) / cv2.blur(cover, (k, k))[..., None]
        soft = cv2.blur(picture[..., 3], (k, k)) if texels > FINE else picture[..., 3]
        picture = np.dstack([colour, soft]).astype(np.float32)
    sides = np.clip(np.ceil(long / texels), 1, 64).astype(np.int64)
    corners = mesh.positions[faces].astype(np.float64)
    tones = mesh.colour[faces].mean(1).astype(np.float64)
    room = int((2 * sides**2).sum()) + 8
    places = np.empty((room, 3, 3), np.float32)
    colours = np.empty((room, 3), np.float32)
    made = _cut(corners, uv, sides, tones, picture, EDGE, texels <= FINE, places, colours)
    return places[:made], colours[:made]
