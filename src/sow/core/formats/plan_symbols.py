"""The symbols of a planting plan, and its inks."""

from collections.abc import Iterable

import numpy as np

from ..cabinet.kind import srgb_bytes
from ..planting.sowing import seen_colour
from .paper import FILL_NON_ZERO, Circle, Color, HexColor, Line, Path, Polygon, Rect, Shape, String

PAPER = HexColor("#f4efe4")
INK = HexColor("#23302b")
SOFT = HexColor("#8a8370")
WATER = HexColor("#8fb0bd")


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
            if number and r > 4
            else Circle(x, y, min(0.9, r * 0.3), fillColor=INK, strokeColor=None),
        ]
    if symbol == "ring":
        return [
            Circle(
                x, y, r, fillColor=Color(tone.red, tone.green, tone.blue, 0.55), strokeColor=None
            )
        ]
    if symbol == "outline":
        a = (x * 7.1 + y * 3.7) % 6.28
        return [
            Polygon(
                [
                    v
                    for k in range(5)
                    for v in (x + r * np.cos(a + k * 1.2566), y + r * 0.85 * np.sin(a + k * 1.2566))
                ],
                fillColor=tone,
                strokeColor=INK,
                strokeWidth=0.3,
            )
        ]
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

    Those whose symbol is one small plain shape are gathered into one path: a plan holds tens of
    thousands of them, and each shape of its own costs a fifth of a millisecond.
    """
    if symbol not in ("dot", "ring", "tick"):
        return [s for x, y, r in spots for s in plant_symbol(symbol, x, y, r, tone, number)]
    if symbol == "tick":
        path = Path(strokeColor=tone, strokeWidth=0.5, fillColor=None)
        for x, y, _ in spots:
            path.moveTo(x, y - 0.9)
            path.lineTo(x + 0.35, y + 0.9)
        return [path]
    fill = tone if symbol == "dot" else Color(tone.red, tone.green, tone.blue, 0.55)
    path = Path(fillColor=fill, strokeColor=None, fillMode=FILL_NON_ZERO)
    for x, y, r in spots:
        _circle(path, x, y, 0.7 if symbol == "dot" else max(r, 0.7))
    return [path]


def _circle(path: Path, x: float, y: float, r: float) -> None:
    """A round of four curves, which leave the circle by less than 0.03 % of its radius."""
    k = 0.5523 * r
    path.moveTo(x + r, y)
    path.curveTo(x + r, y + k, x + k, y + r, x, y + r)
    path.curveTo(x - k, y + r, x - r, y + k, x - r, y)
    path.curveTo(x - r, y - k, x - k, y - r, x, y - r)
    path.curveTo(x + k, y - r, x + r, y - k, x + r, y)
    path.closePath()
