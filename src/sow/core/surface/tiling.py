"""A repeating texture laid without visible repeat: the same in the core and in the shader
(web/src/view/land.ts).

The plane is cut into triangles; each corner brings the texture at a hashed offset and turn, and the
three are blended so that contrast stays (hexagonal tiling: Heitz & Neyret 2018, "High-performance
by-example noise"; Mikkelsen 2022).
"""

import cv2
import numpy as np
from numba import njit, prange

CELLS = 1.7  # corners to a repeat
# the exponent of the blend is five
SPARE = 0.1  # part of the strongest corner below which one is left out


@njit(cache=True, forceinline=True)
def _hash(i, j):
    h = np.uint32(np.uint32(i & 0xFFFFFFFF) * np.uint32(0x27D4EB2D)) ^ np.uint32(
        np.uint32(j & 0xFFFFFFFF) * np.uint32(0x165667B1)
    )
    h = np.uint32((h ^ (h >> np.uint32(15))) * np.uint32(0x85EBCA6B))
    h = np.uint32((h ^ (h >> np.uint32(13))) * np.uint32(0xC2B2AE35))
    return np.uint32(h ^ (h >> np.uint32(16)))


@njit(cache=True, forceinline=True)
def _fifth(w):
    return w * w * w * w * w


@njit(cache=True, nogil=True, parallel=True, fastmath=True)
def _lay(tex, mean, east, north, size, turn, directed, keep, spins, out):
    n, channels = tex.shape[0], tex.shape[2]
    ct, st = np.cos(turn), np.sin(turn)
    for k in prange(out.shape[0]):
        u0 = (east[k] * ct - north[k] * st) / size
        v0 = (east[k] * st + north[k] * ct) / size
        a, b = (u0 - 0.57735027 * v0) * CELLS, 1.15470054 * v0 * CELLS
        i, j = np.int64(np.floor(a)), np.int64(np.floor(b))
        fa, fb = a - i, b - j
        fc = 1 - fa - fb
        up = fc > 0
        total, square = 0.0, 0.0
        for c in range(channels):
            out[k, c] = 0
        w0, w1, w2 = (fc, fb, fa) if up else (-fc, 1 - fb, 1 - fa)
        spared = SPARE * _fifth(max(w0, w1, w2))
        for corner in range(3):
            if up:
                di, dj, w = (0, 0, fc) if corner == 0 else (0, 1, fb) if corner == 1 else (1, 0, fa)
            else:
                di, dj, w = (
                    (1, 1, -fc)
                    if corner == 0
                    else (1, 0, 1 - fb)
                    if corner == 1
                    else (0, 1, 1 - fa)
                )
            w = _fifth(w) - spared
            if w <= 0:
                continue
            h = _hash(i + di, j + dj)
            ou = np.float64(h & np.uint32(0xFFFF)) / 65536.0
            ov = np.float64(h >> np.uint32(16)) / 65536.0
            spin = (
                0.0
                if directed
                else np.float64(_hash(np.int64(h), 7) >> np.uint32(8)) / 16777216.0 * 2 * np.pi
            )
            cs, sn = np.cos(spin), np.sin(spin)
            # the corner's own place
            cu = ((i + di) + 0.5 * (j + dj)) / CELLS
            cv = (j + dj) * 0.8660254 / CELLS
            du, dv = u0 - cu, v0 - cv
            u = (cs * du - sn * dv + ou) * n
            v = (sn * du + cs * dv + ov) * n
            x, y = u - 0.5, -v - 0.5  # rows run south
            x -= np.floor(x / n) * n
            y -= np.floor(y / n) * n
            x0, y0 = min(np.int32(x), n - 1), min(np.int32(y), n - 1)
            fx, fy = x - x0, y - y0
            x1 = x0 + 1 if x0 + 1 < n else 0
            y1 = y0 + 1 if y0 + 1 < n else 0
            for c in range(channels):
                t = (tex[y0, x0, c] * (1 - fx) + tex[y0, x1, c] * fx) * (1 - fy) + (
                    tex[y1, x0, c] * (1 - fx) + tex[y1, x1, c] * fx
                ) * fy
                out[k, c] += w * (t - mean[c])
            if spins:  # the first two are a lean, which turns with the patch
                a, b = 0.0, 0.0
                for c in range(2):
                    t = (tex[y0, x0, c] * (1 - fx) + tex[y0, x1, c] * fx) * (1 - fy) + (
                        tex[y1, x0, c] * (1 - fx) + tex[y1, x1, c] * fx
                    ) * fy
                    out[k, c] -= w * (t - mean[c])
                    a, b = (t, b) if c == 0 else (a, t)
                out[k, 0] += w * (cs * a + sn * b - mean[0])
                out[k, 1] += w * (-sn * a + cs * b - mean[1])
            total += w
            square += w * w
        for c in range(channels):
            out[k, c] = mean[c] + out[k, c] / (np.sqrt(square) if keep else total)


def laid(
    texture: np.ndarray,
    east: np.ndarray,
    north: np.ndarray,
    size_m: float,
    turn: float,
    directed: bool,
    keep: bool = True,
    spins: bool = False,
) -> np.ndarray:
    """The texture at places (m), float32 (places, channels).

    `texture` float32 (n, n, channels), row 0 at the top of a repeat of `size_m` metres; `turn`
    degrees clockwise. `keep` keeps its contrast where corners meet (for colours and heights; not
    for normals). `spins` is for a lean in its first two channels, which turns with each patch.
    """
    texture = np.ascontiguousarray(texture, np.float32)
    out = np.empty((east.size, texture.shape[2]), np.float32)
    _lay(
        texture,
        texture.mean((0, 1), dtype=np.float64).astype(np.float32),
        np.ascontiguousarray(east, np.float64).ravel(),
        np.ascontiguousarray(north, np.float64).ravel(),
        float(size_m),
        float(np.deg2rad(turn)),
        bool(directed),
        bool(keep),
        bool(spins),
        out,
    )
    return out


def shrunk(texture: np.ndarray, texels: int) -> np.ndarray:
    """A tile averaged to `texels` a side (at least 1), float32."""

    t = np.asarray(texture, np.float32)
    t = t if t.ndim == 3 else t[..., None]
    return cv2.resize(t, (max(1, texels),) * 2, interpolation=cv2.INTER_AREA).reshape(
        max(1, texels), max(1, texels), t.shape[2]
    )
