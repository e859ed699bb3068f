"""What the web's parts share: the caches, the store's rasters, a build outside the page's own
order.
"""

import numpy as np

from ..core.build import Build, Rasters
from ..core.cache import Cache
from ..core.errors import SceneError
from ..core.scene import Scene, read_scene
from ..core.settings import settings
from ..store import rasters as kept_rasters
from ..store import scenes
from .waiting import still_wanted

WORK = Cache(settings().cache_bytes)
BYTES = Cache(settings().bytes)


class Stored(Rasters):
    """Rasters of the store; their name is the hash of their content."""

    def load(self, name: str) -> np.ndarray:
        """A raster of the store, kept for the next asking. Raises SceneError."""

        def fetch():
            values = kept_rasters.load(name)
            if values is None:
                raise SceneError(
                    "The picture is not in the store.", "", "Drop its file on the page again."
                )
            return values

        return WORK.once(f"raster {name}", fetch)


def product_key(key: str, make) -> str:
    """Makes a product once and gives its key."""
    BYTES.once(key, make)
    return key


def raw_bytes(values: np.ndarray) -> bytes:
    """An array as bytes, row by row."""
    return np.ascontiguousarray(values).tobytes()


def document_of(scene_id: int, order=None) -> Scene:
    """The document that an order brings with it, or the scene's head."""
    given = getattr(order, "document", None)
    return read_scene(given if given is not None else scenes.state(scene_id).document)


def draw_up(document: Scene, draft: bool = False) -> Build:
    """A build outside the page's own order, as for a survey; it is not stopped by newer ones, but
    when the one who asked is gone.
    """
    grid = document.plot.draft_grid() if draft else document.plot.view_grid()
    return Build(document, grid, WORK, Stored(), check=still_wanted())


def product_bytes(key: str):
    """The bytes under a key, or None when they have left the cache."""
    value = BYTES.get(key)
    return value[0] if isinstance(value, tuple) else value


def product_field(key: str, ny: int, nx: int) -> np.ndarray:
    """A product of numbers as the grid that it was made on, float32 (ny, nx).

    Raises SceneError when it has left the cache or is no such grid.
    """
    data = product_bytes(key)
    if data is None or len(data) != 4 * ny * nx:
        raise SceneError("This field is not at hand.", "key", "Build again.")
    return np.frombuffer(data, "<f4").reshape(ny, nx)
