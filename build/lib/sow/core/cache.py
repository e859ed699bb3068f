"""A cache of products under the hash of all that they depend on, with a bound on its memory."""

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any

from .version import version


def key_of(*parts) -> str:
    """Content key of plain values."""
    text = json.dumps([version(), parts], sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def weigh(value: Any) -> int:
    """Bytes held by arrays within a product."""
    if hasattr(value, "nbytes"):
        return int(value.nbytes)
    if isinstance(value, (bytes, bytearray)):
        return len(value)
    if isinstance(value, dict):
        return sum(map(weigh, value.values()))
    if isinstance(value, (list, tuple)):
        return sum(map(weigh, value))
    return sum(map(weigh, vars(value).values())) if hasattr(value, "__dict__") else 64


class Cache:
    def __init__(self, most_bytes: int = 1 << 30):
        self.most = most_bytes
        self.held = 0
        self.made = 0
        self._kept: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: str):
        """The product under a key, or None."""
        with self._lock:
            if key not in self._kept:
                return None
            self._kept.move_to_end(key)
            return self._kept[key][0]

    def put(self, key: str, value) -> None:
        """Keeps a product; the longest unused leave when there is no room."""
        size = weigh(value)
        with self._lock:
            if key in self._kept:
                self.held -= self._kept.pop(key)[1]
            self._kept[key] = (value, size)
            self.held += size
            while self.held > self.most and len(self._kept) > 1:
                self.held -= self._kept.popitem(last=False)[1][1]

    def once(self, key: str, make: Callable[[], Any]):
        """The product under this key, made only when it is not there; `made` counts."""
        found = self.get(key)
        if found is None:
            found = make()
            self.made += 1
            self.put(key, found)
        return found
