"""Heightmaps in the forms in which they come: pictures, GeoTIFF, ESRI ASCII grids, raw posts. Gaps
are filled.
"""

import io
from dataclasses import dataclass

import cv2
import numpy as np
import tifffile
from scipy.ndimage import gaussian_filter

from ..errors import SceneError
from .raster import LEAST_SIDE, check_size, is_tiff, read_raster

PIXEL_SCALE = 33550  # the TIFF tag ModelPixelScale
LEAST_APART_M = 0.01  # less, where no projection is named, is taken for degrees
RAW = {"uint16": np.uint16, "float32": np.float32}


@dataclass
class Elevation:
    """uint8, uint16 or float32 posts, row 0 north; `spacing_m` where the file tells it; `filled`
    posts had no data.
    """

    values: np.ndarray
    spacing_m: float | None = None
    filled: int = 0


def fill_gaps(values: np.ndarray, bad: np.ndarray) -> np.ndarray:
    """Values carried smoothly over the posts that are `bad`, from coarse to fine (push-pull,
    Gortler and others 1996).
    """
    have = (~bad).astype(np.float32)
    levels: list[tuple[np.ndarray, np.ndarray]] = [
        (np.where(bad, 0, values).astype(np.float32), have)
    ]
    while min(levels[-1][0].shape) > 1:
        v, w = levels[-1]
        size = ((v.shape[1] + 1) // 2, (v.shape[0] + 1) // 2)
        small = cv2.resize(v * w, size, interpolation=cv2.INTER_AREA).reshape(size[::-1])
        weight = cv2.resize(w, size, interpolation=cv2.INTER_AREA).reshape(size[::-1])
        levels.append((small / np.maximum(weight, 1e-6), np.minimum(weight * 4, 1)))
    whole = levels[-1][0]
    for v, w in reversed(levels[:-1]):
        wide = cv2.resize(whole, v.shape[::-1], interpolation=cv2.INTER_LINEAR).reshape(v.shape)
        whole = v * w + wide * (1 - w)
    smooth = gaussian_filter(whole, 1.2)
    return np.where(bad, smooth, values).astype(np.float32)


def destep(values: np.ndarray) -> np.ndarray:
    """The smoothest surface (float32) that would be rounded to these whole numbers: steps of 8 bits
    become slopes.

    Alternating projections: smoothed, then held within half a step of what is given, from wide to
    narrow.
    """
    given = values.astype(np.float32)
    field = given.copy()
    for sigma in (24, 12, 6, 6, 3, 3, 3, 1.5, 1.5, 1.5, 1.0, 1.0):
        if sigma < min(given.shape) / 4:
            field = np.clip(
                gaussian_filter(field, sigma, mode="nearest", truncate=2.5),
                given - np.float32(0.5),
                given + np.float32(0.5),
            )
    return field


def _finish(values: np.ndarray, bad: np.ndarray, name: str, spacing: float | None) -> Elevation:
    count = int(bad.sum())
    if count == bad.size:
        raise SceneError(
            f"“{name}” holds no heights at all: every post is without data.",
            "file",
            "Give a file with data.",
        )
    return Elevation(
        fill_gaps(values.astype(np.float32), bad) if count else np.ascontiguousarray(values),
        spacing,
        count,
    )


def read_ascii_grid(data: bytes, name: str) -> Elevation:
    """An ESRI ASCII grid."""
    lines = data.decode("ascii", "replace").split("\n")
    head = {}
    at = 0
    for at, line in enumerate(lines):  # noqa: B007  (where the head ends is asked below)
        parts = line.split()
        if len(parts) != 2 or not parts[0][:1].isalpha():
            break
        try:
            head[parts[0].lower()] = float(parts[1])
            if not np.isfinite(head[parts[0].lower()]):
                raise ValueError(parts[1])
        except ValueError:
            raise SceneError(
                f"“{name}”: the header's {parts[0]} is not a number.", "file", "Mend the header."
            ) from None
    for wanted in ("ncols", "nrows", "cellsize"):
        if wanted not in head:
            raise SceneError(
                f"“{name}” is an ASCII grid without {wanted}.",
                "file",
                "Its header needs ncols, nrows and cellsize.",
            )
    columns, rows = int(head["ncols"]), int(head["nrows"])
    check_size(columns, rows, name)
    try:
        values = np.array(" ".join(lines[at:]).split(), np.float64)
    except ValueError as e:
        raise SceneError(
            f"“{name}” holds something that is not a number ({e}).", "file", "Mend the file."
        ) from None
    if values.size != rows * columns:
        raise SceneError(
            f"“{name}” says {columns} × {rows}, which is {rows * columns:,} values, but "
            f"holds {values.size:,}.",
            "file",
            "The file is cut short or its header is wrong.",
        )
    values = values.reshape(rows, columns)
    bad = ~np.isfinite(values) | (values == head.get("nodata_value", -9999.0))
    return _finish(
        values.astype(np.float32), bad, name, head["cellsize"] if head["cellsize"] > 0 else None
    )


def guess_raw(data: bytes) -> dict:
    """A likely layout of raw posts: {columns, rows, type, order}; columns and rows are 0 when the
    size fits no square.

    The byte order is the one in which neighbours differ least.
    """
    for kind in ("uint16", "float32"):
        count = len(data) / np.dtype(kind).itemsize
        side = round(count**0.5)
        if side >= LEAST_SIDE and side * side == count:
            break
    else:
        return {"columns": 0, "rows": 0, "type": "uint16", "order": "little"}

    def restless(kind, order):
        dtype = np.dtype(kind).newbyteorder("<" if order == "little" else ">")
        v = np.frombuffer(data[: side * dtype.itemsize * min(side, 256)], dtype).astype(np.float64)
        with np.errstate(all="ignore"):
            spread = np.abs(np.diff(v)).mean() / (v.std() + 1e-9)
        plain = np.isfinite(v).all() and np.abs(v).max() < 1e7
        return spread if plain and np.isfinite(spread) else 1e9

    kinds = [k for k in RAW if side * side * np.dtype(k).itemsize == len(data)]
    kind, order = min(
        ((k, o) for k in kinds for o in ("little", "big")), key=lambda ko: restless(*ko)
    )
    return {"columns": side, "rows": side, "type": kind, "order": order}


def read_raw(data: bytes, name: str, columns: int, rows: int, kind: str, order: str) -> Elevation:
    """Raw posts of 16 bits or 32 bit floats, row 0 north."""
    if kind not in RAW or order not in ("little", "big"):
        raise SceneError(
            f"Raw posts are uint16 or float32, little or big; not {kind} {order}.",
            "file",
            "Choose one of these.",
        )
    dtype = np.dtype(kind).newbyteorder("<" if order == "little" else ">")
    if columns * rows * dtype.itemsize != len(data):
        raise SceneError(
            f"“{name}” has {len(data):,} bytes; {columns} × {rows} posts of "
            f"{dtype.itemsize} bytes are {columns * rows * dtype.itemsize:,}.",
            "file",
            "Give the columns and rows that it was written with.",
        )
    check_size(columns, rows, name)
    values = np.frombuffer(data, dtype).reshape(rows, columns).astype(kind)
    return _finish(values, ~np.isfinite(values), name, None)


def _geo_spacing(data: bytes, name: str) -> float | None:
    """Metres between posts as a GeoTIFF tells it, or None.

    Raises SceneError when they are degrees.
    """
    with tifffile.TiffFile(io.BytesIO(data) if isinstance(data, bytes) else data) as file:
        page = file.pages.first
        tags = page.geotiff_tags if page.is_geotiff else None
        bare = page.tags.get(PIXEL_SCALE)
    if not tags:  # no projection is named, yet the posts may have their distance
        apart = float(bare.value[0]) if bare is not None and len(bare.value) else 0.0
        return apart if apart >= LEAST_APART_M else None
    if int(tags.get("GTModelTypeGeoKey", 0)) == 2:
        raise SceneError(
            f"“{name}” is laid out in degrees of longitude and latitude, so it has no one "
            "spacing in metres.",
            "file",
            "Save it in a projection in metres (a UTM zone, say) and bring that in.",
        )
    scale = tags.get("ModelPixelScale")
    return float(scale[0]) if scale and scale[0] > 0 else None


def read_elevation(data: bytes, name: str = "the file", raw: dict | None = None) -> Elevation:
    """A heightmap in any form that is known by its content; raw posts need `raw` (columns, rows,
    type, order).
    """
    if raw:
        return read_raw(
            data,
            name,
            **{
                "columns": int(raw["columns"]),
                "rows": int(raw["rows"]),
                "kind": raw["type"],
                "order": raw["order"],
            },
        )
    if data[:5].lower() in (b"ncols", b"nrows") or data[:9].lower().startswith(b"xllcorner"):
        return read_ascii_grid(data, name)
    values, bad = read_raster(data, name, gaps=True)
    return _finish(values, bad, name, _geo_spacing(data, name) if is_tiff(data) else None)
