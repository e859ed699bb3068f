"""Make a scene of a file in another form."""

import argparse
from pathlib import Path

from ..core.errors import SceneError
from ..core.inward.read import read_any, write_read
from ._scene import tell_left_out


def arguments(parser: argparse.ArgumentParser) -> None:
    """The file and the scene to write."""
    parser.add_argument("file", type=Path, help="a .glb, .usdz or .usdc, a zip of tiles or layers")
    parser.add_argument("out", type=Path, help="the scene's zip to write")
    parser.add_argument(
        "--measured", action="store_true", help="from what stands in it, not from its own scene"
    )


def run(args: argparse.Namespace) -> None:
    """Writes the scene and says what was taken and what was left."""
    tell_left_out()
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
