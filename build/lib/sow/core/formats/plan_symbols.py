"""The symbols of a planting plan, and its inks."""

from collections.abc import Iterable
from math import cos, sin

import numpy as np

from ..cabinet.kind import srgb_bytes
from ..planting.sowing import seen_colour
from .paper import FILL_NON_ZERO, Circle, Color, HexColor, Line, Path, Rect, Shape, String

PAPER = HexColor("#f4efe4")
INK = HexColor("#23302b")
SOFT = HexColor("#8a8370")
WATER = HexColor("#8fb0bd")
SMALL = 1.5  # points of a circle's radius below which it may be a little out of round
NUMBERED = 4  # points of a canopy's reach from which on its number stands in it


def tone_of(name: str) -> Color:
    """The colour a kind is drawn in, by its name with its look."""
    r, g, b = (srgb_bytes(np.clip(np.array(seen_colour(name)) * 1.25, 0, 1)) / 255.0).tolist()
    return Color(r, g, b)


def plant_symbol(
    symbol: str, x: float, y: float, r: float, tone: Color, number: int = 0
) -> list[Shape]:
    """One plant in plan, by its family's symbol: a tree is a canopy with its stem, a shrub a lobed
    ring, grass a tick, a flower a dot, a stone an angular outline.
    """
    r = max(r, 0.7)
    if symbol == "canopy":
        return [
            Circle(
                x,
                y,
                r,
                fillColor=Color(tone.red, tone.green, tone.blue, 0.35),
                strokeColor=tone,
                strokeWidth=0.5,
            ),
            String(x, y - 1.7, str(number), fontSize=5, textAnchor="middle", fillColor=INK)
            if number and r > NUMBERED
            else Circle(x, y, min(0.9, r * 0.3), fillColor=INK, strokeColor=None),
        ]
    if symbol == "ring":
        return [
            Circle(
                x, y, r, fillColor=Color(tone.red, tone.green, tone.blue, 0.55), strokeColor=None
            )
        ]
    if symbol == "outline":
        path = Path(fillColor=tone, strokeColor=INK, strokeWidth=0.3)
        _stone(path, x, y, r)
        return [path]
    if symbol == "box":
        return [
            Rect(
                x - r, y - r * 0.7, 2 * r, 1.4 * r, fillColor=tone, strokeColor=INK, strokeWidth=0.5
            )
        ]
    if symbol == "dot":
        return [Circle(x, y, 0.7, fillColor=tone, strokeColor=None)]
    return [Line(x, y - 0.9, x + 0.35, y + 0.9, strokeColor=tone, strokeWidth=0.5)]


def plant_symbols(
    symbol: str, spots: Iterable[tuple[float, float, float]], tone: Color, number: int = 0
) -> list[Shape]:
    """Many plants of one kind in plan, each at x, y with its reach r in points, (x, y, r).

    What they have alike is gathered into one path: a plan holds tens of thousands of them, and each
    shape of its own costs a fifth of a millisecond.
    """
    if symbol == "tick":
        path = Path(strokeColor=tone, strokeWidth=0.5, fillColor=None)
        for x, y, _ in spots:
            path.moveTo(x, y - 0.9)
            path.lineTo(x + 0.35, y + 0.9)
        return [path]
    if symbol == "canopy":
        return _canopies(spots, tone, number)
    if symbol == "outline":
        path = Path(fillColor=tone, strokeColor=INK, strokeWidth=0.3, fillMode=FILL_NON_ZERO)
        for x, y, r in spots:
            _stone(path, x, y, max(r, 0.7))
        return [path]
    if symbol not in ("dot", "ring"):
        return [s for x, y, r in spots for s in plant_symbol(symbol, x, y, r, tone, number)]
    fill = tone if symbol == "dot" else Color(tone.red, tone.green, tone.blue, 0.55)
    path = Path(fillColor=fill, strokeColor=None, fillMode=FILL_NON_ZERO)
    for x, y, r in spots:
        _circle(path, x, y, 0.7 if symbol == "dot" else max(r, 0.7))
    return [path]


def _canopies(spots: Iterable[tuple[float, float, float]], tone: Color, number: int) -> list[Shape]:
    """Canopies, those that are large enough with their number, the others with their stem."""
    soft = Color(tone.red, tone.green, tone.blue, 0.35)
    crowns = Path(fillColor=soft, strokeColor=tone, strokeWidth=0.5, fillMode=FILL_NON_ZERO)
    stems = Path(fillColor=INK, strokeColor=None, fillMode=FILL_NON_ZERO)
    numbers = []
    for x, y, r in spots:
        r = max(r, 0.7)
        _circle(crowns, x, y, r)
        if number and r > NUMBERED:
            told = String(x, y - 1.7, str(number), fontSize=5, textAnchor="middle", fillColor=INK)
            numbers.append(told)
        else:
            _circle(stems, x, y, min(0.9, r * 0.3))
    return [crowns, stems, *numbers] if stems.points else [crowns, *numbers]


def _stone(path: Path, x: float, y: float, r: float) -> None:
    """An angular outline, turned by where it lies."""
    turn = (x * 7.1 + y * 3.7) % 6.28
    for k in range(5):
        a = turn + k * 1.2566
        place = path.lineTo if k else path.moveTo
        place(x + r * cos(a), y + r * 0.85 * sin(a))
    path.closePath()


def _circle(path: Path, x: float, y: float, r: float) -> None:
    """A round of four curves, which leave the circle by less than 0.03 % of its radius; a small one
    of two, by less than 2 %.
    """
    if r < SMALL:
        k = 4 / 3 * r
        path.moveTo(x + r, y)
        path.curveTo(x + r, y + k, x - r, y + k, x - r, y)
        path.curveTo(x - r, y - k, x + r, y - k, x + r, y)
        path.closePath()
        return
    k = 0.5523 * r
    path.moveTo(x + r, y)
    path.curveTo(x + r, y + k, x + k, y + r, x, y + r)
    path.curveTo(x - k, y + r, x - r, y + k, x - r, y)
    path.curveTo(x - r, y - k, x - k, y - r, x, y - r)
    path.curveTo(x + k, y - r, x + r, y - k, x + r, y)
    path.closePath()
