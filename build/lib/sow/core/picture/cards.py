"""Cards as bodies: their pictures cut out, upright, turned to the eye or fixed."""

import numpy as np

from ..air.card_pictures import picture_of
from ..air.things.card import CardStands
from ..build import Build
from ..cabinet.mesh import Mesh
from .bodies import Body, Surface
from .cut import leaves_of
from .dressed import DARKEST, PALEST
from .views import View

TEXELS = 5.0  # of the lattice that a card is cut by


def card_bodies(build: Build, view: View) -> list[Body]:
    """The cards of a scene as a view sees them."""
    load = lambda name: build.marks.raster(name, "air.picture")
    return [_body(card, picture_of(card.picture, load), view) for card in build.in_air().cards]


def _body(card: CardStands, sheet: np.ndarray, view: View) -> Body:
    place = np.array(card.place)
    if card.faces is None:
        way = view.eye[:2] - place[:2]
        way = way / max(float(np.linalg.norm(way)), 1e-6)
    else:
        a = np.deg2rad(card.faces)
        way = np.array([np.sin(a), np.cos(a)])
    # to its right as one sees it who stands before it
    right = np.array([-way[1], way[0], 0.0])
    corners = [
        place + x * card.width_m / 2 * right + np.array([0, 0, z * card.height_m])
        for x, z in ((-1, 0), (1, 0), (1, 1), (-1, 1))
    ]
    uv = np.array([[0, 1], [1, 1], [1, 0], [0, 0]], np.float32)
    mesh = Mesh.of(corners, [(0, 1, 2), (0, 2, 3)], (1.0, 1.0, 1.0), uv=uv)
    places, colours = leaves_of(mesh, np.arange(2), sheet, TEXELS)
    faces = np.arange(len(places) * 3, dtype=np.uint32).reshape(-1, 3)
    held = np.clip(colours, DARKEST, PALEST)
    return Body(places.reshape(-1, 3), faces, Surface(), colour=held, of=f"card {card.picture}")
