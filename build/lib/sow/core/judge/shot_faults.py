"""What is wrong with a shot's picture before it is taken: sun in the lens, too dark or too bright,
the edge of the world in sight, an empty middle distance, a ground that repeats itself.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..air.light_of import DRAFT_ROWS
from ..build import Build
from ..cabinet import worn
from ..picture.film import graded
from ..picture.grade.base import bright, steps_of
from ..planting.formed import form_of, sizes_of
from ..sample import values_at
from ..shots.shot import Shot, aside, beyond_frame, eye_over, field_of_view
from ..surface.bake import colour_at
from ..surface.repeat import repetition
from .glance import through_shot
from .in_frame import InFrame, in_frame

DARK, BRIGHT = 0.045, 0.985  # of what a screen shows
MOST = 0.3  # of the picture that may be so
GREY = 0.18
MOST_STOPS = 6.0
EDGE = 0.004  # of the picture from which an edge is told
RIM = 0.8  # of the way to the land's end, from which on its rim begins
CLEAR = 0.12  # of a thing's light that haze must let through for an edge to show
MIDDLE_M = 25.0, 260.0  # the middle distance
LEAST_MIDDLE = 0.06  # of the picture
LEAST_THINGS = 3
LEAST_PX = 9.0  # of height on the picture that count
LEAST_TALL_M = 0.4
SAMPLE_M, SAMPLE_PX = 48.0, 384
REPEATS = 0.3  # above it an eye finds the period


def metered(build: Build, shot: Shot) -> float:
    """The exposure in stops at which the middle of what a shot sees (the mean of the logarithms of
    its luminance, the sky counted half) is middle grey, as a reflected meter has it (ISO 2720).
    """
    return metered_of(through_shot(build, shot))


def metered_of(light: np.ndarray) -> float:
    """What a meter says of light that a shot sees, in stops."""
    seen = np.log2(np.maximum(bright(light), 1e-6) / GREY)[..., 0]
    weight = np.ones(seen.shape)
    weight[: seen.shape[0] // 3] = 0.5
    # the film lifts middling light, so that a grey card comes out as on paper
    stops = -float((seen * weight).sum() / weight.sum()) - 0.75
    return float(np.clip(round(stops, 2), -MOST_STOPS, MOST_STOPS))


def sun_in_frame(build: Build, shot: Shot) -> bool:
    """Whether the sun stands within a shot's frame, where land does not hide it."""
    lit = build.daylight(DRAFT_ROWS)
    if lit.sun[2] <= 0 or lit.sunlight.max() <= 0:
        return False
    beside, half = aside(shot, lit.sun[0], lit.sun[1])
    across, up = field_of_view(shot)
    over = np.rad2deg(np.arcsin(lit.sun[2])) - shot.tilt
    return bool(beside < half and abs(over) < up / 2)


@dataclass(frozen=True)
class ShotFault:
    """What is wrong with a shot's picture: of what sort, in words with a way to mend it, and where
    (east, north in m; its own place where it is all of it).
    """

    what: str
    shot: Shot
    told: str
    east_m: float
    north_m: float


def shot_faults(build: Build) -> Iterator[ShotFault]:
    """Faults of the shots that are on."""
    for shot in build.shots():
        if not shot.on:
            continue
        for what, told, *where in _of_one(build, shot):
            east, north = where or (shot.east_m, shot.north_m)
            yield ShotFault(what, shot, told, float(east), float(north))


def _of_one(build: Build, shot: Shot) -> Iterator[tuple]:
    plot = build.scene.plot
    if not (0 <= shot.east_m <= plot.width_m and 0 <= shot.north_m <= plot.depth_m):
        yield "outside", "stands beyond the plot: bring it in, or make the plot larger"
        return
    under = _under_water(build, shot)
    if under > 0:
        yield "outside", f"stands {under:.1f} m under water: raise its eye"
    if sun_in_frame(build, shot):
        yield "sun", "has the sun in its frame: turn it, or hide the sun behind something"
    light = through_shot(build, shot)
    grade = steps_of(build.scene.grade, shot.id, build.grade_raster)
    shown = graded(light * 2.0**shot.exposure, shot.film, grade).mean(-1)
    advice = f"expose it by {metered_of(light):+.1f} EV"
    if float((shown < DARK).mean()) > MOST:
        yield "dark", f"is black in {100 * (shown < DARK).mean():.0f} % of it: {advice}"
    if float((shown > BRIGHT).mean()) > MOST:
        yield "bright", f"is blown in {100 * (shown > BRIGHT).mean():.0f} % of it: {advice}"
    seen = in_frame(build, shot)
    yield from _edge(build, shot, seen)
    yield from _empty(build, shot, seen)
    yield from _repeated(build, seen)


def _under_water(build: Build, shot: Shot) -> float:
    """Metres by which an eye stands under water; 0 above it."""
    if not build.scene.water:
        return 0.0
    place = np.array([shot.east_m]), np.array([shot.north_m])
    level = float(values_at(build.water()[0], build.grid, *place)[0])
    up = build.ground_at(shot.east_m, shot.north_m) + shot.eye_m
    return level - up if np.isfinite(level) else 0.0


def _edge(build: Build, shot: Shot, seen: InFrame) -> Iterator[tuple]:
    """The end of the land in sight: rays that fall past it, or a rim that no haze hides."""
    share = float(seen.falls.mean())
    if share > EDGE:
        mend = "let the land run on beyond the plot, or turn the shot"
        yield "edge", f"shows the edge of the world in {100 * share:.0f} % of it: {mend}"
        return
    far = seen.away > RIM * seen.reach_m
    if float(far.mean()) <= EDGE:
        return
    haze = build.daylight(DRAFT_ROWS).haze
    eye = build.ground_at(shot.east_m, shot.north_m) + shot.eye_m
    passes = haze.passes(eye, seen.place[far][:, 2], seen.away[far]).mean()
    if passes > CLEAR:
        mend = "thicken the haze, or let the far land reach farther"
        yield "edge", f"shows where the far land ends, {seen.reach_m / 1000:.0f} km off: {mend}"


def _empty(build: Build, shot: Shot, seen: InFrame) -> Iterator[tuple]:
    """A middle distance in which nothing stands."""
    middle = (seen.away > MIDDLE_M[0]) & (seen.away < MIDDLE_M[1])
    if float(middle.mean()) < LEAST_MIDDLE:
        return
    focal = shot.width_px * shot.focal_mm / 36
    count = 0
    for east, north, up, tall in _standing(build):
        eye = eye_over(shot, build.ground_at)
        away = np.sqrt((east - eye[0]) ** 2 + (north - eye[1]) ** 2 + (up - eye[2]) ** 2)
        near = (away > MIDDLE_M[0]) & (away < MIDDLE_M[1]) & (tall * focal / away > LEAST_PX)
        if near.any():
            beyond = beyond_frame(shot, eye, east[near], north[near], up[near])
            count += int((beyond < tall[near]).sum())
    if count < LEAST_THINGS:
        place = seen.place[middle].mean(0)
        told = "nothing" if count == 0 else f"only {count} things"
        mend = "let a tree, a stone or a path lead the eye there"
        yield "empty", f"has an empty middle distance, {told} in it: {mend}", *place[:2]


def _standing(build: Build) -> Iterator[tuple[np.ndarray, ...]]:
    """Places and heights of all that stands higher than LEAST_TALL_M: east, north, up, tall."""
    for i, sowing in enumerate(build.scene.planting):
        if not sowing.on:
            continue
        plants = build.plants(i)
        for k, name in enumerate(build.names(i)):
            here = plants.kind == k
            tall = worn(name)[0].height_m * plants.size[here]
            high = tall > LEAST_TALL_M
            if high.any():
                places = (plants.east, plants.north, plants.up)
                yield *(p[here][high] for p in places), tall[high]
    pieces = build.pieces()
    if pieces:
        column = lambda key: np.array([float(p[key]) for p in pieces])
        tall = np.array([form_of(p).height_m * sizes_of(p)[2] for p in pieces])
        yield column("east_m"), column("north_m"), column("up_m"), tall


def _repeated(build: Build, seen: InFrame) -> Iterator[tuple]:
    """The ground's own picture repeating itself where the frame sees the most of it."""
    near = np.isfinite(seen.away) & (seen.away < MIDDLE_M[1])
    if not build.scene.ground or float(near.mean()) < LEAST_MIDDLE:
        return
    middle = np.median(seen.place[near], axis=0)
    across = (np.arange(SAMPLE_PX) - SAMPLE_PX / 2) * SAMPLE_M / SAMPLE_PX
    score = repetition(colour_at(build, middle[0] + across, middle[1] - across))
    if score > REPEATS:
        mend = "vary its size and turn, or lay a second material in patches"
        yield "repeat", f"shows a ground that repeats itself ({score:.2f}): {mend}", *middle[:2]
