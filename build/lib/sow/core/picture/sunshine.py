"""The sun's light as it reaches a land under clouds: what falls through a plane turned to it."""

from dataclasses import dataclass

import cv2
import numpy as np

from ..air import clouds as cloud
from ..air.light_of import Daylight, clouds_of

STEPS = 16  # through clouds that shade what is far off
PLANE_PX = 1536
NIGHT = -0.02  # sine of the sun's height below which none of its light arrives
BLEND = 0.15  # part of the near shade over which it passes into the far one


@dataclass(frozen=True)
class Sunshine:
    """Irradiance through a square plane `half_m` to either side of the middle, turned to the sun,
    float32 (pixels, pixels, 3), rows from its upper edge; its axes as unit vectors.
    """

    picture: np.ndarray
    half_m: float
    right: np.ndarray
    up: np.ndarray


def shaded(lit: Daylight) -> bool:
    """Whether clouds shade the land in a light."""
    return bool(lit.sun[2] > 0.02 and lit.shade.min() < 0.995)


def plane_axes(sun: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Right and up of a plane seen from the sun."""
    right = np.cross(-sun, [0, 0, 1.0])
    right /= max(float(np.linalg.norm(right)), 1e-9)
    return right, np.cross(right, -sun)


def sunshine(lit: Daylight, reach_m: float, level_m: float, plane_px: int = PLANE_PX) -> Sunshine:
    """Sunlight over land out to `reach_m` from the plot's middle, whose ground lies at about
    `level_m`; the plane's middle stands over it, and it has `plane_px` pixels a side.
    """
    right, up = plane_axes(lit.sun)
    half = 1.05 * reach_m
    light = (lit.sunlight if lit.sun[2] > NIGHT else 0 * lit.sunlight).astype(np.float32)
    if not shaded(lit):
        return Sunshine(np.broadcast_to(light, (plane_px, plane_px, 3)), half, right, up)
    step = (np.arange(plane_px) + 0.5) / plane_px * 2 - 1
    a, b = np.meshgrid(step * half, -step * half)
    # down along the sun's ray to the level of the ground
    height = b * up[2]
    along = -height / lit.sun[2]
    x = a * right[0] + b * up[0] + along * lit.sun[0]
    y = a * right[1] + b * up[1] + along * lit.sun[1]
    clouds = [c for c in clouds_of(lit.light) if c.kind != cloud.VEIL]
    far = cloud.shade(clouds, lit.sun, reach_m, plane_px // 4, STEPS)
    passes = _taken(far, x, y, reach_m)
    near = _taken(lit.shade, x, y, lit.shade_m)
    edge = np.maximum(np.abs(x), np.abs(y)) / lit.shade_m
    share = np.clip((edge - 1 + BLEND) / BLEND, 0, 1)
    passes = near * (1 - share) + passes * share
    picture = passes[..., None].astype(np.float32) * light
    return Sunshine(picture, half, right, up)


def _taken(shade: np.ndarray, x: np.ndarray, y: np.ndarray, reach_m: float) -> np.ndarray:
    side = shade.shape[0]
    column = ((x / reach_m + 1) / 2 * side - 0.5).astype(np.float32)
    row = ((1 - y / reach_m) / 2 * side - 0.5).astype(np.float32)
    return cv2.remap(shade, column, row, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
