"""What the commands share that take a scene."""

import argparse
import sys
from pathlib import Path

from ..core import works  # noqa: F401  (with it every sort of a studio's data is read)
from ..core.document.extra import troubles
from ..core.errors import SceneError

SCENE = "a scene.json with its rasters beside it, its folder, a zip"


def takes_scene(parser: argparse.ArgumentParser, out: str) -> None:
    """A scene, and where to write."""
    parser.add_argument("scene", help=SCENE)
    parser.add_argument("out", type=Path, help=out)


def tell_left_out() -> None:
    """Says which files of a studio were left out, and why."""
    for trouble in troubles:
        print(f"sow: {trouble.file} was left out: {trouble.message}", file=sys.stderr)


def place_of(text: str) -> tuple[float, float]:
    """East and north in m, from "200,350". Raises SceneError."""
    try:
        east, north = (float(v) for v in text.split(","))
        return east, north
    except ValueError:
        raise SceneError(f"'{text}' is no place.", "at", "Give it as 200,350.") from None
