"""Panorama skies from files: radiance pictures (OpenEXR, Radiance HDR) and plain ones; pictures for
cards.
"""

import io

import cv2
import numpy as np
import OpenEXR
from PIL import Image

from ..errors import SceneError
from .scratch import scratch

COLUMNS = 2048  # a kept panorama has at most so many
MOST_COLUMNS = 16384
CARD_PX = 2048  # of a card's longer side
MOST_BYTES = 200 << 20
EXR = b"\x76\x2f\x31\x01"
HDR = (b"#?RADIANCE", b"#?RGBE")
PICTURES = (b"\x89PNG", b"\xff\xd8\xff", b"RIFF", b"II*\0", b"MM\0*")
BRIGHTEST = 1e6  # what is brighter is no sky


def read_panorama(data: bytes, name: str) -> tuple[np.ndarray, list[str]]:
    """A full panorama as linear Rec.709 light, float32 (rows, 2 rows, 3) with at most COLUMNS
    columns, and what is to be told of it. Values are the file's own.

    Raises SceneError when it is no picture, not twice as wide as high, too large, or holds values
    that are no light.
    """
    if len(data) > MOST_BYTES:
        raise SceneError(
            f"“{name}” has {len(data) >> 20} MB; at most {MOST_BYTES >> 20} are read.",
            "file",
            "Save it smaller: 4096 pixels across are plenty for a sky.",
        )
    told: list[str] = []
    if data.startswith(EXR):
        light = _exr(data, name)
    elif data.startswith(HDR):
        light = _hdr(data, name)
    elif data.startswith(PICTURES):
        light = _plain(data, name)
        if name.lower().endswith((".hdr", ".exr")):
            told.append(f"“{name}” is a plain picture in spite of its name.")
        told.append("A plain picture holds no light brighter than white; give it a strength.")
    else:
        raise SceneError(
            f"“{name}” is no picture that is known here.", "file", "Give an EXR, HDR, PNG or JPEG."
        )
    _check(light, name)
    rows = min(light.shape[0], COLUMNS // 2)
    if light.shape[0] > rows:
        told.append(f"It is kept with {2 * rows} pixels across, of {light.shape[1]}.")
    size = 2 * rows, rows
    small = cv2.resize(light, size, interpolation=cv2.INTER_AREA)
    return np.ascontiguousarray(small, np.float32), told


def _check(light: np.ndarray, name: str) -> None:
    rows, columns = light.shape[:2]
    if rows < 16 or abs(columns / rows - 2) > 0.02:
        raise SceneError(
            f"“{name}” is {columns} × {rows} pixels; a full panorama is twice as wide as high.",
            "file",
            "Give one that goes all around, from the zenith to the ground below.",
        )
    if not np.isfinite(light).all():
        raise SceneError(
            f"“{name}” holds values that are no numbers.", "file", "Mend it where it was made."
        )
    if light.min() < 0:
        raise SceneError(
            f"“{name}” holds light below nought.", "file", "Clip it at nought where it was made."
        )
    if light.max() > BRIGHTEST or light.max() <= 0:
        raise SceneError(
            f"“{name}” holds no light that a sky has.",
            "file",
            "Its values should lie about 1, a sun's below a million.",
        )


def _sized(columns: int, rows: int, name: str) -> None:
    if columns > MOST_COLUMNS or rows > MOST_COLUMNS // 2:
        raise SceneError(
            f"“{name}” is {columns} × {rows} pixels; at most {MOST_COLUMNS} across are read.",
            "file",
            "Save it smaller: 4096 pixels across are plenty for a sky.",
        )


def _exr(data: bytes, name: str) -> np.ndarray:
    try:
        with scratch(data) as path:
            with OpenEXR.File(path, header_only=True) as head:
                window = head.header()["dataWindow"]
                (left, top), (right, bottom) = window
                _sized(int(right - left + 1), int(bottom - top + 1), name)
            with OpenEXR.File(path) as file:
                channels = file.channels()
                if "RGB" in channels or "RGBA" in channels:
                    pixels = channels["RGB" if "RGB" in channels else "RGBA"].pixels[..., :3]
                elif "Y" in channels:
                    pixels = np.repeat(channels["Y"].pixels[..., None], 3, -1)
                else:
                    raise SceneError(
                        f"“{name}” has no channels R, G and B.", "file", "Save it with them."
                    )
                return np.array(pixels, np.float32)
    except SceneError:
        raise
    except Exception:  # the reader's own errors have no common kind
        raise SceneError(f"“{name}” is a damaged OpenEXR file.", "file", "Save it again.") from None


def _hdr(data: bytes, name: str) -> np.ndarray:
    head = data[:4096].split(b"\n\n", 1)
    line = head[1].split(b"\n", 1)[0].split() if len(head) == 2 else []
    if len(line) == 4 and line[1].isdigit() and line[3].isdigit():
        _sized(int(line[3]), int(line[1]), name)
    with scratch(data) as path:
        light = cv2.imread(path, cv2.IMREAD_UNCHANGED)
    if light is None or light.dtype != np.float32 or light.ndim != 3:
        raise SceneError(f"“{name}” is a damaged HDR file.", "file", "Save it again.")
    return light[..., ::-1]


def _plain(data: bytes, name: str) -> np.ndarray:
    try:
        columns, rows = Image.open(io.BytesIO(data)).size
    except Exception:  # a decoder's complaint about a broken file
        raise SceneError(f"“{name}” is a damaged picture.", "file", "Save it again.") from None
    _sized(columns, rows, name)
    read = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR | cv2.IMREAD_ANYDEPTH)
    if read is None:
        raise SceneError(f"“{name}” is a damaged picture.", "file", "Save it again.")
    if read.dtype == np.float32:
        return np.ascontiguousarray(read[..., ::-1])
    white = 65535 if read.dtype == np.uint16 else 255
    shown = read[..., ::-1].astype(np.float32) / white
    return np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4)


def read_card(data: bytes, name: str) -> np.ndarray:
    """A card's picture with its transparency: sRGB bytes with cover, uint8 (rows, columns * 4), at
    most CARD_PX a side. Raises SceneError.
    """
    try:
        picture = Image.open(io.BytesIO(data))
        columns, rows = picture.size
    except Exception:  # a decoder's complaint about a broken file
        raise SceneError(
            f"“{name}” is no picture that can be read.", "file", "Give a PNG or WebP."
        ) from None
    if min(columns, rows) < 2 or max(columns, rows) > MOST_COLUMNS:
        raise SceneError(
            f"“{name}” is {columns} × {rows} pixels.", "file", f"Give 2 to {MOST_COLUMNS} a side."
        )
    try:
        whole = picture.convert("RGBA")
        whole.thumbnail((CARD_PX, CARD_PX), Image.Resampling.LANCZOS)
    except MemoryError:
        raise
    except Exception:
        raise SceneError(f"“{name}” is a damaged picture.", "file", "Save it again.") from None
    sheet = np.asarray(whole)
    if sheet[..., 3].max() == 0:
        raise SceneError(f"“{name}” is transparent all over.", "file", "Give one that shows.")
    return np.ascontiguousarray(sheet.reshape(sheet.shape[0], -1))
