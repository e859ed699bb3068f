"""A scene made ready for the stage as one view needs it."""

import numpy as np

from ..build import Build
from ..sample import heights_at
from ..shots.shot import Shot, focus_of, opening_m
from .bodies import Setting
from .cards import card_bodies
from .choose import chosen, pieces_of
from .fan import far_bodies, ground_bodies, sheet_of
from .views import View, axes
from .waters import water_bodies


def view_of(build: Build, shot: Shot, width: int, height: int) -> View:
    """The view of a shot at a size in px."""
    right, up, ahead = axes(shot.bearing, shot.tilt)
    eye = eye_of(build, shot)
    return View(
        eye,
        right,
        up,
        ahead,
        shot.focal_mm,
        width,
        height,
        (shot.shift_aside / 100, shot.shift_up / 100),
        opening_m(shot),
        focus_in(build, shot),
    )


def eye_of(build: Build, shot: Shot) -> np.ndarray:
    """Where a shot's eye stands: east, north, up in m."""
    east, north = np.array([shot.east_m]), np.array([shot.north_m])
    foot = float(heights_at(build.heights, build.grid, east, north)[0])
    return np.array([shot.east_m, shot.north_m, foot + shot.eye_m])


def focus_in(build: Build, shot: Shot) -> float:
    """The distance in m along its axis at which a shot is sharp."""
    ground = lambda east, north: float(
        heights_at(build.heights, build.grid, np.array([east]), np.array([north]))[0]
    )
    return focus_of(shot, eye_of(build, shot), ground)


def setting_of(build: Build, view: View) -> Setting:
    """Land, waters, plants, pieces and lamps, as fine as a view needs them."""
    build.tell("ground", 0.1)
    bodies = ground_bodies(build, view) + far_bodies(build)
    bodies += water_bodies(build, sheet_of(build))
    build.tell("plants", 0.6)
    copies = [*chosen(build, view), *pieces_of(build, view)]
    _, outer = build.beyond(1)
    reach = float(outer.width_m) / 2
    bodies += card_bodies(build, view)
    return Setting(bodies, copies, build.in_air().lamps, middle_of(build), reach)


def middle_of(build: Build) -> tuple[float, float, float]:
    """The middle of the plot at the mean height of its ground, m."""
    plot = build.scene.plot
    return plot.width_m / 2, plot.depth_m / 2, float(build.heights.mean())
