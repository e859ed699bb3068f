"""Facing, curvature, position and roughness of the ground."""

import numpy as np
from scipy.ndimage import gaussian_filter


def calm(heights: np.ndarray, spacing: float, support_m: float) -> np.ndarray:
    """Heights with what is shorter than the support smoothed away."""
    sigma = support_m / 2 / spacing
    return gaussian_filter(heights, sigma, mode="nearest", truncate=3.0) if sigma > 0.3 else heights


def gradients(
    heights: np.ndarray, spacing: float, support_m: float
) -> tuple[np.ndarray, np.ndarray]:
    """Rise per metre east and north, float32 (ny, nx)."""
    down, right = np.gradient(calm(heights, spacing, support_m), np.float32(spacing))
    return right.astype(np.float32), -down.astype(np.float32)


def facing(heights: np.ndarray, spacing: float, support_m: float) -> np.ndarray:
    """The bearing towards which the ground falls, degrees clockwise from north, float32 (ny,
    nx).
    """
    east, north = gradients(heights, spacing, support_m)
    return (np.degrees(np.arctan2(-east, -north)) % 360).astype(np.float32)


def curvature(
    heights: np.ndarray, spacing: float, support_m: float, way: str = "mean"
) -> np.ndarray:
    """Bend of the surface in 1/km, above 0 on crests, below 0 in hollows, float32 (ny, nx).

    "profile" down the slope, "plan" along the contour, "mean" their sum (Zevenbergen & Thorne
    1987), over the support.
    """
    h = calm(heights, spacing, support_m).astype(np.float64)
    k = max(1, min(round(support_m / 2 / spacing), min(h.shape) // 2 - 1))
    ny, nx, reach = *h.shape, k * spacing
    p = np.pad(h, k, mode="reflect", reflect_type="odd")
    at = lambda up, right: p[k - up * k : k - up * k + ny, k + right * k : k + right * k + nx]
    d = (at(0, 1) + at(0, -1) - 2 * h) / (2 * reach**2)
    f = (at(1, 0) + at(-1, 0) - 2 * h) / (2 * reach**2)
    if way == "mean":
        return (-2000 * (d + f)).astype(np.float32)
    g = (at(0, 1) - at(0, -1)) / (2 * reach)
    q = (at(1, 0) - at(-1, 0)) / (2 * reach)
    e = (at(1, 1) - at(1, -1) - at(-1, 1) + at(-1, -1)) / (4 * reach**2)
    steep = np.maximum(g * g + q * q, 1e-8)
    both = (
        d * g * g + f * q * q + e * g * q if way == "profile" else d * q * q + f * g * g - e * g * q
    )
    return (-2000 * both / steep).astype(np.float32)


def roughness(heights: np.ndarray, spacing: float, support_m: float) -> np.ndarray:
    """Spread (standard deviation, m) of heights about their mean over twice the support, float32
    (ny, nx).
    """
    off = heights - gaussian_filter(heights, support_m / spacing, mode="nearest", truncate=3.0)
    return np.sqrt(
        np.maximum(gaussian_filter(off * off, support_m / spacing, mode="nearest", truncate=3.0), 0)
    )
