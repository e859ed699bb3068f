"""The drawing library, set up before its shapes are loaded: the same scene gives the same bytes,
and none of the 40,000 shapes of a plan has its attributes checked one by one.
"""

import gc
from collections.abc import Iterator
from contextlib import contextmanager

from reportlab import rl_config

rl_config.invariant = 1
rl_config.shapeChecking = 0

from reportlab.graphics import renderPDF, renderSVG  # noqa: E402
from reportlab.graphics.shapes import (  # noqa: E402
    FILL_NON_ZERO,
    Circle,
    Drawing,
    Group,
    Line,
    Path,
    Polygon,
    PolyLine,
    Rect,
    Shape,
    String,
)
from reportlab.lib.colors import Color, HexColor  # noqa: E402


@contextmanager
def collecting_paused() -> Iterator[None]:
    """A plan's shapes live until it is written: looking through them for garbage, again and again,
    takes a third of its time.
    """
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


__all__ = [
    "collecting_paused",
    "Circle",
    "Color",
    "Drawing",
    "Group",
    "HexColor",
    "Line",
    "FILL_NON_ZERO",
    "Path",
    "PolyLine",
    "Polygon",
    "Rect",
    "Shape",
    "String",
    "renderPDF",
    "renderSVG",
]
