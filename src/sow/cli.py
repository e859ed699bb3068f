"""The command line of the core: grow and schema. It needs no database and no browser."""

import argparse
import json
import sys
from pathlib import Path

from .core.errors import SceneError
from .core.formats.folder import open_scene
from .core.grow import grow as run
from .core.scene import schema


def main(argv: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="sow", description="Grow a scene into files.")
    commands = parser.add_subparsers(dest="command", required=True)
    grow = commands.add_parser("grow", help="write a scene's heightmap, materials, plants and glTF")
    grow.add_argument("scene", help="a scene.json with its rasters beside it, its folder, or a zip")
    grow.add_argument("out", type=Path, help="the folder to write into")
    grow.add_argument(
        "--size",
        type=int,
        metavar="N",
        help="posts along the longer side (default: the scene's own)",
    )
    grow.add_argument(
        "--ground-px",
        type=int,
        default=2048,
        metavar="PX",
        help="longer side of the baked ground picture",
    )
    commands.add_parser("schema", help="print the JSON Schema of a scene")
    args = parser.parse_args(argv)
    try:
        if args.command == "schema":
            print(json.dumps(schema(), indent=1))
            return 0

        report = run(
            *open_scene(args.scene),
            args.out,
            args.size,
            args.ground_px,
            tell=lambda step, share: print(f"  {step}", file=sys.stderr),
        )
        print(
            f"{args.out}: {report['grid'][0]} × {report['grid'][1]} posts, "
            f"{report['plants_total']:,} plants, "
            f"{report['seconds_total']:.1f} s"
        )
        return 0
    except SceneError as e:
        print(f"sow: {e}", file=sys.stderr)
        return 2


if __name__ == "__main__":
    sys.exit(main())
