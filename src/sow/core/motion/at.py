"""A scene at a moment, and how long its moves last."""

from collections.abc import Callable

import numpy as np

from ..build import Build
from ..errors import SceneError
from ..sample import values_at
from ..shots.shot import Shot, aimed
from .base import Moment, Move, OverTime, moves


def moves_of(build: Build, shot: str) -> list[Move]:
    """The moves that hold for a shot, in the order of their beginnings."""
    held = [m for m in build.scene.moves if m.on and m.shot in ("", shot)]
    return sorted(held, key=lambda m: m.starts_s)


def lasts_s(build: Build, shot: str) -> float:
    """Seconds until the last move for a shot is over; 0 where nothing moves."""
    return max((m.ends_s for m in moves_of(build, shot)), default=0.0)


def over_of(build: Build) -> OverTime:
    """What moves ask of a scene."""
    level: list[np.ndarray] = []

    def surface(east: float, north: float) -> float:
        foot = build.ground_at(east, north)
        if not build.scene.water:
            return foot
        if not level:
            level.append(build.water()[0])
        wet = float(values_at(level[0], build.grid, np.array([east]), np.array([north]))[0])
        return max(foot, wet) if np.isfinite(wet) else foot

    s = build.scene
    return OverTime(build.ground_at, surface, s.marks, build.shots(), s.pieces)


def moments(build: Build, shot: Shot) -> Callable[[float], Moment]:
    """A function from a time in s to the scene as it is then, seen from a shot. It raises
    SceneError where a move cannot be made.
    """
    over, held = over_of(build), moves_of(build, shot.id)

    def at(seconds: float) -> Moment:
        moment = Moment(seconds, build.scene.light, shot)
        for move in held:
            if seconds < move.starts_s:
                continue
            try:
                moves.functions[move.kind](move, moment, over)
            except SceneError as e:
                index = build.scene.moves.index(move)
                raise SceneError(e.message, f"moves.{index}", e.advice, move.name) from None
        moment.shot = aimed(moment.shot, build.ground_at)
        return moment

    return at
