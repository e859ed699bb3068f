"""The sky behind a picture: marched once, and again where one march left it grainy."""

import cv2
import numpy as np

from ..air.clouds import Heard, unheard
from ..air.light_of import Daylight, sky_along
from .order import Quality

MOST_PX = 2_500_000  # directions that clouds are marched through for one picture
AGAIN = {"look": 3, "good": 7, "fine": 11}  # marches more of what is uneven, by quality
UNEVEN = 0.03  # as a part of what lies about it
SHIFT = (0.7548776662, 0.5698402910)  # spread over a pixel: Roberts 2018
BRIGHT = np.array((0.2126, 0.7152, 0.0722), np.float32)
ONCE_SHARE = 0.5  # of the time, where much is uneven
WIDE = 512  # directions in a row of those marched again


def sky_behind(
    lit: Daylight, rays: np.ndarray, quality: Quality, tell: Heard = unheard
) -> np.ndarray:
    """The sky along the rays of a picture, float32 of their shape; of very large pictures as fine
    as MOST_PX allows. `tell` hears how much of the clouds is done, 0..1.
    """
    rows, columns = rays.shape[:2]
    k = min(1.0, float(np.sqrt(MOST_PX / (rows * columns))))
    if k == 1.0:
        return _smooth(lit, rays, AGAIN[quality], tell)
    size = max(1, round(columns * k)), max(1, round(rows * k))
    few = cv2.resize(rays, size, interpolation=cv2.INTER_AREA)
    few = few / np.linalg.norm(few, axis=-1, keepdims=True)
    sky = _smooth(lit, few, AGAIN[quality], tell)
    return cv2.resize(sky, (columns, rows), interpolation=cv2.INTER_CUBIC)


def _smooth(lit: Daylight, rays: np.ndarray, again: int, tell: Heard) -> np.ndarray:
    """The sky along rays. One march through a cloud meets its rim or misses it by chance; all
    passes share it, so that cleaning would take its grain for true.
    """
    sky = sky_along(lit, rays, tell=lambda share: tell(ONCE_SHARE * share))
    where = np.nonzero(_uneven(sky))
    count = len(where[0])
    if lit.behind is None or min(rays.shape[:2]) < 3 or not count:
        tell(1.0)
        return sky
    down, across = (step[where] for step in np.gradient(rays, axis=(0, 1)))
    middle = rays[where]
    total = sky[where].astype(np.float64)
    for n in range(again):
        u, v = ((n + 1) * shift % 1 - 0.5 for shift in SHIFT)
        own = _rows(middle + u * across + v * down)
        # each march starts elsewhere along the ray: by where it lies in what is asked
        own = np.roll(own, 1 + 97 * n, axis=1)
        found = np.roll(sky_along(lit, own), -1 - 97 * n, axis=1)
        total += found.reshape(-1, 3)[:count]
        tell(ONCE_SHARE + (1 - ONCE_SHARE) * (n + 1) / again)
    sky[where] = total / (again + 1)
    return sky


def _rows(rays: np.ndarray) -> np.ndarray:
    """Rays (n, 3) as unit directions in rows of WIDE; the last row is filled up."""
    unit = rays / np.linalg.norm(rays, axis=-1, keepdims=True)
    return np.resize(unit, (-(-len(unit) // WIDE), WIDE, 3)).astype(rays.dtype)


def _uneven(sky: np.ndarray) -> np.ndarray:
    """Where a pixel or one beside it differs from the mean about it, bool (rows, columns)."""
    bright = sky @ BRIGHT
    mean = cv2.blur(bright, (3, 3))
    off = np.abs(bright - mean) > UNEVEN * np.maximum(mean, 1e-6)
    return cv2.dilate(off.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
