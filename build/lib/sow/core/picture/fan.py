"""The ground that a view sees, as a fan about its eye: as fine near by as far off.

Its posts lie on rays that part evenly and at distances that grow evenly by ratio, so that each of
its squares is about as large as a few pixels wherever it lies. The grain of the ground stands out
of it as relief. What lies outside the frame is a plain sheet below.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from ..build import Build
from ..build.far_rings import far_rings
from ..plot import grid_faces, texel_places, whole_squares
from ..sample import heights_at
from ..surface.look import Laying, field_at
from ..surface.strewn import strewn_of
from .afar import low_sowings, mosaic
from .bodies import Body, Surface
from .choose import LOW_ENDS_M, LOW_FADES
from .views import FRAME_MM, View

MOST_TEXELS = 14e6
MOST_POSTS = 0.8e6
FAR_FINER = 4  # texels of the far land's colour between two of its posts
MARGIN = 0.06  # of the frame, on either side
BAND = 1.35  # ratio of distances that are laid with one fineness
RELIEF_M = 40.0  # up to which the grain of the ground stands out
MOST_SHEET = 600  # posts along the plain sheet
LEAST_WET = 0.05  # below it no film of water shows
CLUMPS = ((2.3, 0.36, 2), (6.7, 0.34, 0), (29.0, 0.3, 1))  # of growth afar: m, part, channel
BELOW_M = 0.04  # that the plain sheet lies lower under the fan


@dataclass(frozen=True)
class Fan:
    """Bearings (radians) and distances (m) of a fan's posts."""

    turns: np.ndarray
    far: np.ndarray
    round: bool


def fan_of(view: View, over_m: float, reach_m: float, most: float = MOST_TEXELS) -> Fan:
    """The fan of an eye `over_m` above its ground, out to `reach_m`, of at most so many posts."""
    half = FRAME_MM / 2 / view.focal_mm
    half_y = half * view.height / view.width
    tilt = np.arcsin(np.clip(view.ahead[2], -1, 1))
    lowest = tilt - np.arctan(half_y + 2 * half * max(-view.shift[1], 0))
    highest = tilt + np.arctan(half_y)
    whole = view.around or lowest < np.deg2rad(-80) or highest > np.deg2rad(88)
    bearing = np.arctan2(*(view.ahead[:2] if abs(view.ahead[2]) < 0.99 else view.up[:2]))
    steep = np.cos(max(abs(lowest), abs(highest))) if not whole else 0.2
    wide = np.arctan((half * (1 + 2 * abs(view.shift[0])) + MARGIN) / max(steep, 0.2))
    wide = np.pi if whole else min(float(wide), np.pi)
    nearest = 0.25 * over_m if whole else 0.7 * over_m / np.tan(max(-lowest, 0.02))
    nearest = float(np.clip(nearest, 0.3, reach_m / 4))
    step = 1 / view.focal_px
    rows = np.log(reach_m / nearest) / step / 1.6
    columns = 2 * wide / step
    k = np.sqrt(max(rows * columns / most, 1.0))
    turns = np.linspace(-wide, wide, int(columns / k)) + bearing
    far = np.exp(np.linspace(np.log(nearest), np.log(reach_m), int(rows / k)))
    return Fan(turns, far, whole)


def _over_all(build: Build, tone: np.ndarray, cover: np.ndarray) -> np.ndarray:
    return tone + cover[..., 3:] * (cover[..., :3] - tone)


def sheet_of(build: Build) -> np.ndarray:
    """Mean colour of the ground at each post with its plants, float32 (ny, nx, 3)."""
    shares, means = build.ground(), build.means()
    shape = build.grid.shape
    tone = np.full((*shape, 3), 0.2, np.float32)
    if len(means):
        tone = np.einsum("nyx,nc->yxc", shares, np.array(means)).astype(np.float32)
    return np.clip(_over_all(build, tone, build.plant_cover()), 0.003, 0.9)


def _texels(build: Build, view: View, fan: Fan) -> tuple[Surface, np.ndarray]:
    """The surface of a fan, and the height of its grain at all its texels."""
    rows, columns = len(fan.far), len(fan.turns)
    colour = np.full((rows, columns, 3), 0.1, np.float32)
    lean = np.full((rows, columns, 3), (0.5, 0.5, 1.0), np.float32)
    grain = np.zeros((rows, columns), np.float32)
    wet = np.zeros((rows, columns), np.float32)
    upright, grown, laying = build.normals(), low_sowings(build), Laying(build)
    plot = build.scene.plot
    ends = LOW_ENDS_M * max(1.0, view.focal_mm / 28)
    right = np.stack([np.cos(fan.turns), -np.sin(fan.turns)], 1)
    start = 0
    while start < rows:
        stop = int(np.searchsorted(fan.far, fan.far[start] * BAND))
        stop = min(max(stop, start + 1), rows)
        build.check()
        far = fan.far[start:stop]
        x = view.eye[0] + far[:, None] * np.sin(fan.turns)
        y = view.eye[1] + far[:, None] * np.cos(fan.turns)
        inside = (x >= 0) & (y >= 0) & (x <= plot.width_m) & (y <= plot.depth_m)
        if inside.any():
            px, py = x[inside], y[inside]
            z = heights_at(build.heights, build.grid, px, py)
            n = field_at(build, upright, px, py)
            n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-6)
            step = (fan.turns[-1] - fan.turns[0]) / columns
            fine = float(np.sqrt(far[0] * far[-1]) * step)
            look = laying.at(np.stack([px, py, z], 1), n, fine)
            d = np.broadcast_to(far[:, None], x.shape)[inside]
            fade = np.clip((d / ends - LOW_FADES) / (1 - LOW_FADES), 0, 1)
            own = look.colour * (0.55 + 0.45 * look.open)[:, None]
            seen, hides = mosaic(build, grown, px, py, fine)
            clump = strewn_of(px, py, fine, CLUMPS)
            clump = np.clip((clump - 0.5) * 1.5 + 0.5, 0, 1)[:, None]
            share = (hides * fade)[:, None]
            own += share * (seen * (0.45 + 0.85 * clump) - own)
            colour[start:stop][inside] = np.clip(own, 0.003, 0.9)
            weak = np.where(d < RELIEF_M, 0.8, 0.55)[:, None]
            bump = look.bump * weak
            column = np.broadcast_to(np.arange(columns), x.shape)[inside]
            side = (bump[:, :2] * right[column]).sum(1)
            ahead = bump[:, 1] * right[column, 0] - bump[:, 0] * right[column, 1]
            v = np.stack([side, ahead, np.maximum(1 + bump[:, 2], 0.3)], 1)
            v /= np.linalg.norm(v, axis=1, keepdims=True)
            lean[start:stop][inside] = v * 0.5 + 0.5
            near = np.clip(1 - d / RELIEF_M, 0, 1)
            grain[start:stop][inside] = look.grain_m * near
            wet[start:stop][inside] = look.wet
        start = stop
    film = wet if wet.max() > LEAST_WET else None
    return Surface(colour, lean, wet=film), grain


def reach_of(build: Build, view: View) -> float:
    """How far the plot's farthest corner lies from the eye, m."""
    plot = build.scene.plot
    corners = np.array([[x, y] for x in (0, plot.width_m) for y in (0, plot.depth_m)])
    return max(float(np.linalg.norm(corners - view.eye[:2], axis=1).max()), 10.0)


def ground_fan(build: Build, view: View) -> Fan:
    """The fan on which the plot's ground is laid."""
    foot = float(heights_at(build.heights, build.grid, view.eye[:1], view.eye[1:2])[0])
    return fan_of(view, max(float(view.eye[2]) - foot, 0.3), reach_of(build, view))


def ground_bodies(build: Build, view: View) -> list[Body]:
    """The plot's ground as a view sees it: its fan, and the plain sheet under and around it."""
    fan = ground_fan(build, view)
    surface, grain = _texels(build, view, fan)
    build.tell("ground", 0.9)
    return [_fan_body(build, view, fan, surface, grain), _sheet_body(build)]


def _fan_body(build: Build, view: View, fan: Fan, surface: Surface, grain: np.ndarray) -> Body:
    rows, columns = grain.shape
    k = max(2, int(np.ceil(np.sqrt(rows * columns / MOST_POSTS))))
    r = np.unique(np.append(np.arange(0, rows, k), rows - 1))
    c = np.unique(np.append(np.arange(0, columns, k), columns - 1))
    far, turns = fan.far[r][:, None], fan.turns[c]
    x = view.eye[0] + far * np.sin(turns)
    y = view.eye[1] + far * np.cos(turns)
    plot = build.scene.plot
    inside = (x >= 0) & (y >= 0) & (x <= plot.width_m) & (y <= plot.depth_m)
    px, py = np.clip(x, 0, plot.width_m), np.clip(y, 0, plot.depth_m)
    z = heights_at(build.heights, build.grid, px.ravel(), py.ravel()).reshape(x.shape)
    n = field_at(build, build.normals(), px.ravel(), py.ravel())
    places = np.stack([x, y, z + grain[np.ix_(r, c)]], -1).reshape(-1, 3)
    # its rows run outward, not north to south: seen from above they turn the other way
    faces = grid_faces(len(r), len(c), whole_squares(inside))[:, ::-1]
    uv = np.stack(
        np.broadcast_arrays((c + 0.5) / columns, ((r + 0.5) / rows)[:, None]), -1
    ).reshape(-1, 2)
    return Body(places, faces, surface, n, uv)


def _sheet_body(build: Build) -> Body:
    """The whole plot in its mean colours, a little lower than its ground."""
    grid = build.grid
    k = max(1, int(np.ceil(max(grid.shape) / MOST_SHEET)))
    rows = np.unique(np.append(np.arange(0, grid.ny, k), grid.ny - 1))
    columns = np.unique(np.append(np.arange(0, grid.nx, k), grid.nx - 1))
    here = np.ix_(rows, columns)
    x, y = np.meshgrid(grid.xs()[columns], grid.ys()[rows])
    # the lowest of the posts that are left out, so that it nowhere stands over the fan
    lowest = cv2.erode(build.heights, np.ones((2 * k + 1, 2 * k + 1), np.uint8))
    places = np.stack([x, y, lowest[here] - BELOW_M], -1).reshape(-1, 3)
    ny, nx = x.shape
    faces, uv = grid_faces(ny, nx), texel_places(ny, nx)
    upright = build.normals()[here].reshape(-1, 3)
    return Body(places, faces, Surface(sheet_of(build)[here]), upright, uv)


def far_bodies(build: Build) -> list[Body]:
    """The land beyond the plot, ring by ring."""
    pictured = lambda ring: Surface(np.clip(ring.colour, 0.003, 0.9))
    return [
        Body(ring.places, ring.faces, pictured(ring), ring.normals, ring.uv)
        for ring in far_rings(build, FAR_FINER)
    ]
