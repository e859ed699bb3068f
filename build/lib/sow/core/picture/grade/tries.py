"""Grades to try against one another on a proof sheet."""

from dataclasses import dataclass
from typing import Any

from ...document.offers import Values
from ..film import RESPONSES
from .ready import READY


@dataclass(frozen=True)
class GradeTry:
    """One try: its label, the film, the exposure, and the steps of its shot as plain values."""

    label: str
    film: str
    exposure: float
    steps: list[Values]


def entries_of(name: str, shot: str, fresh: Any) -> list[Values]:
    """The steps of a ready grade for a shot as complete entries; `fresh()` gives their ids."""
    return [{"id": fresh(), "on": True, "shot": shot, **step} for step in READY[name][1]]


def _numbered(steps: list[Values], shot: str) -> list[Values]:
    return [{"id": f"try-{i}", "on": True, "shot": shot, **step} for i, step in enumerate(steps)]


def tries(mode: str, shot: str, film: str, exposure: float, own: list[Values]) -> list[GradeTry]:
    """Tries for a shot whose film, exposure and steps are given: `ready` grades, `films`,
    `exposures`, or `around` its own warmth, contrast and saturation.
    """
    now = GradeTry("as now", film, exposure, own)
    if mode == "films":
        return [GradeTry(r.label, name, exposure, own) for name, r in RESPONSES.items()]
    if mode == "exposures":
        stops = [-2, -1.5, -1, -0.66, -0.33, 0, 0.33, 0.66, 1, 1.5, 2]
        return [
            GradeTry(f"{exposure + s:+.2f} EV", film, round(exposure + s, 2), own) for s in stops
        ]
    if mode == "ready":
        ready = [
            GradeTry(label, film, exposure, _numbered(steps, shot))
            for label, steps in READY.values()
        ]
        return [now, *ready]
    out = [now]
    for warm, contrast, full in (
        (5600, 100, 100),
        (7600, 100, 100),
        (6500, 88, 100),
        (6500, 114, 100),
        (6500, 100, 78),
        (6500, 100, 118),
        (7600, 112, 94),
        (5600, 112, 90),
        (7600, 90, 108),
        (5600, 90, 80),
        (8600, 106, 110),
    ):
        more = [
            {"kind": "warmth", "name": "Warmth", "kelvin": warm},
            {"kind": "contrast", "name": "Contrast", "contrast": contrast},
            {"kind": "saturation", "name": "Saturation", "saturation": full},
        ]
        told = [
            f"{warm} K" if warm != 6500 else "",
            f"contrast {contrast} %" if contrast != 100 else "",
            f"saturation {full} %" if full != 100 else "",
        ]
        used = [step for step, words in zip(more, told) if words]
        label = ", ".join(t for t in told if t)
        steps = _numbered(used, shot)
        for step in steps:
            step["id"] = f"around-{step['id']}"
        out.append(GradeTry(label, film, exposure, [*own, *steps]))
    return out
