"""Reading a grid between its posts, and carrying it to another grid."""

import cv2
import numpy as np
from numba import njit, prange


@njit(cache=True, nogil=True, forceinline=True)
def _cubic(p0, p1, p2, p3, t):
    return p1 + 0.5 * t * (
        p2 - p0 + t * (2 * p0 - 5 * p1 + 4 * p2 - p3 + t * (3 * (p1 - p2) + p3 - p0))
    )


BLOCK = 32  # rows of an answer that one thread makes together


@njit(cache=True, nogil=True)
def _across(src, row, cols, out):
    """One row of posts, read at every column."""
    last = src.shape[1] - 1
    for c in range(len(cols)):
        x = min(max(cols[c], 0.0), float(last))
        ix = min(int(x), last - 1) if last > 0 else 0
        out[c] = _cubic(
            src[row, max(ix - 1, 0)],
            src[row, ix],
            src[row, min(ix + 1, last)],
            src[row, min(ix + 2, last)],
            x - ix,
        )


@njit(cache=True, nogil=True, parallel=True)
def _bicubic(src, rows, cols, out):
    """First along the rows of posts, of which the last four are kept, then down between them."""
    last = src.shape[0] - 1
    for block in prange((len(rows) + BLOCK - 1) // BLOCK):
        lines = np.empty((4, len(cols)), np.float64)
        held = np.full(4, -1, np.int64)
        for r in range(block * BLOCK, min((block + 1) * BLOCK, len(rows))):
            y = min(max(rows[r], 0.0), float(last))
            iy = min(int(y), last - 1) if last > 0 else 0
            for k in range(iy - 1, iy + 3):
                row = min(max(k, 0), last)
                if held[row & 3] != row:
                    _across(src, row, cols, lines[row & 3])
                    held[row & 3] = row
            v0 = lines[max(iy - 1, 0) & 3]
            v1 = lines[iy & 3]
            v2 = lines[min(iy + 1, last) & 3]
            v3 = lines[min(iy + 2, last) & 3]
            t = y - iy
            for c in range(len(cols)):
                out[r, c] = _cubic(v0[c], v1[c], v2[c], v3[c], t)


def bicubic(src: np.ndarray, rows: np.ndarray, cols: np.ndarray) -> np.ndarray:
    """Catmull-Rom (1974) interpolation at the crossings of fractional `rows` and `cols`; edges are
    held.
    """
    out = np.empty((len(rows), len(cols)), np.float32)
    _bicubic(
        np.ascontiguousarray(src, np.float32),
        np.asarray(rows, np.float64),
        np.asarray(cols, np.float64),
        out,
    )
    return out


def resample(src: np.ndarray, shape: tuple[int, int]) -> np.ndarray:
    """A grid of posts carried edge to edge to another count of posts."""
    if src.shape == tuple(shape):
        return src.astype(np.float32, copy=True)
    return bicubic(
        src, np.linspace(0, src.shape[0] - 1, shape[0]), np.linspace(0, src.shape[1] - 1, shape[1])
    )


@njit(cache=True, nogil=True, forceinline=True)
def _corner(rows, cols, ny, nx):
    r = min(max(rows, 0.0), ny - 1.0)
    c = min(max(cols, 0.0), nx - 1.0)
    iy, ix = min(int(r), ny - 2), min(int(c), nx - 2)
    return iy, ix, r - iy, c - ix


@njit(cache=True, nogil=True)
def bilinear_at(src, row, col):
    """One value between four posts; edges are held."""
    iy, ix, fy, fx = _corner(row, col, src.shape[0], src.shape[1])
    top = src[iy, ix] + fx * (src[iy, ix + 1] - src[iy, ix])
    low = src[iy + 1, ix] + fx * (src[iy + 1, ix + 1] - src[iy + 1, ix])
    return top + fy * (low - top)


@njit(cache=True, nogil=True)
def triangle_at(src, row, col):
    """Height on the drawn surface: each square is cut from its north-west to its south-east
    post.
    """
    iy, ix, fy, fx = _corner(row, col, src.shape[0], src.shape[1])
    nw, se = src[iy, ix], src[iy + 1, ix + 1]
    if fx > fy:
        ne = src[iy, ix + 1]
        return nw + fx * (ne - nw) + fy * (se - ne)
    sw = src[iy + 1, ix]
    return nw + fy * (sw - nw) + fx * (se - sw)


@njit(cache=True, nogil=True, parallel=True)
def _many(src, rows, cols, out, flat):
    for i in prange(len(rows)):
        out[i] = triangle_at(src, rows[i], cols[i]) if flat else bilinear_at(src, rows[i], cols[i])


def heights_at(heights, grid, east, north) -> np.ndarray:
    """Height in m of the drawn ground at places given in metres, float32 (n,)."""
    rows = np.atleast_1d(grid.rows_of(north))
    cols = np.atleast_1d(grid.cols_of(east))
    out = np.empty(len(rows), np.float32)
    _many(heights, rows, cols, out, True)
    return out


def values_at(field, grid, east, north) -> np.ndarray:
    """Bilinear value of any field at places given in metres, float32 (n,)."""
    rows = np.atleast_1d(grid.rows_of(north))
    cols = np.atleast_1d(grid.cols_of(east))
    out = np.empty(len(rows), np.float32)
    _many(field, rows, cols, out, False)
    return out


def read_at(picture: np.ndarray, columns: np.ndarray, rows: np.ndarray) -> np.ndarray:
    """A picture (ny, nx, 1 to 4 channels) at places told in its own columns and rows, between its
    posts and at its rim beyond them, float32 (n, channels).
    """
    wide = 32000  # the reader takes no longer rows
    pad = -len(columns) % wide
    shaped = lambda v: np.pad(np.asarray(v, np.float32), (0, pad)).reshape(-1, wide)
    got = cv2.remap(
        np.ascontiguousarray(picture, np.float32),
        shaped(columns),
        shaped(rows),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return got.reshape(-1, picture.shape[2])[: len(columns)]


def levels(shape: tuple[int, int], coarsest: int = 129) -> list[tuple[int, int]]:
    """Shapes from coarse to fine, each nearly twice the one before, the last being `shape`: 2049,
    1025 and 513 share theirs.
    """
    sizes = [(shape[0], shape[1])]
    while max(sizes[-1]) > 1.6 * coarsest:
        rows, columns = sizes[-1]
        sizes.append((max(3, (rows - 1) // 2 + 1), max(3, (columns - 1) // 2 + 1)))
    return sizes[::-1]
