"""The service: a listing, and files sent piece by piece; now and then it breaks off, as services
do.
"""

import io
import time
import zipfile
from collections.abc import Iterator

from .catalogue import ITEMS, made

PIECE = 16_384
TEXTURE_PX = (128, 256, 512, 1024)


class Unreachable(Exception):
    """The connection broke off."""


class Supplier:
    """`slow_s` is the time that each piece takes.

    Every item breaks off once in its first fetch of a run when `fails` holds its name.
    """

    def __init__(
        self, slow_s: float = 0.01, fails: tuple[str, ...] = ("straw-bale", "brick-setts")
    ):
        self.slow_s = slow_s
        self.fails = set(fails)
        self._failed: set[str] = set()

    def listing(self) -> list[dict]:
        """What there is: name, label, sort ("kind" or "texture"), a word on it, the texture sizes
        and the triangles it can be had with.
        """
        return [
            {
                "name": i.name,
                "label": i.label,
                "sort": i.sort,
                "note": i.note,
                "texture_px": list(TEXTURE_PX),
                "triangles": [i.least, i.most] if i.sort == "kind" else [],
            }
            for i in ITEMS.values()
        ]

    def fetch(self, name: str, texture_px: int, triangles: int) -> Iterator[tuple[bytes, int]]:
        """The file in pieces, each with the length of the whole: a GLB, or a zip with the pictures
        of a texture set.

        Raises KeyError for what there is not, Unreachable when the connection breaks off.
        """
        item = ITEMS[name]
        data = made(item, texture_px, triangles)
        if item.sort == "texture":
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
                for file, content in data.items():
                    archive.writestr(file, content)
            data = out.getvalue()
        for at in range(0, len(data), PIECE):
            if name in self.fails and name not in self._failed and at > len(data) // 2:
                self._failed.add(name)
                raise Unreachable("The supplier broke off in the middle of the file.")
            time.sleep(self.slow_s)
            yield data[at : at + PIECE], len(data)
