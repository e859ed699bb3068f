"""The stuff of built things: masonry, thatch and planks on one sheet, and parts laid with it."""

import cv2
import numpy as np

from .draw import empty_sheet
from .kind import srgb_bytes
from .mesh import Mesh

STONE_BOX = (0.002, 0.004, 0.248, 0.496)

THATCH_BOX = (0.252, 0.004, 0.37, 0.496)

PLANK_BOX = (0.002, 0.504, 0.248, 0.99)

METRES = {"stone": (STONE_BOX, 4.0), "thatch": (THATCH_BOX, 9.2), "plank": (PLANK_BOX, 2.4)}


def _masonry(seed, w, h) -> np.ndarray:
    """Rubble laid in rough courses with dark joints, linear (h, w, 3)."""
    rng = np.random.default_rng(seed)
    y = 0
    out = np.full((h, w, 3), 0.035)
    while y < h:
        tall, x = int(rng.integers(9, 19)), -int(rng.integers(0, 20))
        while x < w:
            wide = int(rng.integers(14, 44))
            tone = (
                np.array((0.27, 0.25, 0.22))
                * rng.uniform(0.65, 1.25)
                * np.array([rng.uniform(0.95, 1.12), 1, rng.uniform(0.88, 1.02)])
            )
            edge = np.array(
                [
                    (x + 2, y + 2 + rng.integers(0, 3)),
                    (x + wide // 2, y + 1),
                    (x + wide - 1, y + 2 + rng.integers(0, 3)),
                    (x + wide - 1, y + tall - 1),
                    (x + wide // 2, y + tall),
                    (x + 2, y + tall - 1),
                ]
            )
            cv2.fillPoly(
                out, [np.array(edge).astype(np.int32)], tuple(map(float, tone)), cv2.LINE_AA
            )
            x += wide
        y += tall
    grain = cv2.GaussianBlur(rng.normal(size=(h, w)), (0, 0), 1.1)
    return cv2.GaussianBlur(out, (0, 0), 0.7) * np.clip(1 + 0.5 * grain, 0.4, 1.6)[..., None]


def _streaked(seed, w, h, tone, across, depth, boards=0) -> np.ndarray:
    """Straw or wood: grain that runs down the picture, with boards parted by dark lines."""
    rng = np.random.default_rng(seed)
    grain = cv2.GaussianBlur(rng.normal(size=(h, w)), (0, 0), across, sigmaY=22)
    fine = cv2.GaussianBlur(rng.normal(size=(h, w)), (0, 0), 0.6, sigmaY=6)
    out = (
        np.asarray(tone)
        * np.clip(1 + depth * (grain / grain.std() * 0.6 + fine / fine.std() * 0.5), 0.25, 1.9)[
            ..., None
        ]
    )
    for k in range(boards):
        x = int(k * w / boards)
        out[:, x : x + int(w / boards)] *= rng.uniform(0.8, 1.15)
        out[:, x : x + 3] *= 0.3
    return out


def stuff_sheet() -> np.ndarray:
    sheet = empty_sheet()
    for box, picture in (
        (STONE_BOX, _masonry(3, 256, 256)),
        (THATCH_BOX, _streaked(4, 124, 256, (0.26, 0.215, 0.14), 0.8, 0.42)),
        (PLANK_BOX, _streaked(5, 256, 256, (0.2, 0.175, 0.14), 1.5, 0.22, 8)),
    ):
        x = round(box[0] * 1024) - (2 if box[0] < 0.01 else 2)
        y = round(box[1] * 512) - 2
        sheet[y : y + picture.shape[0], x : x + picture.shape[1]] = np.dstack(
            [srgb_bytes(picture), np.full(picture.shape[:2], 255, np.uint8)]
        )
    return sheet


def quad(corners, stuff, tone=1.0, shift=0.0) -> Mesh:
    """Four corners, round from the lower left as seen from outside; its stuff in true size, as far
    as the picture goes.
    """
    c = np.array(corners, float)
    (u0, v0, u1, v1), metres = METRES[stuff]
    wide = float(np.linalg.norm(c[1] - c[0]))
    tall = float(np.linalg.norm(c[3] - c[0]))
    su = (u1 - u0) * min(1, wide / metres)
    sv = (v1 - v0) * min(1, tall / metres)
    a = u0 + shift * max(0, u1 - u0 - su)
    b = v1 - shift * max(0, v1 - v0 - sv)
    n = np.cross(c[1] - c[0], c[3] - c[0])
    return Mesh.of(
        c,
        [(0, 1, 2), (0, 2, 3)],
        np.full(3, tone),
        np.broadcast_to(n / np.linalg.norm(n), (4, 3)),
        [(a, b), (a + su, b), (a + su, b - sv), (a, b - sv)],
    )


def box(lo, hi, stuff, tone=1.0, matrix=None, shift=0.0) -> Mesh:
    """An upright box; the long way of planks runs along its tallest side."""
    (x0, y0, z0), (x1, y1, z1) = lo, hi
    p = lambda x, y, z: (x, y, z)
    faces = [
        [p(x0, y0, z0), p(x1, y0, z0), p(x1, y0, z1), p(x0, y0, z1)],
        [p(x1, y1, z0), p(x0, y1, z0), p(x0, y1, z1), p(x1, y1, z1)],
        [p(x0, y1, z0), p(x0, y0, z0), p(x0, y0, z1), p(x0, y1, z1)],
        [p(x1, y0, z0), p(x1, y1, z0), p(x1, y1, z1), p(x1, y0, z1)],
        [p(x0, y0, z1), p(x1, y0, z1), p(x1, y1, z1), p(x0, y1, z1)],
    ]
    long_x = x1 - x0 > z1 - z0
    long_y = y1 - y0 > max(z1 - z0, x1 - x0)
    out = []
    for i, f in enumerate(faces):
        lying = stuff == "plank" and (
            (i < 2 and long_x) or (i in (2, 3) and long_y) or (i == 4 and (x1 - x0) > (y1 - y0))
        )
        out.append(
            quad(
                f[1:] + f[:1] if lying else f,
                stuff,
                tone * (1.1 if i == 4 else 0.92 if i in (2, 3) else 1),
                shift,
            )
        )
    mesh = Mesh.joined(out)
    return mesh if matrix is None else mesh.moved(matrix)
