"""Cut a scene out as a model, a GLB."""

import argparse

from ..core.build import Build
from ..core.cache import Cache
from ..core.formats.exhibit import Exhibit, exhibit
from ..core.formats.folder import open_scene
from ..core.formats.ownkind import model_glb
from ._scene import place_of, takes_scene, tell_left_out


def arguments(parser: argparse.ArgumentParser) -> None:
    """A scene, the file, and what is cut out."""
    takes_scene(parser, "the .glb to write")
    parser.add_argument("--at", metavar="E,N", help="its middle in m (default: the plot's)")
    parser.add_argument("--side", type=float, metavar="M", help="m across (default: the plot)")
    parser.add_argument("--cut", choices=("square", "disc"), default="square")
    parser.add_argument("--sides", choices=("earth", "rock"), default="earth")


def run(args: argparse.Namespace) -> None:
    """Writes the model."""
    tell_left_out()
    scene, rasters = open_scene(args.scene)
    plot = scene.plot
    side = args.side or min(plot.width_m, plot.depth_m)
    east, north = place_of(args.at or f"{plot.width_m / 2},{plot.depth_m / 2}")
    order = Exhibit(
        east_m=east, north_m=north, side_m=side, deep_m=side / 25, cut=args.cut, sides=args.sides
    )
    build = Build(scene, plot.view_grid(), Cache(6 << 30), rasters)
    model = exhibit(build, order)
    args.out.write_bytes(model_glb(model))
    print(f"{args.out}: {model.triangles:,} triangles, {side:g} m across")
