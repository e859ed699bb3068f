"""Write a kind of the cabinet: its model, a sheet of it, its measures."""

import argparse
from pathlib import Path

from ..core.formats.kindfiles import write_kind
from ._scene import tell_left_out


def arguments(parser: argparse.ArgumentParser) -> None:
    """A kind, a folder, a look."""
    parser.add_argument("name", help="the kind's name, as birch")
    parser.add_argument("out", type=Path, help="the folder to write into")
    parser.add_argument("--look", default="summer", help="as spring, autumn, winter, snow, burnt")


def run(args: argparse.Namespace) -> None:
    """Writes them and names the files."""
    tell_left_out()
    print(f"{args.out}: {', '.join(write_kind(args.name, args.out, args.look))}")
