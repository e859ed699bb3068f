"""Texture sets brought in: pictures of colour, height, normal and roughness, or packed, to the two
pictures that a ground has.
"""

import io
import re

import cv2
import numpy as np
from PIL import Image
from scipy.ndimage import gaussian_filter

from ..errors import SceneError

Image.MAX_IMAGE_PIXELS = None  # sizes are checked here, before anything is decoded
SIDE = 512
MOST_PX = 8192
ROLES = {
    "normal": r"normal|nrm|nor(?![a-z])",
    "roughness": r"rough",
    "packed": r"(?<![a-z])(orm|arm)(?![a-z])|packed",
    "height": r"height|disp|bump|depth",
    "colour": r"colou?r|albedo|diff|base",
}


def role_of(name: str) -> str:
    """What a file holds, by the words that texture sets use in their names; colour when none is
    found.
    """
    plain = name.lower()
    return next((role for role, words in ROLES.items() if re.search(words, plain)), "colour")


def _opened(data: bytes, role: str) -> np.ndarray:
    """A square float32 picture (SIDE, SIDE, 3) 0..1, whatever its mode was."""
    try:
        picture = Image.open(io.BytesIO(data))
        width, height = picture.size
    except Exception:
        raise SceneError(
            f"The {role} picture cannot be read.", role, "Give a PNG, JPEG, WebP or TIFF."
        ) from None
    if min(width, height) < 16:
        raise SceneError(
            f"The {role} picture is {width} x {height} px: too small for a texture.",
            role,
            "Give at least 16 px a side; 512 and more serve best.",
        )
    if max(width, height) > MOST_PX:
        raise SceneError(
            f"The {role} picture is {width} x {height} px: too large.",
            role,
            f"Give at most {MOST_PX} px a side.",
        )
    try:
        if picture.mode.startswith("I") or picture.mode == "F":
            values = np.asarray(picture, np.float64)
            values = (
                values / (65535 if values.max() > 255 else 255)
                if picture.mode != "F" or values.max() > 1
                else values
            )
            return np.repeat(_middle(values)[..., None], 3, 2)
        rgb = np.asarray(picture.convert("RGB"))
        return np.dstack([_middle(rgb[..., k].astype(np.float64) / 255) for k in range(3)])
    except MemoryError:
        raise
    except Exception:
        raise SceneError(
            f"The {role} picture is damaged.", role, "Save it again, or give another."
        ) from None


def _middle(values: np.ndarray) -> np.ndarray:
    """The middle square of one channel (rows, columns) at the size of a texture, float32 0..1."""
    side = min(values.shape)
    r, c = (values.shape[0] - side) // 2, (values.shape[1] - side) // 2
    square = np.ascontiguousarray(values[r : r + side, c : c + side], np.float32)
    how = cv2.INTER_AREA if side >= SIDE else cv2.INTER_CUBIC
    return cv2.resize(square, (SIDE, SIDE), interpolation=how).clip(0, 1)


def read_picture(data: bytes, relief: bytes | None = None) -> np.ndarray:
    """A picture of a whole ground for the store: uint8 (rows, columns * 4), sRGB and the relief 0
    to 255 (0 where none is given). At most 2 MOST_PX a side; larger than 4096 is shrunk. The relief
    is brought to the size of the colour.
    """

    def opened(what, part, mode):
        try:
            picture = Image.open(io.BytesIO(what))
            width, height = picture.size
            if min(width, height) >= 2 and max(width, height) <= 2 * MOST_PX:
                if mode == "L" and (picture.mode.startswith("I") or picture.mode == "F"):
                    values = np.asarray(picture, np.float64)
                    picture = Image.fromarray(
                        np.uint8(255 * (values - values.min()) / max(float(np.ptp(values)), 1e-9))
                    )
                if picture.mode not in ("L", "RGB", "RGBA"):
                    picture = picture.convert(mode)
                picture.thumbnail((4096, 4096), Image.Resampling.LANCZOS)
                picture = picture.convert(mode)
        except MemoryError:
            raise
        except Exception:
            raise SceneError(
                f"The {part} cannot be read.", "picture", "Give a PNG, JPEG, WebP or TIFF."
            ) from None
        if min(width, height) < 2 or max(width, height) > 2 * MOST_PX:
            raise SceneError(
                f"A {part} of {width} x {height} px cannot be laid.",
                "picture",
                f"Give 2 to {2 * MOST_PX} px a side.",
            )
        return picture

    picture = opened(data, "picture", "RGB")
    high = (
        np.zeros(picture.size[::-1], np.uint8)
        if relief is None
        else np.asarray(
            opened(relief, "relief", "L").resize(picture.size, Image.Resampling.BILINEAR)
        )
    )
    return np.ascontiguousarray(
        np.dstack([np.asarray(picture, np.uint8), high]).reshape(picture.size[1], -1)
    )


def seam(picture: np.ndarray) -> float:
    """How much stronger the step over the edges is than within (1 where a repeat cannot be told;
    above about 1.6 it shows).
    """
    p = picture if picture.ndim == 3 else picture[..., None]
    over = np.abs(p[:, 0] - p[:, -1]).mean() + np.abs(p[0] - p[-1]).mean()
    within = np.abs(np.diff(p, axis=1)).mean() + np.abs(np.diff(p, axis=0)).mean()
    return float(over / max(within, 1e-4))


def mended(picture: np.ndarray) -> np.ndarray:
    """Edges made to meet: near them the picture gives way to itself moved by half, with its
    contrast kept in the blend.
    """
    n = picture.shape[0]
    t = np.abs(np.arange(n) - (n - 1) / 2) / (n / 2)
    ramp = np.clip((t - 0.62) / 0.3, 0, 1)
    ramp = ramp * ramp * (3 - 2 * ramp)
    w = 1 - (1 - ramp)[:, None] * (1 - ramp)[None, :]
    w = w.reshape(n, n, *([1] * (picture.ndim - 2)))
    moved = np.roll(picture, (n // 2, n // 2), (0, 1))
    # the moved picture has the old edges as a cross in its middle, where w is 0 except along the
    # rim's own middles: fade there to a quarter move
    quarter = np.roll(picture, (n // 4, n // 4), (0, 1))
    cross = np.maximum(
        np.clip(1 - np.abs(np.arange(n) - n / 2) / (n * 0.08), 0, 1)[:, None],
        np.clip(1 - np.abs(np.arange(n) - n / 2) / (n * 0.08), 0, 1)[None, :],
    )
    cross = cross.reshape(w.shape)
    moved = moved * (1 - cross) + quarter * cross
    mean = picture.mean((0, 1))
    return np.clip(
        mean + ((picture - mean) * (1 - w) + (moved - mean) * w) / np.sqrt((1 - w) ** 2 + w**2),
        0,
        1,
    ).astype(np.float32)


def read_texture(
    files: dict[str, bytes], mend: bool = False
) -> tuple[np.ndarray, list[str], float]:
    """A texture set from pictures by role ("colour" is needed; "height", "normal", "roughness",
    "packed" with occlusion, roughness and metal in red, green and blue, as glTF has it): the sheet
    uint8 (512, 4096) that the store keeps, what was made up or cut, and the seam.

    Raises SceneError for a picture that is missing, unreadable, too small or too large.
    """
    if "colour" not in files:
        raise SceneError(
            "A texture set needs a picture of its colour.",
            "colour",
            "Give one whose name says colour, or no role at all.",
        )
    told = []
    got = {role: _opened(data, role) for role, data in files.items()}
    for role, data in files.items():
        w, h = Image.open(io.BytesIO(data)).size
        if w != h:
            told.append(f"the {role} picture is {w} x {h} px: its middle square was taken")
        elif min(w, h) < SIDE:
            told.append(f"the {role} picture has {w} px: it will look soft near by")
    shown = seam(got["colour"])
    if mend and shown > 1.6:
        got = {role: mended(picture) for role, picture in got.items()}
        told.append("its edges were made to meet")
    colour = got["colour"]
    grey = colour @ np.array((0.2126, 0.7152, 0.0722), np.float32)
    if "height" in got:
        height = got["height"].mean(-1)
    else:
        height = 0.5 + (grey - gaussian_filter(grey, 24, mode="wrap")) * 1.5
        told.append("its height was taken from its colour")
    height = (height - height.min()) / max(float(np.ptp(height)), 1e-6)
    smooth = gaussian_filter(height, 0.8, mode="wrap")
    if "normal" in got:
        nx = got["normal"][..., 0] * 2 - 1
        ny = got["normal"][..., 1] * 2 - 1
    else:
        gx = (np.roll(smooth, -1, 1) - np.roll(smooth, 1, 1)) * SIDE / 2 * 0.04
        gy = (np.roll(smooth, 1, 0) - np.roll(smooth, -1, 0)) * SIDE / 2 * 0.04
        length = np.sqrt(1 + gx * gx + gy * gy)
        nx, ny = -gx / length, -gy / length
    hollow = np.clip(0.5 + (height - gaussian_filter(height, 7, mode="wrap")) * 2.4, 0, 1)
    shade = (
        got["packed"][..., 0] if "packed" in got else 1 - 0.8 * (1 - np.clip(hollow * 1.6, 0, 1))
    )
    rough = (
        got["packed"][..., 1]
        if "packed" in got
        else got["roughness"].mean(-1)
        if "roughness" in got
        else np.full_like(grey, 0.85)
    )
    byte = lambda v: np.uint8(np.clip(v, 0, 1) * 255 + 0.5)
    sheet = np.dstack(
        [
            byte(colour),
            byte(height),
            byte(0.5 + 0.5 * nx),
            byte(0.5 + 0.5 * ny),
            byte(rough),
            byte(shade),
        ]
    )
    return np.ascontiguousarray(sheet.reshape(SIDE, SIDE * 8)), told, shown
