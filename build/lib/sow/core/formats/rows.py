"""Text rows by the million: columns of numbers with fixed decimals and of names, between fixed
texts. As `f"{value:.3f}"` writes them one by one, but in a compiled loop.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numba import njit

CHUNK = 1 << 17
NUMBER_BYTES = 24  # the longest number: sign, 19 digits, point


@dataclass(frozen=True)
class Number:
    """A column of numbers (n,) with so many decimals."""

    values: np.ndarray
    decimals: int


@dataclass(frozen=True)
class Name:
    """A column of names: for each row the index (n,) of one of `names`."""

    index: np.ndarray
    names: list[str]


Column = Number | Name


def text_rows(texts: list[str], columns: list[Column]) -> Iterator[bytes]:
    """Rows in pieces: `texts[0]`, the first column, `texts[1]`, the second, and so on; one text
    more than columns. Numbers are rounded half to even.

    Raises ValueError where a number is not finite or too large to write.
    """
    if len(texts) != len(columns) + 1:
        raise ValueError("there must be one text more than columns")
    count = len(columns[0].values if isinstance(columns[0], Number) else columns[0].index)
    pool, starts = _pooled(texts, columns)
    decimals = np.array([c.decimals if isinstance(c, Number) else -1 for c in columns], np.int64)
    first = np.array(_first_names(texts, columns), np.int64)
    widest = sum(len(t.encode()) for t in texts) + sum(map(_widest, columns))
    for start in range(0, count, CHUNK):
        rows = slice(start, min(start + CHUNK, count))
        whole = np.stack([_whole(c, rows) for c in columns])
        out = np.empty(widest * whole.shape[1], np.uint8)
        length = _write(whole, decimals, first, pool, starts, len(texts), out)
        yield out[:length].tobytes()


def _widest(column: Column) -> int:
    if isinstance(column, Number):
        return NUMBER_BYTES
    return max((len(name.encode()) for name in column.names), default=0)


def _pooled(texts: list[str], columns: list[Column]) -> tuple[np.ndarray, np.ndarray]:
    """All texts and then all names, one after the other, and where each begins."""
    parts = [t.encode() for t in texts]
    for column in columns:
        if isinstance(column, Name):
            parts += [n.encode() for n in column.names]
    starts = np.cumsum([0] + [len(p) for p in parts]).astype(np.int64)
    return np.frombuffer(b"".join(parts) + b"\0", np.uint8), starts


def _first_names(texts: list[str], columns: list[Column]) -> list[int]:
    """For each column of names the number of its first name in the pool."""
    out = []
    at = len(texts)
    for column in columns:
        out.append(at)
        if isinstance(column, Name):
            at += len(column.names)
    return out


def _whole(column: Column, rows: slice) -> np.ndarray:
    if isinstance(column, Name):
        return column.index[rows].astype(np.int64)
    scaled = np.rint(column.values[rows].astype(np.float64) * 10.0**column.decimals)
    if not (np.abs(scaled) < 1e17).all():
        raise ValueError("a number cannot be written")
    # what is rounded to nothing keeps its sign in text: -0.0004 is "-0.000"
    return np.where(
        (scaled == 0) & (np.signbit(column.values[rows])), MINUS_NOTHING, scaled.astype(np.int64)
    )


MINUS_NOTHING = np.iinfo(np.int64).min


@njit(cache=True, nogil=True)
def _copy(pool, starts, k, out, at):
    for i in range(starts[k], starts[k + 1]):
        out[at] = pool[i]
        at += 1
    return at


@njit(cache=True, nogil=True)
def _digits(value, decimals, out, at):
    if value < 0:
        out[at] = 45
        at += 1
        value = 0 if value == MINUS_NOTHING else -value
    size = 1
    top = 10
    while size < 18 and value >= top:
        top *= 10
        size += 1
    size = max(size, decimals + 1)
    end = at + size + (1 if decimals else 0)
    p = end - 1
    for k in range(size):
        if decimals and k == decimals:
            out[p] = 46
            p -= 1
        out[p] = 48 + value % 10
        value //= 10
        p -= 1
    return end


@njit(cache=True, nogil=True)
def _write(whole, decimals, first, pool, starts, texts, out):
    at = 0
    for r in range(whole.shape[1]):
        for c in range(texts):
            at = _copy(pool, starts, c, out, at)
            if c < texts - 1:
                if decimals[c] < 0:
                    at = _copy(pool, starts, first[c] + whole[c, r], out, at)
                else:
                    at = _digits(whole[c, r], decimals[c], out, at)
    return at
