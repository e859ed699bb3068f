"""Reading heightmaps and masks, and writing grids, as PNG and TIFF."""

import io
import re
import warnings
from pathlib import Path

import cv2
import numpy as np
import tifffile
from PIL import Image, UnidentifiedImageError

from ..errors import SceneError

MOST_PIXELS = 100_000_000
MOST_SIDE = 20_000
LEAST_SIDE = 2
LIST_COLUMNS = 5  # of a list of places: name, east, north, turn, size
MOST_ROWS = 2_000_000


def check_size(width: int, height: int, name: str) -> None:
    """Raises SceneError when a picture of these sides is too large or too small to read."""
    most = MOST_ROWS if width == LIST_COLUMNS else MOST_SIDE  # places are kept as rows of a raster
    if max(width, height) > most or width * height > MOST_PIXELS:
        raise SceneError(
            f"“{name}” is {width:,} × {height:,} pixels; at most {MOST_SIDE:,} a side and "
            f"{MOST_PIXELS // 10**6} "
            "million in all can be read.",
            "file",
            "Make it smaller, or cut it into parts.",
        )
    if min(width, height) < LEAST_SIDE:
        raise SceneError(
            f"“{name}” is {width} × {height} pixels; a heightmap needs at least "
            f"{LEAST_SIDE} rows and columns.",
            "file",
            "Give a picture with an area.",
        )


def is_tiff(data: bytes) -> bool:
    """Whether bytes begin as a TIFF does."""
    return data[:4] in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")


def read_raster(data: bytes, name: str = "the file", gaps: bool = False):
    """One-channel raster from a PNG of 8 or 16 bits, a TIFF of 8 or 16 bits or floats, a JPEG or a
    WebP.

    Gives uint8, uint16 or float32 (ny, nx), row 0 at the top. A colour picture is read as its
    luminance (Rec. 709). Sizes are checked before anything is decoded. Posts without data are
    refused, or with `gaps` told as a second array. Raises SceneError with what is wrong.
    """
    gap = None
    try:
        if is_tiff(data):
            values, gap = _read_tiff(data, name)
        elif (
            data[:8] == b"\x89PNG\r\n\x1a\n"
            or data[:3] == b"\xff\xd8\xff"
            or (data[:4] == b"RIFF" and data[8:12] == b"WEBP")
        ):
            values = _read_picture(data, name)
        else:
            raise SceneError(
                f"“{name}” is no picture or elevation file that can be read, whatever its "
                "name says.",
                "file",
                "Give a PNG, TIFF, JPEG or WebP, an ESRI ASCII grid, or raw posts named .raw.",
            )
    except (SceneError, MemoryError):
        raise
    except IndexError:
        raise SceneError(
            f"“{name}” is damaged and can't be read: its parts are not where it says.",
            "file",
            "Save it again as PNG or TIFF.",
        ) from None
    except Exception as e:  # a decoder's complaint about a broken file
        raise SceneError(
            f"“{name}” is damaged or of a kind that can't be read ({type(e).__name__}: "
            f"{str(e)[:120]}).",
            "file",
            "Save it again as PNG or TIFF.",
        ) from None
    if values.ndim == 3:
        rgb = values[..., :3].astype(np.float32)
        grey = (
            rgb[..., 0]
            if values.shape[2] < 3
            else rgb @ np.array([0.2126, 0.7152, 0.0722], np.float32)
        )
        values = grey if values.dtype.kind == "f" else np.rint(grey).astype(values.dtype)
    bad = ~np.isfinite(values) if values.dtype.kind == "f" else np.zeros(values.shape, bool)
    if gap is not None and np.isfinite(gap):
        bad |= values == gap
    if gaps:
        return np.ascontiguousarray(values), bad
    count = int(bad.sum())
    if count:
        raise SceneError(
            f"“{name}” has {count:,} posts without data.",
            "file",
            "Fill its gaps before bringing it in.",
        )
    return np.ascontiguousarray(values)


def _read_picture(data: bytes, name: str) -> np.ndarray:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        Image.MAX_IMAGE_PIXELS = None
        try:
            with Image.open(io.BytesIO(data)) as picture:
                check_size(*picture.size, name)
        except UnidentifiedImageError:
            raise SceneError(
                f"“{name}” is damaged: its picture can't be read.", "file", "Save it again."
            ) from None
    values = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if values is None:
        raise SceneError(
            f"“{name}” is damaged: its picture ends too soon or its sums are wrong.",
            "file",
            "Save it again.",
        )
    return values[..., 2::-1] if values.ndim == 3 and values.shape[2] >= 3 else values


def _read_tiff(data: bytes, name: str) -> tuple[np.ndarray, float | None]:
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages.first
        check_size(page.imagewidth, page.imagelength, name)
        nodata = page.tags.get(42113)
        values = page.asarray()
    if values.dtype.kind == "f":
        values = values.astype(np.float32)
    elif values.dtype not in (np.uint8, np.uint16):
        if values.dtype.kind not in "iu" or values.dtype.itemsize > 4:
            raise SceneError(
                f"“{name}” holds {values.dtype} values.",
                "file",
                "Save it with 8 or 16 bits, or floats.",
            )
        values = values.astype(np.float32)
    try:
        gap = None if nodata is None else float(str(nodata.value).strip("\0 "))
    except ValueError:
        gap = None
    return values, gap


def png_bytes(picture: np.ndarray) -> bytes:
    """uint8 or uint16 grey (ny, nx), RGB or RGBA to PNG."""
    if picture.ndim == 3:
        order = [2, 1, 0] + ([3] if picture.shape[2] == 4 else [])
        picture = picture[..., order]
    ok, data = cv2.imencode(".png", np.ascontiguousarray(picture))
    assert ok
    return data.tobytes()


def height_png(heights: np.ndarray) -> tuple[bytes, float, float]:
    """16 bit grey PNG with the lowest and highest height (m) at 0 and 65535."""
    low, high = float(heights.min()), float(heights.max())
    scale = 65535 / (high - low) if high > low else 0.0
    return (
        png_bytes(np.rint((heights.astype(np.float64) - low) * scale).astype(np.uint16)),
        low,
        high,
    )


def write_tiff(path: Path, heights: np.ndarray, spacing: float) -> None:
    """float32 metres, deflate, with the spacing told in the GeoTIFF pixel scale (posts are
    points).
    """
    top = (heights.shape[0] - 1) * spacing
    tifffile.imwrite(
        path,
        heights.astype(np.float32),
        compression="zlib",
        predictor=3,
        metadata=None,
        software="Sow",
        extratags=[
            (33550, "d", 3, (spacing, spacing, 0.0), False),
            (33922, "d", 6, (0, 0, 0, 0.0, top, 0.0), False),
            (34735, "H", 8, (1, 1, 0, 1, 1025, 0, 1, 2), False),
        ],
    )


def file_name(name: str, taken: set[str]) -> str:
    """A plain, distinct file name for an entry."""
    plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "material"
    other, n = plain, 2
    while other in taken:
        other, n = f"{plain}-{n}", n + 1
    taken.add(other)
    return other
