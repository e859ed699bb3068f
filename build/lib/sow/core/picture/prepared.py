"""A scene made ready for the stage as one view needs it."""

from dataclasses import replace

from ..air.things.lamp import LampLight
from ..build import Build
from ..build.far_land import far_land
from ..motion.base import Moment
from ..shots.shot import Shot, aimed, axes, eye_over, focus_of, opening_m
from .bodies import Body, Setting
from .cards import card_bodies
from .choose import chosen, pieces_of
from .fan import far_bodies, ground_bodies
from .foot import foot_of
from .shed import shed_of
from .sway import sway_of
from .views import View
from .water_skin import drained
from .waters import water_bodies


def view_of(build: Build, shot: Shot, width: int, height: int) -> View:
    """The view of a shot at a size in px."""
    shot = aimed(shot, build.ground_at)
    right, up, ahead = axes(shot.bearing, shot.tilt)
    eye = eye_over(shot, build.ground_at)
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


def focus_in(build: Build, shot: Shot) -> float:
    """The distance in m along its axis at which a shot is sharp."""
    return focus_of(shot, eye_over(shot, build.ground_at), build.ground_at)


def land_of(build: Build, view: View) -> list[Body]:
    """The land as fine as a view needs it, and the far land."""
    build.tell("ground", 0.1)
    near = [replace(b, of="ground") for b in ground_bodies(build, view)]
    return near + [replace(b, of="far land") for b in far_bodies(build)]


def setting_of(
    build: Build, view: View, moment: Moment | None = None, land: list[Body] | None = None
) -> Setting:
    """Land, waters, plants, pieces and lamps, as fine as a view needs them, at a moment if any;
    `land` is that of `land_of` where it is there already.
    """
    bodies = list(land_of(build, view) if land is None else land)
    bodies += water_bodies(build, view, bodies, moment)
    bodies[0] = drained(build, view, bodies[0], moment.waves_s if moment else 0.0)
    build.tell("plants", 0.6)
    sway = sway_of(build, moment) if moment and moment.wind else None
    copies = [*chosen(build, view, sway), *pieces_of(build, view, moment), *foot_of(build, view)]
    copies += shed_of(build, view)
    _, outer = far_land(build, 1)
    reach = float(outer.width_m) / 2
    bodies += card_bodies(build, view)
    return Setting(bodies, copies, _lamps(build), middle_of(build), reach)


def _lamps(build: Build) -> list[LampLight]:
    """The lamps, each with what it spares by the names that stand on a stage."""
    scene = build.scene
    names = {s.id: f"sowing {s.name}" for s in scene.planting}
    names |= {p.id: f"piece {p.name}" for p in scene.pieces}
    return [
        replace(lamp, spares=tuple(names[i] for i in lamp.spares if i in names))
        for lamp in build.in_air().lamps
    ]


def middle_of(build: Build) -> tuple[float, float, float]:
    """The middle of the plot at the mean height of its ground, m."""
    plot = build.scene.plot
    return plot.width_m / 2, plot.depth_m / 2, float(build.heights.mean())
