"""Write a part of a land larger than a machine in full, as a scene."""

import argparse

from ..core.formats.folder import open_scene
from ..core.inward.read import write_read
from ..core.inward.window import window_of
from ._scene import place_of, takes_scene, tell_left_out


def arguments(parser: argparse.ArgumentParser) -> None:
    """A scene, the file, and which part."""
    takes_scene(parser, "the scene's zip to write")
    parser.add_argument("--at", metavar="E,N", required=True, help="its middle in m")
    parser.add_argument("--side", type=float, metavar="M", required=True, help="m across")
    parser.add_argument("--spacing", type=float, metavar="M", default=1.0, help="post to post")


def run(args: argparse.Namespace) -> None:
    """Writes the scene."""
    tell_left_out()
    scene, rasters = open_scene(args.scene)
    package = window_of(scene, rasters, *place_of(args.at), args.side, args.spacing)
    with open(args.out, "wb") as out:
        write_read(package, out)
    print(f"{args.out}: {args.side:g} m, posts {args.spacing:g} m apart")
