"""Routes: pictures and maps of grounds, textures and heightmaps."""

import numpy as np

from ...core.cabinet import grounds, heightmaps, own_ground
from ...core.formats.raster import png_bytes
from ...core.shots.sketch import from_above
from ..api import route
from ..kinds import _known, fixed
from ..working import Stored


@route("GET", "/api/cabinet/grounds/<name>.png")
def ground_picture(name):
    """A small picture of a ground."""
    return fixed(png_bytes(_known(grounds, name).maps()[0][::4, ::4, :3]), "image/png")


@route("GET", "/api/cabinet/grounds/<name>/maps")
def ground_maps(name):
    """Colour with height, then detail: two RGBA pictures of 512 x 512, raw."""
    return fixed(_drawn_ground(_known(grounds, name)), "application/octet-stream")


def _drawn_ground(ground) -> bytes:
    """The two pictures as the view draws them: in the first the height stands as its rank."""
    colour, detail = ground.maps()
    return np.dstack([colour[..., :3], ground.ranks()]).tobytes() + detail.tobytes()


@route("GET", "/api/textures/<name>/maps")
def own_texture(name):
    """A texture set that was brought in, as the cabinet's grounds are given."""
    return fixed(
        _drawn_ground(own_ground(name, lambda: Stored().load(name))),
        "application/octet-stream",
    )


@route("GET", "/api/cabinet/heightmaps/<name>.png")
def heightmap_picture(name):
    """A small shaded picture of a ready heightmap."""
    _known(heightmaps.LABELS, name)
    return fixed(
        png_bytes(from_above(heightmaps.ready(name) * np.float32(170), 2.0, size=96)), "image/png"
    )
