"""Slope and normals, measured over a length in metres."""

import numpy as np
from numba import njit, prange
from scipy.ndimage import gaussian_filter


@njit(cache=True, nogil=True, forceinline=True)
def _degrees(t):
    """Arctangent of t >= 0 in degrees, within 0.001 (polynomial after Hastings, 1955)."""
    one = np.float32(1)
    big = t > one
    z = one / t if big else t
    s = z * z
    p = z * (
        np.float32(0.9998660)
        + s
        * (
            np.float32(-0.3302995)
            + s * (np.float32(0.1801410) + s * (np.float32(-0.0851330) + s * np.float32(0.0208351)))
        )
    )
    d = p * np.float32(57.29577951)
    return np.float32(90) - d if big else d


@njit(cache=True, nogil=True, parallel=True)
def _horn(h, k, reach, out):
    """Horn's weighted differences over posts k apart; out[..., :] unused. Edges are mirrored in
    value and slope.
    """
    ny, nx = h.shape
    scale = np.float32(1.0 / (8.0 * reach))
    for r in prange(ny):
        rn, rs = max(r - k, 0), min(r + k, ny - 1)
        fy = np.float32(2.0 * k / (rs - rn))
        north = h[rn]
        mid = h[r]
        south = h[rs]
        o = out[r]
        two = np.float32(2)
        m = nx - 2 * k
        if m > 0:
            nw = north[:m]
            n_ = north[k : k + m]
            ne = north[2 * k :]
            w, e = mid[:m], mid[2 * k :]
            sw = south[:m]
            s_ = south[k : k + m]
            se = south[2 * k :]
            target = o[k : k + m]
            for c in range(m):
                gx = (ne[c] - nw[c]) + two * (e[c] - w[c]) + (se[c] - sw[c])
                gy = ((nw[c] - sw[c]) + two * (n_[c] - s_[c]) + (ne[c] - se[c])) * fy
                target[c] = _degrees(np.sqrt(gx * gx + gy * gy) * scale)
        for j in range(2 * k if m > 0 else nx):
            c = j if (j < k or m <= 0) else nx - 2 * k + j
            cw, ce = max(c - k, 0), min(c + k, nx - 1)
            fx = np.float32(2.0 * k / (ce - cw))
            gx = (
                (north[ce] - north[cw]) + two * (mid[ce] - mid[cw]) + (south[ce] - south[cw])
            ) * fx
            gy = (
                (north[cw] - south[cw]) + two * (north[c] - south[c]) + (north[ce] - south[ce])
            ) * fy
            o[c] = _degrees(np.sqrt(gx * gx + gy * gy) * scale)


def slope(heights: np.ndarray, spacing: float, support_m: float = 0.0) -> np.ndarray:
    """Steepness in degrees, float32 (ny, nx), by Horn (1981), over `support_m` (at least two
    spacings).

    With a support, shapes shorter than it are smoothed away first (a Gaussian of half its length)
    and the differences span it. So the slope stays the same on finer grids: finite differences
    alone grow as a grid is refined.
    """
    k = max(1, min(round(support_m / 2 / spacing), min(heights.shape) // 2 - 1))
    if support_m > 0:
        sigma = support_m / 2 / spacing
        pad = min(int(3 * sigma) + 1, min(heights.shape) - 1)
        wide = np.pad(
            heights, pad, mode="reflect", reflect_type="odd"
        )  # a plane stays a plane at its edges
        heights = gaussian_filter(wide, sigma, truncate=3.0)[pad:-pad, pad:-pad]
    out = np.empty(heights.shape, np.float32)
    _horn(np.ascontiguousarray(heights, np.float32), k, k * spacing, out)
    return out


@njit(cache=True, nogil=True, parallel=True)
def _normals(h, spacing, out):
    ny, nx = h.shape
    for r in prange(ny):
        rn, rs = max(r - 1, 0), min(r + 1, ny - 1)
        for c in range(nx):
            cw, ce = max(c - 1, 0), min(c + 1, nx - 1)
            gx = (h[r, ce] - h[r, cw]) / ((ce - cw) * spacing)
            gy = (h[rn, c] - h[rs, c]) / ((rs - rn) * spacing)
            s = 1.0 / np.sqrt(1 + gx * gx + gy * gy)
            out[r, c, 0], out[r, c, 1], out[r, c, 2] = -gx * s, -gy * s, s


def normals(heights: np.ndarray, spacing: float) -> np.ndarray:
    """Unit normals (east, north, up), float32 (ny, nx, 3), by central differences."""
    out = np.empty(heights.shape + (3,), np.float32)
    _normals(np.ascontiguousarray(heights, np.float32), spacing, out)
    return out
