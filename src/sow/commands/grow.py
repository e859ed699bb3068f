"""Write a scene's heightmap, masks, plants, glTF and the rest into a folder; or, by tiles, a land
larger than a machine.
"""

import argparse
import os
import sys

from ..core.errors import SceneError
from ..core.formats.folder import open_scene
from ..core.grow import grow
from ..core.settings import settings
from ..core.tiles.cut import Cut
from ..core.tiles.files import TileOrder
from ..tiles.grow import grow_tiles
from ..workers.pool import Pool
from ._scene import takes_scene, tell_left_out


def arguments(parser: argparse.ArgumentParser) -> None:
    """A scene, a folder, and how fine."""
    takes_scene(parser, "the folder to write into")
    parser.add_argument(
        "--size",
        type=int,
        metavar="N",
        help="posts along the longer side (default: the scene's own)",
    )
    parser.add_argument(
        "--ground-px",
        type=int,
        default=2048,
        metavar="PX",
        help="longer side of the baked ground picture",
    )
    parser.add_argument(
        "--only", metavar="NAME,...", help="what to write, as heights,plants,scene,usd"
    )
    tiles = parser.add_argument_group("a land larger than a machine")
    tiles.add_argument("--tiles", action="store_true", help="by tiles, each a part of the files")
    tiles.add_argument("--spacing", type=float, metavar="M", help="metres from post to post")
    tiles.add_argument("--tile-posts", type=int, default=1025, metavar="N", help="a side of a tile")
    tiles.add_argument("--forms", default="tif", help="of heights: tif, png, raw")
    tiles.add_argument("--no-plants", action="store_true", help="land, ground and water alone")
    tiles.add_argument("--workers", type=int, metavar="N", help="on this machine (default: cores)")


def run(args: argparse.Namespace) -> None:
    """Writes the files, or the tiles."""
    tell_left_out()
    (_grow_tiles if args.tiles else _grow)(args)


def _grow(args: argparse.Namespace) -> None:
    report = grow(
        *open_scene(args.scene),
        args.out,
        args.size,
        args.ground_px,
        only=args.only.split(",") if args.only else None,
        tell=lambda step, share: print(f"  {step}", file=sys.stderr),
    )
    print(
        f"{args.out}: {report['grid'][0]} × {report['grid'][1]} posts, "
        f"{report['plants_total']:,} plants, {report['seconds_total']:.1f} s"
    )


def _grow_tiles(args: argparse.Namespace) -> None:
    scene, rasters = open_scene(args.scene)
    forms = args.forms.split(",")
    if unknown := set(forms) - {"tif", "png", "raw"}:
        raise SceneError(f"There is no form {', '.join(sorted(unknown))}.", "forms", "tif,png,raw.")
    spacing = args.spacing or scene.plot.grid(args.size).spacing
    Cut.of(scene.plot, args.tile_posts, spacing)  # told before anything is begun
    order = TileOrder(
        posts=args.tile_posts,
        spacing_m=spacing,
        **{form: form in forms for form in ("tif", "png", "raw")},
        plants=not args.no_plants,
    )
    with Pool(settings().scheduler, args.workers or os.cpu_count() or 1) as pool:
        if pool.told:
            print(f"sow: {pool.told}", file=sys.stderr)
        tell = lambda done, of: print(f"  {done} of {of} tiles", file=sys.stderr)
        report = grow_tiles(scene, rasters, args.out, order, pool, tell)
    nx, ny = report["posts"]
    print(
        f"{args.out}: {report['tiles']} tiles ({report['grown']} grown), {nx} × {ny} posts, "
        f"{report['plants']:,} plants, {report['seconds']:.1f} s"
    )
