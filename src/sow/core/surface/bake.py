"""A colour and a normal picture of the whole ground, baked from the materials."""
import cv2
import numpy as np

from ..build import Build
from ..cabinet import grounds
from ..cabinet.kind import linear, srgb_bytes
from ..sample import bicubic
from ..survey.slope import normals
from .material import tint_of


def ground_picture(build: Build, px: int) -> np.ndarray:
    """Linear colour of the ground, float32 (py, px, 3), row 0 north, `px` along the longer side.

    Each texture repeats at its size in metres and is shrunk to the picture's own scale first.
    """
    grid, plot = build.grid, build.scene.plot
    w, h = (max(2, round(px * s / plot.longer_m)) for s in (plot.width_m, plot.depth_m))
    east = (np.arange(w) + 0.5) * plot.width_m / w
    north = plot.depth_m - (np.arange(h) + 0.5) * plot.depth_m / h
    shares = build.ground()
    out = np.zeros((h, w, 3), np.float32)
    if not len(shares):
        out[:] = 0.25
    for m, share in zip(build.scene.ground, shares):
        if not m.on or not share.any():
            continue
        texture = linear(grounds[m.ground].maps()[0][..., :3]) * tint_of(m)
        repeat = max(1, min(512, round(m.size_m / (plot.width_m / w))))
        texture = cv2.resize(texture, (repeat, repeat), interpolation=cv2.INTER_AREA).reshape(repeat, repeat, 3)
        u = (east / m.size_m * repeat).astype(np.int64) % repeat
        v = (-north / m.size_m * repeat).astype(np.int64) % repeat
        part = np.clip(bicubic(share, grid.rows_of(north), grid.cols_of(east)), 0, 1)
        out += texture[v[:, None], u[None, :]] * part[..., None]
    return out


def baked(build: Build, px: int, mesh_heights: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """sRGB colour and tangent-space normals (x east, y north along the coarse mesh), both uint8 (py, px, 3)."""
    colour = ground_picture(build, px)
    size = colour.shape[:2]
    spread = lambda field: np.dstack([cv2.resize(np.ascontiguousarray(field[..., k]), size[::-1], interpolation=cv2.INTER_LINEAR)
                                      for k in range(3)])
    fine = spread(normals(build.heights, build.grid.spacing))
    coarse = spread(normals(mesh_heights, build.grid.width_m / (mesh_heights.shape[1] - 1)))
    unit = lambda v: v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-9)
    n = unit(coarse)
    t = unit(np.array([1.0, 0, 0]) - n * n[..., :1])
    b = np.cross(n, t)
    local = unit(np.stack([(fine * t).sum(-1), (fine * b).sum(-1), (fine * n).sum(-1)], -1))
    return srgb_bytes(colour), np.uint8(np.clip(local * 0.5 + 0.5, 0, 1) * 255 + 0.5)
