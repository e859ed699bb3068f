"""The command line of the core: grow, read, still, kind, work, works, sun and schema.

It needs no database and no browser.
"""

import argparse
import json
import os
import sys
import tempfile
from pathlib import Path

from .core.air.sun import moment_of, sun_place
from .core.build import Build
from .core.cache import Cache
from .core.document.extra import troubles
from .core.errors import SceneError
from .core.formats.clipfiles import write_clip
from .core.formats.exhibit import Exhibit, exhibit
from .core.formats.folder import open_scene
from .core.formats.kindfiles import write_kind
from .core.formats.ownkind import model_glb
from .core.formats.raster import file_name
from .core.formats.stillfiles import write_frame, write_still
from .core.grow import grow
from .core.inward.read import read_any, write_read
from .core.inward.window import window_of
from .core.picture.clip import Frames
from .core.picture.order import PASSES, PROJECTIONS, Clip, Order, size_of
from .core.picture.still import Still, Told
from .core.picture.wrap import CONVENTIONS
from .core.scene import schema
from .core.shots.shot import Shot
from .core.tiles.cut import Cut
from .core.tiles.files import TileOrder
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
    grown.add_argument(
        "--only", metavar="NAME,...", help="what to write, as heights,plants,scene,usd"
    )
    tiles = grown.add_argument_group("a land larger than a machine")
    tiles.add_argument("--tiles", action="store_true", help="by tiles, each a part of the files")
    tiles.add_argument("--spacing", type=float, metavar="M", help="metres from post to post")
    tiles.add_argument("--tile-posts", type=int, default=1025, metavar="N", help="a side of a tile")
    tiles.add_argument("--forms", default="tif", help="of heights: tif, png, raw")
    tiles.add_argument("--no-plants", action="store_true", help="land, ground and water alone")
    tiles.add_argument("--workers", type=int, metavar="N", help="on this machine (default: cores)")
    still = commands.add_parser("still", help="take the pictures of a scene's shots")
    still.add_argument("scene", help="a scene.json with its rasters beside it, its folder, a zip")
    still.add_argument("out", type=Path, help="the folder to write into")
    still.add_argument("--shot", metavar="NAME", help="name of the shot (default: the first)")
    still.add_argument("--all", action="store_true", help="every shot")
    still.add_argument("--size", metavar="WxH", help="as 1920x1080, or wide, square, tall, 4K, 8K")
    still.add_argument("--quality", choices=list(PASSES), default="good")
    still.add_argument("--projection", choices=PROJECTIONS, default="flat")
    still.add_argument("--angle", type=float, default=180, help="of a curved picture, in degrees")
    still.add_argument("--names", choices=list(CONVENTIONS), default="sides", help="of cube faces")
    still.add_argument("--bits", type=int, choices=(8, 16), default=8)
    still.add_argument("--jpeg", action="store_true", help="also as JPEG")
    still.add_argument("--layers", action="store_true", help="all layers into the EXR")
    still.add_argument("--clip", metavar="FROM:TO", help="a moving picture, in seconds as 0:5")
    still.add_argument("--fps", type=int, default=24, help="pictures a second of a clip")
    still.add_argument("--form", choices=("frames", "mp4", "webm"), default="mp4")
    done = commands.add_parser("work", help="do a work on a scene and write the new document")
    done.add_argument("scene", help="a scene.json with its rasters beside it, its folder, a zip")
    done.add_argument("name", help="the work's name, as ./sow works lists them")
    done.add_argument("values", help="what it is asked with, as JSON")
    done.add_argument("out", type=Path, help="the scene.json to write")
    reads = commands.add_parser("read", help="make a scene of a file in another form")
    reads.add_argument("file", type=Path, help="a .glb, .usdz or .usdc, a zip of tiles or layers")
    reads.add_argument("out", type=Path, help="the scene's zip to write")
    reads.add_argument(
        "--measured", action="store_true", help="from what stands in it, not from its own scene"
    )
    window = commands.add_parser("window", help="a part of a large land in full, as a scene")
    window.add_argument("scene", help="a scene.json with its rasters beside it, its folder, a zip")
    window.add_argument("out", type=Path, help="the scene's zip to write")
    window.add_argument("--at", metavar="E,N", required=True, help="its middle in m")
    window.add_argument("--side", type=float, metavar="M", required=True, help="m across")
    window.add_argument("--spacing", type=float, metavar="M", default=1.0, help="post to post")
    sun = commands.add_parser("sun", help="print where the sun stands, as JSON")
    sun.add_argument("latitude", type=float, help="degrees north")
    sun.add_argument("longitude", type=float, help="degrees east")
    sun.add_argument("moment", help="as 2026-06-21T15:00:00+02:00")
    kind = commands.add_parser("kind", help="write a kind of the cabinet: model, sheet, measures")
    kind.add_argument("name", help="the kind's name, as birch")
    kind.add_argument("out", type=Path, help="the folder to write into")
    kind.add_argument("--look", default="summer", help="as spring, autumn, winter, snow, burnt")
    shown = commands.add_parser("exhibit", help="cut a scene out as a model, a GLB")
    shown.add_argument("scene", help="a scene.json with its rasters beside it, its folder, a zip")
    shown.add_argument("out", type=Path, help="the .glb to write")
    shown.add_argument("--at", metavar="E,N", help="its middle in m (default: the plot's)")
    shown.add_argument("--side", type=float, metavar="M", help="m across (default: the plot)")
    shown.add_argument("--cut", choices=("square", "disc"), default="square")
    shown.add_argument("--sides", choices=("earth", "rock"), default="earth")
    commands.add_parser("works", help="list the works")
    commands.add_parser("schema", help="print the JSON Schema of a scene")
    return parser


def _still(args: argparse.Namespace) -> None:
    scene, rasters = open_scene(args.scene)
    shots = scene.shots
    if args.shot:
        shots = [s for s in shots if s.name == args.shot]
    elif not args.all:
        shots = shots[:1]
    if not shots:
        names = ", ".join(f"“{s.name}”" for s in scene.shots) or "none"
        raise SceneError("There is no such shot.", "shot", f"The scene has: {names}.")
    build = Build(scene, scene.plot.grid(), Cache(6 << 30), rasters)
    taken: set[str] = set()
    for shot in shots:
        width, height = size_of(args.size) if args.size else (shot.width_px, shot.height_px)
        order = Order(
            width_px=width,
            height_px=height,
            quality=args.quality,
            projection=args.projection,
            angle=args.angle,
            names=args.names,
            bits=args.bits,
            jpeg=args.jpeg,
            layers=args.layers,
            clip=_clip(args),
        )
        name = file_name(shot.name, taken)
        if order.clip:
            files = _moving(build, shot, order, args.out, name)
            print(f"{args.out}: {files[0]}" + (f" to {files[-1]}" if len(files) > 1 else ""))
            continue
        with tempfile.TemporaryDirectory() as kept:
            still = Still(build, shot, order, Path(kept), tell=_tell_still)
            still.run()
            files = write_still(still, args.out, name)
        print(f"{args.out}: {', '.join(files)}")


def _clip(args: argparse.Namespace) -> Clip | None:
    if not args.clip:
        return None
    try:
        begins, ends = (float(v) for v in args.clip.split(":"))
        return Clip(from_s=begins, to_s=ends, fps=args.fps, form=args.form)
    except ValueError:
        raise SceneError(
            f"'{args.clip}' is no time of a clip.", "clip", "Give it in seconds, as 0:5."
        ) from None


def _moving(build: Build, shot: Shot, order: Order, out: Path, name: str) -> list[str]:
    """Frames that are there are not made again."""
    frames = Frames(build, shot, order)
    clip = frames.order.clip
    assert clip is not None
    out.mkdir(parents=True, exist_ok=True)
    files = []
    for k in range(len(frames.times)):
        stem = f"{name}-{k + 1:05d}"
        if not (out / f"{stem}.png").exists():
            write_frame(frames.still(k), out, stem)
        files.append(f"{stem}.png")
        print(f"  {k + 1} of {len(frames.times)} frames", file=sys.stderr)
    if clip.form == "frames":
        return files
    film = write_clip(out / name, [out / f for f in files], clip.fps, clip.form)
    for f in files:
        (out / f).unlink()
    return [film.name]


def _tell_still(told: Told) -> None:
    left = "" if told.left is None else f", {told.left:.0f} s left"
    noise = "" if told.noise is None else f", noise {100 * told.noise:.1f} %"
    print(f"  {told.doing}: {100 * told.share:.0f} %{left}{noise}", file=sys.stderr)


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
    # they take a second to load, which no other command needs
    from .crew.crew import Crew  # noqa: PLC0415
    from .tiles.grow import grow_tiles  # noqa: PLC0415

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
    scheduler = os.environ.get("SOW_SCHEDULER", "")
    with Crew(scheduler, args.workers or os.cpu_count() or 1) as crew:
        if crew.told:
            print(f"sow: {crew.told}", file=sys.stderr)
        tell = lambda done, of: print(f"  {done} of {of} tiles", file=sys.stderr)
        report = grow_tiles(scene, rasters, args.out, order, crew, tell)
    nx, ny = report["posts"]
    print(
        f"{args.out}: {report['tiles']} tiles ({report['grown']} grown), {nx} × {ny} posts, "
        f"{report['plants']:,} plants, {report['seconds']:.1f} s"
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


def _exhibit(args: argparse.Namespace) -> None:
    scene, rasters = open_scene(args.scene)
    plot = scene.plot
    side = args.side or min(plot.width_m, plot.depth_m)
    east, north = _place(args.at or f"{plot.width_m / 2},{plot.depth_m / 2}")
    order = Exhibit(
        east_m=east, north_m=north, side_m=side, deep_m=side / 25, cut=args.cut, sides=args.sides
    )
    build = Build(scene, plot.view_grid(), Cache(6 << 30), rasters)
    model = exhibit(build, order)
    args.out.write_bytes(model_glb(model))
    print(f"{args.out}: {model.triangles:,} triangles, {side:g} m across")


def _window(args: argparse.Namespace) -> None:
    scene, rasters = open_scene(args.scene)
    package = window_of(scene, rasters, *_place(args.at), args.side, args.spacing)
    with open(args.out, "wb") as out:
        write_read(package, out)
    print(f"{args.out}: {args.side:g} m, posts {args.spacing:g} m apart")


def _place(text: str) -> tuple[float, float]:
    try:
        east, north = (float(v) for v in text.split(","))
        return east, north
    except ValueError:
        raise SceneError(f"'{text}' is no place.", "at", "Give it as 200,350.") from None


def _read(args: argparse.Namespace) -> None:
    try:
        data = args.file.read_bytes()
    except OSError as e:
        raise SceneError(f"{args.file} cannot be read: {e.strerror}.", "file", "") from None
    package, found = read_any(data, args.file.name, args.measured)
    with open(args.out, "wb") as out:
        write_read(package, out)
    for line in found.taken:
        print(line)
    for line in found.left:
        print(f"Left: {line}")


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
        elif args.command == "exhibit":
            _exhibit(args)
        elif args.command == "window":
            _window(args)
        elif args.command == "read":
            _read(args)
        elif args.command == "work":
            _work(args)
        elif args.command == "still":
            _still(args)
        elif args.command == "kind":
            print(f"{args.out}: {', '.join(write_kind(args.name, args.out, args.look))}")
        else:
            (_grow_tiles if args.tiles else _grow)(args)
        return 0
    except SceneError as e:
        print(f"sow: {e}", file=sys.stderr)
        return 2


if __name__ == "__main__":
    sys.exit(main())
