"""The command line of the core: grow, work, works, sun and schema.

It needs no database and no browser.
"""

import argparse
import json
import sys
from pathlib import Path

from .core.air.sun import moment_of, sun_place
from .core.document.extra import troubles
from .core.errors import SceneError
from .core.formats.folder import open_scene
from .core.grow import grow
from .core.scene import schema
from .core.works import do, works


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="sow", description="Grow a scene into files.")
    commands = parser.add_subparsers(dest="command", required=True)
    grown = commands.add_parser("grow", help="write a scene's heightmap, materials, plants, glTF")
    grown.add_argument("scene", help="a scene.json with its rasters beside it, its folder, a zip")
    grown.add_argument("out", type=Path, help="the folder to write into")
    grown.add_argument(
        "--size",
        type=int,
        metavar="N",
        help="posts along the longer side (default: the scene's own)",
    )
    grown.add_argument(
        "--ground-px",
        type=int,
        default=2048,
        metavar="PX",
        help="longer side of the baked ground picture",
    )
    done = commands.add_parser("work", help="do a work on a scene and write the new document")
    done.add_argument("scene", help="a scene.json with its rasters beside it, its folder, a zip")
    done.add_argument("name", help="the work's name, as ./sow works lists them")
    done.add_argument("values", help="what it is asked with, as JSON")
    done.add_argument("out", type=Path, help="the scene.json to write")
    sun = commands.add_parser("sun", help="print where the sun stands, as JSON")
    sun.add_argument("latitude", type=float, help="degrees north")
    sun.add_argument("longitude", type=float, help="degrees east")
    sun.add_argument("moment", help="as 2026-06-21T15:00:00+02:00")
    commands.add_parser("works", help="list the works")
    commands.add_parser("schema", help="print the JSON Schema of a scene")
    return parser


def _grow(args: argparse.Namespace) -> None:
    report = grow(
        *open_scene(args.scene),
        args.out,
        args.size,
        args.ground_px,
        tell=lambda step, share: print(f"  {step}", file=sys.stderr),
    )
    print(
        f"{args.out}: {report['grid'][0]} × {report['grid'][1]} posts, "
        f"{report['plants_total']:,} plants, {report['seconds_total']:.1f} s"
    )


def _work(args: argparse.Namespace) -> None:
    scene, rasters = open_scene(args.scene)
    try:
        values = json.loads(args.values)
    except json.JSONDecodeError as e:
        raise SceneError(f"The values are no JSON: {e}.", "values", "Give an object.") from None
    done = do(args.name, scene, values, rasters=rasters)
    args.out.write_text(json.dumps(done.document, indent=1) + "\n")
    print(done.label or done.told or "Nothing was changed.")


def main(argv: list[str] | None = None) -> int:
    """Runs one command; gives the exit status, 2 when the person must mend something."""
    args = _parser().parse_args(argv)
    for trouble in troubles:
        print(f"sow: {trouble.file} was left out: {trouble.message}", file=sys.stderr)
    try:
        if args.command == "schema":
            print(json.dumps(schema(), indent=1))
        elif args.command == "works":
            for name, work in works.items():
                print(f"{name}: {' '.join(work.help.split())}")
        elif args.command == "sun":
            place = sun_place(args.latitude, args.longitude, moment_of(args.moment))
            print(json.dumps(vars(place)))
        elif args.command == "work":
            _work(args)
        else:
            _grow(args)
        return 0
    except SceneError as e:
        print(f"sow: {e}", file=sys.stderr)
        return 2


if __name__ == "__main__":
    sys.exit(main())
