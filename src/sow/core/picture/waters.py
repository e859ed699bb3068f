"""Waters as bodies: their moving surface as a view sees it, coloured by the bed below."""

import cv2
import numpy as np

from ..build import Build
from ..build.waters import moving_in, running_in
from ..motion.base import Moment
from ..plot import grid_faces, texel_places, whole_squares
from ..sample import heights_at, values_at
from ..water.entry import Water
from ..water.moving import Moving, level_around
from ..water.moving import WaterSurface as Skin
from .bodies import Body, Surface
from .fan import Fan, fan_of, reach_of
from .under import water_about
from .views import View
from .water_skin import Bed, bed_of, colour_of, roughness_of, with_collars

MOST_TEXELS = 3e6
MOST_POSTS = 1e6
HORIZON_M = 50_000.0
ACROSS = 120  # texels over the width of a stream


def water_bodies(
    build: Build, view: View, land: list[Body], moment: Moment | None = None
) -> list[Body]:
    """Each water of a scene as a view sees it; `land` are the bodies of the ground, its fan first.
    Waves have run and pieces are where they are at a moment.
    """
    at_s = moment.waves_s if moment else 0.0
    level, masks = build.water()
    around = water_about(build, view.eye)  # its surface is laid over each pass
    bed = bed_of(build, view, land)
    out = []
    for i, (water, wet) in enumerate(zip(build.scene.water, masks)):
        if not water.on or not wet.any() or i == around:
            continue
        if water.reach == "stream":
            out.append(_stream_body(build, view, i, bed, at_s))
            continue
        skin = moving_in(build, i, at_s, moment.pieces if moment else None)
        body = _body(build, view, i, level, wet, bed, skin)
        if body is not None:
            out.append(body)
    return out


def _fan_for(build: Build, view: View, water: Water, level_m: float) -> Fan:
    over = max(abs(float(view.eye[2]) - level_m), 0.3)
    reach = HORIZON_M if water.reach == "everywhere" else reach_of(build, view)
    return fan_of(view, over, reach, MOST_TEXELS)


def _body(build: Build, view: View, index: int, level, wet, bed: Bed, moves: Moving) -> Body | None:
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
    skin = moves.at(px, py, fine)
    skin = with_collars(build, index, skin, px, py, moves.seconds, fine)
    rows, columns = x.shape
    colour = np.full((rows, columns, 3), 0.02, np.float32)
    rough = np.full((rows, columns), 0.05, np.float32)
    lean = np.full((rows, columns, 3), (0.5, 0.5, 1.0), np.float32)
    places = np.stack([px + skin.aside, py + skin.ahead, z[here] + skin.high], -1)
    colour[here] = colour_of(view, water, places, deep[here] + skin.high, skin, bed, fine)
    rough[here] = roughness_of(water, skin)
    turn = np.broadcast_to(fan.turns, x.shape)[here]
    lean[here] = _lean(skin, np.stack([np.cos(turn), -np.sin(turn)], 1))
    whole = np.stack([x, y, z], -1)
    whole[here] = places
    return _mesh(water, fan, whole, here, Surface(colour, lean, rough=rough, mirrors=True))


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


def _lean(skin: Skin, right: np.ndarray) -> np.ndarray:
    """Normals as 0..1, x along the unit ways `right` (n, 2) in the plane, y to their left."""
    side = -(skin.east * right[:, 0] + skin.north * right[:, 1])
    ahead = -(skin.north * right[:, 0] - skin.east * right[:, 1])
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


def _stream_body(build: Build, view: View, index: int, bed: Bed, at_s: float) -> Body:
    """A stream as a strip along its line, ACROSS texels wide."""
    water = build.scene.water[index]
    runs = running_in(build, index, at_s)
    length = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(runs.spine, axis=0), axis=1))])
    texel = max(water.width_m / ACROSS, np.sqrt(length[-1] * water.width_m / MOST_TEXELS))
    rows = max(int(length[-1] / texel), 2)
    columns = max(int(water.width_m / texel), 2)
    at = np.linspace(0, length[-1], rows)
    spine = np.stack([np.interp(at, length, runs.spine[:, k]) for k in range(3)], 1)
    ahead = np.gradient(spine, axis=0)
    level = np.maximum(np.hypot(ahead[:, 0], ahead[:, 1]), 1e-9)
    right = np.stack([ahead[:, 1], -ahead[:, 0]], 1) / level[:, None]
    aside = (np.linspace(-0.5, 0.5, columns) * water.width_m)[None, :, None]
    plane = spine[:, None, :2] + right[:, None, :] * aside
    z = np.broadcast_to(spine[:, None, 2], plane.shape[:2])
    places = np.dstack([plane, z]).reshape(-1, 3)
    px, py = places[:, 0], places[:, 1]
    deep = places[:, 2] - heights_at(build.heights, build.grid, px, py)
    fine = np.full(len(px), texel)
    skin = with_collars(build, index, runs.at(px, py, fine), px, py, at_s, fine)
    colour = colour_of(view, water, places, deep, skin, bed, fine)
    edge = np.broadcast_to(np.abs(np.linspace(-1, 1, columns)), (rows, columns)).ravel()
    deep = np.where(edge > 1 - 0.55 * skin.frays, -1, deep)
    ways = np.repeat(right, columns, axis=0)
    shape = (rows, columns)
    surface = Surface(
        colour.reshape(*shape, 3),
        _lean(skin, ways).reshape(*shape, 3),
        rough=roughness_of(water, skin).reshape(shape),
        mirrors=True,
    )
    fall = -ahead[:, 2:] / level[:, None]  # what falls leans the way it runs
    upright = np.hstack([fall * ahead[:, :2] / level[:, None], np.ones((rows, 1))])
    upright /= np.linalg.norm(upright, axis=1, keepdims=True)
    faces = grid_faces(rows, columns, whole_squares(deep.reshape(shape) > -0.02))[:, ::-1]
    uv = texel_places(rows, columns)
    normals = np.repeat(upright, columns, axis=0).astype(np.float32)
    return Body(places, faces.astype(np.uint32), surface, normals, uv, None, f"water {water.name}")
