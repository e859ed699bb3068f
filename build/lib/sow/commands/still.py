"""Take the pictures of a scene's shots by following the light, or a moving picture."""

import argparse
import sys
from pathlib import Path

from ..core.build import Build
from ..core.cache import Cache
from ..core.errors import SceneError
from ..core.formats.clipfiles import write_clip
from ..core.formats.folder import open_scene
from ..core.formats.raster import file_name
from ..core.formats.stillfiles import write_frame
from ..core.picture.alone import take
from ..core.picture.clip import Frames
from ..core.picture.order import PASSES, PROJECTIONS, Clip, Order, size_of
from ..core.picture.wrap import CONVENTIONS
from ..core.shots.shot import Shot
from ._scene import takes_scene, tell_left_out


def arguments(parser: argparse.ArgumentParser) -> None:
    """A scene, a folder, which shots, and how they are taken."""
    takes_scene(parser, "the folder to write into")
    parser.add_argument("--shot", metavar="NAME", help="name of the shot (default: the first)")
    parser.add_argument("--all", action="store_true", help="every shot")
    parser.add_argument("--size", metavar="WxH", help="as 1920x1080, or wide, square, tall, 4K, 8K")
    parser.add_argument("--quality", choices=list(PASSES), default="good")
    parser.add_argument("--projection", choices=PROJECTIONS, default="flat")
    parser.add_argument("--angle", type=float, default=180, help="of a curved picture, in degrees")
    parser.add_argument("--names", choices=list(CONVENTIONS), default="sides", help="of cube faces")
    parser.add_argument("--bits", type=int, choices=(8, 16), default=8)
    parser.add_argument("--jpeg", action="store_true", help="also as JPEG")
    parser.add_argument("--layers", action="store_true", help="all layers into the EXR")
    parser.add_argument("--clip", metavar="FROM:TO", help="a moving picture, in seconds as 0:5")
    parser.add_argument("--fps", type=int, default=24, help="pictures a second of a clip")
    parser.add_argument("--form", choices=("frames", "mp4", "webm"), default="mp4")


def run(args: argparse.Namespace) -> None:
    """Takes them one after another."""
    tell_left_out()
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
        files = take(build, shot, order, args.out, name)
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
