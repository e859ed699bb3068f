"""Zone maps: a picture in which each colour is a zone of the land."""

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image
from scipy.ndimage import maximum_filter, minimum_filter
from skimage.color import rgb2lab

from ..errors import SceneError
from ..formats.raster import MOST_PIXELS, MOST_SIDE

MOST_ZONES = 32


@dataclass
class Zone:
    """One colour of a zone map: 0..255, its part of the picture, and its mask (uint8 0 or 255, ny,
    nx).
    """

    colour: tuple[int, int, int]
    share: float
    mask: np.ndarray


def zones(data: bytes, tolerance: float = 12.0, least: float = 0.0005) -> list[Zone]:
    """The colours of a picture, the commonest first, each with its mask.

    Colours nearer to one another than `tolerance` (CIE 1976 difference in L*a*b*) are one zone.
    Colours are looked for where the picture is flat, so that the mixed ones along blurred edges
    make no zones; every pixel goes to the nearest of the colours found, and colours that hold less
    than `least` of the picture make none. Raises SceneError for a file that is no colour picture or
    has more than 32 zones.
    """
    try:
        with Image.open(io.BytesIO(data)) as picture:
            if (
                max(picture.size) > MOST_SIDE
                or picture.size[0] * picture.size[1] > MOST_PIXELS // 4
            ):
                raise SceneError(
                    f"The zone map is {picture.size[0]:,} × {picture.size[1]:,} pixels; "
                    "that is more than can be read.",
                    "file",
                    "Make it smaller.",
                )
            rgb = np.asarray(picture.convert("RGB"))
    except (SceneError, MemoryError):
        raise
    except Exception as e:
        raise SceneError(
            f"The zone map can't be read as a picture ({type(e).__name__}).",
            "file",
            "Give a PNG, TIFF, JPEG or WebP.",
        ) from None
    flat = rgb.reshape(-1, 3)
    packed = flat[:, 0].astype(np.int64) << 16 | flat[:, 1].astype(np.int64) << 8 | flat[:, 2]
    values, inverse, counts = np.unique(packed, return_inverse=True, return_counts=True)
    colours = np.stack([values >> 16, values >> 8 & 255, values & 255], 1)
    lab = rgb2lab(colours[None] / 255.0)[0]
    whole = lab[inverse].reshape(rgb.shape).astype(np.float32)
    spread = np.max(
        [maximum_filter(whole[..., k], 3) - minimum_filter(whole[..., k], 3) for k in range(3)],
        axis=0,
    )
    flat_here = (spread < tolerance / 3).ravel()
    if flat_here.mean() > 0.05:
        counts = np.bincount(inverse[flat_here], minlength=len(values))
    found: list[int] = []
    for i in np.argsort(-counts, kind="stable"):
        if counts[i] < max(1, least * len(packed)) and found:
            break
        if all(np.linalg.norm(lab[i] - lab[k]) >= tolerance for k in found):
            found.append(int(i))
        if len(found) > MOST_ZONES:
            raise SceneError(
                f"More than {MOST_ZONES} colours lie apart by the tolerance of {tolerance:g}.",
                "tolerance",
                "Raise the tolerance, or give a picture with flat colours.",
            )
    nearest = np.argmin(np.linalg.norm(lab[:, None] - lab[found][None], axis=2), axis=1)
    zone = nearest[inverse].reshape(rgb.shape[:2])
    out = [
        Zone(
            (int(colours[k][0]), int(colours[k][1]), int(colours[k][2])),
            float((zone == n).mean()),
            np.where(zone == n, 255, 0).astype(np.uint8),
        )
        for n, k in enumerate(found)
    ]
    return sorted(out, key=lambda z: -z.share)
