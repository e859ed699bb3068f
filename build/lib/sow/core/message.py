"""Plain values as messages between two processes: a JSON head, then the bytes of its arrays.

Nothing in a message can run: it holds numbers, texts, lists, mappings, bytes and arrays of numbers.
"""

import json
import struct
from collections.abc import Iterator
from typing import Any, BinaryIO

import numpy as np

HEAD = struct.Struct("<4sQQ")  # mark, bytes of the head, bytes of what follows it
MARK = b"SOW1"
MOST_HEAD = 256 << 20


class Broken(Exception):
    """What came is no message, or larger than was agreed."""


def _packed(value: Any, parts: list[memoryview | bytes]) -> Any:
    """A value with each array and each run of bytes taken out into `parts`."""
    if isinstance(value, np.ndarray):
        held = np.ascontiguousarray(value)
        parts.append(held.reshape(-1).view(np.uint8).data if held.size else b"")
        return {"$": "array", "type": held.dtype.str, "shape": list(held.shape)}
    if isinstance(value, (bytes, bytearray, memoryview)):
        parts.append(value if isinstance(value, memoryview) else bytes(value))
        return {"$": "bytes", "size": len(value)}
    if isinstance(value, dict):
        return {"$": "map", "of": [[k, _packed(v, parts)] for k, v in value.items()]}
    if isinstance(value, (list, tuple)):
        return [_packed(v, parts) for v in value]
    if isinstance(value, np.generic):
        return value.item()
    return value


def _unpacked(value: Any, take) -> Any:
    if isinstance(value, list):
        return [_unpacked(v, take) for v in value]
    if not isinstance(value, dict):
        return value
    if value["$"] == "map":
        return {k: _unpacked(v, take) for k, v in value["of"]}
    if value["$"] == "bytes":
        return bytes(take(int(value["size"])))
    dtype = np.dtype(value["type"])
    if dtype.hasobject:
        raise Broken("an array of objects")
    shape = tuple(int(n) for n in value["shape"])
    count = 1
    for n in shape:
        count *= n
    return np.frombuffer(take(count * dtype.itemsize), dtype).reshape(shape)


def pieces(value: Any) -> Iterator[bytes | memoryview]:
    """A message in the pieces in which it is written."""
    parts: list[memoryview | bytes] = []
    head = json.dumps(_packed(value, parts)).encode()
    yield HEAD.pack(MARK, len(head), sum(len(p) for p in parts))
    yield head
    yield from parts


def write(out: BinaryIO, value: Any) -> None:
    """Writes one message. Raises OSError when nobody reads."""
    for piece in pieces(value):
        out.write(piece)
    out.flush()


def _exactly(source: BinaryIO, size: int) -> bytearray:
    held = bytearray(size)
    view = memoryview(held)
    at = 0
    while at < size:
        count = source.readinto(view[at:])  # type: ignore[attr-defined]
        if not count:
            raise EOFError
        at += count
    return held


def read(source: BinaryIO, most_bytes: int) -> Any:
    """The next message. Raises EOFError at the end, Broken for anything else or anything larger."""
    mark, head_size, body_size = HEAD.unpack(bytes(_exactly(source, HEAD.size)))
    if mark != MARK or head_size > MOST_HEAD or body_size > most_bytes:
        raise Broken("not a message of the agreed size")
    head = json.loads(bytes(_exactly(source, head_size)))
    body = memoryview(_exactly(source, body_size))
    at = 0

    def take(size: int) -> bytes | memoryview:
        nonlocal at
        if size < 0 or at + size > len(body):
            raise Broken("a part is missing")
        at += size
        return body[at - size : at]

    return _unpacked(head, take)
