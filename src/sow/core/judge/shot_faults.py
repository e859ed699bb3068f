"""What is wrong with a shot's picture before it is taken: sun in the lens, too dark, too bright."""

from collections.abc import Iterator

import numpy as np

from ..air.light_of import DRAFT_ROWS
from ..build import Build
from ..picture.film import graded
from ..picture.grade.base import bright, steps_of
from ..shots.shot import Shot, aside, field_of_view
from .glance import through_shot

DARK, BRIGHT = 0.045, 0.985  # of what a screen shows
MOST = 0.3  # of the picture that may be so
GREY = 0.18
MOST_STOPS = 6.0


def metered(build: Build, shot: Shot) -> float:
    """The exposure in stops at which the middle of what a shot sees (the mean of the logarithms of
    its luminance, the sky counted half) is middle grey, as a reflected meter has it (ISO 2720).
    """
    seen = np.log2(np.maximum(bright(through_shot(build, shot)), 1e-6) / GREY)[..., 0]
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


def shot_faults(build: Build) -> Iterator[tuple[str, Shot, str]]:
    """Faults of the shots that are on: what it is ("sun", "dark", "bright"), the shot, in words."""
    for shot in build.shots():
        if not shot.on:
            continue
        if sun_in_frame(build, shot):
            yield "sun", shot, "has the sun in its frame: turn it, or hide the sun behind something"
        light = through_shot(build, shot) * 2.0**shot.exposure
        shown = graded(
            light, shot.film, steps_of(build.scene.grade, shot.id, build.grade_raster)
        ).mean(-1)
        advice = f"expose it by {metered(build, shot):+.1f} EV"
        if float((shown < DARK).mean()) > MOST:
            yield "dark", shot, f"is black in {100 * (shown < DARK).mean():.0f} % of it: {advice}"
        if float((shown > BRIGHT).mean()) > MOST:
            share = 100 * (shown > BRIGHT).mean()
            yield "bright", shot, f"is blown in {share:.0f} % of it: {advice}"
