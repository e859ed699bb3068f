"""What a water shows at places of its surface: its bed, its own colour, foam.

Light is not followed under water: what is seen of the bed, where a look bends down to it, is laid
on the surface by the law of clearness (water/clear).
"""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..build import Build
from ..build.waters import foam_in, sea_in, swash_in
from ..cabinet.kind import linear
from ..sample import heights_at, read_at
from ..shared import WATER_INDEX
from ..water.around import collars
from ..water.clear import passed, spread_share
from ..water.entry import Water
from ..water.foam import lace
from ..water.moving import WaterSurface as Skin
from ..water.swash import film_at
from .bodies import Body
from .fan import ground_fan
from .views import View

OWN = 0.45  # of a water's own colour, as in the view
FOAM_ROUGH = 0.9
DAMP = 0.4  # of a film of water that is left when it has drained
SOFT_M = 0.03  # depth over which water comes to its full colour

Bed = Callable[[np.ndarray, np.ndarray], np.ndarray]


def bed_of(build: Build, view: View, land: list[Body]) -> Bed:
    """The colour of the ground at places, as it was laid for the view; beyond it a mean one."""
    fan = ground_fan(build, view)
    picture = land[0].surface.picture
    assert picture is not None
    turn = float(fan.turns[1] - fan.turns[0])
    ratio = float(np.log(fan.far[1] / fan.far[0]))
    middle = (fan.turns[0] + fan.turns[-1]) / 2

    def at(x: np.ndarray, y: np.ndarray) -> np.ndarray:
        dx, dy = x - view.eye[0], y - view.eye[1]
        far = np.maximum(np.hypot(dx, dy), fan.far[0])
        bearing = (np.arctan2(dx, dy) - middle + np.pi) % (2 * np.pi) - np.pi + middle
        across = (bearing - fan.turns[0]) / turn
        return read_at(picture, across, np.log(far / fan.far[0]) / ratio)

    return at


def drained(build: Build, view: View, ground: Body, at_s: float) -> Body:
    """The ground of a view's fan, its wet shore as the last waves have left it."""
    film, index = ground.surface.wet, swash_in(build)
    if film is None or index is None:
        return ground
    fan, water = ground_fan(build, view), build.scene.water[index]
    row, column = np.nonzero(film > 0.02)
    x = view.eye[0] + fan.far[row] * np.sin(fan.turns[column])
    y = view.eye[1] + fan.far[row] * np.cos(fan.turns[column])
    over = heights_at(build.heights, build.grid, x, y) - water.level_m
    fresh = film_at(x, y, over, sea_in(build, index), at_s, water.surf / 100)
    wet = film.copy()
    wet[row, column] *= (DAMP + (1 - DAMP) * fresh).astype(np.float32)
    return replace(ground, surface=replace(ground.surface, wet=wet))


def with_collars(build: Build, index: int, skin: Skin, x, y, at_s: float, fine) -> Skin:
    """The surface with foam around what stands in it."""
    foam = collars(x, y, foam_in(build, index), sea_in(build, index), at_s)
    return replace(skin, foam=np.maximum(skin.foam, lace(x * 3, y * 3, foam, fine * 3)))


def colour_of(
    view: View,
    water: Water,
    places: np.ndarray,
    deep: np.ndarray,
    skin: Skin,
    bed: Bed,
    fine: np.ndarray,
) -> np.ndarray:
    """What shows of bed, water and foam, linear (n, 3)."""
    own = [linear(_bytes(c)) for c in (water.through, water.tint)]
    ray = places - view.eye
    level = np.maximum(np.hypot(ray[:, 0], ray[:, 1]), 1e-6)
    cosine = np.abs(ray[:, 2]) / np.hypot(level, ray[:, 2])
    sine = np.sqrt(1 - cosine**2) / WATER_INDEX
    aside = np.maximum(deep, 0) * sine / np.sqrt(1 - sine**2) / level
    # ripples bend the look: the bed seems to move with their slopes
    bent = 0.25 * np.maximum(deep, 0)
    seen = bed(
        places[:, 0] + ray[:, 0] * aside - skin.east * bent,
        places[:, 1] + ray[:, 1] * aside - skin.north * bent,
    )
    through = passed(own[0], water.clear_m, np.maximum(deep, 0), cosine)
    t = np.clip((deep - 0.02) / 0.28, 0, 1)
    gathers = t * t * (3 - 2 * t) * np.exp(-np.maximum(deep, 0) * 0.7)
    gathers = gathers * np.clip((0.25 - fine) / 0.23, 0, 1)
    light = 1 + np.clip(skin.bend * 4, -0.45, 1.2) * gathers
    body = OWN * own[1] * (1 - through)
    soft = np.clip(deep / SOFT_M, 0, 1)[:, None]
    colour = seen * (1 + soft * (through * light[:, None] - 1)) + soft * body
    bright = np.broadcast_to(skin.bright, skin.foam.shape)[:, None]
    colour = colour + skin.foam[:, None] * (bright - colour)
    return np.clip(colour, 0.002, 0.9).astype(np.float32)


def _bytes(colour: str) -> np.ndarray:
    return np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)], np.uint8)


def roughness_of(water: Water, skin: Skin) -> np.ndarray:
    """Width of the facets that mirror, where foam lies that of a dull thing."""
    clear = spread_share(skin.rough) * 0.8
    dull = np.clip((skin.foam - 0.3) / 0.5, 0, 1)
    return np.clip(clear + dull * (FOAM_ROUGH - clear), 0, 1).astype(np.float32)
