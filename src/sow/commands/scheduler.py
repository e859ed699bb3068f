"""Hand out frames and tiles to workers on other machines."""

import argparse
import contextlib

from ..workers.join import PORT, schedule


def arguments(parser: argparse.ArgumentParser) -> None:
    """A port."""
    parser.add_argument("--port", type=int, default=PORT)


def run(args: argparse.Namespace) -> None:
    """Until it is ended."""
    with contextlib.suppress(KeyboardInterrupt):
        schedule(args.port)
