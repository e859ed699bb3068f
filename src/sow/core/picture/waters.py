"""Waters as bodies: their moving surface as a view sees it, coloured by the bed below.

Light is not followed under water: what is seen of the bed, where a look bends down to it, is laid
on the surface by the law of clearness (water/clear).
"""

from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np

from ..build import Build
from ..build.waters import moving_in, running_in, sea_in, stands_in
from ..cabinet.kind import linear
from ..plot import grid_faces
from ..sample import values_at
from ..water.around import collars
from ..water.clear import FOAM, INDEX, passed, spread_share
from ..water.entry import Water
from ..water.foam import lace
from ..water.moving import Surface as Skin
from ..water.moving import level_around
from .bodies import Body, Surface
from .fan import Fan, fan_of, ground_fan, reach_of, texel_places, whole_squares
from .views import View

MOST_TEXELS = 3e6
MOST_POSTS = 1e6
HORIZON_M = 50_000.0
OWN = 0.45  # of a water's own colour, as in the view
FOAM_ROUGH = 0.9
SOFT_M = 0.03  # depth over which water comes to its full colour

Bed = Callable[[np.ndarray, np.ndarray], np.ndarray]


def water_bodies(build: Build, view: View, land: list[Body], at_s: float = 0.0) -> list[Body]:
    """Each water of a scene as a view sees it; `land` are the bodies of the ground, its fan first.
    Waves have run for `at_s` seconds.
    """
    level, masks = build.water()
    bed = _bed_of(build, view, land)
    out = []
    for i, (water, wet) in enumerate(zip(build.scene.water, masks)):
        if water.on and wet.any():
            body = _body(build, view, i, level, wet, bed, at_s)
            if body is not None:
                out.append(body)
    return out


def _bed_of(build: Build, view: View, land: list[Body]) -> Bed:
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
        across = ((bearing - fan.turns[0]) / turn).astype(np.float32)
        down = (np.log(far / fan.far[0]) / ratio).astype(np.float32)
        wide = 32000
        pad = -len(x) % wide
        shaped = lambda v: np.pad(v, (0, pad)).reshape(-1, wide)
        got = cv2.remap(
            picture,
            shaped(across),
            shaped(down),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )
        return got.reshape(-1, 3)[: len(x)]

    return at


def _fan_for(build: Build, view: View, water: Water, level_m: float) -> Fan:
    over = max(abs(float(view.eye[2]) - level_m), 0.3)
    reach = HORIZON_M if water.reach == "everywhere" else reach_of(build, view)
    return fan_of(view, over, reach, MOST_TEXELS)


def _body(build: Build, view: View, index: int, level, wet, bed: Bed, at_s: float) -> Body | None:
    water = build.scene.water[index]
    around = level_around(np.where(wet, level, np.nan), wet)
    fan = _fan_for(build, view, water, float(np.nanmean(around)))
    x = view.eye[0] + fan.far[:, None] * np.sin(fan.turns)
    y = view.eye[1] + fan.far[:, None] * np.cos(fan.turns)
    z, deep, here = _standing(build, water, x, y, around, wet)
    if not here.any():
        return None
    px, py = x[here], y[here]
    step = (fan.turns[-1] - fan.turns[0]) / len(fan.turns)
    fine = np.broadcast_to(fan.far[:, None] * step, x.shape)[here]
    moves = moving_in(build, index, at_s) if water.reach != "stream" else None
    skin = (moves or running_in(build, index, at_s)).at(px, py, fine)
    skin = _with_collars(build, index, skin, px, py, at_s, fine)
    rows, columns = x.shape
    colour = np.full((rows, columns, 3), 0.02, np.float32)
    rough = np.full((rows, columns), 0.05, np.float32)
    lean = np.full((rows, columns, 3), (0.5, 0.5, 1.0), np.float32)
    places = np.stack([px + skin.aside, py + skin.ahead, z[here] + skin.high], -1)
    colour[here] = _colour(view, water, places, deep[here] + skin.high, skin, bed, fine)
    rough[here] = _rough(water, skin)
    turn = np.broadcast_to(fan.turns, x.shape)[here]
    lean[here] = _lean(skin, turn)
    whole = np.stack([x, y, z], -1)
    whole[here] = places
    return _mesh(water, fan, whole, here, Surface(colour, lean, rough=rough, mirrors=True))


def _with_collars(build: Build, index: int, skin: Skin, x, y, at_s: float, fine) -> Skin:
    """The surface with foam around what stands in it."""
    sea, water = sea_in(build, index), build.scene.water[index]
    foam = collars(x, y, stands_in(build, index), sea, at_s, water.around / 100)
    return replace(skin, foam=np.maximum(skin.foam, lace(x * 3, y * 3, foam, fine * 3)))


def _standing(
    build: Build, water: Water, x: np.ndarray, y: np.ndarray, around: np.ndarray, wet: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Level and depth (m) of still water at places, and where its surface may show."""
    grid = build.grid
    inside = (x >= grid.east_m) & (x <= grid.east_m + grid.width_m)
    inside &= (y >= grid.north_m) & (y <= grid.north_m + grid.depth_m)
    z = np.full(x.shape, float(np.nanmean(around)))
    deep = np.full(x.shape, 30.0)
    at = lambda field: values_at(field, grid, x[inside], y[inside])
    z[inside] = at(around.astype(np.float32))
    deep[inside] = z[inside] - at(build.heights)
    runs_up = 0.15 + 2.0 * water.waves_cm / 100
    here = deep > -runs_up
    if water.reach == "everywhere":
        return z, deep, here & (inside | (build.scene.beyond.edge != "end"))
    near = cv2.dilate(wet.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(np.float32)
    own = np.zeros(x.shape, bool)
    own[inside] = at(near) > 0.3
    return z, deep, here & own


def _colour(
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
    sine = np.sqrt(1 - cosine**2) / INDEX
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
    colour = colour + skin.foam[:, None] * (FOAM - colour)
    return np.clip(colour, 0.002, 0.9).astype(np.float32)


def _bytes(colour: str) -> np.ndarray:
    return np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)], np.uint8)


def _rough(water: Water, skin: Skin) -> np.ndarray:
    """Width of the facets that mirror, where foam lies that of a dull thing."""
    clear = spread_share(skin.rough) * 0.8
    return np.clip(clear + skin.foam * (FOAM_ROUGH - clear), 0, 1).astype(np.float32)


def _lean(skin: Skin, turn: np.ndarray) -> np.ndarray:
    """Normals as 0..1, x along the fan's rows."""
    c, s = np.cos(turn), np.sin(turn)
    side = -(skin.east * c - skin.north * s)
    ahead = -(skin.east * s + skin.north * c)
    n = np.stack([side, ahead, np.ones_like(side)], 1)
    n /= np.linalg.norm(n, axis=1, keepdims=True)
    return (n * 0.5 + 0.5).astype(np.float32)


def _mesh(water: Water, fan: Fan, places: np.ndarray, here: np.ndarray, surface: Surface) -> Body:
    rows, columns = here.shape
    k = max(1, int(np.ceil(np.sqrt(here.sum() / MOST_POSTS))))
    r = np.unique(np.append(np.arange(0, rows, k), rows - 1))
    c = np.unique(np.append(np.arange(0, columns, k), columns - 1))
    own = np.ix_(r, c)
    # its rows run outward, not north to south: seen from above they turn the other way
    faces = grid_faces(len(r), len(c), whole_squares(here[own]))[:, ::-1]
    uv = texel_places(rows, columns).reshape(rows, columns, 2)[own].reshape(-1, 2)
    used, faces = np.unique(faces, return_inverse=True)
    at = places[own].reshape(-1, 3)[used]
    upright = np.tile(np.array([0, 0, 1], np.float32), (len(used), 1))
    corners = faces.reshape(-1, 3).astype(np.uint32)
    return Body(at, corners, surface, upright, uv[used], None, f"water {water.name}")
