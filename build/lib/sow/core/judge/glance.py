"""A glance at the land from an eye, in the scene's light: for meters, faults and small pictures."""

import numpy as np

from ..air.light_of import DRAFT_ROWS, REST_ROWS
from ..build import Build
from ..sample import heights_at
from ..shots.shot import Shot
from ..shots.sketch import from_shot
from ..shots.standing import stand_before
from ..surface.material import tuned

DEEP = (0.012, 0.018, 0.020)  # linear colour of water seen into
METER_SIZE = 54, 96


def ground_colour(build: Build) -> np.ndarray:
    """Linear colour of the clothed ground, float64 (ny, nx, 3)."""
    shares = build.ground()
    if not len(shares):
        return np.full(build.grid.shape + (3,), 0.5)
    colour = np.zeros(build.grid.shape + (3,))
    east, north = np.meshgrid(build.grid.xs(), build.grid.ys())
    for material, share, mean in zip(build.scene.ground, shares, build.means()):
        own = mean
        if material.picture:
            own = tuned(material, build.picture_at(material, east, north)[..., :3])
        colour += share[..., None] * own
    return np.clip(colour, 0, 1)


def glance(
    build: Build,
    pose: dict,
    size: tuple[int, int],
    sowings: list[int] | tuple[int, ...] = (),
    clear: float = 0.0,
) -> np.ndarray:
    """The land from an eye as light in its units, float32 (rows, columns, 3), with what is sown
    standing on it; nothing stands within `clear` m of the eye.
    """
    lit = build.daylight(REST_ROWS if size[1] > 300 else DRAFT_ROWS)
    colour = ground_colour(build)
    cover = build.plant_cover()
    hidden = cover[..., 3:] * (0.25 if len(sowings) else 1.0)
    colour = colour + hidden * (np.clip(cover[..., :3], 0, 1) - colour)
    level = build.water()[0]
    wet = np.isfinite(level) & (level > build.heights)
    colour[wet] = DEEP
    drawn = np.where(wet, level, build.heights)
    mists, opens = build.in_air().mists, build.openness()
    face = from_shot(drawn, build.grid, colour, pose, lit, size, wet, mists, opens)
    return stand_before(face, build, list(sowings), pose, lit, clear) if len(sowings) else face


def through_shot(build: Build, shot: Shot) -> np.ndarray:
    """What a shot sees, exposed as the light is but not as the shot is, float32 (54, 96, 3)."""
    here = np.array([shot.east_m]), np.array([shot.north_m])
    foot = float(heights_at(build.heights, build.grid, *here)[0])
    pose = {
        "east": shot.east_m,
        "north": shot.north_m,
        "up": foot + shot.eye_m,
        "bearing": shot.bearing,
        "tilt": shot.tilt,
        "focal": shot.focal_mm,
    }
    return glance(build, pose, METER_SIZE) * build.daylight(DRAFT_ROWS).exposure
