"""Small pictures of what the files of a hand-over hold, for its panel: each on a coarse grid."""

import cv2
import numpy as np

from ..air.light_of import DRAFT_ROWS
from ..build import Build
from ..build.far_land import far_land
from ..cabinet import kind_of
from ..cabinet.kind import kinds, srgb_bytes
from ..cabinet.portrait import portrait
from ..planting.density import ground_mask
from ..planting.sowing import seen_colour
from ..sample import heights_at
from ..shots.shot import Shot, axes, eye_over
from ..shots.sketch import from_above, from_shot
from ..surface.relief import PAPER, shaded
from ..survey.slope import slope

WIDE_PX = 96
TILES = 4  # squares along a side that stand for tiles
DEEPEST_M = 6.0  # of the blues of water
DOTS = 700  # on a picture of plants
STEEPEST_DEG = 50.0  # the darkest of a slope's picture
HALF_DARK_M = 60.0  # how far off a picture of distances is half dark
STEPS = 160  # along a ray of it
SLATE = np.array((70, 104, 122), np.float32)


def fitted(picture: np.ndarray) -> np.ndarray:
    """A picture of any size as uint8, WIDE_PX wide."""
    rows = max(1, round(WIDE_PX * picture.shape[0] / picture.shape[1]))
    small = cv2.resize(picture.astype(np.float32), (WIDE_PX, rows), interpolation=cv2.INTER_AREA)
    return np.clip(np.rint(small), 0, 255).astype(np.uint8)


def of_heights(build: Build) -> np.ndarray:
    """The heightmap: from black at the lowest to white at the highest."""
    heights = build.heights
    share = (heights - heights.min()) / max(float(np.ptp(heights)), 1e-6)
    return fitted(np.repeat(share[..., None] * 255, 3, 2))


def of_tiles(build: Build) -> np.ndarray:
    """The heightmap, ruled into squares."""
    out = of_heights(build)
    for k in range(1, TILES):
        for axis, length in enumerate(out.shape[:2]):
            line = np.moveaxis(out, axis, 0)[length * k // TILES]
            line[:] = 255 - line // 2
    return out


def of_weights(build: Build) -> np.ndarray:
    """Which material covers the most of each place, each in its own colour."""
    shares = build.ground()
    if not len(shares):
        return fitted(np.broadcast_to(PAPER, (*build.grid.shape, 3)))
    colours = srgb_bytes(np.array(build.means())).astype(np.float32)
    return fitted(colours[shares.argmax(0)])


def of_scene(build: Build) -> np.ndarray:
    """The clothed and planted land from above."""
    shares = build.ground()
    tone = np.broadcast_to(PAPER * 0.85, (*build.grid.shape, 3))
    if len(shares):
        colour = np.einsum("nyx,nc->yxc", shares, np.array(build.means()))
        tone = np.clip(colour, 0, 1) ** (1 / 2.2) * 255
    cover = build.plant_cover()
    grown = np.clip(cover[..., :3], 0, 1) ** (1 / 2.2) * 255
    tone = tone + cover[..., 3:] * (grown - tone)
    return from_above(build.heights, build.grid.spacing, build.water()[0], tone, WIDE_PX)


def of_water(build: Build) -> np.ndarray:
    """How deep the still waters are, in slate on paper."""
    level = build.water()[0]
    depth = np.where(np.isfinite(level), np.maximum(level - build.heights, 0), 0)
    share = np.minimum(depth / DEEPEST_M, 1)[..., None] ** 0.5
    return fitted(PAPER + (SLATE - PAPER) * share)


def of_light(build: Build) -> np.ndarray:
    """The sky all round, from the horizon up."""
    sky = build.daylight(DRAFT_ROWS).sky
    upper = sky[: sky.shape[0] // 2]
    return fitted(srgb_bytes(upper / (upper + np.median(upper.mean(-1)) * 1.5)))


def of_shot(build: Build) -> np.ndarray:
    """What the first shot sees, as a sketch."""
    shots = [s for s in build.shots() if s.on]
    if not shots:
        return fitted(np.broadcast_to(PAPER, (64, WIDE_PX, 3)))
    shot = shots[0]
    east, north, up = eye_over(shot, build.ground_at)
    pose = {"east": east, "north": north, "up": up, "bearing": shot.bearing}
    pose |= {"tilt": shot.tilt, "focal": shot.focal_mm}
    shares = build.ground()
    colour = np.full((*build.grid.shape, 3), 0.2, np.float32)
    if len(shares):
        colour = np.einsum("nyx,nc->yxc", shares, np.array(build.means())).astype(np.float32)
    rows = max(1, round(WIDE_PX * shot.height_px / shot.width_px))
    lit = build.daylight(DRAFT_ROWS)
    light = from_shot(build.heights, build.grid, colour, pose, lit, (rows, WIDE_PX))
    return fitted(srgb_bytes(light / (light + np.median(light) * 1.5)))


def of_places(build: Build) -> np.ndarray:
    """Dots where plants may stand, in the colours of their kinds; none is placed for it."""
    return _dotted(build, 0)


def of_plan(build: Build) -> np.ndarray:
    """Rings where plants may stand, as on a plan."""
    return _dotted(build, 2)


def _dotted(build: Build, ring_px: int) -> np.ndarray:
    rows = max(1, round(WIDE_PX * build.grid.ny / build.grid.nx))
    out = np.empty((rows, WIDE_PX, 3), np.uint8)
    out[:] = PAPER
    site = build.site()
    shown = [(i, s) for i, s in enumerate(build.scene.planting) if s.on]
    for i, sowing in shown:
        held = ground_mask(sowing, site, f"planting.{i}")
        held = np.ones(build.grid.shape, np.float32) if held is None else held
        colour = srgb_bytes(np.array(seen_colour(build.names(i)[0]))).tolist()
        random = np.random.default_rng(i)
        u, v = random.random((2, DOTS // len(shown)))
        row, column = (u * held.shape[0]).astype(int), (v * held.shape[1]).astype(int)
        there = random.random(len(u)) < held[row, column]
        for y, x in zip((u[there] * rows).astype(int), (v[there] * WIDE_PX).astype(int)):
            cv2.circle(out, (int(x), int(y)), ring_px, colour, 1)
    return out


def of_packed(build: Build) -> np.ndarray:
    """The weights of the first materials as red, green and blue, as they lie in a file of four."""
    shares = build.ground()[:3]
    out = np.zeros((*build.grid.shape, 3), np.float32)
    out[..., : len(shares)] = np.moveaxis(shares, 0, -1) * 255
    return fitted(out)


def of_textures(build: Build) -> np.ndarray:
    """The materials' own pictures, side by side."""
    shown = [m for m in build.scene.ground if m.on][:4]
    if not shown:
        return fitted(np.broadcast_to(PAPER, (72, WIDE_PX, 3)))
    stripes = [build.ground_of(m).maps()[0][:384, : 512 // len(shown), :3] for m in shown]
    return fitted(np.concatenate(stripes, 1))


def of_far(build: Build) -> np.ndarray:
    """The relief of the land beyond the plot."""
    heights, grid = far_land(build)
    return fitted(shaded(heights, grid.spacing, 1.5))


def of_kinds(build: Build) -> np.ndarray:
    """The first kinds that stand in the scene, side by side."""
    names = [part.kind for s in build.scene.planting if s.on for part in s.mix]
    names += [p.kind for p in build.scene.pieces if p.on]
    there = list(dict.fromkeys(n for n in names if n in kinds or n.startswith("own-")))[:3]
    out = np.empty((72, WIDE_PX, 3), np.float32)
    out[:] = PAPER
    wide = WIDE_PX // max(len(there), 1)
    for k, name in enumerate(there):
        drawn = portrait(kind_of(name)).astype(np.float32)
        share = min(wide / drawn.shape[1], 68 / drawn.shape[0])
        size = max(1, int(drawn.shape[1] * share)), max(1, int(drawn.shape[0] * share))
        small = cv2.resize(drawn, size, interpolation=cv2.INTER_AREA)
        covers = small[..., 3:] / 255
        part = out[70 - size[1] : 70, k * wide : k * wide + size[0]]
        part += covers * (small[..., :3] - part)
    return fitted(out)


def of_slope(build: Build) -> np.ndarray:
    """A sheet of the survey: the steeper, the darker."""
    share = np.clip(slope(build.heights, build.grid.spacing) / STEEPEST_DEG, 0, 1)
    return fitted(PAPER * (1 - 0.85 * share[..., None]))


def of_layers(build: Build) -> np.ndarray:
    """How far away is what the first shot sees: the nearer, the lighter."""
    shots = [s for s in build.shots() if s.on]
    out = np.zeros((54, WIDE_PX, 3), np.float32)
    if shots:
        away = _distances(build, shots[0], out.shape[:2])
        out += (255 / (1 + away / HALF_DARK_M))[..., None]
    return fitted(out)


def _distances(build: Build, shot: Shot, size: tuple[int, int]) -> np.ndarray:
    """How far off the ground is along each ray of a shot (rows, columns), m; inf for sky."""
    rows, columns = size
    right, up, ahead = axes(shot.bearing, shot.tilt)
    side = (np.arange(columns) + 0.5 - columns / 2) * 36 / shot.focal_mm / columns
    rise = (rows / 2 - np.arange(rows) - 0.5) * 36 / shot.focal_mm / columns
    rays = ahead + side[None, :, None] * right + rise[:, None, None] * up
    rays /= np.linalg.norm(rays, axis=-1, keepdims=True)
    eye = eye_over(shot, build.ground_at)
    plot = build.scene.plot
    away = np.full(size, np.inf)
    for d in np.geomspace(1, 2 * plot.longer_m, STEPS):
        east, north, height = np.moveaxis(eye + rays * d, -1, 0)
        inside = (east >= 0) & (north >= 0) & (east <= plot.width_m) & (north <= plot.depth_m)
        ground = heights_at(build.heights, build.grid, east.ravel(), north.ravel())
        under = inside & (height < ground.reshape(size)) & np.isinf(away)
        away[under] = d
    return away
